"""Prove a finished file against its session, from the file itself."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from nafas.errors import InputError
from nafas.exchange.aac import decoded
from nafas.review.proof import Proof, prove_again
from nafas.review.proof.record import as_record, record_path, save_record
from nafas.script.model.session import Session
from nafas.tasks.exit_codes import ExitCode
from nafas.tasks.progress import Note, quiet
from nafas.tasks.report import proof_lines


@dataclass(frozen=True)
class ProveRequest:
    """The file, the session it belongs to, and the folder where that one's relative paths start."""

    file: Path
    session: Session
    folder: Path


@dataclass(frozen=True)
class ProveResult:
    """The proof. warnings: its record cannot be kept next to the file."""

    proof: Proof
    warnings: tuple[str, ...] = ()

    @property
    def exit_code(self) -> ExitCode:
        return ExitCode.DONE if self.proof.holds else ExitCode.NOT_PROVEN

    def lines(self) -> list[str]:
        return [*proof_lines(self.proof), f"record: {record_path(self.proof.path)}"]

    def figures(self) -> dict[str, Any]:
        return as_record(self.proof)


def run(request: ProveRequest, note: Note = quiet) -> ProveResult:
    """Decode the file as a player would, hold it against the session, and keep the record next to it.

    Raises:
        InputError: the file or the session cannot be read.
        Cancelled: when `note` does.
    """
    with decoded(request.file, lambda done: note("decoding", done)) as sound:
        proof = prove_again(request.file, request.session, request.folder, note, sound)
    try:
        save_record(proof)
    except InputError as error:  # the file may lie where nothing can be written: the proof itself stands
        return ProveResult(proof, (f"the record of it is not kept: {error}",))
    return ProveResult(proof)
