"""Scripts in many styles (`written/`, made by us for these tests), and word processors' documents."""

import re
from fractions import Fraction
from pathlib import Path

import pytest
from documents import docx_bytes, odt_bytes
from hypothesis import given, settings
from hypothesis import strategies as st

from nafas.errors import InputError
from nafas.script import BreathSet, Rest, Talk
from nafas.script.notation.block import block_notation
from nafas.script.text.directions import Pause, Repeat, read_direction, read_repeat
from nafas.script.text.files import read_text_file
from nafas.script.text.reading import Script, read_script

WRITTEN = Path(__file__).parent / "written"
SCRIPTS = sorted(path for path in WRITTEN.iterdir() if path.suffix != ".expected")


def outline(script: Script) -> list[str]:
    session = script.session
    title = "-" if session.title == "Untitled session" else session.title
    language = [f"lang {session.language}"] if session.language != "en" else []
    return [f"title {title}", *language, *(block_notation(block) or "talk" for block in session.blocks)]


@pytest.mark.parametrize("path", SCRIPTS, ids=lambda path: path.stem)
def test_scripts_of_many_styles_become_what_their_writers_meant(path):
    expected = path.with_suffix(".expected").read_text().splitlines()
    assert outline(read_script(read_text_file(path))) == expected


def words(text: str) -> list[str]:
    return re.findall(r"\w+", text)


SENTENCES = st.sampled_from([
    "Sit down.", "Inhale, two, three, four.", "Exhale, two, three, four, five.", "Repeat six times.", "[pause 4]",
    "(softly)", "# Rest", "- in 4", "- out 6", "4-6 x8", "| Inhale | 4 |", "Breathe naturally for one minute.", "---",
    "Hold on to the rail, both hands.", "Two, three.", "", "", "We wait for 10 seconds.", "Sea: calm.",
    "Continue for a minute in silence.", "[music]", "**Bold**", "in 4 out", "x",
])  # fmt: skip


@given(st.lists(SENTENCES, min_size=1, max_size=14))
@settings(max_examples=150)
def test_no_word_of_a_text_is_lost(lines):
    """Every word is in a piece, and what is talk is said."""
    text = "\n".join(lines)
    try:
        script = read_script(text)
    except InputError:
        assert not text.strip("\n")
        return
    assert sorted(words(text)) == sorted(word for piece in script.pieces for word in words(piece.text))
    said = " ".join(p for block in script.session.blocks if isinstance(block, Talk | Rest) for p in block.paragraphs)
    for piece in script.pieces:
        if piece.became == "talk":
            assert " ".join(piece.text.split()) in said


@given(st.text(max_size=300))
@settings(max_examples=100)
def test_any_text_is_read_or_refused(text):
    try:
        read_script(text)
    except InputError as error:
        assert error.remedy


def test_a_choice_settles_what_is_not_sure():
    text = "Sit.\n\nInhale, two, three. Exhale, two, three.\nRepeat five times.\n\n[softly]\nGood night.\n"
    script = read_script(text)
    repeat, note = script.unsure
    assert [way for way, _ in repeat.ways] == ["all", "more", "talk"]
    settled = read_script(text, choices={repeat.key: "more", note.key: "leave"})
    assert not settled.unsure
    assert [block_notation(b) for b in settled.session.blocks if isinstance(b, BreathSet)] == ["3-3 x6"]
    assert "softly" not in str(settled.session.blocks)
    spoken = read_script(text, choices={repeat.key: "talk"})
    assert "Repeat five times." in spoken.session.blocks[2].paragraphs[0]


def test_headings_under_headings_and_with_nothing_under_them():
    script = read_script("# Night\n\n## Part one\n\n### Arrive\n\nSit down.\n\n## The end\n")
    assert [block.title for block in script.session.blocks] == ["Part one: Arrive"]
    assert [(piece.text, piece.became) for piece in script.unsure] == [("The end", "left out")]


