"""Programmes: a rule for a column, patterns by row, and words with fields."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nafas.cli.main import main
from nafas.script import Session, read_block, save_session
from nafas.script.model.blocks import Talk
from nafas.script.notation.block import block_notation
from nafas.series.columns import changed, columns_of
from nafas.series.fields import FIELDS, filled
from nafas.series.growth import Rule, grown
from nafas.series.open_series import begin_series
from nafas.series.plan import Series, Variant, load_series, save_series
from nafas.series.planner import Planner, planned
from nafas.timing import compile_session, paced

TALK = Talk(id="hello", paragraphs=("Day {day} of {days}. {rounds} rounds, {count} seconds a count. [3s] Sit.",))
SESSION = Session(title="{name}", bed=None, blocks=(TALK, read_block("4-6 x3", "long"), read_block("3-3 x2", "even")))
COLUMNS = {column.key: column for column in columns_of(SESSION)}
EMPTY = Series(session="base.nafas")


def times(_text, *_):
    from fractions import Fraction

    return Fraction(1)


@pytest.fixture
def home(folder):
    save_session(SESSION, folder / "base.nafas")
    return folder


def test_a_round_more_every_third_day_up_to_eight():
    series = grown(EMPTY, Rule(COLUMNS["rounds of long"], "4", "1", every=3, most="8", rows=21))
    rounds = [row.rounds["long"] for row in series.variants]
    assert rounds[:7] == [4, 4, 4, 5, 5, 5, 6] and rounds[12:] == [8] * 9 and len(rounds) == 21
    assert [row.name for row in series.variants][:2] == ["Day 1", "Day 2"]
    again = grown(series, Rule(COLUMNS["count_length"], "1", "0.05", rows=3))  # a second rule next to the first
    assert again.variants[2].rounds == {"long": 4} and str(again.variants[2].count_length) == "11/10"
    assert again.variants[3:] == series.variants[3:]
    shorter = grown(EMPTY, Rule(COLUMNS["length"], "10:00", "-0:30", every=2, most="8:00", rows=12))
    assert [int(row.length) for row in shorter.variants] == [600, 600, 570, 570, 540, 540, 510, 510, 480, 480, 480, 480]


@pytest.mark.parametrize(
    ("rule", "words"),
    [
        ({"first": "many"}, "no number"),
        ({"first": "4", "by": "1/0"}, "no number"),
        ({"first": "4", "rows": 0}, "1 to 1000"),
        ({"first": "4", "rows": 2000}, "1 to 1000"),
        ({"first": "4", "every": 0}, "every 3"),
        ({"first": "4", "by": "-1", "most": "8"}, "never comes"),
        ({"first": "2", "by": "-1", "rows": 5}, "Day 3, Rounds, 4-6"),
        ({"first": "4.5", "rows": 2}, "whole number"),
        ({"first": "4", "name": "Day"}, "{day}"),
        ({"first": "4", "name": "a/{day}"}, "a/1"),
    ],
)
def test_a_rule_that_cannot_be_meant_is_refused_with_its_row(rule, words):
    with pytest.raises(ValueError, match=words.replace("{", r"\{")):
        grown(EMPTY, Rule(COLUMNS["rounds of long"], **rule))


@given(st.integers(1, 50), st.integers(-3, 3), st.integers(1, 5), st.integers(1, 60), st.integers(1, 40))
def test_values_move_by_their_step_and_never_pass_the_most(first, by, every, most, rows):
    if (most - first) * by < 0:
        return
    values = [int(v) for v in Rule(COLUMNS["bed"], str(first), str(by), every, str(most), rows).values()]
    assert len(values) == rows and values[0] == first
    for number, value in enumerate(values):
        reached = first + by * (number // every)
        assert value == (min(reached, most) if by > 0 else max(reached, most) if by < 0 else first)


def test_fields_are_filled_row_by_row_in_words_title_and_what_follows_from_them(home):
    rows = (
        Variant(name="Day 1"),
        Variant(name="Day 2", rounds={"long": 5}, count_length="1.2"),
        Variant(name="off", title="Rest, day {day}"),
    )
    series = Series(session="base.nafas", variants=rows)
    first, second, third = (each.session for each in planned(series, home, times))
    assert first.blocks[0].paragraphs == ("Day 1 of 3. 3 rounds, 1 seconds a count. [3s] Sit.",)
    assert second.blocks[0].paragraphs == ("Day 2 of 3. 5 rounds, 1.2 seconds a count. [3s] Sit.",)
    assert (first.title, second.title, third.title) == ("Day 1", "Day 2", "Rest, day 3")
    said = [moment.text for moment in compile_session(second, paced()).moments if moment.text]
    assert "5 rounds, 1.2 seconds a count." in said


def test_a_row_that_moves_is_planned_again_only_where_words_have_fields(home, monkeypatch):
    rows = (Variant(name="a"), Variant(name="b"))
    planner = Planner(times)
    planner.plan(Series(session="base.nafas", variants=rows), home)
    turned = planner.plan(Series(session="base.nafas", variants=rows[::-1]), home)
    assert [each.session.blocks[0].paragraphs[0][:5] for each in turned] == ["Day 1", "Day 2"]


@pytest.mark.parametrize("words", ["{dya} of {days}", "Count {}", "{rounds} more"])
def test_a_field_that_is_not_known_is_that_rows_trouble(home, words):
    block = Talk(id="end", paragraphs=(words,))
    session = SESSION.replace(blocks=(*SESSION.blocks, block))
    with pytest.raises(ValueError, match="field" if "rounds" not in words else "no set follows"):
        filled(session, 1, 1, "x")
    save_session(session, home / "base.nafas")
    (only,) = planned(Series(session="base.nafas", variants=(Variant(name="one"),)), home, times)
    # Without any known field in the whole session braces are words like others; here {day} stands in the greeting.
    assert only.session is None and ("field" in only.trouble or "no set" in only.trouble)
    plain = Session(blocks=(Talk(id="t", paragraphs=("A {curly} word.",)),))
    save_session(plain, home / "base.nafas")
    (only,) = planned(Series(session="base.nafas", variants=(Variant(name="one"),)), home, times)
    assert only.session.blocks[0].paragraphs == ("A {curly} word.",) and set(FIELDS) >= {"day", "rounds"}


@pytest.mark.parametrize(
    ("cell", "notation"),
    [("4-2-8", "4-2-8 x3"), ("4-4 step 1 to 8", "4-4 x3 step 1 to 8"), ("5-5 x7", "5-5 x7")],
)
def test_a_pattern_by_row_keeps_the_rest_of_the_set(home, cell, notation):
    row = changed(Variant(name="one"), COLUMNS["pattern of long"], cell)
    assert COLUMNS["pattern of long"].text(row) == cell
    save_series(Series(session="base.nafas", variants=(row,)), home / "all.nafas-series")
    (only,) = planned(load_series(home / "all.nafas-series"), home, times)
    assert block_notation(only.session.blocks[1]) == notation and only.session.blocks[2] == SESSION.blocks[2]
    assert changed(row, COLUMNS["pattern of long"], "") == Variant(name="one")


@pytest.mark.parametrize("cell", ["rest 30s", "nonsense", "4-", "rapid 30"])
def test_what_is_no_set_is_refused_as_a_pattern(cell):
    with pytest.raises(ValueError, match=r".+"):
        changed(Variant(name="one"), COLUMNS["pattern of long"], cell)


def test_the_command_shows_the_rows_and_writes_them_when_asked(home, capsys):
    path = home / "all.nafas-series"
    begin_series(home / "base.nafas", path)
    before = path.read_bytes()
    heading = COLUMNS["rounds of long"].heading
    arguments = ["series", "grow", str(path), heading.upper(), "4", "--every", "3", "--most", "6", "--days", "9"]
    assert main(arguments) == 0 and path.read_bytes() == before
    shown = capsys.readouterr().out
    assert f"Day 9: {heading} 6 (new)" in shown and "Nothing is written yet" in shown
    assert main([*arguments, "--write"]) == 0
    assert [row["rounds"]["long"] for row in json.loads(path.read_text())["variants"] if row["name"] != "variant"][
        -9:
    ] == [4, 4, 4, 5, 5, 5, 6, 6, 6]
    assert main(["series", "grow", str(path), "Petals", "4"]) == 2 or "no column" in capsys.readouterr().err
    assert main(["series", "grow", str(path), heading, "-3"]) != 0
