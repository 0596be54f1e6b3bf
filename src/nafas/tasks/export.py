"""Export the ledger as a table or as JSON, or copy it whole."""

from dataclasses import dataclass
from pathlib import Path

from nafas.errors import InputError
from nafas.files import write_whole
from nafas.ledger.entries import exported
from nafas.ledger.store import back_up
from nafas.tasks.exit_codes import ExitCode


@dataclass(frozen=True)
class ExportRequest:
    """Where the ledger goes: a .json or .csv file, or with `whole` a copy of the database itself."""

    path: Path
    whole: bool = False


@dataclass(frozen=True)
class ExportResult:
    """The file that was written."""

    path: Path
    exit_code: ExitCode = ExitCode.DONE
    warnings: tuple[str, ...] = ()

    def lines(self) -> list[str]:
        return [str(self.path)]


def run(request: ExportRequest) -> ExportResult:
    """Write the ledger to a file. Raises InputError: another ending, or it cannot be written."""
    path = request.path
    if request.whole:
        back_up(path)
        return ExportResult(path)
    kind = path.suffix.lower().lstrip(".")
    if kind not in ("json", "csv"):
        raise InputError(str(path), "is neither .json nor .csv", "end its name in one of them")
    write_whole(path, exported(kind).encode())
    return ExportResult(path)
