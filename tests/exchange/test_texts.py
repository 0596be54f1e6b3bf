"""Captions, chapters, tables and MIDI, each read by somebody else's library."""

import csv
import html
import io
import json
import re
import subprocess
from fractions import Fraction
from itertools import pairwise
from string import Formatter

import mutagen
import numpy as np
import pretty_midi
import pytest
import soundfile
import srt
import webvtt
from hypothesis import given, settings
from hypothesis import strategies as st

from nafas.demo import SESSION
from nafas.drawing.application import ensure_application
from nafas.drawing.paper.call_sheet import write_call_sheet
from nafas.drawing.paper.print_page import print_page
from nafas.drawing.paper.session_sheet import print_sheet
from nafas.exchange.captions import LINE, LINES, READ, Caption, _wrapped, captions_of, transcript, written
from nafas.exchange.chapters import Chapter, chapters_of, cue_sheet, plain_lines, podcast_json, put_into
from nafas.exchange.cue_list import cue_list, labels, midi
from nafas.exchange.description import description_of
from nafas.languages import handed, printed_cautions
from nafas.script import Session, load_session, read_block
from nafas.script.edits.session_edits import change
from nafas.script.model.beds import GeneratedBed
from nafas.script.model.blocks import Rest, Talk
from nafas.script.words.cautions import CAUTIONS, caution_words
from nafas.timing import EventKind, compile_session, paced
from nafas.timing.clock import clock
from nafas.timing.sheet import sheet, sheet_text
from nafas.voice.call_sheet import call_sheet
from nafas.voice.casting import cast_session


@pytest.fixture(scope="module")
def cast():
    return cast_session(load_session(SESSION), SESSION.parent)


def test_captions_are_read_by_others_and_say_all_that_is_said(cast, folder):
    made = captions_of(cast)
    parsed = list(srt.parse(written(made, "srt")))
    (folder / "a.vtt").write_text(written(made, "vtt"), "utf-8")
    others = list(webvtt.read(folder / "a.vtt"))
    assert len(parsed) == len(others) == len(made)
    for own, one, other in zip(made, parsed, others):
        assert one.content == other.text == own.text
        assert one.start.total_seconds() == pytest.approx(own.start, abs=0.001)
        hours, minutes, seconds = other.end.split(":")
        assert 3600 * int(hours) + 60 * int(minutes) + float(seconds) == pytest.approx(own.end, abs=0.001)
    said = " ".join(p.moment.text for p in cast.placements if p.moment.kind is EventKind.TALK)
    assert (
        " ".join(own.text.replace("\n", " ") for own in made if own.text[-1] in ".!?,").split()[:40]
        == said.split()[:40]
    )
    assert "inhale 2 3 4" in {own.text for own in made} and "exhale 7 6 5 4 3 2 1" in " ".join(own.text for own in made)


def test_captions_do_not_overlap_and_can_be_read(cast):
    for grouped in (True, False):
        made = captions_of(cast, grouped)
        for before, after in pairwise(made):
            assert before.start < before.end <= after.start + 1e-9
        for caption in made:
            assert all(len(line) <= LINE for line in caption.text.split("\n")) and caption.text.count("\n") < LINES
        assert sum(caption.letters_a_second > READ + 4 for caption in made) <= 0.1 * len(made)
    singles = [caption.text for caption in captions_of(cast, False)]
    assert singles.count("two") == 34 and len(singles) > len(captions_of(cast))


@given(st.text(st.characters(blacklist_categories=("Cs", "Cc")), max_size=300))
def test_any_text_is_broken_into_whole_captions(text):
    parts = _wrapped(text)
    assert "".join("".join(parts).split()) == "".join(text.split())
    assert all(len(line) <= LINE for part in parts for line in part.split("\n"))


def test_braces_and_slashes_in_words_stay_words():
    (one,) = srt.parse(written([Caption(1.0, 2.0, r"a {b} \N c")], "srt"))
    assert one.content == "a (b) /N c"


