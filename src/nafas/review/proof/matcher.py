"""Where a known sound lies in a mixture, to the sample: the matched filter for noise that is not white.

The spectrum of what is heard is divided by its own local power before it is correlated with the sound sought (the
generalised correlation of C. H. Knapp and G. C. Carter, "The generalized correlation method for estimation of time
delay", IEEE Trans. ASSP 24, 1976; matched filter: G. L. Turin, IRE Trans. IT 6, 1960). How sure a place is follows from
the same figures: the standard deviation of a delay is 1 / (signal-to-noise * RMS bandwidth).
"""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nafas.review.proof.sought import Sought

_VOICE, _CHIME = 0.256, 0.512
"""Seconds of a sound that it is known by: of a chime, whose partials are few, twice as much."""
_EVEN = 3.0
"""The same of what may be even: the waves of a hummed tone are alike, and only how it rises tells them apart."""
_AS_GOOD = 0.97
"""Of the filter's highest output: from there on a place of what may be even is as good, and the nearest to where it is
due is taken."""
_NEAR, _FAR = 0.042, 0.5
"""Seconds around its due place in which a sound is looked for: at first, and where it is not there."""
_FLAT_VOICE, _FLAT_CHIME = 50.0, 190.0
"""Hz over which the power is smoothed: wide enough for a chime that its partials do not whiten themselves away."""
_FLOOR = 1e-5
"""Of the highest power: what a codec has taken out altogether must not be lifted."""
_LOUD = 0.5  # of the loudness sought: what is softer is looked for further away, too, before it is believed
_TOGETHER = 8  # sounds that are looked for at once
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
    even: bool = False

    @property
    def end(self) -> int:
        """Where in the sound they end."""
        return self.begin + len(self.samples)

    def near(self) -> int:
        return round(_NEAR * self.rate)

    @cached_property
    def spectrum(self) -> NDArray[np.complex64]:
        """Conjugate, at the size that searching near needs."""
        return self.at_size(_size(len(self.samples) + 2 * self.near()))

    def at_size(self, size: int) -> NDArray[np.complex64]:
        return _transform(self.samples, size).conj()


def template(each: Sought, rate: int) -> Template:
    """What a sound is looked for by: the beginning of a chime, the loudest part of all else."""
    length = round((_VOICE if each.is_voice else _EVEN if each.even else _CHIME) * rate)
    samples = mono(each.samples[..., : 6 * length])
    begin = 0
    if not each.is_struck and len(samples) > length:
        energy = np.concatenate([[0.0], np.cumsum(samples.astype(np.float64) ** 2)])
        begin = int(np.argmax(energy[length:] - energy[:-length]))
    part = samples[begin : begin + length] * np.float32(each.gain)
    return Template(part, begin, _FLAT_VOICE if each.is_voice else _FLAT_CHIME, rate, each.even)


def mono(samples: NDArray[np.float32]) -> NDArray[np.float32]:
    """What both channels have in common, shape (n,)."""
    if samples.ndim == 1 or len(samples) == 1:
        return samples.reshape(-1)
    both: NDArray[np.float32] = samples[0] + samples[1]
    both *= np.float32(0.5)
    return both


def find(heard: NDArray[np.float32], sounds: Sequence[tuple[int, Template]], gain: float) -> list[Place | None]:
    """The places of sounds near where they are due; None for one that is not to be found within half a second.

    Args:
        heard: mono, shape (n,); what lies outside counts as silence.
        sounds: each with the sample of what is heard at which it is due.
        gain: linear, what all was amplified by.
    """
    near: list[Place | None] = [None] * len(sounds)
    alike: dict[tuple[int, float], list[int]] = defaultdict(list)
    for index, (_, model) in enumerate(sounds):
        alike[len(model.spectrum), model.flat].append(index)
    for indices in alike.values():
        for first in range(0, len(indices), _TOGETHER):
            some = indices[first : first + _TOGETHER]
            asked = [sounds[index] for index in some]
            spectra = np.stack([model.spectrum for _, model in asked])
            for index, place in zip(some, _search(heard, asked, asked[0][1].near(), spectra, gain)):
                near[index] = place
    return [_believed(heard, each, place, gain) for each, place in zip(sounds, near)]


def _believed(heard: NDArray[np.float32], sound: tuple[int, Template], near: Place | None, gain: float) -> Place | None:
    """The place that was found near, where it is sure; else the surer of it and what is found further away."""
    model = sound[1]
    if near is not None and near.sure >= SURE and near.ratio >= _LOUD and abs(near.late) < model.near() - 1:
        return near
    reach = round(_FAR * model.rate)
    (far,) = _search(heard, [sound], reach, model.at_size(_size(len(model.samples) + 2 * reach))[None], gain)
    places = [candidate for candidate in (near, far) if candidate is not None and candidate.sure >= SURE]
    return max(places, key=lambda candidate: candidate.sure, default=None)


