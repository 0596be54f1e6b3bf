"""The library: everything that ships is sound and carries its cautions; one's own is kept, renamed, given and taken."""

import json
from fractions import Fraction
from pathlib import Path

import pytest

from nafas.errors import InputError
from nafas.languages import LIBRARY, library_words
from nafas.library.named import named
from nafas.library.own import (
    LibraryEntry,
    keep,
    library_folder,
    own,
    read_entry,
    remove,
    rename,
    shipped,
    write_entry,
)
from nafas.review.checks.finding import Severity, Subject
from nafas.review.checks.register import review
from nafas.script import Session, block_notation, read_block
from nafas.script.edits.clipboard import blocks_json, blocks_text, read_json
from nafas.script.edits.rewording import reworded
from nafas.script.edits.session_edits import insert_blocks
from nafas.script.model.sentences import sentences
from nafas.script.text.reading import read_script
from nafas.script.words.cautions import CAUTIONS, cautions_for
from nafas.suggest.length_fit import fit
from nafas.timing import compile_session, paced
from nafas.voice import Narrator, cast_timeline


@pytest.fixture(autouse=True)
def library(folder, monkeypatch):
    monkeypatch.setenv("NAFAS_LIBRARY", str(folder / "library"))


def test_every_pattern_reads_back_and_every_outline_is_near_its_length():
    names = [kept.entry.name for kept in shipped()]
    assert len(set(names)) == len(names)
    for kept in shipped():
        entry = kept.entry
        if entry.block is not None:
            assert (
                read_block(block_notation(entry.block)).pattern == entry.block.pattern
                if entry.block.kind == "breath"
                else True
            )
            continue
        length = compile_session(entry.session, paced()).length
        assert abs(length - entry.session.target_length) < 60, entry.name
        spoken = " ".join(p for block in entry.session.blocks for p in getattr(block, "paragraphs", ()))
        assert all(CAUTIONS[key].split(".")[0] in spoken for key in entry.all_cautions), entry.name
        assert fit(entry.session, paced(), entry.session.target_length).options


def test_cautions_follow_from_the_work():
    """Rapid work, holds, growing counts (the usual cautions; common practice, no source)."""
    asked = {name: cautions_for(read_block(notation)) for name, notation in {
        "plain": "4-6 x8", "held": "4-7-8 x4", "long": "in 4, hold 30s, out 6", "grows": "4-4 x2 step 1 to 6",
        "rapid": "rapid 20", "by hand": "4-4 x1; 4-6 x1",
    }.items()}  # fmt: skip
    assert asked == {
        "plain": (),
        "held": ("holds",),
        "long": ("holds",),
        "grows": ("steps",),
        "rapid": ("rapid",),
        "by hand": ("steps",),
    }
    entry = LibraryEntry(name="Mine", purpose="wake", block=read_block("rapid 20"), cautions=("sleep",))
    assert entry.all_cautions == ("every", "rapid", "sleep") and len(entry.caution_talk("en").paragraphs) == 3


def test_ones_own_is_kept_renamed_given_and_taken(folder):
    entry = LibraryEntry(name="Night watch", purpose="sleep", block=read_block("4-8 x6 glide to 1.2s"))
    first, second = keep(entry), keep(entry)
    assert first.path != second.path and [kept.entry for kept in own()[0]] == [entry, entry]
    renamed = rename(second, " After the watch ")
    assert [kept.entry.name for kept in own()[0]] == ["After the watch", "Night watch"]
    write_entry(renamed.entry, folder / "gift.nafas-entry")
    remove(renamed)
    assert [kept.entry for kept in own()[0]] == [entry] and read_entry(folder / "gift.nafas-entry") == renamed.entry
    for refused in (lambda: rename(shipped()[0], "x"), lambda: remove(shipped()[0])):
        with pytest.raises(InputError, match="ships with Nafas"):
            refused()
    with pytest.raises(ValueError):
        rename(first, "")


def test_a_session_kept_without_a_bed_stays_without_one(folder):
    entry = LibraryEntry(name="Quiet", purpose="sleep", session=Session(bed=None, blocks=(read_block("4-8 x2"),)))
    assert read_entry(keep(entry).path) == entry


def test_a_bad_entry_is_left_alone_and_named(folder):
    keep(LibraryEntry(name="Good", purpose="wake", block=read_block("4-4")))
    good = json.loads((library_folder() / "good.nafas-entry").read_text())
    loan = {**good["block"], "count_from": "other", "count_length": None}
    bad = {
        "new": {**good, "format": 2},
        "both": {**good, "session": {"format": 2}},
        "rest": {**good, "block": {"kind": "rest", "id": "r", "seconds": 3}},
        "key": {**good, "cautions": ["flying"]},
        "loan": {**good, "block": loan},
    }
    for name, data in bad.items():
        (library_folder() / f"{name}.nafas-entry").write_text(json.dumps(data))
    (library_folder() / "noise.nafas-entry").write_bytes(b"\xff\x00")
    found, faults = own()
    assert [kept.entry.name for kept in found] == ["Good"] and len(faults) == len(bad) + 1
    assert all(str(fault.place).startswith(str(library_folder())) and fault.remedy for fault in faults)
    with pytest.raises(InputError, match="cannot be read"):
        read_entry(folder / "nowhere")


