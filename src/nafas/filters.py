"""The K-weighting filter of ITU-R BS.1770-4: how the ear weighs what is heard, for levels that are to sound alike. And
filters without delay, by the spectrum: SciPy's do the same, but loading them takes more than a second of waiting."""

import math

import numpy as np
from numpy.typing import ArrayLike, NDArray

_EDGE = 0.25  # seconds by which a sound goes on, turned about its ends, before it is filtered


def k_weighting(rate: int) -> NDArray[np.float64]:
    """The K-weighting filter as second-order sections, shape (2, 6).

    BS.1770 tabulates coefficients for 48 kHz alone. These come from the analogue filters behind that table, by
    bilinear transform, and give the table's values at 48 kHz to 1e-8 (parameters: B. De Man, "Evaluation of
    implementations of the EBU R128 loudness measurement", AES 145, 2018).
    """
    gain, q, centre = 3.999843853973347, 0.7071752369554196, 1681.974450955533
    k = math.tan(math.pi * centre / rate)
    high = 10 ** (gain / 20)
    band = high**0.4996667741545416
    a0 = 1 + k / q + k * k
    shelf = [
        (high + band * k / q + k * k) / a0,
        2 * (k * k - high) / a0,
        (high - band * k / q + k * k) / a0,
        1.0,
        2 * (k * k - 1) / a0,
        (1 - k / q + k * k) / a0,
    ]
    q, centre = 0.5003270373238773, 38.13547087602444
    k = math.tan(math.pi * centre / rate)
    a0 = 1 + k / q + k * k
    highpass = [1.0, -2.0, 1.0, 1.0, 2 * (k * k - 1) / a0, (1 - k / q + k * k) / a0]
    return np.array([shelf, highpass])


def k_power(frequencies: NDArray[np.float64], rate: int) -> NDArray[np.float64]:
    """What the filter makes of the power at each frequency in Hz, as a factor."""
    delays = np.exp(-2j * np.pi * np.outer(frequencies / rate, np.arange(3)))
    sections = [(delays @ section[:3]) / (delays @ section[3:]) for section in k_weighting(rate)]
    power: NDArray[np.float64] = np.abs(sections[0] * sections[1]) ** 2
    return power


def k_energy(samples: NDArray[np.float32], rate: int) -> float:
    """The sum of squares of a sound, shape (..., n), once the filter has gone over it and rung out: by its spectrum."""
    size = 1 << (samples.shape[-1] + rate // 10).bit_length()
    power = np.abs(np.fft.rfft(samples, size)) ** 2
    power[..., 1:-1] *= 2
    return float((power * k_power(np.arange(size // 2 + 1) * rate / size, rate)).sum() / size)


def butterworth(
    samples: ArrayLike, rate: int, order: int, above: float = 0.0, below: float = math.inf
) -> NDArray[np.float64]:
    """A sound through a Butterworth filter of an order, once each way: no beat moves.

    At each frequency the level becomes that of |H|**2 of the digital filter, bilinear transform (A. Oppenheim and R.
    Schafer, "Discrete-Time Signal Processing"; from memory).

    Args:
        samples: shape (n,), n of 2 or more.
        rate: samples a second.
        order: 1 or more.
        above, below: Hz of its edges, under half the rate; 0 and infinity for none.
    """
    sound = np.asarray(samples, np.float64)
    edge = min(len(sound) - 1, round(_EDGE * rate))
    wide = np.concatenate([2 * sound[0] - sound[edge:0:-1], sound, 2 * sound[-1] - sound[-2 : -edge - 2 : -1]])
    size = 1 << (len(wide) - 1).bit_length()
    warped = np.tan(np.pi * np.linspace(0, 0.5, size // 2 + 1)[:-1])
    low, high = (math.tan(math.pi * min(edge_hz / rate, 0.499)) for edge_hz in (above, below))
    with np.errstate(divide="ignore"):
        if above and math.isfinite(below):
            away = np.abs(warped**2 - low * high) / (warped * (high - low))
        else:
            away = low / warped if above else warped / high
        kept = np.append(1 / (1 + away ** (2 * order)), 1.0 if not math.isfinite(below) else 0.0)
    spectrum = np.fft.rfft(wide, size)
    filtered: NDArray[np.float64] = np.fft.irfft(spectrum * kept, size)[edge : edge + len(sound)]
    return filtered