def output(heard: NDArray[np.float32], at: int, model: Template, seconds: float) -> NDArray[np.float32]:
    """The filter's output at every place within some seconds of sample `at`, in standard deviations of itself, shape
    (2 * seconds * rate + 1,): of several sounds it can be summed."""
    reach = round(seconds * model.rate)
    spectrum = model.at_size(_size(len(model.samples) + 2 * reach))
    result = _filtered(heard, [(at, model)], reach, spectrum[None])[0][0]
    scaled: NDArray[np.float32] = result / np.float32(max(float(result.std()), 1e-20))
    return scaled


def _search(
    heard: NDArray[np.float32],
    sounds: Sequence[tuple[int, Template]],
    reach: int,
    spectra: NDArray[np.complex64],
    gain: float,
) -> list[Place | None]:
    outputs, sound = _filtered(heard, sounds, reach, spectra)
    bins = sound.shape[1]
    size = 2 * (bins - 1)
    turns = (np.arange(bins, dtype=np.float32) * np.float32(2 * np.pi / size)) ** 2
    places: list[Place | None] = []
    for (_, model), output_, total, moment in zip(sounds, outputs, sound.sum(axis=1), sound @ turns):
        if not total:
            places.append(None)
            continue
        best = int(output_.argmax())
        if model.even:
            good = np.flatnonzero(output_ >= _AS_GOOD * output_[best])
            best = _top(output_, int(good[np.argmin(np.abs(good - reach))]))
        ratio = float(output_[best]) * size / (2 * float(total) * gain)
        sure = ratio * gain * float(np.sqrt(2 * total))
        band = float(np.sqrt(moment / total))
        places.append(Place(best - reach, ratio, sure, float(1 / max(sure * band, 1e-12))))
    return places


def _top(output_: NDArray[np.float32], at: int) -> int:
    """The top of the wave that a place lies on."""
    while True:
        first = max(0, at - 1)
        higher = first + int(output_[first : at + 2].argmax())
        if output_[higher] <= output_[at]:
            return at
        at = higher


def _filtered(
    heard: NDArray[np.float32], sounds: Sequence[tuple[int, Template]], reach: int, spectra: NDArray[np.complex64]
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """For sounds of one size the filter's outputs within `reach` samples of where they are due, shape (sounds, 2 *
    reach + 1), and their own powers as they are weighted, by frequency; both zero where nothing is heard or sought.

    Several at once: the transforms of several rows take half the time of as many single ones.
    """
    size = 2 * (spectra.shape[1] - 1)
    windows = np.stack([_window(heard, at + model.begin - reach, size) for at, model in sounds])
    seen = _transform(windows, size)
    power = seen.real**2 + seen.imag**2
    highest = power.max(axis=1, keepdims=True)
    smooth = _smooth(power, max(3, round(sounds[0][1].flat * size / sounds[0][1].rate)))
    weight = np.where(highest > 0, 1 / np.maximum(smooth + np.float32(_FLOOR) * highest, 1e-30), 0).astype(np.float32)
    sound = np.asarray((spectra.real**2 + spectra.imag**2) * weight, np.float32)
    outputs: NDArray[Any] = np.fft.irfft(seen * spectra * weight, size, axis=1)[:, : 2 * reach + 1]
    return outputs, sound


def _transform(samples: NDArray[np.float32], size: int) -> NDArray[np.complex64]:
    """The spectrum of each row, shape (..., size // 2 + 1), in single precision: NumPy calculates in double, and takes
    four times as long, unless it is asked to scale."""
    spectrum: NDArray[Any] = np.fft.rfft(samples, size, norm="forward")
    spectrum *= np.float32(size)
    return spectrum


def _smooth(power: NDArray[np.float32], width: int) -> NDArray[np.float32]:
    """The mean over `width` values around each of a row; past the ends the last one goes on."""
    before, (rows, bins) = width // 2, power.shape
    wide = np.empty((rows, bins + width))
    wide[:, 0] = 0
    wide[:, 1 : 1 + before] = power[:, :1]
    wide[:, 1 + before : 1 + before + bins] = power
    wide[:, 1 + before + bins :] = power[:, -1:]
    sums = np.cumsum(wide, axis=1, out=wide)
    return ((sums[:, width:] - sums[:, :-width]) * (1 / width)).astype(np.float32)


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
