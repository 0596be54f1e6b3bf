"""Pack a session with all it uses into one file, and open such a file into a new folder."""

from dataclasses import dataclass
from pathlib import Path

from nafas.exchange import packed
from nafas.script.model.session import Session
from nafas.tasks.exit_codes import ExitCode
from nafas.tasks.progress import Note, quiet
from nafas.timing.compile import compile_session
from nafas.voice import session_narrator


@dataclass(frozen=True)
class PackRequest:
    """A session, the folder where its relative paths start, and the packed file that is to be made."""

    session: Session
    folder: Path
    path: Path


@dataclass(frozen=True)
class UnpackRequest:
    """A packed session, and the folder that it is opened into; the folder must be new."""

    packed: Path
    folder: Path


@dataclass(frozen=True)
class PackResult:
    """What was made: the packed file, or the script in its new folder."""

    path: Path
    exit_code: ExitCode = ExitCode.DONE
    warnings: tuple[str, ...] = ()

    def lines(self) -> list[str]:
        return [str(self.path)]


def run(request: PackRequest | UnpackRequest, note: Note = quiet) -> PackResult:
    """Pack or unpack; the file or the folder appears whole or not at all.

    Raises:
        InputError: something that the session uses is missing, the packed file is damaged, or it cannot be written.
        Cancelled: when `note` does; nothing is left.
    """
    if isinstance(request, UnpackRequest):
        return PackResult(packed.unpack(request.packed, request.folder, note))
    narrator = session_narrator(request.session, request.folder)
    timeline = compile_session(request.session, narrator.spoken_length)
    return PackResult(packed.pack(timeline, request.folder, request.path, note))
