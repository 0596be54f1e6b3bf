"""K-weighting by ITU-R BS.1770-4, filtered in runs of samples by matrix products.

A recursive filter taken a sample at a time leaves most of a processor idle. In runs, what comes out of one is a product
of its samples with the impulse response, and of the filter's state at its start with the response to that state; only
the states go on from run to run (C. S. Burrus, "Block realization of digital filters", IEEE Trans. Audio
Electroacoust. 20, 1972). Here that is five times as fast as SciPy's second-order sections, and the same to 1e-6 of
the power.
"""

from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nafas import native
from nafas.filters import k_weighting

_LONGEST = 64  # samples in a run
_GROUP = 32  # runs whose states are found by one product, and groups of them by another
_STATES = 4


class KPowers:
    """K-weighted powers of a stream, by the compiled loop where it is there.

    Args:
        rate: samples a second.
        channels: 1 or 2.
        hop: samples whose power is taken together.
    """

    def __init__(self, rate: int, channels: int, hop: int) -> None:
        self._hop = hop
        self._native = native.available()
        if self._native:
            sections = k_weighting(rate)
            self._coefficients = np.ascontiguousarray(sections[:, [0, 1, 2, 4, 5]])
            self._state = np.zeros((4, 2))
        else:
            self._filter = KFilter(rate, channels, hop)

    def __call__(self, block: NDArray[np.floating]) -> NDArray[np.float64]:
        """Means of left², right² and left * right of the next samples, shape (channels, runs * hop), to (runs, 3); of
        one channel it is left and right."""
        if self._native:
            samples = block.astype(np.float32, copy=False)
            return native.k_powers(samples, self._hop, self._coefficients, self._state)
        parts = self._filter(block).reshape(len(block), -1, self._hop)
        left, right = parts[0], parts[-1]
        pairs = ((left, left), (right, right), (left, right))
        return np.stack([np.vecdot(a, b).astype(np.float64) for a, b in pairs], axis=1) / self._hop


