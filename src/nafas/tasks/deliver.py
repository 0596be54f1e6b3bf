"""Deliver a session: every file from one timeline, checked before it is written, all in place together or none."""

import shutil
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

from nafas.errors import InputError
from nafas.exchange.aac import CONTAINERS, decoded, write_m4a
from nafas.exchange.captions import captions_of, transcript, written
from nafas.exchange.chapters import Chapter, chapters_of, cue_sheet, plain_lines, podcast_json, put_into
from nafas.exchange.cover import put_cover, read_cover
from nafas.exchange.cue_list import cue_list, labels, midi
from nafas.exchange.description import description_of
from nafas.exchange.packed import ENDING, pack
from nafas.files import part_path, reason, sweep_parts, write_whole
from nafas.review.checks.finding import Severity
from nafas.review.checks.register import review, subject_of
from nafas.review.proof import Proof, prove
from nafas.review.proof.record import record_path, save_record
from nafas.script.edits.session_edits import change
from nafas.script.words.cautions import caution_words
from nafas.state.permissions import asset_path
from nafas.tasks.delivery import LOSSLESS, M4A, DeliveryRequest, DeliveryResult, stem_of
from nafas.tasks.drawings import draw
from nafas.tasks.progress import Note, quiet
from nafas.tasks.records import record_delivery, recorded_if_stopped
from nafas.tasks.render import RenderRequest, produce, proved
from nafas.timing.sheet import sheet_text
from nafas.voice.casting import Cast, cast_session


def run(request: DeliveryRequest, note: Note = quiet) -> DeliveryResult:
    """Hand a session over, and put that into the ledger.

    Raises:
        InputError: the review found what must be changed; a name stands there already; something cannot be written.
        Cancelled: when `note` does; nothing is left.
    """
    request.check()
    into = request.into
    where = part_path(into / "delivery")
    try:
        into.mkdir(parents=True, exist_ok=True)
        sweep_parts(into)  # what a killed delivery left
        where.mkdir()
        made = _made(request, where, note)
        drawn, remarks = draw(made, where, "sheet" in request.texts, request.video, request.fps, request.grouped, note)
        files = [*made.files, *drawn]
        proofs = [_container_proof(path, made, note) for path in files if path.suffix in CONTAINERS]
        files += [record_path(proof.path) for proof in proofs]
        taken = [path.name for path in files if (into / path.name).exists() and not request.replaces(into / path.name)]
        if taken:
            raise InputError(str(into / taken[0]), "is there already", "choose another folder, or move it away")
        names = [into / path.name for path in files]
        with recorded_if_stopped(request.session, names):
            placed = _placed(files, into, where / "before")
            made = replace(made, files=placed, proofs=(*made.proofs, *proofs), remarks=remarks)
            noted = record_delivery(request.session, made, request.folder, request.asked, request.variant)
    except OSError as error:
        problem = f"cannot be written ({reason(error)})"
        raise InputError(str(into), problem, "free some space, or choose another") from None
    finally:
        shutil.rmtree(where, ignore_errors=True)
    return replace(made, warnings=noted)


def _container_proof(path: Path, made: DeliveryResult, note: Note) -> Proof:
    """The proof of the sound in an MP4 container, its record written next to it."""
    mastered = made.mastered
    with decoded(path, lambda done: note("proving", 0.3 * done)) as sound:
        proof = prove(
            path, made.mix, mastered.gain, mastered.measured, lambda done: note("proving", 0.3 + 0.7 * done), sound
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


def _made(request: DeliveryRequest, where: Path, note: Note) -> DeliveryResult:
    """Every file, in a folder of its own."""
    session, folder = request.session, request.folder
    if not session.tags.comment:
        comment = " ".join(caution_words(("every",), session.language))[:500]
        session = change(session, tags=session.tags.model_copy(update={"comment": comment}))
    note("looking", 0.0)
    cover = None if session.tags.cover is None else read_cover(asset_path(session.tags.cover, folder))
    cast = cast_session(session, folder)
    reviewed = review(subject_of(cast, folder, progress=lambda done: note("looking", done)))
    must = reviewed.of(Severity.MUST)
    if must and not request.anyway:
        rest = f" and {len(must) - 1} more" if len(must) > 1 else ""
        raise InputError(
            must[0].where or session.title, f"{must[0].text.rstrip('.')}{rest}", "change it in Review first"
        )
    wanted = [ending for ending in request.audio if ending != M4A]
    lossless = next((ending for ending in wanted if ending in LOSSLESS), ".flac")
    made_in = [*wanted, *([lossless] if lossless not in wanted else [])]
    master, *also = (where / f"master{ending}" for ending in made_in)
    asked = RenderRequest(session, folder, master, also=tuple(also), with_proof=False, anyway=request.anyway)
    rendered = produce(asked, note)
    cast, mix, mastered = rendered.cast, rendered.mix, rendered.mastered
    stem = stem_of(session, float(cast.timeline.length), request.pattern)
    chapters = tuple(chapters_of(cast.timeline))
    files: list[Path] = []
    proofs: list[Proof] = []
    sound = where / f"master{lossless}"
    for ending in wanted:
        path = (where / f"master{ending}").rename(where / f"{stem}{ending}")
        sound = path if ending == lossless else sound
        if ending in LOSSLESS:
            sheet = where / f"{stem}{ending}.cue"
            write_whole(sheet, cue_sheet(chapters, path.name, session.title, session.tags.artist).encode())
            files.append(sheet)

        def dress(path: Path = path) -> None:
            put_into(path, chapters)
            if cover is not None:
                put_cover(path, cover)

        dress()
        proof, _ = proved(path, mix, mastered, lambda done: note("proving", done), dress)
        save_record(proof)
        proofs.append(proof)
        files += [path, record_path(path)]
    if M4A in request.audio:
        path = where / f"{stem}{M4A}"
        write_m4a(sound, path, chapters, session.file_tags, lambda done: note("AAC", done))
        if cover is not None:
            put_cover(path, cover)
        files.append(path)
    note("writing", 0.9)
    files += _texts(request, cast, where, stem, chapters, note)
    stand = (*must, *reviewed.of(Severity.SHOULD))
    return DeliveryResult(stem, tuple(files), cast, mix, mastered, sound, cover, chapters, tuple(proofs), tuple(stand))


def _texts(
    request: DeliveryRequest, cast: Cast, where: Path, stem: str, chapters: Sequence[Chapter], note: Note
) -> list[Path]:
    # What is packed is the session as it was asked for, not what its files say of themselves.
    session, timeline, captions = request.session, cast.timeline, captions_of(cast, request.grouped)
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
    for name in request.texts:
        for ending, make in rows.get(name, ()):
            path, text = where / f"{stem}{ending}", make()
            write_whole(path, text if isinstance(text, bytes) else text.encode())
            made.append(path)
    if "packed" in request.texts:
        made.append(pack(replace(timeline, session=session), request.folder, where / f"{stem}{ENDING}", note))
    return made
