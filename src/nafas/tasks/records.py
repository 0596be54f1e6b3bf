"""What is put into the ledger of what was made. A ledger that cannot be written stops nothing: it is a warning."""

from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import TYPE_CHECKING

from nafas.errors import InputError
from nafas.ledger.contour import contour
from nafas.ledger.entries import FileNote, Kind, add, made_here

if TYPE_CHECKING:  # a render need not wait for what it does not use
    from nafas.review.audit.audit import Audit
    from nafas.review.proof import Proof
    from nafas.script.model.session import Session
    from nafas.sound.master.render import Mastered
    from nafas.tasks.delivery import DeliveryResult
    from nafas.tasks.render_result import RenderResult


def record_render(session: "Session", made: "RenderResult", folder: Path, variant: str = "") -> tuple[str, ...]:
    """A render and its files, of a session whose relative paths start in `folder`; of a series with its variant.

    Returns a warning where it could not be kept, else ().
    """
    paths = (made.mastered.path, *made.mastered.also)
    data = {
        "loudness": round(made.mastered.measured.loudness, 2),
        "gain": round(made.mastered.gain, 2),
        "stand_ins": made.cast.stand_ins,
        **({"variant": variant} if variant else {}),
        "made_of": _made_of(session, folder),
        "folder": str(folder.absolute()),
        "set_aside": [each.finding for each in session.set_aside],
    }
    stems = [FileNote(path, made.mastered.frames / made.mastered.rate) for path in made.mastered.stems.values()]
    return _kept(Kind.RENDER, session, [*_sounds(paths, made.mastered, made.proofs), *stems], data)


def record_delivery(
    session: "Session", made: "DeliveryResult", folder: Path, asked: str = "", variant: str = ""
) -> tuple[str, ...]:
    """A delivery and all its files, of a session whose relative paths start in `folder`; `asked` says what of it was
    asked for, where that is to be known again.

    Returns a warning where it could not be kept, else ().
    """
    from nafas.exchange.aac import CONTAINERS
    from nafas.tasks.delivery import AUDIO

    sounds = [path for path in made.files if path.suffix.lower() in {*AUDIO, *CONTAINERS}]
    files = [*_sounds(sounds, made.mastered, made.proofs), *(FileNote(p) for p in made.files if p not in sounds)]
    data = {
        "made_of": _made_of(session, folder),
        "folder": str(folder.absolute()),
        "asked": asked,
        **({"variant": variant} if variant else {}),
        "let_stand": [f"{finding.severity.value}: {finding.text}" for finding in made.findings],
        "set_aside": [each.finding for each in session.set_aside],
    }
    return _kept(Kind.DELIVERY, session, files, data)


@contextmanager
def recorded_if_stopped(session: "Session", paths: Sequence[Path]) -> Iterator[None]:
    """Put the files that work inside has written into the ledger where it stops or fails before it does so itself.

    What is not in the ledger is taken for a person's own file, and the next run would refuse to replace it.
    """
    before = {path: _identity(path) for path in paths}
    try:
        yield
    except BaseException:
        written = [path for path in paths if _identity(path) not in (None, before[path])]
        with suppress(InputError):  # a ledger that cannot be read; what stopped the work is what counts
            unknown = [FileNote(path) for path in written if not made_here(path)]
            if unknown:
                _kept(Kind.RENDER, session, unknown, {"stopped": True})
        raise


def _identity(path: Path) -> tuple[int, int] | None:
    try:
        found = path.lstat()
    except OSError:
        return None
    return found.st_ino, found.st_mtime_ns


def record_audit(heard: "Audit", session: "Session | None") -> tuple[str, ...]:
    """A recording that was put to the test. Returns a warning where it could not be kept, else ()."""
    measured = heard.measured
    file = FileNote(heard.path, heard.seconds, measured.loudness, measured.true_peak, None, contour(measured.fine))
    data = {"words": len(heard.words), "sets": len(heard.sets), "findings": len(heard.findings)}
    return _kept(Kind.AUDIT, session, [file], data, heard.path.name)


def _made_of(session: "Session", folder: Path) -> str:
    from nafas.exchange.made_of import MadeOf

    try:
        return MadeOf()(session, folder)
    except (InputError, OSError):  # it was there when it was rendered
        return ""


def _sounds(paths: Sequence[Path], mastered: "Mastered", proofs: "Sequence[Proof]") -> list[FileNote]:
    known = {proof.path.suffix: (proof.holds, proof.sha256) for proof in proofs}
    measured, seconds, sound = mastered.measured, mastered.frames / mastered.rate, contour(mastered.measured.fine)
    notes = []
    for path in paths:
        holds, digest = known.get(path.suffix, (None, ""))
        notes.append(FileNote(path, seconds, measured.loudness, measured.true_peak, holds, sound, digest))
    return notes


def _kept(
    kind: Kind, session: "Session | None", files: Sequence[FileNote], data: Mapping[str, object], title: str = ""
) -> tuple[str, ...]:
    try:
        add(kind, session, files, data=data, title=title)
    except (InputError, OSError) as error:  # what was made stands, whatever becomes of the note of it
        return (f"It could not be put into the ledger: {error}",)
    return ()
