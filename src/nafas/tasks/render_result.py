"""What came of a render: its files, their loudness, their proofs, and all of it in words and in figures."""

import contextlib
import math
import resource
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from nafas.plain_text import pluralize
from nafas.review.proof.proof import Proof
from nafas.sound.master.mono_downmix import fold_loss
from nafas.sound.master.render import Mastered
from nafas.sound.mix.mix import Mix
from nafas.tasks.exit_codes import ExitCode
from nafas.tasks.report import fit_lines, proof_lines
from nafas.timing.clock import clock
from nafas.voice.casting import Cast

_LOST, _LOST_AT_ONCE = 1.5, 6.0
"""LU lost on one loudspeaker that are reported: in all, and at worst. One channel alone loses 3: no fault."""


@dataclass(frozen=True)
class RenderResult:
    """A rendered session with everything known of it.

    Attributes:
        cast: what was placed where, with the misfits.
        mix: that was rendered.
        mastered: the files, and the master's loudness and true peak.
        proofs: of each file, the master's first; () when none was asked for.
        seconds: wall time from session to finished files, without the proof.
        proof_seconds: wall time of the proof.
        eased: dB by which single peaks of coded files were eased, by path, where their encoder had raised them too far.
        warnings: why it is not in the ledger, if it is not.
    """

    cast: Cast
    mix: Mix
    mastered: Mastered
    proofs: tuple[Proof, ...]
    seconds: float
    proof_seconds: float
    eased: Mapping[Path, float] = field(default_factory=dict)
    warnings: tuple[str, ...] = ()

    @property
    def proof(self) -> Proof | None:
        """Of the master; None when none was asked for."""
        return self.proofs[0] if self.proofs else None

    @property
    def holds(self) -> bool:
        """No proof that was made found a fault."""
        return all(proof.holds for proof in self.proofs)

    @property
    def duration(self) -> float:
        """Seconds of sound."""
        return self.mastered.frames / self.mastered.rate

    @property
    def real_time_factor(self) -> float:
        """Seconds of sound made in a second of work."""
        return self.duration / max(self.seconds, 1e-9)

    @property
    def exit_code(self) -> ExitCode:
        return ExitCode.DONE if self.holds else ExitCode.NOT_PROVEN

    def lines(self) -> list[str]:
        """What was made, how loud it is, what the proof found, and what does not fit."""
        master = self.mastered
        minutes, seconds = divmod(self.duration, 60)
        lines = [
            f"{master.path}: {int(minutes)}:{seconds:04.1f}, {master.measured.loudness:.1f} LUFS, "
            f"{master.measured.true_peak:.1f} dBTP, rendered at {self.real_time_factor:.0f} x real time"
        ]
        measured = master.measured
        if math.isfinite(measured.short_term_max):
            lines.append(
                f"loudness range {measured.range:.1f} LU, short-term at most {measured.short_term_max:.1f}, "
                f"momentary at most {measured.momentary_max:.1f} LUFS"
            )
        lost, worst, where = fold_loss(measured)
        if lost >= _LOST or worst >= _LOST_AT_ONCE:
            lines.append(
                f"folded down to mono it loses {lost:.1f} LU, most at {clock(where)}: {worst:.1f} LU; "
                "narrow the bed or the chime there"
            )
        lines += list(master.troubles)
        if master.also:
            lines.append("also: " + ", ".join(str(path) for path in master.also))
        if master.stems:
            lines.append("stems: " + ", ".join(str(path) for path in master.stems.values()))
        if master.limited < 0:
            lines.append(f"the limiter took up to {-master.limited:.1f} dB off peaks")
        for path, lower in self.eased.items():
            lines.append(
                f"{path.name}: single peaks were lowered by up to {lower:.1f} dB, because its encoder raises them"
            )
        if master.shortfall:
            lines.append(
                f"loudness misses its target of {master.target:g} LUFS by {master.shortfall:.1f} LU: lower the target"
            )
        stand_ins = self.cast.stand_in_lines
        if stand_ins:
            some = ", ".join(repr(line[:40]) for line in stand_ins[:6])
            more = f" and {len(stand_ins) - 6} more" if len(stand_ins) > 6 else ""
            text = pluralize(len(stand_ins), "line is", "lines are")
            lines.append(f"{text} read by the narrator ({self.cast.narrator}): {some}{more}")
        lines += [f"the chosen voice is not installed, another reads: {each}" for each in self.cast.voice_problems]
        if self.cast.waiting_lines:
            text = pluralize(len(self.cast.waiting_lines), "line has no take and stays", "lines have no take and stay")
            lines.append(f"{text} unsaid: " + ", ".join(repr(line[:40]) for line in self.cast.waiting_lines[:6]))
        if self.cast.shortened:
            least = min(placement.clip.part for placement in self.cast.shortened)
            lines.append(
                f"{pluralize(len(self.cast.shortened), 'time')} a word is shortened to fit, by up to {1 - least:.0%}"
            )
        for each in self.proofs:
            lines += proof_lines(each)
        return [*lines, *fit_lines(self.cast)]

    def figures(self) -> dict[str, Any]:
        """Everything measured, ready for JSON."""
        master, proof = self.mastered, self.proof
        return {
            "file": str(master.path),
            "also": [str(path) for path in master.also],
            "stems": {name: str(path) for name, path in master.stems.items()},
            "duration": round(self.duration, 6),
            "frames": master.frames,
            "rate": master.rate,
            "events": len(self.cast.timeline.moments),
            "cues": len(self.cast.placements),
            "narrator": self.cast.narrator,
            "narrated_lines": self.cast.stand_in_lines,
            "unsaid_lines": self.cast.waiting_lines,
            "shortened": len(self.cast.shortened),
            "misfits": [str(misfit) for misfit in self.cast.misfits],
            "loudness_lufs": _finite(master.measured.loudness),
            "true_peak_dbtp": _finite(master.measured.true_peak),
            "loudness_range_lu": _finite(master.measured.range),
            "short_term_max_lufs": _finite(master.measured.short_term_max),
            "momentary_max_lufs": _finite(master.measured.momentary_max),
            "master_gain_db": round(master.gain, 2),
            "limiter_db": round(master.limited, 2),
            "eased_db": {str(path): round(lower, 2) for path, lower in self.eased.items()},
            "mono_loss_lu": round(fold_loss(master.measured)[0], 2),
            "troubles": list(master.troubles),
            "loudness_missed_by_lu": round(master.shortfall, 2),
            "worst_beat_error_samples": proof and proof.worst,
            "mean_beat_error_samples": proof and proof.mean,
            "cues_not_found": None if proof is None else [match.address for match in proof.missing],
            "chimes_found": proof and sum(match.found is not None for match in proof.chimes),
            "holds": self.holds if self.proofs else None,
            "faults": {str(proof.path): [str(fault) for fault in proof.faults] for proof in self.proofs},
            "real_time_factor": round(self.real_time_factor, 1),
            "proof_seconds": round(self.proof_seconds, 2),
            "peak_memory_mb": round(peak_memory_mb(), 1),
        }


def _finite(value: float) -> float | None:
    return round(value, 2) if abs(value) < 1e6 else None


def peak_memory_mb() -> float:
    """The most memory this process has held, in MB."""
    # Linux carries ru_maxrss over from the process that started this one; VmHWM is our own.
    with contextlib.suppress(OSError, StopIteration, ValueError):
        lines = Path("/proc/self/status").read_text().splitlines()
        return int(next(line for line in lines if line.startswith("VmHWM")).split()[1]) / 1e3
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e3