class KFilter:
    """The filter with its state, over (channels, n) samples, n always a whole number of `run`.

    Args:
        rate: samples a second.
        channels: of the signal.
        hop: samples that `run` must divide.
    """

    def __init__(self, rate: int, channels: int, hop: int) -> None:
        self.run = max(n for n in range(1, _LONGEST + 1) if hop % n == 0)
        self._by = _products(rate, self.run)
        self._state = np.zeros((channels, _STATES))

    def __call__(self, block: NDArray[np.floating]) -> NDArray[np.float32]:
        """The next samples weighted, shape (channels, n)."""
        n = block.shape[1]
        if n % self.run:
            raise ValueError(f"{n} samples are no whole number of {self.run}")
        most = self.run * _GROUP**2
        if n <= most:
            return self._piece(block)
        return np.concatenate([self._piece(block[:, at : at + most]) for at in range(0, n, most)], axis=1)

    def _piece(self, block: NDArray[np.floating]) -> NDArray[np.float32]:
        channels, n = block.shape
        flat = np.ascontiguousarray(block, np.float32).reshape(-1, self.run)
        products = flat @ self._by.forward
        states = self._states(products[:, self.run :].reshape(channels, -1, _STATES))
        weighted: NDArray[np.float32] = states.astype(np.float32).reshape(-1, _STATES) @ self._by.out
        weighted += products[:, : self.run]
        return weighted.reshape(channels, n)

    def _states(self, added: NDArray[np.float32]) -> NDArray[np.float64]:
        """The state before each run, shape (channels, runs, states), from what each run adds to it: first inside
        groups of runs, then from group to group."""
        channels, runs = added.shape[:2]
        groups = -(-runs // _GROUP)
        padded = np.zeros((channels, groups, _GROUP, _STATES))
        padded.reshape(channels, -1, _STATES)[:, :runs] = added
        inside = padded.reshape(channels, groups, -1) @ self._by.among
        width = groups * _STATES
        totals = inside[:, :, -_STATES:].reshape(channels, width)
        begins = totals @ self._by.groups[:width, : width + _STATES]
        begins += self._state @ self._by.later[:, : width + _STATES]
        begins = begins.reshape(channels, groups + 1, _STATES)
        inside += begins[:, :-1] @ self._by.after
        states: NDArray[np.float64] = inside[:, :, :-_STATES].reshape(channels, -1, _STATES)
        self._state = states[:, runs].copy() if runs < groups * _GROUP else begins[:, -1]
        return states[:, :runs]


class _Products(NamedTuple):
    """What samples and states are multiplied by: samples to what comes out and what they add to the state, states to
    what comes out; what runs add to the states in their group, and the state before the group; the same of groups."""

    forward: NDArray[np.float32]
    out: NDArray[np.float32]
    among: NDArray[np.float64]
    after: NDArray[np.float64]
    groups: NDArray[np.float64]
    later: NDArray[np.float64]


@lru_cache(maxsize=8)
def _products(rate: int, run: int) -> _Products:
    step, inputs, outputs, direct = _state_space(k_weighting(rate))
    powers = [np.eye(_STATES)]
    for _ in range(run):
        powers.append(step @ powers[-1])
    response = np.array([direct] + [float(outputs @ power @ inputs) for power in powers[: run - 1]])
    forward = np.zeros((run, run))
    for n in range(run):
        forward[n, n:] = response[: run - n]
    added = np.array([power @ inputs for power in powers[:run][::-1]])
    return _Products(
        np.concatenate([forward, added], axis=1).astype(np.float32),
        np.array([outputs @ power for power in powers[:run]]).T.astype(np.float32),
        *_chain(powers[run]),
        *_chain(np.linalg.matrix_power(powers[run], _GROUP)),
    )


def _chain(step: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """What the states before each of `_GROUP` runs, and after the last, are made of: of what each run adds, shape
    (group * states, (group + 1) * states), and of the state before the first, shape (states, (group + 1) * states)."""
    powers = [np.eye(_STATES)]
    for _ in range(_GROUP):
        powers.append(step @ powers[-1])
    among = np.zeros((_GROUP, _STATES, _GROUP + 1, _STATES))
    for run in range(_GROUP):
        for later in range(run + 1, _GROUP + 1):
            among[run, :, later] = powers[later - run - 1].T
    size = (_GROUP + 1) * _STATES
    return among.reshape(-1, size), np.concatenate([power.T for power in powers], axis=1)


def _state_space(
    sections: NDArray[np.float64],
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64], float]:
    """The cascade with its poles side by side, where rounding harms least: y[n] = outputs s[n] + direct x[n],
    s[n + 1] = step s[n] + inputs x[n]. Each pair of conjugate poles is a turn and a shrinking in two of the states."""
    numerator = np.polymul(sections[0, :3], sections[1, :3])
    poles = np.concatenate([np.roots(section[3:]) for section in sections])
    direct = float(numerator[0])
    rest = numerator[1:] - direct * np.polymul(sections[0, 3:], sections[1, 3:])[1:]
    step, outputs = np.zeros((_STATES, _STATES)), np.zeros(_STATES)
    upper = [n for n, pole in enumerate(poles) if pole.imag > 0]
    if len(upper) * 2 != _STATES:
        raise ValueError("the poles of the filter are not in conjugate pairs")
    for index, n in enumerate(upper):
        pole, at = poles[n], 2 * index
        residue = np.polyval(rest, pole) / np.prod(pole - np.delete(poles, n))
        step[at : at + 2, at : at + 2] = [[pole.real, -pole.imag], [pole.imag, pole.real]]
        outputs[at : at + 2] = 2 * residue.real, -2 * residue.imag
    return step, np.tile([1.0, 0.0], _STATES // 2), outputs, direct
