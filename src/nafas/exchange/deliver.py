"""A session handed over whole: every file from one timeline, checked before it is written."""

import re
import shutil
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from pathlib import Path

from nafas.errors import InputError
from nafas.exchange.aac import CONTAINERS, decoded, write_m4a
from nafas.exchange.captions import captions_of, transcript, written
from nafas.exchange.chapters import Chapter, chapters_of, cue_sheet, plain_lines, podcast_json, put_into
from nafas.exchange.cover import Cover, put_cover, read_cover
from nafas.exchange.cue_list import cue_list, labels, midi
from nafas.exchange.description import description_of
from nafas.exchange.packed import ENDING, pack
from nafas.files import part_beside, reason, sweep_parts, write_whole
from nafas.review.checks.finding import Finding, Severity
from nafas.review.checks.register import review, subject_of
from nafas.review.produce import produce, proved
from nafas.review.proof import Proof, prove
from nafas.review.proof.record import record_path, save_record
from nafas.script.edits.session_edits import change
from nafas.script.model.session import Session
from nafas.script.words.cautions import caution_words
from nafas.sound.files.formats import ENDINGS
from nafas.sound.master.render import Mastered
from nafas.sound.mix.mix import Mix
from nafas.state.permissions import asset_path
from nafas.timing.clock import clock
from nafas.timing.sheet import sheet_text
from nafas.voice.casting import Cast, cast_session

M4A = ".m4a"
_LOSSLESS = (".flac", ".wav")
AUDIO = (*ENDINGS, M4A)
TEXTS = {
    "srt": "captions, SubRip (.srt)",
    "vtt": "captions, WebVTT (.vtt)",
    "transcript": "transcript",
    "chapters": "chapters, JSON and text",
    "labels": "labels, tab-separated",
    "cues": "cue list, CSV",
    "midi": "MIDI with tempo and markers",
    "sheet": "timed sheet, proof (PDF)",
    "description": "description and credits",
    "packed": "packed session",
}
"""What there is beside the audio, and what it is."""
PURPOSES: dict[str, tuple[tuple[str, ...], tuple[str, ...]]] = {
    "podcast": ((".mp3",), ("srt", "vtt", "transcript", "chapters", "description")),
    "video": ((".flac",), ("srt", "vtt", "chapters", "description")),
    "app": ((".flac", ".m4a"), ("vtt", "chapters", "cues", "labels", "midi", "description")),
    "class": ((".mp3",), ("sheet", "transcript", "description")),
    "all": ((".flac", ".mp3", ".m4a"), tuple(TEXTS)),
}
"""For each purpose the audio and what comes with it."""
VIDEOS = {"video": "1080p"}
"""The size of the guide video that belongs to a purpose; the others have none."""
PATTERN = "{title}"
"""The usual name: also "{length}", "{language}", "{track}" and "{date}"."""
_FIELD = re.compile(r"\{(\w+)\}")
_UNSAFE = re.compile(r'[\\/:*?"<>|\x00-\x1f]+')
_MOST_NAME = 120
Progress = Callable[[str, float], None]
More = Callable[["Delivered", Path], Sequence[Path]]
"""Writes what needs a drawing into the folder under the delivery's stem: sheets on paper, a guide video."""


@dataclass(frozen=True, eq=False)
class Delivered:
    """What was handed over.

    Attributes:
        stem: of all names.
        files: in the order in which they were made.
        cast, mix, mastered: of the session.
        sound: a master that loses nothing, to be encoded further; it need not be one of the files.
        cover: that goes into its files; None for none.
        chapters: of it.
        proofs: of every file with sound, as it is handed over.
        findings: that must or should be changed and were let stand.
    """

    stem: str
    files: tuple[Path, ...]
    cast: Cast
    mix: Mix
    mastered: Mastered
    sound: Path
    cover: Cover | None
    chapters: tuple[Chapter, ...]
    proofs: tuple[Proof, ...]
    findings: tuple[Finding, ...]


