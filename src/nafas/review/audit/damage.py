"""Damage that is heard in a recording: clicks, drop-outs and clipping, found sample by sample.

A click is a step that its neighbourhood does not explain: the second difference of the samples stands far out of what
it is in the 20 ms around, for less than two milliseconds (after S. Godsill and P. Rayner, Digital Audio Restoration,
Springer 1998, chapter 5, with the plainest of predictors; from memory). The bounds are ours.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from nafas.audio_files import AudioReader, sane
from nafas.plain_text import pluralize
from nafas.review.audit.judge import AuditFinding
from nafas.review.checks.finding import Severity
from nafas.timing.clock import clock

_BLOCK_SECONDS = 10.0
_AROUND, _SHORT = 0.02, 0.002
"""Seconds in which a click is looked for, and that it lasts at most."""
_STANDS_OUT, _AUDIBLE = 24.0, 10 ** (-46 / 20)
"""Times the middle of what is around, and of full scale, that a click's step is at least."""
_NEXT_LOUDEST = 4.0
"""Times by which it must stand over all that is around it, not only over the middle: a plosive does not."""
_DEAD, _WAS_LOUD = 0.004, 10 ** (-40 / 20)
"""Seconds of digital silence that are a drop-out, and the level around it at which it is heard."""
_FULL, _FLAT = 0.985, 4
"""Of full scale, and samples in a row as good as equal there, that are clipping."""
_TOLD = 6


@dataclass(frozen=True)
class Damage:
    """Times, in seconds, of what was found."""

    clicks: tuple[float, ...]
    dropouts: tuple[float, ...]
    clipped: tuple[float, ...]

    def findings(self) -> list[AuditFinding]:
        """As findings: the first few of each by their place, the rest by their number."""
        findings_: list[AuditFinding] = []
        for check, times, one, remedy in (
            ("click", self.clicks, "A click", "record the place again, or repair it"),
            ("drop-out", self.dropouts, "The sound stops dead for a moment", "render or copy it again"),
            ("clipped", self.clipped, "Samples are cut off at full scale", "record or master it with more headroom"),
        ):
            for at in times[:_TOLD]:
                findings_.append(AuditFinding(check, Severity.SHOULD, at, f"{one}: {remedy}."))
            if len(times) > _TOLD:
                more = pluralize(len(times) - _TOLD, "place")
                text = f"{more} more like it, up to {clock(times[-1])}."
                findings_.append(AuditFinding(check, Severity.SHOULD, times[_TOLD], text))
        return findings_


def damage_in(path: Path) -> Damage:
    """Look through a whole recording, in blocks.

    Args:
        path: a file of sound.

    Raises:
        InputError: it cannot be read.
    """
    reader = AudioReader(path)
    block, over = round(_BLOCK_SECONDS * reader.rate), round(_AROUND * reader.rate)
    lists: tuple[list[float], ...] = ([], [], [])
    for first in range(0, reader.frames, block):
        begin = max(0, first - over)
        samples = sane(reader.read(begin, block + 2 * over))
        for times, places in zip(lists, (_clicks, _dropouts, _clipped)):
            for channel in samples.T:
                for at in places(channel, reader.rate):
                    if first <= begin + at < first + block:
                        times.append((begin + at) / reader.rate)
    return Damage(*(_apart(times) for times in lists))


def _apart(times: list[float]) -> tuple[float, ...]:
    """Each place once: both channels have it, and a crackle is one place."""
    kept: list[float] = []
    for at in sorted(times):
        if not kept or at - kept[-1] > _AROUND * 5:
            kept.append(at)
    return tuple(kept)


def _clicks(samples: NDArray[np.float32], rate: int) -> Iterator[int]:
    span, short = round(_AROUND * rate), max(2, round(_SHORT * rate))
    step = np.abs(np.diff(samples, 2, prepend=samples[:1], append=samples[-1:]))
    whole = len(step) // span * span
    if whole < 3 * span:
        return
    rows = step[:whole].reshape(-1, span)
    peaks, middles = rows.max(axis=1), np.median(rows, axis=1)
    likely = (peaks > _AUDIBLE) & (peaks > _STANDS_OUT * middles)
    for row in np.flatnonzero(likely):
        at = int(row) * span + int(rows[row].argmax())
        near = step[max(0, at - span) : at + span + 1].copy()
        centre = min(at, span)
        near[max(0, centre - short) : centre + short + 1] = 0
        if step[at] > _NEXT_LOUDEST * near.max(initial=0.0) and step[at] > _STANDS_OUT * np.median(near):
            yield at


def _dropouts(samples: NDArray[np.float32], rate: int) -> Iterator[int]:
    """Where it is digital silence for a while, with sound right before and after."""
    for first, last in _runs(samples == 0):
        if last - first < _DEAD * rate or last - first > rate:
            continue
        near = round(_DEAD * rate)
        before, after = samples[max(0, first - near) : first], samples[last : last + near]
        if min(_rms(before), _rms(after)) > _WAS_LOUD:
            yield first


def _clipped(samples: NDArray[np.float32], rate: int) -> Iterator[int]:
    for first, last in _runs(np.abs(samples) >= _FULL):
        if last - first >= _FLAT and np.ptp(samples[first:last]) < 1e-3:
            yield first


def _runs(true: NDArray[np.bool_]) -> Iterator[tuple[int, int]]:
    edges = np.flatnonzero(np.diff(np.concatenate([[False], true, [False]]).astype(np.int8)))
    yield from zip(edges[::2].tolist(), edges[1::2].tolist())


def _rms(samples: NDArray[np.float32]) -> float:
    return float(np.sqrt(np.mean(np.square(samples, dtype=np.float64)))) if len(samples) else 0.0
