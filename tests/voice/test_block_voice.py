"""A block with a language, a narrator or a pace of its own, from its words to the written file."""

import csv
import io
from pathlib import Path

import numpy as np
import pytest
from helpers import breath

from nafas.cli.main import main
from nafas.errors import InputError
from nafas.exchange.made_of import MadeOf
from nafas.exchange.packed import pack, unpack
from nafas.review.checks.finding import Subject
from nafas.review.checks.register import review
from nafas.script import Session, Talk, load_session, save_session
from nafas.script.model.voice import Pace, pace_of
from nafas.script.text.own import read_written
from nafas.script.text.written import written_text
from nafas.tasks.render import RenderRequest, produce
from nafas.timing import compile_session, paced
from nafas.voice import Narrator, TakeBook, cast_timeline, session_narrator
from nafas.voice.call_sheet import LineState, call_sheet, line_state
from nafas.voice.delivery import spoken_lines

from shelves import book_of  # isort: skip


class Hum:
    """An engine that lasts as a pace says, and notes what it was asked for."""

    name, readings = "hum", 1

    def __init__(self):
        self.asked = set()

    def read(self, text, voice, pace, reading=0):
        self.asked.add((text, voice, pace))
        t = np.arange(round(22_050 * 60 / pace)) / 22_050  # a word
        return (0.2 * np.sin(2 * np.pi * 900 * t)).astype(np.float32), 22_050


BILINGUAL = Session(
    title="Two", bed=None, end_bell=False,
    wording={"inhale": "in we go"},
    blocks=(
        breath("3-3", 1, id="en"),
        breath("3-3", 1, id="es", language="es"),
        Talk(id="slower", paragraphs=("One. Two. Three. Four.",), pace=Pace(words=120, to=80)),
        Talk(id="robot", paragraphs=("Descansa.",), language="es", narrator="espeak"),
    ),
)  # fmt: skip


def said_in(session, block):
    timeline = compile_session(session, paced())
    return [moment.text for moment in timeline.spoken if moment.block == block]


def test_numbers_and_cues_follow_the_language_of_their_block():
    assert said_in(BILINGUAL, "en") == ["in we go", "two", "three", "exhale", "two", "three"]
    assert said_in(BILINGUAL, "es") == ["inhala", "dos", "tres", "exhala", "dos", "tres"]
    with pytest.raises(ValueError, match="language that can be counted"):
        breath("3-3", 1, language="xx")


def test_each_block_is_read_by_its_voice_and_each_sentence_at_its_pace():
    engine = Hum()
    narrator = Narrator(BILINGUAL.voice, "en", None, engine)
    timeline = compile_session(BILINGUAL, narrator.spoken_length)
    cast = cast_timeline(timeline, narrator)
    assert {("two", "en", 126), ("dos", "es", 126)} <= engine.asked
    assert {(text, pace) for text, _, pace in engine.asked if text in ("One.", "Two.", "Three.", "Four.")} == {
        ("One.", 120), ("Two.", 105), ("Three.", 95), ("Four.", 80),
    }  # fmt: skip
    slower = [float(p.clip.seconds) for p in cast.of_block("slower")]
    assert slower == sorted(slower) and slower[-1] > 1.4 * slower[0]
    sentences = [moment for moment in timeline.spoken if moment.block == "slower"]
    assert [float(m.length) for m in sentences] == pytest.approx(
        slower, abs=1e-4
    )  # talk is timed by the voice that says it


def test_takes_are_the_session_s_voice_and_a_narrator_of_its_own_is_another(folder):
    for_language = {"two": "en", "dos": "es", "Descansa.": "es"}
    takes = [(f"{n}.wav", text, 0.4, {"language": code}) for n, (text, code) in enumerate(for_language.items())]
    book_of(folder / "takes", *takes)
    session = BILINGUAL.replace(voice={"take_book": {"path": "takes"}})
    lines = {(line.text, line.language) for line in call_sheet([compile_session(session, paced())])}
    assert ("dos", "es") in lines and ("two", "en") in lines and not any(text == "Descansa." for text, _ in lines)
    narrator = Narrator(session.voice, "en", folder, Hum())
    cast = cast_timeline(compile_session(session, narrator.spoken_length), narrator)
    read = {p.moment.text for p in cast.placements if p.clip.stand_in}
    assert "two" not in read and "Descansa." in read


