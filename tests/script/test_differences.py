"""What differs between two sessions, in the script's words."""

from helpers import breath
from hypothesis import given
from strategies import sessions

from nafas.script import Rest, Session, Talk
from nafas.script.differences import differences
from nafas.script.edits.session_edits import change, change_block, move_blocks, remove_blocks, with_blocks

TALK = Talk(
    id="arrival", title="Arrival", paragraphs=("Find a place by the rail. Let the engine hum below.", "Listen.")
)
BASE = Session(title="Night", blocks=(TALK, breath("4-6", 8, id="long", title="Long exhale"), Rest(id="r", seconds=30)))


def test_each_change_is_one_line_in_the_order_of_the_script():
    new = change_block(
        change(BASE, title="Night, shorter", closing=9, bed={"kind": "rain"}), 1, rounds=10, chimes=False
    )
    new = change_block(new, 1, count_length="1.05")
    assert differences(BASE, new) == [
        "title “Night” → “Night, shorter”",
        "closing 12 s → 9 s",
        "bed night sea → rain",
        "Long exhale: rounds 8 → 10",
        "Long exhale: count as the session's → 1.05 s",
        "Long exhale: chimes on → off",
    ]


def test_words_are_shown_from_where_they_differ():
    words = (TALK.paragraphs[0].replace("engine hum", "water hum"), "Listen.")
    (line,) = differences(BASE, change_block(BASE, 0, paragraphs=words))
    assert line == "Arrival: words “…rail. Let the engine hum below.” → “…rail. Let the water hum below.”"
    (line,) = differences(BASE, change_block(BASE, 0, paragraphs=(*TALK.paragraphs, "Rest.")))
    assert line == "Arrival: words “” → “Rest.”"


def test_blocks_come_go_move_and_change_their_pattern():
    assert differences(BASE, remove_blocks(BASE, [1])) == ["removed: Long exhale"]
    assert differences(remove_blocks(BASE, [1]), BASE) == ["added: Long exhale"]
    assert differences(BASE, move_blocks(BASE, [0], 2)) == ["blocks in another order"]
    assert differences(BASE, change_block(BASE, 1, pattern="4-8")) == ["Long exhale: 4-6 → 4-8"]
    swapped = with_blocks(BASE, [Rest(id="arrival", seconds=9, title="Ease"), *BASE.blocks[1:]])
    assert differences(BASE, swapped) == ["Arrival → Ease"]
    deeper = change(BASE, voice={"pace": 110}, master={"loudness": -14})
    assert differences(BASE, deeper) == ["voice, pace 105 → 110", "master, loudness -16 LUFS → -14 LUFS"]


@given(sessions(), sessions())
def test_two_sessions_differ_in_words_exactly_where_they_differ(one, other):
    assert differences(one, one) == []
    assert bool(differences(one, other)) == (one != other)
