"""What should be alike in the variants of a series, and is not."""

from dataclasses import replace
from pathlib import Path

from helpers import breath

from nafas.review.checks.register import review, subject_of
from nafas.script import Session, Talk
from nafas.series.compare import LOUDNESS_APART, VOICE_APART, Checked, apart
from nafas.timing import compile_session, paced
from nafas.voice.casting import Cast

ONE = Checked("first", "Watch", -16.0, -18.0, (), (), True)
TWO = replace(ONE, name="second", title="Berth")


def test_what_is_within_bounds_is_alike():
    assert apart([]) == [] and apart([ONE]) == []
    near = replace(TWO, loudness=ONE.loudness - LOUDNESS_APART, voice=ONE.voice - VOICE_APART)
    assert apart([ONE, near]) == []
    assert apart([ONE, replace(TWO, voice=float("-inf"))]) == []  # without a voice none is softer


def test_each_difference_is_a_line_that_names_the_variants():
    assert apart([ONE, replace(TWO, loudness=-18.0)]) == ["They are not equally loud: -18 (1), -16 (1) LUFS"]
    softer = apart([ONE, replace(TWO, voice=-20.5)])
    assert softer == ["Their voices are not equally loud: first -18.0 LUFS, second -20.5 LUFS"]
    assert apart([ONE, replace(TWO, title="Watch")]) == ["2 variants are called “Watch”"]
    assert apart([ONE, replace(TWO, cautioned=False)]) == ["Cautions are missing in second"]
    bare = [replace(ONE, name=str(n), title=str(n), cautioned=False) for n in range(9)]
    assert apart(bare) == [] and apart([ONE, *bare])[-1].endswith("in 0, 1, 2, 3, 4, 5 and more")


def test_a_variant_without_its_cautions_is_known():
    def checked(*blocks):
        cast = Cast(compile_session(Session(blocks=blocks), paced()), 48_000, (), ())
        subject = subject_of(cast, Path(), listen=False)
        return Checked.of("a", review(subject), subject)

    hold = breath("4-12-8", 20)
    careful = "Never force it. Stop and breathe naturally if you feel dizzy or uneasy. Not while driving or in water."
    assert not checked(hold).cautioned
    assert checked(Talk.model_validate({"id": "t", "paragraphs": [careful]})).cautioned
