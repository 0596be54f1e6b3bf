"""Rooms, shortening and remedies: what does not fit is reported, and every remedy offered does what it says."""

from itertools import pairwise

import numpy as np
import pytest
from helpers import breath

from nafas.errors import InputError
from nafas.script import Rest, Session, block_notation, read_block
from nafas.script.model.phase import Call
from nafas.suggest.line_remedies import remedies
from nafas.timing import compile_session
from nafas.voice import Narrator, TakeBook, cast_timeline
from nafas.voice.call_sheet import LineState, call_sheet
from nafas.voice.line_status import line_statuses, worst_misfits
from nafas.voice.misfits import MisfitKind

from shelves import book_of  # isort: skip


def cast_of(*blocks, folder=None, **fields):
    session = Session(blocks=blocks, bed=None, **fields)
    narrator = Narrator(session.voice, session.language, folder)
    return cast_timeline(compile_session(session, narrator.spoken_length), narrator), narrator


def offered(cast, narrator, text):
    misfit = next(m for m in worst_misfits(cast) if m.placement.moment.text == text)
    return misfit, {remedy.title.split(":")[0]: remedy for remedy in remedies(cast, misfit, narrator)}


def test_rooms_add_up_to_the_session():
    """From the end of one word to the next: rooms overlap by the words between, and nothing is left over."""
    cast, _ = cast_of(breath("4-2-6", 3, count_length="0.9"), Rest(id="r", seconds=4, paragraphs=("Rest now.",)))
    rooms = cast.rooms
    assert all(a.after == pytest.approx(b.before) for a, b in pairwise(rooms))
    whole = sum(room.before + room.need for room in rooms) + rooms[-1].after
    assert whole == pytest.approx(float(cast.timeline.length), abs=1 / cast.rate)
    assert {id(m.placement) for m in cast.misfits} == {id(r.placement) for r in rooms if r.after < 0 or r.before < -99}


def test_each_remedy_makes_the_line_fit_and_costs_what_it_says():
    """Tried again from nothing: the same session cast again has the length and the misfits that were promised."""
    cast, narrator = cast_of(breath("4-2-6", 8, count_length="0.55"))
    assert {m.placement.moment.text for m in worst_misfits(cast)} >= {"inhale", "exhale"}
    misfit, found = offered(cast, narrator, "exhale")
    assert {"A short form", "Start earlier", "Longer counts", "Record it"} <= set(found)
    for name, remedy in found.items():
        if remedy.session is None:
            assert name == "Record it" and f"{misfit.room:.2f}" in remedy.title
            continue
        timeline = compile_session(remedy.session, narrator.spoken_length)
        again = cast_timeline(timeline, narrator)
        assert timeline.length - cast.timeline.length == remedy.cost
        assert len(again.misfits) == remedy.left
        assert not any(m.placement.moment.text == "exhale" for m in again.misfits)
    assert found["A short form"].cost == 0 < found["Start earlier"].cost
    costs = [remedy.cost for remedy in found.values() if remedy.session is not None]
    assert costs == sorted(costs)


@pytest.mark.parametrize(
    ("blocks", "fields", "text", "remedy"),
    [
        ((breath("4-4", 2, count_length="0.5", style={"carrier": "sea"}),), {}, "sea", "Numbers without 'sea'"),
        ((breath("1-1", 3, count_length="0.7", style={"long_forms": True}),), {}, "exhale slowly", "Short forms from"),
        ((Rest(id="r", seconds=1, paragraphs=("A rather long line.",)), breath()), {}, "A rather", "A longer rest"),
        ((Rest(id="r", seconds=1, paragraphs=("A rather long line.",)),), {"closing": 0}, "A rather", "A longer clos"),
    ],
)  # fmt: skip
def test_every_kind_of_misfit_has_its_remedy(blocks, fields, text, remedy):
    cast, narrator = cast_of(*blocks, **fields)
    misfit = next(m for m in worst_misfits(cast) if m.placement.moment.text.startswith(text))
    titles = [each.title for each in remedies(cast, misfit, narrator)]
    assert any(title.startswith(remedy) for title in titles), (misfit, titles)


def test_a_first_word_felt_late_needs_a_longer_opening(folder):
    book_of(folder, ("a.wav", "inhale", 0.4, {"beat": 0.3}))
    cast, narrator = cast_of(breath("4-4", 2), folder=folder, opening=0, voice={"take_book": {"path": "."}})
    misfit, found = offered(cast, narrator, "inhale")
    assert misfit.kind is MisfitKind.BEFORE_START and 0.3 <= found["A longer opening"].cost <= 0.36


def test_a_call_too_late_is_called_earlier():
    hold = (
        breath("4-2-8")
        .pattern.phases[1]
        .model_copy(update={"counts": 8, "calls": (Call(at="left", units=1, text="and now let it all go"),)})
    )
    phases = (breath("4-2-8").pattern.phases[0], hold, breath("4-2-8").pattern.phases[2])
    block = breath("4-2-8", 1, style={"counting": "silent"}).model_copy(
        update={"pattern": breath().pattern.model_copy(update={"phases": phases})}
    )
    cast, narrator = cast_of(block)
    _, found = offered(cast, narrator, "and now let it all go")
    assert found["Start earlier"].cost == 0