def test_signs_of_markup_in_words_are_words_to_other_readers(folder):
    words = "in < 4 & out > 6 <b>now</b>"
    made = [Caption(1.0, 2.0, words)]
    (folder / "a.vtt").write_text(written(made, "vtt"), "utf-8")
    assert "&lt; 4 &amp; out &gt; 6 &lt;b&gt;" in (folder / "a.vtt").read_text("utf-8")
    (one,) = webvtt.read(folder / "a.vtt")
    assert html.unescape(one.text) == words
    shown = ["ffmpeg", "-v", "error", "-i", str(folder / "a.vtt"), "-f", "srt", "-"]
    assert words in html.unescape(subprocess.run(shown, capture_output=True, text=True, check=True).stdout)
    (one,) = srt.parse(written(made, "srt"))
    assert "<" not in one.content and "now" in one.content and "&" in one.content


def test_chapters_of_an_mp3_stand_in_order_of_time(folder):
    soundfile.write(folder / "a.mp3", np.zeros(48_000 * 4), 48_000, format="MP3")
    titles = ["A long name of a chapter", "b", "Middle one", "c", "Another long name of a chapter"]
    made = [Chapter(0.5 * n, 0.5 * n + 0.5, title) for n, title in enumerate(titles)]
    assert put_into(folder / "a.mp3", made)
    data = (folder / "a.mp3").read_bytes()
    places = [data.index(title.encode()) for title in titles[:3]]
    places += [data.index(b"\x03c\0"), data.rindex(titles[4].encode())]
    assert places == sorted(places)
    asked = ["ffprobe", "-v", "error", "-show_chapters", "-of", "json", str(folder / "a.mp3")]
    told = json.loads(subprocess.run(asked, capture_output=True, check=True).stdout)["chapters"]
    assert [chapter["tags"]["title"] for chapter in told] == titles
    assert mutagen.File(folder / "a.mp3").tags.getall("CTOC")[0].child_element_ids == [f"chp{n}" for n in range(5)]


def pdf_text(path):
    """By poppler."""
    told = subprocess.run(["pdftotext", "-layout", str(path), "-"], capture_output=True, text=True, check=True)
    return " ".join(told.stdout.split())


def test_every_time_and_sentence_of_a_pdf_can_be_found_in_it(folder, cast):
    ensure_application()
    timeline = cast.timeline
    print_sheet(timeline, folder / "sheet.pdf")
    text = pdf_text(folder / "sheet.pdf")
    for line in sheet(timeline):
        assert " ".join(line.text.split()) in text, line
        assert line.at is None or clock(line.at) in text
    write_call_sheet(call_sheet([timeline]), {}, "Night", folder / "calls.pdf")
    text = pdf_text(folder / "calls.pdf")
    for line in call_sheet([timeline]):
        assert line.room is None or f"within {line.room:.2f} s" in text
    print_page("<p>offer 0123456789 first, affluent fjord</p>", "Fish", folder / "p.pdf", language="es")
    assert "offer 0123456789 first, affluent fjord" in pdf_text(folder / "p.pdf")
    about = subprocess.run(["pdfinfo", str(folder / "p.pdf")], capture_output=True, text=True, check=True).stdout
    assert re.search(r"Title:\s+Fish", about) and b"/Lang (es)" in (folder / "p.pdf").read_bytes()


def test_chapters_are_whole_and_in_order(cast):
    made = chapters_of(cast.timeline)
    assert made[0].start == 0 and made[-1].end == float(cast.timeline.length)
    assert all(before.end == after.start for before, after in pairwise(made))
    rows = json.loads(podcast_json(made, "A title"))
    assert rows["version"] == "1.2.0" and [row["title"] for row in rows["chapters"]] == [c.title for c in made]
    assert plain_lines(made).splitlines()[3] == "1:32 Long exhale"
    sheet = cue_sheet(made, "a.flac", 'A "title"', "")
    assert "INDEX 01 01:31:61" in sheet and "TITLE \"A 'title'\"" in sheet  # 91.819 s is 61 of 75 frames after 1:31
    assert not chapters_of(compile_session(Session(), paced()))


