"""From a session to a proven master: the whole path in one call, for the window, the command line and the demo."""

import contextlib
import resource
import time
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np

from nafas.errors import InputError
from nafas.review.proof.proof import Proof
from nafas.review.proof.prove import RATES, prove
from nafas.review.proof.record import record_path, save_record
from nafas.script.model.assets import assets_of
from nafas.script.model.session import Session
from nafas.sound.files.formats import encoding_of
from nafas.sound.master.codec_room import pieces_of, raised_peaks, write_eased
from nafas.sound.master.mono_downmix import fold_loss
from nafas.sound.master.render import Mastered, render
from nafas.sound.mix.mix import STEMS, Mix, build_mix, prepare_sounds
from nafas.state.permissions import whole_path
from nafas.voice.casting import Cast, cast_session

Progress = Callable[[str, float], None]
_TIMES_EASED = 3
"""Times that the peaks of a coded file are eased; what is over the ceiling then is told by its proof."""
_ROOM = 0.3  # dB over the ceiling that is left: no more is taken than need be


@dataclass(frozen=True)
class Production:
    """A rendered session with everything known of it.

    Attributes:
        cast: what was placed where, with the misfits.
        mix: that was rendered.
        mastered: the files, and the master's loudness and true peak.
        proofs: of each file, the master's first; () when none was asked for.
        seconds: wall time from session to finished files, without the proof.
        proof_seconds: wall time of the proof.
        eased: dB by which single peaks of coded files were eased, by path, where their encoder had raised them too far.
    """

    cast: Cast
    mix: Mix
    mastered: Mastered
    proofs: tuple[Proof, ...]
    seconds: float
    proof_seconds: float
    eased: Mapping[Path, float] = field(default_factory=dict)

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

    def summary(self) -> dict[str, Any]:
        """The figures, ready for JSON."""
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


def produce(
    session: Session,
    folder: Path,
    out: Path,
    stems: Path | None = None,
    rate: int = 48_000,
    with_proof: bool = True,
    progress: Progress = lambda stage, done: None,
    also: Sequence[Path] = (),
    bits: str = "24",
    anyway: bool = False,
) -> Production:
    """Render a session and prove it.

    Args:
        session: what to render.
        folder: where the session file stands, for its relative paths.
        out: the master; its ending says the format.
        stems: a folder for voice.wav, chimes.wav and bed.wav, or None.
        rate: one of `RATES`.
        with_proof: decode every file again and hold it against the session; a record of it is written beside each.
        progress: called with a stage and 0.0 to 1.0; raises Cancelled to stop.
        also, bits, anyway: further files of the same master, the bits of a sample, and whether one that misses its
            loudness is written, as `render`.

    Raises:
        OutOfReach: the loudness asked for cannot be had; nothing is written.
        InputError: a take, a place or a name is at fault; nothing is left half done.
        Cancelled: when `progress` does.
    """
    began = time.perf_counter()
    if rate not in RATES:
        raise InputError(f"rate {rate}", "is not offered", f"use one of {', '.join(map(str, RATES))}")
    for place in (out, *also):
        encoding_of(place, bits, rate)
    _spare_its_own(session, folder, [out, *also, *(stems / f"{name}.wav" for name in STEMS if stems is not None)])
    if not session.blocks:
        raise InputError(session.title or "the session", "has no blocks yet", "add talk, rest or a breath set first")
    progress("casting", 0.0)
    with ThreadPoolExecutor(1) as meanwhile:
        meanwhile.submit(prepare_sounds, session, rate, folder)
        cast = cast_session(session, folder, rate)
    mix = build_mix(cast, folder)
    mastered = render(mix, out, stems, progress, also, bits, anyway)
    for path in (out, *also):
        with contextlib.suppress(OSError):
            record_path(path).unlink(missing_ok=True)  # it told of the file that stood there before
    rendered = time.perf_counter()
    proofs: list[Proof] = []
    eased: dict[Path, float] = {}
    if with_proof:
        paths = (out, *also)
        for path in paths:

            def note(done: float) -> None:
                progress("proving", (len(proofs) + done) / len(paths))

            proof, lower = proved(path, mix, mastered, note)
            proofs.append(proof)
            if lower:
                eased[path] = lower
        for proof in proofs:
            save_record(proof)
    return Production(cast, mix, mastered, tuple(proofs), rendered - began, time.perf_counter() - rendered, eased)


def proved(
    path: Path, mix: Mix, mastered: Mastered, note: Callable[[float], None], dress: Callable[[], None] = lambda: None
) -> tuple[Proof, float]:
    """The proof of a file of a master; it is written again, eased, where its encoder had raised peaks too far.

    Args:
        path: of the file.
        mix, mastered: what it is of.
        note: called with 0.0 to 1.0; raises Cancelled to stop.
        dress: puts into the file what was put into it since it was rendered.

    Returns:
        The proof of the file as it stands now, and by how many dB single peaks of it were eased.

    Raises:
        InputError: the file cannot be read, or not be written again; the one before it stands then.
        Cancelled: when `note` does.
    """
    proof = prove(path, mix, mastered.gain, mastered.measured, note)
    lower = np.zeros(pieces_of(mix), np.float32)
    for _ in range(_TIMES_EASED):
        if encoding_of(path, rate=mix.rate).bits is not None:
            break
        if proof.measured.true_peak - proof.ceiling <= proof.tolerance.peak:
            break
        lower += np.maximum(raised_peaks(path, proof.ceiling, len(lower)) - _ROOM, 0.0)
        write_eased(mix, mastered.gain, path, lower, note)
        dress()
        proof = prove(path, mix, mastered.gain, mastered.measured, note)
    return proof, float(lower.max(initial=0.0))


def _spare_its_own(session: Session, folder: Path, outputs: Sequence[Path]) -> None:
    """See that no output stands where a recording, a sample or a take of the session does. Raises InputError."""
    used = {whole_path(asset, folder) for asset in assets_of(session)}
    for place in outputs:
        whole = place.resolve()
        if whole in used or (whole.exists() and used & set(whole.parents)):
            raise InputError(str(place), "is a file that the session itself uses", "choose another name")
