"""Faults with a file, in whole words: from where its sounds were found, and from its levels."""

import math
from collections.abc import Iterator
from dataclasses import replace

from nafas.plain_text import pluralize
from nafas.review.proof.levels import Levels, Stretch
from nafas.review.proof.proof import CueMatch, Fault, FaultKind, Proof
from nafas.sound.meters.measure import Measured
from nafas.timing.clock import clock

_FOREIGN = 0.5  # of the sounds not found, and of the time at another level: it is another recording
_CANCELS = 1.0  # LU
_SHORT = 0.02  # seconds: what is shorter has no span that a clock shows


def faults(
    proof: Proof, levels: Levels, expected: Measured, length: int, channels: int, late: int | None = None
) -> Proof:
    """The proof with its faults, the gravest first.

    Args:
        proof: without them.
        levels: its levels against the expected ones.
        expected: what the master should measure.
        length, channels: what the file should have.
        late: samples that everything was found late by, where most does not lie in its place.
    """
    faults_ = list(_form(proof, length, channels))
    lost = len(proof.missing) / max(1, len(proof.matches))
    if late:
        way = "late" if late > 0 else "early"
        text = f"everything lies {abs(late)} samples ({abs(late) / proof.rate * 1e3:.2f} ms) {way}"
        return replace(proof, faults=(*faults_, Fault(FaultKind.SHIFT, text)))
    if lost > _FOREIGN and levels.differing > _FOREIGN:
        text = "this is not the sound of this session"
        return replace(proof, faults=(*faults_, Fault(FaultKind.FOREIGN, text)))
    if lost <= _FOREIGN or levels.differing <= _FOREIGN:
        faults_ += _sides(levels)
    faults_ += _places(proof)
    faults_ += _levels(proof, levels)
    faults_ += _loudness(proof, levels, expected)
    return replace(proof, faults=tuple(faults_))


def _form(proof: Proof, length: int, channels: int) -> Iterator[Fault]:
    slack = 0 if not proof.tolerance.place else round(0.1 * proof.rate)
    if abs(proof.frames - length) > slack:
        much, way = abs(proof.frames - length) / proof.rate, "shorter" if proof.frames < length else "longer"
        ends = proof.frames / proof.rate
        amount = f"{much:.2f} s" if much >= 0.01 else f"{abs(proof.frames - length)} samples"
        yield Fault(FaultKind.LENGTH, f"it ends at {clock(ends)}, {amount} {way} than the session", ends)
    if proof.channels != channels:
        yield Fault(
            FaultKind.CHANNELS, f"it has {pluralize(proof.channels, 'channel')}, the session asks for {channels}"
        )


def _sides(levels: Levels) -> Iterator[Fault]:
    if levels.swapped:
        yield Fault(FaultKind.SWAPPED, "left and right are the other way round")
    if levels.cancels > _CANCELS:
        yield Fault(FaultKind.SWAPPED, f"both channels together lose {levels.cancels:.1f} LU: one is turned round")


def _places(proof: Proof) -> Iterator[Fault]:
    for match in proof.missing:
        yield Fault(
            FaultKind.MISSING,
            f"not found: {match.address} “{match.name[:60]}”, due at {_at(match)}",
            float(match.moment.at),
        )
    off_place = [m for m in proof.matches if m.error is not None and abs(m.error) > proof.allowed(m)]
    for match in off_place:
        assert match.error is not None
        yield Fault(
            FaultKind.OFF_PLACE,
            f"{abs(match.error):.1f} samples {'late' if match.error > 0 else 'early'}: {match.address} "
            f"“{match.name[:60]}”, due at {_at(match)}",
            float(match.moment.at),
        )


def _levels(proof: Proof, levels: Levels) -> Iterator[Fault]:
    for stretch in levels.stretches:
        span = f"{clock(stretch.begin, tenths=True)} to {clock(stretch.end, tenths=True)}"
        if stretch.end - stretch.begin < _SHORT:
            length = f"{(stretch.end - stretch.begin) * 1000:.0f} ms"
            kind, words = FaultKind.GAP, f"a drop-out of {length} at {clock(stretch.begin, tenths=True)}"
        elif stretch.silent:
            kind, words = FaultKind.GAP, f"silent from {span}, where the session sounds"
        elif stretch.by < 0:
            kind, words = FaultKind.GAP, f"up to {-stretch.by:.1f} dB too soft from {span}"
        else:
            kind, words = FaultKind.EXTRA, f"up to {stretch.by:.1f} dB too loud from {span}{_twice(proof, stretch)}"
        yield Fault(kind, words, stretch.begin, stretch.end)


def _twice(proof: Proof, stretch: Stretch) -> str:
    near = [m for m in proof.cues if stretch.begin - 1 <= float(m.moment.at) <= stretch.end + 1]
    return (
        f": something sounds there that is not in the session, near “{near[0].name[:40]}”"
        if near
        else (": something sounds there that is not in the session")
    )


def _loudness(proof: Proof, levels: Levels, expected: Measured) -> Iterator[Fault]:
    if abs(levels.gain) > proof.tolerance.gain:
        way = "louder" if levels.gain > 0 else "softer"
        yield Fault(FaultKind.GAIN, f"it is {abs(levels.gain):.2f} dB {way} than it was made")
    missed = proof.measured.loudness - expected.loudness
    if math.isfinite(missed) and abs(missed) > max(0.1, proof.tolerance.gain) and not abs(levels.gain) > 0.05:
        yield Fault(
            FaultKind.LOUDNESS,
            f"it measures {proof.measured.loudness:.1f} LUFS where {expected.loudness:.1f} were made",
        )
    over = proof.measured.true_peak - proof.ceiling
    if over > proof.tolerance.peak:
        yield Fault(
            FaultKind.PEAK,
            f"its true peak is {proof.measured.true_peak:.2f} dBTP, the ceiling {proof.ceiling:g}",
        )
    cut = expected.true_peak - proof.measured.true_peak + min(0.0, levels.gain)
    if math.isfinite(cut) and cut > proof.tolerance.cut:
        yield Fault(
            FaultKind.CLIPPED, f"its peaks are {cut:.1f} dB lower than they were made: it was clipped or limited"
        )


def _at(match: CueMatch) -> str:
    return clock(match.moment.at, tenths=True)