def test_the_cue_list_has_every_event_and_is_no_formula(cast):
    rows = list(csv.DictReader(io.StringIO(cue_list(cast.timeline, 48_000))))
    assert len(rows) == len(cast.timeline.moments)
    for row, moment in zip(rows, cast.timeline.moments):
        assert int(row["sample"]) == moment.sample(48_000) and row["kind"] == moment.kind.value
    session = Session(blocks=(Talk(id="t", paragraphs=("=SUM(A1) is said.",)),))
    assert "'=SUM" in cue_list(compile_session(session, paced()), 48_000)
    lines = labels(cast).splitlines()
    assert len(lines) == len(cast.placements) and all(len(line.split("\t")) == 3 for line in lines)


@settings(deadline=None, max_examples=20)
@given(st.fractions(Fraction(1, 2), Fraction(5, 2), max_denominator=97), st.integers(1, 6))
def test_midi_has_every_count_at_its_time(count, rounds):
    blocks = (read_block(f"4-6 x{rounds}", "a"), Rest(id="r", seconds=7), read_block("3-3 x2", "b"))
    timeline = compile_session(Session(blocks=blocks, count_length=round(count, 3)), paced())
    file = pretty_midi.PrettyMIDI(io.BytesIO(midi(timeline)))
    notes = {len(i.notes): sorted(n.start for n in i.notes) for i in file.instruments}
    counts = [float(m.at) for m in timeline.moments if m.kind is EventKind.COUNT]
    assert notes[len(counts)] == pytest.approx(counts, abs=0.002)
    assert [lyric.text for lyric in file.lyrics] == [m.text for m in timeline.spoken]


def test_the_description_defers_and_credits(cast):
    text = description_of(cast, chapters_of(cast.timeline))
    assert (
        "does not replace medical care" in text
        and "clinician" in text
        and "4-6 x8" in text
        and "1:32 Long exhale" in text
    )
    assert "synthetic" not in text  # the demo speaks with takes
    told = description_of(cast_session(change(cast.timeline.session, voice={}), SESSION.parent), ())
    assert "synthetic voice" in told
    assert transcript(cast).count("[") == 9


@pytest.mark.parametrize("language", ["es", "fr", "it", "pt", "de"])
def test_what_is_handed_over_speaks_the_session_s_language(language):
    strokes = read_block("rapid 20 @ 60/min every 5 count-in 3 demo 5 @ 10/min rest 20s", "s")
    blocks = (read_block("4-6 x2 @ 1.5s", "a"), Rest(id="r", seconds=20), strokes)
    bed = GeneratedBed(kind="rain")
    session = Session(title="X", language=language, blocks=blocks, bed=bed, count_length="3/2")
    cast = cast_session(session, SESSION.parent)
    text = description_of(cast, chapters_of(cast.timeline))
    own, english = handed(language), handed("en")
    for key in ("breathed", "chapters", "note", "credits", "natural"):
        assert own[key] in text and english[key] not in text
    sheet = sheet_text(cast.timeline)
    for key in ("natural", "counted", "counted_in", "shown", "strokes"):
        assert own[key] in sheet and english[key] not in sheet, key
    assert own["rounds"].format(first=1, last=2) in sheet and own["a_count"].format(n="1,5") in sheet
    assert own["rapid_set"].format(n=20) in sheet and own["rapid_set"].format(n=20) in text
    assert "every" not in sheet and "every" not in text and "4-6 x2" in text
    assert own["rain"][1:] in text and own["sea"] not in text  # rain is no sea
    assert caution_words(("every",), language)[0] in text and caution_words(("every",))[0] not in text
    # Every word is there, and stands for what the English one stands for.
    assert set(own) == set(english) and printed_cautions(language).keys() == CAUTIONS.keys()
    for key, words in english.items():
        fields = {name for _, name, _, _ in Formatter().parse(words) if name}
        assert {name for _, name, _, _ in Formatter().parse(own[key]) if name} == fields, key
        assert own[key] != words
