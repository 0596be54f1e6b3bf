"""Where a known sound lies in a mixture, to the sample: the matched filter for noise that is not white.

The spectrum of what is heard is divided by its own local power before it is correlated with the sound sought (the
generalised correlation of C. H. Knapp and G. C. Carter, "The generalized correlation method for estimation of time
delay", IEEE Trans. ASSP 24, 1976; matched filter: G. L. Turin, IRE Trans. IT 6, 1960). How sure a place is follows from
the same figures: the standard deviation of a delay is 1 / (signal-to-noise * RMS bandwidth).
"""

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nafas.review.proof.sought import Sought

_VOICE, _CHIME = 0.256, 0.512
"""Seconds of a sound that it is known by: of a chime, whose partials are few, twice as much."""
_NEAR, _FAR = 0.042, 0.5
"""Seconds around its due place in which a sound is looked for: at first, and where it is not there."""
_FLAT_VOICE, _FLAT_CHIME = 50.0, 190.0
"""Hz over which the power is smoothed: wide enough for a chime that its partials do not whiten themselves away."""
_FLOOR = 1e-5
"""Of the highest power: what a codec has taken out altogether must not be lifted."""
_LOUD = 0.5  # of the loudness sought: what is softer is looked for further away, too, before it is believed
SURE = 7.0
"""Signal-to-noise, in standard deviations of the filter's output, from which a place counts. Over the 50,000 places
looked at for one sound, noise alone passes this once in 10**7 sounds."""


@dataclass(frozen=True)
class Place:
    """Where a sound was found.

    Attributes:
        late: samples after its due place; negative: before.
        ratio: how loud it is there, over how loud it was sought.
        sure: signal-to-noise in standard deviations.
        spread: standard deviation of `late`, in samples.
    """

    late: int
    ratio: float
    sure: float
    spread: float


@dataclass(frozen=True, eq=False)
class Template:
    """The part of a sound that it is looked for by: mono samples, and where in the sound they begin."""

    samples: NDArray[np.float32]
    begin: int
    flat: float
    rate: int

    def near(self) -> int:
        return round(_NEAR * self.rate)

    @cached_property
    def spectrum(self) -> NDArray[np.complex64]:
        """Conjugate, at the size that searching near needs."""
        return self.at_size(_size(len(self.samples) + 2 * self.near()))

    def at_size(self, size: int) -> NDArray[np.complex64]:
        return np.fft.rfft(self.samples, size).conj().astype(np.complex64)


def template(each: Sought, rate: int) -> Template:
    """What a sound is looked for by: the loudest part of a word, the beginning of a chime."""
    length = round((_VOICE if each.is_voice else _CHIME) * rate)
    samples = mono(each.samples[..., : 6 * length])
    begin = 0
    if each.is_voice and len(samples) > length:
        energy = np.concatenate([[0.0], np.cumsum(samples.astype(np.float64) ** 2)])
        begin = int(np.argmax(energy[length:] - energy[:-length]))
    part = samples[begin : begin + length] * np.float32(each.gain)
    return Template(part, begin, _FLAT_VOICE if each.is_voice else _FLAT_CHIME, rate)


def mono(samples: NDArray[np.float32]) -> NDArray[np.float32]:
    """What both channels have in common, shape (n,)."""
    if samples.ndim == 1 or len(samples) == 1:
        return samples.reshape(-1)
    both: NDArray[np.float32] = samples[0] + samples[1]
    both *= np.float32(0.5)
    return both


def find(heard: NDArray[np.float32], at: int, model: Template, gain: float) -> Place | None:
    """The place of a sound near sample `at` of what is heard, where it is due; None where it is not to be found within
    half a second.

    Args:
        heard: mono, shape (n,); what lies outside counts as silence.
        model: the sound.
        gain: linear, what it was amplified by on the whole.
    """
    near = _search(heard, at, model, model.near(), model.spectrum, gain)
    if near is not None and near.sure >= SURE and near.ratio >= _LOUD and abs(near.late) < model.near() - 1:
        return near
    reach = round(_FAR * model.rate)
    far = _search(heard, at, model, reach, model.at_size(_size(len(model.samples) + 2 * reach)), gain)
    places = [candidate for candidate in (near, far) if candidate is not None and candidate.sure >= SURE]
    return max(places, key=lambda candidate: candidate.sure, default=None)