def test_blocks_are_copied_whole_and_any_text_is_taken():
    session = Session(blocks=(read_block("4-6 @ 1.5s", "one"), read_block("4-6 x3 @ as one", "two")))
    both = insert_blocks(session, 2, read_json(blocks_json(session, [0, 1])))
    assert [block.id for block in both.blocks] == ["one", "two", "one-2", "two-2"] and both.blocks[
        3
    ].count_from == "one-2"
    alone = read_json(blocks_json(session, [1]))
    assert alone[0].count_from is None and alone[0].count_length == session.count_length_of(session.blocks[1])
    pasted = read_script("Sit down.\n\nClose your eyes.\n4-2-8 x6\nrest 30s\nrapid 20\n", titled=False).session.blocks
    assert [block.kind for block in pasted] == ["talk", "breath", "rest", "strokes"]
    assert pasted[0].paragraphs == ("Sit down.", "Close your eyes.")
    assert [block.kind for block in read_script(blocks_text(session, [0, 1])).session.blocks] == ["breath", "breath"]
    for text in ("", " \n ", "x" * 2_000_001):
        with pytest.raises(InputError, match="clipboard"):
            read_script(text, name="the clipboard")
    for text in ("", "{}", '{"format": 1, "blocks": []}', '{"format": 2, "blocks": [{"kind": "song"}]}'):
        with pytest.raises(InputError, match="clipboard"):
            read_json(text)


def test_every_line_of_every_entry_fits_with_the_voice_it_opens_with():
    """The stand-in, at the count lengths as written: nobody begins with lines that do not fit."""
    misfits = {}
    for kept in shipped():
        session = kept.entry.session or Session(blocks=(kept.entry.block,))
        narrator = Narrator(session.voice, session.language, Path())
        cast = cast_timeline(compile_session(session, narrator.spoken_length), narrator)
        misfits[kept.entry.name] = [str(misfit) for misfit in cast.misfits if "before the session" not in str(misfit)]
    assert {name: found for name, found in misfits.items() if found} == {}


@pytest.mark.parametrize("language", LIBRARY[1:])
def test_every_entry_begins_whole_in_every_language_and_is_reviewed_as_in_english(language):
    for kept in shipped():
        english, own = kept.entry.begun(), kept.entry.begun(language)
        assert own.language == language and own.title != english.title
        assert reworded(english, library_words(language))[1] == _cautions(english)
        assert len(own.blocks) == len(english.blocks) and _faults(own) <= _faults(english), kept.entry.name


def _faults(session):
    found = review(Subject(compile_session(session, paced()))).findings
    return {finding.check for finding in found if finding.severity in (Severity.MUST, Severity.SHOULD)}


def _cautions(session):
    talk = next(block for block in session.blocks if block.title == "Cautions")
    return list(dict.fromkeys(sentence for paragraph in talk.paragraphs for sentence in sentences(paragraph)))


def test_the_producer_s_own_entries_keep_their_words():
    entry = LibraryEntry(name="Mine", purpose="steady", block=read_block('in 4 "fill up", out 4 x3'))
    own = entry.in_language("es")
    assert own.name == "Mine" and own.block.pattern.phases[0].cue == "fill up"
    assert own.begun("es").blocks[0].title == "Precauciones"


@pytest.mark.parametrize(
    ("typed", "name", "rounds"),
    [
        ("alternate nostrils, 6 rounds", "Alternate sides", 6),
        ("alternat sides 3 minutes", "Alternate sides", 8),  # of 21.6 s
        ("pursed lip breathing 2 min", "Pursed lips", 13),
        ("humming breath", "Humming exhale", 6),
        ("slower and slower for 3 min", "Slower and slower", 10),  # it changes from round to round: as it is
        ("Wechselatmung, 6 Runden", "Alternate sides", 6),
        ("respiration alternée 4 tours", "Alternate sides", 4),
        ("respiración alterna", "Alternate sides", 5),
        ("lèvres pincées", "Pursed lips", 8),
        ("Blasebalg", "Bellows", 0),
        ("дыхание океана", "Ocean breath", 6),
        ("throat breath", "Ocean breath", 6),
        ("one", None, 0),
        ("in 4", None, 0),
        ("hello", None, 0),
        ("4-6 x900", None, 0),
        ("", None, 0),
    ],
)
def test_a_line_names_a_pattern(typed, name, rounds):
    found = named(typed, [kept.entry for kept in shipped()], Fraction(1))
    assert [entry.name for entry in found[:1]] == ([] if name is None else [name])
    assert name is None or getattr(found[0].block, "rounds", 0) == rounds