def stem_of(session: Session, seconds: float, pattern: str = PATTERN) -> str:
    """The name of a delivery's files, without an ending. Raises InputError where the pattern names what is unknown."""
    values = {
        "title": session.title or "session",
        "length": clock(seconds).replace(":", "-"),
        "language": session.language,
        "track": "" if session.tags.track is None else f"{session.tags.track:02d}",
        "date": datetime.now(UTC).astimezone().strftime("%Y-%m-%d"),
    }
    made = _FIELD.sub(lambda field: values.get(field[1], field[0]), pattern)
    if set(_FIELD.findall(pattern)) - set(values) or "{" in _FIELD.sub("", pattern) or "}" in _FIELD.sub("", pattern):
        offered = ", ".join(f"{{{name}}}" for name in values)
        raise InputError(pattern, "names something unknown", f"use {offered}")
    return _UNSAFE.sub("-", made).strip(" .-")[:_MOST_NAME] or "session"


def deliver(
    session: Session,
    folder: Path,
    into: Path,
    audio: Sequence[str],
    texts: Sequence[str],
    pattern: str = PATTERN,
    grouped: bool = True,
    anyway: bool = False,
    more: More | None = None,
    progress: Progress = lambda stage, done: None,
    replaces: Callable[[Path], bool] = lambda path: False,
) -> Delivered:
    """Hand a session over.

    Args:
        session: what is handed over.
        folder: where its relative paths start.
        into: the folder of the files; made where it is missing. They appear together or not at all.
        audio: endings, of `AUDIO`.
        texts: keys of `TEXTS`.
        pattern: of the names.
        grouped: captions have a phase's counts together.
        anyway: it is handed over with findings that must be mended.
        more: makes what needs a drawing.
        progress: called with a stage and 0.0 to 1.0; raises Cancelled to stop.
        replaces: whether a file that stands there may be replaced.

    Raises:
        InputError: the review found what must be mended; a name stands there already; something cannot be written.
        Cancelled: when `progress` does; nothing is left.
    """
    _known(audio, texts)
    where = part_beside(into / "delivery")
    try:
        into.mkdir(parents=True, exist_ok=True)
        sweep_parts(into)  # what a killed delivery left
        where.mkdir()
        made = _made(session, folder, where, audio, texts, pattern, grouped, anyway, progress)
        files = list(made.files)
        if more is not None:
            files += more(made, where)
        proofs = [_container_proof(path, made, progress) for path in files if path.suffix in CONTAINERS]
        files += [record_path(proof.path) for proof in proofs]
        taken = [path.name for path in files if (into / path.name).exists() and not replaces(into / path.name)]
        if taken:
            raise InputError(str(into / taken[0]), "is there already", "choose another folder, or move it away")
        return replace(made, files=_placed(files, into, where / "before"), proofs=(*made.proofs, *proofs))
    except OSError as error:
        problem = f"cannot be written ({reason(error)})"
        raise InputError(str(into), problem, "free some space, or choose another") from None
    finally:
        shutil.rmtree(where, ignore_errors=True)


def _container_proof(path: Path, made: Delivered, progress: Progress) -> Proof:
    """The proof of the sound in an MP4 container, its record written beside it."""
    mastered = made.mastered
    with decoded(path, lambda done: progress("proving", 0.3 * done)) as sound:
        proof = prove(
            path, made.mix, mastered.gain, mastered.measured, lambda done: progress("proving", 0.3 + 0.7 * done), sound
        )
    save_record(proof)
    return proof


def _placed(files: Sequence[Path], into: Path, before: Path) -> tuple[Path, ...]:
    """The files in their place: all of them, or none; what stood there waits in a folder `before` until they are."""
    placed: list[Path] = []
    before.mkdir()
    try:
        for path in files:
            if (into / path.name).exists():
                (into / path.name).replace(before / path.name)
            placed.append(path.replace(into / path.name))
    except OSError:
        for path in placed:
            path.unlink(missing_ok=True)
        for path in before.iterdir():
            with suppress(OSError):
                path.replace(into / path.name)
        if any(before.iterdir()):  # it must not go with what is thrown away
            before.replace(into / f"before {datetime.now(UTC):%Y-%m-%d %H-%M-%S}")
        raise
    return tuple(placed)


def _known(audio: Sequence[str], texts: Sequence[str]) -> None:
    for ending in audio:
        if ending not in AUDIO:
            raise InputError(ending, "is no audio format", f"use {', '.join(AUDIO)}")
    for name in texts:
        if name not in TEXTS:
            raise InputError(name, "is nothing that is handed over", f"use {', '.join(TEXTS)}")
    if not audio:
        raise InputError("the delivery", "has no audio", f"name one of {', '.join(AUDIO)}")