def output(heard: NDArray[np.float32], at: int, model: Template, seconds: float) -> NDArray[np.float32]:
    """The filter's output at every place within some seconds of sample `at`, in standard deviations of itself, shape
    (2 * seconds * rate + 1,): of several sounds it can be summed."""
    reach = round(seconds * model.rate)
    filtered = _filtered(heard, at, model, reach, model.at_size(_size(len(model.samples) + 2 * reach)))
    if filtered is None:
        return np.zeros(2 * reach + 1, np.float32)
    result: NDArray[np.float32] = filtered[0] / np.float32(max(float(filtered[0].std()), 1e-20))
    return result


def _search(
    heard: NDArray[np.float32], at: int, model: Template, reach: int, spectrum: NDArray[np.complex64], gain: float
) -> Place | None:
    filtered = _filtered(heard, at, model, reach, spectrum)
    if filtered is None:
        return None
    output_, sound = filtered
    size = 2 * (len(spectrum) - 1)
    total = float(sound.sum())
    best = int(output_.argmax())
    ratio = float(output_[best]) * size / (2 * total * gain)
    sure = ratio * gain * np.sqrt(2 * total)
    turns = np.arange(len(sound), dtype=np.float32) * np.float32(2 * np.pi / size)
    band = np.sqrt(float((sound * turns**2).sum()) / total)
    return Place(best - reach, ratio, float(sure), float(1 / max(sure * band, 1e-12)))


def _filtered(
    heard: NDArray[np.float32], at: int, model: Template, reach: int, spectrum: NDArray[np.complex64]
) -> tuple[NDArray[np.float32], NDArray[np.float32]] | None:
    """The filter's output within `reach` samples of `at`, and the sound's own power as it is weighted, by frequency;
    None where nothing is heard or sought."""
    size = 2 * (len(spectrum) - 1)
    seen: NDArray[Any] = np.fft.rfft(_window(heard, at + model.begin - reach, size))
    power = seen.real**2 + seen.imag**2
    highest = float(power.max())
    if not highest:
        return None
    weight = 1 / (_smooth(power, max(3, round(model.flat * size / model.rate))) + np.float32(_FLOOR * highest))
    sound = np.asarray((spectrum.real**2 + spectrum.imag**2) * weight, np.float32)
    if not float(sound.sum()):
        return None
    output_: NDArray[Any] = np.fft.irfft(seen * spectrum * weight, size)[: 2 * reach + 1]
    return output_, sound


def _smooth(power: NDArray[np.float32], width: int) -> NDArray[np.float32]:
    """The mean over `width` values around each; past the ends the last one goes on."""
    before = width // 2
    wide = np.empty(len(power) + width)
    wide[0] = 0
    wide[1 : 1 + before] = power[0]
    wide[1 + before : 1 + before + len(power)] = power
    wide[1 + before + len(power) :] = power[-1]
    sums = np.cumsum(wide, out=wide)
    return ((sums[width:] - sums[:-width]) * (1 / width)).astype(np.float32)


def _size(frames: int) -> int:
    """A size that transforms quickly, at least so many frames: four to seven times a power of two."""
    power = 2 ** max(0, (frames - 1).bit_length() - 3)
    return -(-frames // power) * power if frames > 4 else 4


def _window(heard: NDArray[np.float32], start: int, frames: int) -> NDArray[np.float32]:
    out = np.zeros(frames, np.float32)
    begin, end = max(0, start), min(len(heard), start + frames)
    if begin < end:
        out[begin - start : end - start] = heard[begin:end]
    return out
