"""Render a session and prove it: the complete path from a script to files whose every count is known to be right."""

import contextlib
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from nafas.errors import InputError, UsageError
from nafas.files import new_name, real_path
from nafas.ledger.entries import made_here
from nafas.review.proof.proof import Proof
from nafas.review.proof.prove import RATES, prove
from nafas.review.proof.record import record_path, save_record
from nafas.script.model.assets import assets_of
from nafas.script.model.session import Session
from nafas.sound.files.formats import encoding_of
from nafas.sound.master.codec_headroom import pieces_of, raised_peaks, write_eased
from nafas.sound.master.render import Mastered, render
from nafas.sound.mix.mix import STEMS, Mix, build_mix, cast_with_sounds
from nafas.state.permissions import whole_path
from nafas.tasks.progress import Note, quiet
from nafas.tasks.records import record_render, recorded_if_stopped
from nafas.tasks.render_result import RenderResult

STAGES = {"casting": (0.0, 0.05), "measuring": (0.05, 0.35), "writing": (0.35, 0.75), "proving": (0.75, 1.0)}
_TIMES_EASED = 3
"""Times that the peaks of a coded file are eased; its proof reports what is over the ceiling after that."""
_MARGIN = 0.3  # dB over the ceiling that is left: no more is taken than need be


def anything(path: Path) -> bool:
    """Whatever stands there may be replaced: a person has said so."""
    return True


def made_before(path: Path) -> bool:
    """Whether a file is as Nafas made it in that place; not where the ledger cannot be read."""
    try:
        return made_here(path)
    except InputError:
        return False


@dataclass(frozen=True)
class RenderRequest:
    """What is to be rendered.

    Attributes:
        session: what to render.
        folder: where the session file stands, for its relative paths.
        out: the master; its ending says the format.
        stems: a folder for voice.wav, chimes.wav and bed.wav, or None.
        rate: samples a second, one of `RATES`.
        with_proof: decode every file again and hold it against the session; a record of it is written next to each.
        also: further files of the same master.
        bits: of a sample in WAV and FLAC: "16", "24" or "float".
        anyway: a master that misses its loudness is written all the same.
        replaces: whether a file that stands there may be replaced; usually one that Nafas made in that place, as it
            made it. A function of a module.
        variant: of a series, by its name; the ledger notes it.
    """

    session: Session
    folder: Path
    out: Path
    stems: Path | None = None
    rate: int = 48_000
    with_proof: bool = True
    also: tuple[Path, ...] = ()
    bits: str = "24"
    anyway: bool = False
    replaces: Callable[[Path], bool] = made_before
    variant: str = ""

    @property
    def name(self) -> str:
        """For people."""
        return self.session.title or self.out.stem

    @property
    def files(self) -> tuple[Path, ...]:
        """Every file of the master, the master first; without stems."""
        return (self.out, *self.also)

    @property
    def stem_files(self) -> tuple[Path, ...]:
        """The stems; () where none are asked for."""
        return () if self.stems is None else tuple(self.stems / f"{name}.wav" for name in STEMS)

    def check(self) -> None:
        """See that it can be begun. Raises InputError: a rate, a format, a name or an empty session."""
        if self.rate not in RATES:
            raise UsageError(f"rate {self.rate}", "is not offered", f"use one of {', '.join(map(str, RATES))}")
        for path in self.files:
            encoding_of(path, self.bits, self.rate)
        stems = self.stem_files
        _spare_its_own(self.session, self.folder, [*self.files, *stems])
        for path in self.files:
            new_name(path, replace=self.replaces)
        for path in stems:
            if path.parent.is_dir():
                new_name(path, replace=self.replaces)
        if not self.session.blocks:
            title = self.session.title or "the session"
            raise InputError(title, "has no blocks yet", "add talk, rest or a breath set first")


def run(request: RenderRequest, note: Note = quiet) -> RenderResult:
    """Render a session, prove it, and put it into the ledger. Raises as `produce`."""
    with recorded_if_stopped(request.session, (*request.files, *request.stem_files)):
        made = produce(request, note)
        return replace(made, warnings=record_render(request.session, made, request.folder, request.variant))


def produce(request: RenderRequest, note: Note = quiet) -> RenderResult:
    """Render a session and prove it, without the ledger.

    Raises:
        OutOfReach: the loudness asked for cannot be had; nothing is written.
        InputError: a take, a place or a name is at fault; nothing is left half done.
        Cancelled: when `note` does.
    """
    began = time.perf_counter()
    request.check()
    session, folder, files = request.session, request.folder, request.files
    note("casting", 0.0)
    cast = cast_with_sounds(session, folder, request.rate)
    mix = build_mix(cast, folder)
    mastered = render(mix, request.out, request.stems, note, request.also, request.bits, request.anyway)
    for path in files:
        with contextlib.suppress(OSError):
            record_path(path).unlink(missing_ok=True)  # it belongs to the file that stood there before
    rendered = time.perf_counter()
    proofs: list[Proof] = []
    eased: dict[Path, float] = {}
    for path in files if request.with_proof else ():

        def proving(done: float) -> None:
            note("proving", (len(proofs) + done) / len(files))

        proof, lower = proved(path, mix, mastered, proving)
        proofs.append(proof)
        if lower:
            eased[path] = lower
    for proof in proofs:
        save_record(proof)
    return RenderResult(cast, mix, mastered, tuple(proofs), rendered - began, time.perf_counter() - rendered, eased)


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
        lower += np.maximum(raised_peaks(path, proof.ceiling, len(lower)) - _MARGIN, 0.0)
        write_eased(mix, mastered.gain, path, lower, note)
        dress()
        proof = prove(path, mix, mastered.gain, mastered.measured, note)
    return proof, float(lower.max(initial=0.0))


def _spare_its_own(session: Session, folder: Path, outputs: Sequence[Path]) -> None:
    """See that no output stands where a recording, a sample or a take of the session does. Raises InputError."""
    used = {whole_path(asset, folder) for asset in assets_of(session)}
    for output in outputs:
        whole = real_path(output)
        if whole in used or (whole.exists() and used & set(whole.parents)):
            raise InputError(str(output), "is used by the session itself", "choose another name")