def _made(
    session: Session,
    folder: Path,
    where: Path,
    audio: Sequence[str],
    texts: Sequence[str],
    pattern: str,
    grouped: bool,
    anyway: bool,
    progress: Progress,
) -> Delivered:
    """Every file, in a folder of its own."""
    written_in = session  # what is packed is the session, not what its files say of themselves
    if not session.tags.comment:
        comment = " ".join(caution_words(("every",)))[:500]
        session = change(session, tags=session.tags.model_copy(update={"comment": comment}))
    progress("looking", 0.0)
    cover = None if session.tags.cover is None else read_cover(asset_path(session.tags.cover, folder))
    cast = cast_session(session, folder)
    found = review(subject_of(cast, folder, progress=lambda done: progress("looking", done)))
    must = found.of(Severity.MUST)
    if must and not anyway:
        rest = f" and {len(must) - 1} more" if len(must) > 1 else ""
        raise InputError(must[0].where or session.title, f"{must[0].text.rstrip('.')}{rest}", "mend it in Review first")
    wanted = [ending for ending in audio if ending != M4A]
    lossless = next((ending for ending in wanted if ending in _LOSSLESS), ".flac")
    made_in = [*wanted, *([lossless] if lossless not in wanted else [])]
    production = produce(
        session, folder, where / f"master{made_in[0]}", with_proof=False, progress=progress,
        also=[where / f"master{ending}" for ending in made_in[1:]], anyway=anyway,
    )  # fmt: skip
    cast, mix, mastered = production.cast, production.mix, production.mastered
    stem = stem_of(session, float(cast.timeline.length), pattern)
    chapters = tuple(chapters_of(cast.timeline))
    files: list[Path] = []
    proofs: list[Proof] = []
    sound = where / f"master{lossless}"
    for ending in wanted:
        path = (where / f"master{ending}").rename(where / f"{stem}{ending}")
        sound = path if ending == lossless else sound
        if ending in _LOSSLESS:
            sheet = where / f"{stem}{ending}.cue"
            write_whole(sheet, cue_sheet(chapters, path.name, session.title, session.tags.artist).encode())
            files.append(sheet)

        def dress(path: Path = path) -> None:
            put_into(path, chapters)
            if cover is not None:
                put_cover(path, cover)

        dress()
        proof, _ = proved(path, mix, mastered, lambda done: progress("proving", done), dress)
        save_record(proof)
        proofs.append(proof)
        files += [path, record_path(path)]
    if M4A in audio:
        path = where / f"{stem}{M4A}"
        write_m4a(sound, path, chapters, session.file_tags, lambda done: progress("AAC", done))
        if cover is not None:
            put_cover(path, cover)
        files.append(path)
    progress("writing", 0.9)
    files += _texts(written_in, cast, folder, where, stem, chapters, texts, grouped, progress)
    stand = (*must, *found.of(Severity.SHOULD))
    return Delivered(stem, tuple(files), cast, mix, mastered, sound, cover, chapters, tuple(proofs), tuple(stand))


def _texts(
    session: Session,
    cast: Cast,
    folder: Path,
    where: Path,
    stem: str,
    chapters: Sequence[Chapter],
    texts: Sequence[str],
    grouped: bool,
    progress: Progress,
) -> list[Path]:
    timeline, captions = cast.timeline, captions_of(cast, grouped)
    rows: dict[str, list[tuple[str, Callable[[], str | bytes]]]] = {
        "srt": [(".srt", lambda: written(captions, "srt"))],
        "vtt": [(".vtt", lambda: written(captions, "vtt"))],
        "transcript": [(" transcript.txt", lambda: transcript(cast))],
        "chapters": [
            (" chapters.json", lambda: podcast_json(chapters, session.title)),
            (" chapters.txt", lambda: plain_lines(chapters)),
        ],
        "labels": [(" labels.txt", lambda: labels(cast))],
        "cues": [(" cues.csv", lambda: cue_list(timeline, cast.rate))],
        "midi": [(".mid", lambda: midi(timeline))],
        "sheet": [(" sheet.txt", lambda: sheet_text(timeline))],
        "description": [(" description.txt", lambda: description_of(cast, chapters))],
    }
    made: list[Path] = []
    for name in texts:
        for ending, make in rows.get(name, ()):
            path, text = where / f"{stem}{ending}", make()
            write_whole(path, text if isinstance(text, bytes) else text.encode())
            made.append(path)
    if "packed" in texts:
        made.append(pack(replace(timeline, session=session), folder, where / f"{stem}{ENDING}", progress))
    return made