def with_a_guest(folder):
    """A session whose second set is read by a guest: her take book lacks "two"; the session's lacks nothing there."""
    book_of(folder / "takes", *((f"{text}.wav", text, 0.3, {}) for text in ("inhale", "exhale", "two", "three")))
    book_of(folder / "guest", *((f"her-{text}.wav", text, 0.4, {}) for text in ("inhale", "exhale", "three")))
    guest = {"take_book": {"path": "guest"}, "narrator": "espeak"}
    return Session(
        title="Two voices", bed=None, end_bell=False, voice={"take_book": {"path": "takes"}},
        blocks=(breath("3-3", 1, id="own"), breath("3-3", 1, id="guest", **guest)),
    )  # fmt: skip


def test_a_block_speaks_with_takes_of_its_own(folder, capsys):
    session = with_a_guest(folder)
    assert read_written(written_text(session)).blocks[1].take_book.path == "guest"
    narrator = Narrator(session.voice, "en", folder, Hum())
    timeline = compile_session(session, narrator.spoken_length)
    cast = cast_timeline(timeline, narrator)
    names = {block: [p.clip.name for p in cast.of_block(block)] for block in ("own", "guest")}
    assert names["own"] == [f"{text}.wav" for text in ("inhale", "two", "three", "exhale", "two", "three")]
    assert [name.startswith("her-") for name in names["guest"]] == [True, False, True] * 2
    # The call sheet has the lines of both books, each where it stands in its own.
    lines = call_sheet([timeline])
    assert [(line.book, line.uses) for line in lines if line.text == "two"] == [("", 2), ("guest", 2)]
    own, hers = TakeBook(folder / "takes"), TakeBook(folder / "guest")
    states = {(line.book, line.text): line_state(line, {"": own, "guest": hers}[line.book]) for line in lines}
    assert states["", "two"] is LineState.FEW and states["guest", "two"] is LineState.MISSING
    save_session(session, folder / "s.nafas")
    assert main(["callsheet", str(folder / "s.nafas"), "--csv"]) == 0
    rows = {(row["book"], row["line"]): row for row in csv.DictReader(io.StringIO(capsys.readouterr().out))}
    assert rows["guest", "two"]["state"] == "missing" and rows["", "two"]["state"] == "few takes"
    assert main(["takes", "check", str(folder / "guest"), "--for", str(folder / "s.nafas")]) == 0
    said = capsys.readouterr().out
    assert "missing: 'two'" in said and "few takes: 'three'" in said


def test_a_block_s_takes_are_packed_and_what_is_made_of_them_knows_them(folder):
    session = with_a_guest(folder)
    before = MadeOf()(session, folder)
    packed = pack(compile_session(session, paced()), folder, folder / "s.nafas-packed")
    script = unpack(packed, folder / "back")
    again = load_session(script)
    assert [TakeBook(script.parent / book.path).index.takes[0].text for book in again.take_books] == ["inhale"] * 2
    assert again.blocks[1].take_book.path == "takes-2" and len(list((script.parent / "takes-2").glob("her-*"))) == 3
    book_of(folder / "guest", ("her-inhale.wav", "inhale", 0.5, {}))
    assert MadeOf()(session, folder) != before
    (folder / "guest" / "takes.json").unlink()
    with pytest.raises(InputError, match="guest"):
        session_narrator(session, folder).read_all(spoken_lines(compile_session(session, paced())))


def test_text_and_file_keep_it_and_odd_paces_are_refused(tmp_path):
    save_session(BILINGUAL, tmp_path / "a.nafas")
    assert load_session(tmp_path / "a.nafas") == BILINGUAL
    text = written_text(BILINGUAL)
    assert "language: es" in text and "pace: 120 to 80" in text and "narrator: espeak" in text
    kept = ("language", "narrator", "pace")
    again = read_written(text).blocks
    assert [[getattr(b, k) for k in kept] for b in again] == [[getattr(b, k) for k in kept] for b in BILINGUAL.blocks]
    for odd in ("fast", "20", "105 to", "105 to 900"):
        with pytest.raises(ValueError, match="105 to 80"):
            pace_of(odd)


def test_the_review_reads_each_block_in_its_own_language():
    plain = Session(language="en", blocks=(Talk(id="t", paragraphs=("Respiramos ocho rondas.",)), breath("4-4", 3)))
    spanish = plain.replace(blocks=(plain.blocks[0].replace(language="es"), plain.blocks[1]))
    found = [
        {finding.check for finding in review(Subject(compile_session(each, paced()))).findings}
        for each in (plain, spanish)
    ]
    assert "promised-rounds" not in found[0] and "promised-rounds" in found[1]


def test_two_languages_in_one_file_are_proved(tmp_path):
    made = produce(RenderRequest(BILINGUAL, Path(), tmp_path / "a.flac"))
    assert made.proofs[0].holds and "eSpeak" in made.cast.narrator
