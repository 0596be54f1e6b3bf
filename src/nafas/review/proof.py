"""Proof of a master: where each spoken clip really lies in the rendered voice stem.

Every distinct clip is searched for through the whole stem by matched filtering (normalised cross-correlation), first at
about 4 kHz, then to the sample at full rate. The plan is used only afterwards, to say which of the places found answers
which cue. Matched filter: G. L. Turin, "An introduction to matched filters", IRE Trans. Information Theory 6 (1960).
"""

import os
from bisect import bisect_left
from collections import defaultdict
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from threading import Lock
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from nafas.errors import InputError
from nafas.timing.timeline import EventKind
from nafas.voice.casting import Cast, Placement
from nafas.voice.clip import Clip

if TYPE_CHECKING:
    import soundfile

_COARSE_RATE = 4000
_BLOCK = 1 << 15  # coarse samples searched at once
_LONGEST = 1.5  # seconds of a clip that are enough to know it by
_FINE = 0.5  # seconds of it that are enough to place it to the sample
_LIKENESS = 0.6  # normalised correlation from which a place counts as found
_CERTAIN = 0.9
_REACH = 0.5  # seconds from its due time within which a place answers a cue


@dataclass(frozen=True)
class Landing:
    """Where one cue landed. `error` is in samples, found beat minus exact due time; None when it was not found."""

    placement: Placement
    found: int | None
    error: float | None
    likeness: float


@dataclass(frozen=True)
class Proof:
    """Every cue's landing, in order of time. `strays`: sure finds of a clip where no cue asked for it."""

    landings: tuple[Landing, ...]
    strays: int

    @property
    def errors(self) -> NDArray[np.float64]:
        return np.array([abs(one.error) for one in self.landings if one.error is not None])

    @property
    def worst(self) -> float | None:
        """Largest absolute error in samples, or None when nothing was found."""
        return float(self.errors.max()) if len(self.errors) else None

    @property
    def mean(self) -> float | None:
        """Mean absolute error in samples, or None when nothing was found."""
        return float(self.errors.mean()) if len(self.errors) else None

    @property
    def missing(self) -> tuple[Placement, ...]:
        """Cues whose clip was not found near their time."""
        return tuple(one.placement for one in self.landings if one.found is None)

    @property
    def holds(self) -> bool:
        """Every cue found, each within half a sample of its exact time."""
        return not self.missing and (self.worst is None or self.worst <= 0.5)


@dataclass
class _Template:
    clip: Clip
    full: NDArray[np.float32]
    coarse: NDArray[np.float32]


def prove(cast: Cast, voice_stem: Path, progress: Callable[[float], None] = lambda done: None) -> Proof:
    """Find every cast clip in a rendered voice stem.

    Args:
        cast: what should be there, at the stem's rate.
        voice_stem: an audio file; its first channel is searched.
        progress: called with 0.0 to 1.0; raises Cancelled to stop.

    Raises:
        InputError: the stem cannot be read or has another rate.
    """
    import soundfile

    talk, words = _by_kind(cast)
    try:
        with soundfile.SoundFile(voice_stem) as file:
            if file.samplerate != cast.rate:
                raise InputError(
                    str(voice_stem),
                    f"has {file.samplerate} Hz, not {cast.rate}",
                    "give the stem of this render",
                )
            found = _search(file, [_template(clip) for clip in words], talk, cast.rate, progress)
    except (OSError, soundfile.LibsndfileError) as error:
        raise InputError(str(voice_stem), f"cannot be read ({error})", "render again") from None
    return _answer(cast, found)


def _by_kind(cast: Cast) -> tuple[list[Placement], list[Clip]]:
    """Sentences, each with its place, and the clips of counted words and cues.

    A word that is said a hundred times is looked for everywhere: it may stand where another belongs. A sentence is said
    once, and an hour has hundreds: it is looked for near its place, so that the work grows with the length alone.
    """
    words = {id(p.clip): p.clip for p in cast.placements if p.moment.kind is not EventKind.TALK}
    return [p for p in cast.placements if id(p.clip) not in words], list(words.values())


def _template(clip: Clip) -> _Template:
    from scipy import signal

    full = clip.samples[: round(_LONGEST * clip.rate)].astype(np.float32)
    coarse = signal.resample_poly(full, 1, _factor(clip.rate)).astype(np.float32)
    norm = np.sqrt((coarse**2).sum())
    return _Template(clip, full, coarse / norm if norm > 0 else coarse)