@pytest.mark.parametrize(
    "note, seconds",
    [
        ("pause 5", 5), ("Pause für zehn Sekunden", 10), ("silence d'une minute", None), ("pausa de 8 segundos", 8),
        ("pausa 6 secondi", 6), ("пауза 7 секунд", 7), ("1:30", 90), ("pause", 3), ("long pause", 8),
    ],
)  # fmt: skip
def test_pauses_in_six_languages(note, seconds):
    read = read_direction(note)
    assert isinstance(read, Pause)
    assert seconds is None or read.seconds == seconds


@pytest.mark.parametrize(
    "sentence, rounds, seconds, alone",
    [
        ("Repeat eight times.", 8, None, False), ("Wiederhole das achtmal.", 8, None, False),
        ("Répétez cela six fois.", 6, None, False), ("Repite ocho veces.", 8, None, False),
        ("Ripeti sei volte.", 6, None, False), ("Повторите это шесть раз.", 6, None, False),
        ("Continue for two minutes in silence.", None, 120, True), ("Sigue así durante dos minutos.", None, 120, False),
        ("Continuez ainsi pendant deux minutes en silence.", None, 120, True),
    ],
)  # fmt: skip
def test_repeats_in_six_languages(sentence, rounds, seconds, alone):
    read = read_repeat(sentence)
    assert isinstance(read, Repeat)
    assert (read.rounds, read.seconds, read.alone) == (rounds, seconds, alone)


@pytest.mark.parametrize(
    "talk",
    [
        "Hold both hands for a moment.",
        "Come back in ten days.",
        "Keep the two lamps lit.",
        "Stay for two minutes and listen to the hull.",
    ],
)
def test_talk_with_numbers_stays_talk(talk):
    script = read_script(f"Welcome aboard, everyone.\n{talk}\n")
    assert [block.kind for block in script.session.blocks] == ["talk"]


COUNTED = ("Inhale, two, three, four.", "Exhale, two, three, four.") * 2


def test_times_in_the_margin_give_the_count_and_the_pauses():
    timed = (f"[0:{10 + 5 * n}] {words}" for n, words in enumerate(COUNTED))
    script = read_script("\n".join(["[0:00] Sit.", *timed, "[0:40] Well done."]))
    (breath,) = (block for block in script.session.blocks if isinstance(block, BreathSet))
    assert (breath.rounds, breath.count_length) == (2, Fraction(5, 4))


DOCUMENT = """# Night

## Arrive
Sit down  now. & listen
- Inhale 4
- Exhale 6
- Repeat 8 times
| Box | 4-4-4-4 x6 |
"""


@pytest.mark.parametrize("name, make", [("a.docx", docx_bytes), ("a.odt", odt_bytes)])
def test_documents_of_word_processors(tmp_path, name, make):
    """DOCX as python-docx writes it; ODT by the names of the OASIS standard."""
    path = tmp_path / name
    path.write_bytes(make(DOCUMENT))
    script = read_script(read_text_file(path))
    assert outline(script) == ["title Night", "talk", "4-6 x8", "4-4-4-4 x6"]
    assert script.session.blocks[0].title == "Arrive"
    assert script.session.blocks[0].paragraphs == ("Sit down now. & listen",)


@pytest.mark.parametrize("name, make", [("a.docx", docx_bytes), ("a.odt", odt_bytes)])
def test_footnotes_and_comments_are_kept_apart_and_asked_about(tmp_path, name, make):
    path = tmp_path / name
    path.write_bytes(make("Sit down now.^Ask her about [this] mat\n\n- Inhale 4\n- Exhale 6"))
    assert read_text_file(path).split("\n\n")[:2] == ["Sit down now.", "[note: Ask her about (this) mat]"]
    script = read_script(read_text_file(path))
    (note,) = (piece for piece in script.unsure if "mat" in str(piece))
    assert "leave" in str(note) and outline(script)[-1].startswith("4-6")


@pytest.mark.parametrize(
    "data, why",
    [(b"", "no text"), (b"PK\x03\x04 broken", "cannot be read"), (b"\x7fELF\0\0\0", "is no text")],
)
def test_files_without_a_script_are_refused(tmp_path, data, why):
    path = tmp_path / "a.docx"
    path.write_bytes(data)
    with pytest.raises(InputError, match=why):
        read_text_file(path)