def test_words_are_shortened_by_what_is_needed_and_no_more(folder):
    """Never by more than is allowed, never where a take fits as it is, and always told."""
    book_of(folder, ("long.wav", "two", 0.56, {}), ("three.wav", "three", 0.3, {}))
    voice = {"take_book": {"path": "."}}
    fields = {"folder": folder, "count_length": "0.5"}
    plain, _ = cast_of(breath("3-3", 2), voice=voice, **fields)
    tight = [m for m in plain.misfits if m.placement.moment.text == "two"]
    assert tight and plain.shortened == []
    allowed, _ = cast_of(breath("3-3", 2), voice={**voice, "shorten": 0.12}, **fields)
    assert not [m for m in allowed.misfits if m.placement.moment.text == "two"]
    for placement in allowed.shortened:
        assert placement.moment.text != "three" and 0.88 <= placement.clip.part < 1
        assert placement.target - placement.start == round(placement.clip.beat * 48_000)
        as_recorded = next(p for p in plain.placements if p.moment == placement.moment).clip
        assert len(placement.clip.samples) == pytest.approx(len(as_recorded.samples) * placement.clip.part, abs=2)
    little, _ = cast_of(breath("3-3", 2), voice={**voice, "shorten": 0.01}, **fields)
    assert len([m for m in little.misfits if m.placement.moment.text == "two"]) == len(tight)
    with pytest.raises(ValueError, match="shorten"):
        Session(voice={"shorten": 0.3})


def test_shortening_keeps_the_pitch(folder):
    book = TakeBook(book_of(folder, ("a.wav", "two", 0.6, {})))
    clip = book.clip(book.index.takes[0])
    for part in (0.95, 0.88):
        short = clip.shorter(part)
        assert float(short.seconds) == pytest.approx(float(clip.seconds) * part, abs=0.001)
        middle = short.samples[4000 : 4000 + 6000]
        peak = np.argmax(np.abs(np.fft.rfft(middle * np.hanning(len(middle))))) * short.rate / len(middle)
        assert peak == pytest.approx(900, abs=6)


def test_where_each_line_stands(folder):
    """Recorded, doubtful, too long, too few, gone: each told, and what must be heard first comes first."""
    book_of(
        folder,
        ("a.wav", "two", 0.3, {}), ("b.wav", "two", 0.3, {}), ("c.wav", "two", 0.3, {}),
        ("d.wav", "three", 0.3, {"confidence": 0.2}), ("e.wav", "four", 1.4, {}), ("f.wav", "inhale", 0.3, {}),
        ("g.wav", "exhale", 0.3, {}),
    )  # fmt: skip
    (folder / "g.wav").unlink()
    session = Session(bed=None, voice={"take_book": {"path": "."}}, blocks=(breath("4-4", 2),))
    narrator = Narrator(session.voice, "en", folder, strict=False)
    timeline = compile_session(session, narrator.spoken_length)
    found = {
        s.line.text: s for s in line_statuses(call_sheet([timeline]), narrator.book, cast_timeline(timeline, narrator))
    }
    states = {text: standing.state for text, standing in found.items()}
    assert states == {
        "two": LineState.RECORDED, "three": LineState.UNSURE,
        "four": LineState.TOO_LONG, "inhale": LineState.FEW, "exhale": LineState.GONE,
    }  # fmt: skip
    assert found["three"].doubtful and not found["two"].to_do and found["four"].misfit.kind is MisfitKind.TOO_LONG
    order = sorted(found.values(), key=lambda standing: standing.urgency)
    assert [s.line.text for s in order] == ["three", "four", "exhale", "inhale", "two"]
    missing = line_statuses(call_sheet([timeline]), None, None)
    assert all(s.state is LineState.MISSING and s.takes == 0 for s in missing)


def test_a_narrator_opened_again_hears_what_changed_and_keeps_the_rest(folder):
    from nafas.voice.takebook.editor import TakeBookEditor, with_beat

    book_of(folder, ("a.wav", "two", 0.3, {}), ("b.wav", "three", 0.3, {}))
    session = Session(voice={"take_book": {"path": "."}}, blocks=(breath(),))
    narrator = Narrator(session.voice, "en", folder)
    two, three = narrator.clips("two")[0], narrator.clips("three")[0]
    tended = TakeBookEditor(folder)
    take = tended.index.takes[0]
    tended.replace(take, with_beat(take, 0.2), "move")
    again = narrator.reopened()
    assert again.clips("three")[0] is three and again.clips("two")[0] is not two
    assert again.clips("two")[0].beat == pytest.approx(0.2)
    (folder / "takes.json").unlink()
    with pytest.raises(InputError):
        narrator.reopened()


def test_a_movement_in_every_round_that_covers_counts_is_told_with_its_remedies():
    """It is never swallowed: the misfit names the counts, and each way out leaves every count to be heard."""
    cast, narrator = cast_of(read_block('in 4 move always "arms up", out 4 x4'), opening=4)
    covering = [misfit for misfit in cast.misfits if misfit.kind is MisfitKind.COVERS]
    assert [m.placement.moment.round for m in covering] == [1, 2, 3, 4] and covering[0].lost == ("two",)
    assert "“two” stays unsaid" in str(covering[1]) and "round 2, inhale" in str(covering[1])
    _, found = offered(cast, narrator, "inhale, arms up")
    assert {"Room before this inhale", "“arms up” in the first round of each step only"} <= set(found)
    room = found["Room before this inhale"]
    assert room.left == 0 and block_notation(room.session.blocks[0]).startswith("in 4 ahead 2 move always")
    assert room.cost == 4 * 2
    once = compile_session(found["“arms up” in the first round of each step only"].session, narrator.spoken_length)
    said = [moment.text for moment in once.spoken if moment.round > 1]
    assert said[:4] == ["inhale", "two", "three", "four"] and not once.covered
    near, _ = cast_of(read_block('in 4 move "arms up", out 4 x4'), opening=4)  # in the first round it is meant
    assert not near.misfits