def _factor(rate: int) -> int:
    return max(1, rate // _COARSE_RATE)


_Places = dict[int, list[tuple[int, float]]]


def _search(
    file: "soundfile.SoundFile",
    templates: list[_Template],
    talk: list[Placement],
    rate: int,
    progress: Callable[[float], None],
) -> _Places:
    """All places of all templates, and of sentences near their place: clip id -> sorted (sample, likeness)."""
    from scipy import fft

    found: _Places = defaultdict(list)
    if not templates and not talk:
        return found
    factor = _factor(rate)
    step = _BLOCK - round(_LONGEST * _COARSE_RATE) - 1
    spectra = [fft.rfft(t.coarse, _BLOCK).conj() for t in templates]
    margin = 64 * factor  # context for the decimating filter and the fine search
    lock = Lock()
    done = 0
    starts = [placement.start for placement in talk]

    def search(start: int) -> list[tuple[int, int, float]]:
        nonlocal done
        with lock:
            progress(done / file.frames)
            done += step * factor
            wide = _read(file, start - margin, _BLOCK * factor + 2 * margin)
        reach = _REACH * rate
        first, last = bisect_left(starts, start - reach), bisect_left(starts, start + step * factor + reach)
        near = [_template(clip) for clip in {id(p.clip): p.clip for p in talk[first:last]}.values()]
        own = [fft.rfft(template.coarse, _BLOCK).conj() for template in near]
        return _search_block(wide, start - margin, margin, factor, step, [*templates, *near], [*spectra, *own])

    with ThreadPoolExecutor(max_workers=min(4, os.cpu_count() or 1)) as pool:
        for places in pool.map(search, range(0, file.frames, step * factor)):
            for clip, place, likeness in places:
                found[clip].append((place, likeness))
    return found


def _search_block(
    wide: NDArray[np.float32],
    first: int,
    margin: int,
    factor: int,
    step: int,
    templates: list[_Template],
    spectra: list[NDArray[np.complex64]],
) -> list[tuple[int, int, float]]:
    """Places of all templates in one block: (clip id, sample, likeness). `wide` begins at sample `first`."""
    from scipy import fft, signal

    found: list[tuple[int, int, float]] = []
    if not wide.any():
        return found
    coarse = signal.resample_poly(wide, 1, factor).astype(np.float32)[margin // factor :][:_BLOCK]
    energy = np.concatenate([[0.0], np.cumsum(coarse.astype(np.float64) ** 2)])
    spectrum = fft.rfft(coarse, _BLOCK)
    for template, own in zip(templates, spectra):
        length = len(template.coarse)
        local = (energy[length : length + step] - energy[:step]).astype(np.float32)
        # A window much fainter than the clip cannot hold it: a floor keeps noise from looking like anything.
        floor = np.float32(1e-3 * float((template.full**2).sum()) / factor)
        likeness = fft.irfft(spectrum * own, _BLOCK)[:step] / np.sqrt(np.maximum(local, floor))
        if likeness.max() < _LIKENESS:
            continue
        peaks, _ = signal.find_peaks(np.concatenate([[0], likeness, [0]]), height=_LIKENESS, distance=40)
        for peak in peaks - 1:
            fine = _refine(wide, int(peak) * factor + margin, template.full, factor)
            if fine is not None:
                found.append((id(template.clip), first + fine[0], fine[1]))
    return found


def _read(file: "soundfile.SoundFile", start: int, frames: int) -> NDArray[np.float32]:
    """Samples of the first channel from `start` on, silence outside the file."""
    out = np.zeros(frames, np.float32)
    begin, end = max(0, start), min(file.frames, start + frames)
    if begin < end:
        file.seek(begin)
        out[begin - start : end - start] = file.read(end - begin, dtype="float32", always_2d=True)[:, 0]
    return out


def _refine(
    wide: NDArray[np.float32], near: int, template: NDArray[np.float32], factor: int
) -> tuple[int, float] | None:
    """The best place within 1.5 coarse samples of `near`, to the sample, and its likeness."""
    reach = factor + factor // 2 + 1
    part = template[: round(_FINE * _COARSE_RATE * factor)].astype(np.float64)
    window = wide[near - reach : near + reach + len(part)].astype(np.float64)
    if near < reach or len(window) < len(part) + 2 * reach:
        return None
    windows = np.lib.stride_tricks.sliding_window_view(window, len(part))
    running = np.concatenate([[0.0], np.cumsum(window**2)])
    power = (running[len(part) :] - running[: -len(part)]) * (part**2).sum()
    likeness = windows @ part / np.sqrt(np.maximum(power, 1e-20))
    best = int(likeness.argmax())
    return (near - reach + best, float(likeness[best])) if likeness[best] >= _LIKENESS else None


def _answer(cast: Cast, found: _Places) -> Proof:
    """Give each cue the nearest place of its own clip; a place answers one cue only."""
    landings = []
    left = {clip: sorted(set(places)) for clip, places in found.items()}
    for placement in cast.placements:
        places = left.get(id(placement.clip), [])
        near = [p for p in places if abs(p[0] - placement.start) <= _REACH * cast.rate]
        if not near:
            landings.append(Landing(placement, None, None, 0.0))
            continue
        best = max(near, key=lambda p: (round(p[1], 3), -abs(p[0] - placement.start)))
        places.remove(best)
        moment = placement.moment
        due = Fraction(moment.tick * cast.rate, moment.per_second)
        beat = best[0] + (placement.target - placement.start)
        landings.append(Landing(placement, best[0], float(beat - due), best[1]))
    strays = sum(likeness >= _CERTAIN for places in left.values() for _, likeness in places)
    return Proof(tuple(landings), strays)
