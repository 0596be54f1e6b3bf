"""The cells of a series' table: what is typed is taken or refused with a remedy, and reads back as it was meant."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nafas.errors import InputError
from nafas.script import Session, read_block
from nafas.series.cells import as_cells, with_cells
from nafas.series.columns import changed, columns_of, new_name
from nafas.series.plan import Series, Variant

SETS = (
    read_block("4-6 x3", "long").model_copy(update={"title": "Long exhale"}),
    read_block("4-4 x2", "even"),
)
COLUMNS = {column.key: column for column in columns_of(Session(blocks=SETS))}
ROW = Variant(name="one")


@pytest.mark.parametrize(
    ("key", "typed", "field", "value", "shown"),
    [
        ("length", "12:00", "length", Fraction(720), "12:00"),
        ("length", "90.5", "length", Fraction(181, 2), "1:30.5"),
        ("count_length", "1.05", "count_length", Fraction(21, 20), "1.05"),
        ("count_length", "20/21", "count_length", Fraction(20, 21), "20/21"),
        ("rounds of long", "8", "rounds", {"long": 8}, "8"),
        ("language", "es", "language", "es", "es"),
        ("guidance", "chimes", "guidance", "chimes", "chimes"),
        ("bed", "-2,5", "bed", -2.5, "\N{MINUS SIGN}2.5"),
        ("loudness", "\N{MINUS SIGN}18", "loudness", -18.0, "\N{MINUS SIGN}18"),
        ("title", "  On your own ", "title", "On your own", "On your own"),
    ],
)
def test_what_is_typed_is_taken_read_back_and_emptied(key, typed, field, value, shown):
    made = changed(ROW, COLUMNS[key], typed)
    assert getattr(made, field) == value and COLUMNS[key].text(made) == shown
    assert changed(made, COLUMNS[key], shown) == made
    assert changed(made, COLUMNS[key], "") == ROW and COLUMNS[key].text(ROW) == ""


@pytest.mark.parametrize(
    ("key", "typed", "told"),
    [
        ("length", "soon", "12:00"),
        ("length", "0", "1"),
        ("count_length", "9", "6"),
        ("rounds of even", "many", "for example 8"),
        ("rounds of even", "0", "1"),
        ("language", "xx", "a language is one of"),
        ("bed", "loud", "2"),
        ("loudness", "3", "8"),
        ("name", "", "string"),
        ("name", "a/b", "pattern"),
    ],
)
def test_what_cannot_be_meant_is_refused(key, typed, told):
    with pytest.raises(ValueError, match=told):
        changed(ROW, COLUMNS[key], typed)


def test_every_set_has_a_column_of_its_own_by_its_title():
    assert COLUMNS["rounds of long"].heading == "Rounds, Long exhale" and "3 in" in COLUMNS["rounds of long"].tip
    both = changed(changed(ROW, COLUMNS["rounds of long"], "5"), COLUMNS["rounds of even"], "7")
    assert both.rounds == {"long": 5, "even": 7}
    assert changed(both, COLUMNS["rounds of long"], "").rounds == {"even": 7}
    assert not [column for column in columns_of(Session()) if column.key.startswith("rounds")]


@given(st.lists(st.sampled_from(["variant", "Variant 2", "VARIANT", "variant 3", "slow"]), max_size=8))
def test_a_new_name_is_no_ones_yet(taken):
    found = new_name(taken)
    assert found.lower() not in {name.lower() for name in taken} and found.startswith("variant")


# -- pasted from a spreadsheet, and copied for it

ORDER = list(COLUMNS.values())
SERIES = Series(session="s.nafas", variants=(Variant(name="one", length=600, bed=-2), Variant(name="two")))
names = st.text(st.characters(codec="utf-8", exclude_categories=("C", "Z"), exclude_characters="/\\."), min_size=1)
texts = names.filter(lambda text: len(text) <= 40)


@given(
    st.lists(
        st.builds(
            Variant,
            name=texts,
            title=st.none() | texts,
            length=st.none() | st.fractions(1, 9000, max_denominator=40),
            rounds=st.dictionaries(st.sampled_from(("long", "even")), st.integers(1, 99)),
            bed=st.none() | st.sampled_from((-2.5, 0.0, 3.0)),
        ),
        min_size=1,
        max_size=8,
        unique_by=lambda variant: variant.name.lower(),
    )
)
def test_what_is_copied_is_what_is_pasted(variants):
    empty = Series(session="s.nafas")
    assert with_cells(empty, ORDER, as_cells(ORDER, variants)).variants == tuple(variants)


def test_pasted_rows_change_what_has_their_name_and_are_added_else():
    made = with_cells(SERIES, ORDER, "variant\tLUFS\tRounds, Long exhale\nTWO\t-18\t4\r\n\nthree\t\t7\n").variants
    assert made[0] == SERIES.variants[0]
    assert made[1:] == (
        Variant(name="two", loudness=-18, rounds={"long": 4}),
        Variant(name="three", rounds={"long": 7}),
    )
    (one, *_) = with_cells(SERIES, ORDER, "one\tOn watch\t\n").variants  # no headings: as the columns stand
    assert one == Variant(name="one", title="On watch", bed=-2)


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("", "no rows"),
        ("Variant\tLength\n", "no rows"),
        ("Variant\tSpeed\nfour\t2\n", "'Speed'"),
        ("Variant\tLUFS\tlufs\nfour\t2\t3\n", "twice"),
        ("Variant\tLength\nfour\t6:00\nfive\tlong\n", "pasted row 3, Length"),
        ("four\nFOUR\n", "pasted row 2: has the name 'four' again"),
        ("\tno name\n", "pasted row 1"),
        ("Length\n6:00\n", "no column 'Variant'"),
        ("four" + "\t" * 20 + "x\n", "cells"),
        ("four\n" * 3 + "x" * 2_000_000, "too many"),
        ("".join(f"{n}\n" for n in range(999)), "1001 variants"),
    ],
)
def test_a_paste_that_cannot_be_taken_whole_says_where(text, told):
    with pytest.raises(InputError, match=told):
        with_cells(SERIES, ORDER, text)


def test_sets_of_one_name_have_columns_of_their_own():
    twins = [block.model_copy(update={"title": "Waves"}) for block in SETS]
    headings = [column.heading for column in columns_of(Session(blocks=tuple(twins)))]
    assert {"Rounds, Waves (long)", "Rounds, Waves (even)"} <= set(headings)
