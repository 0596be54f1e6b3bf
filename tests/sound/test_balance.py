"""Voice over bed, measured."""

import math
from pathlib import Path

import pytest
from helpers import breath

from nafas.errors import Cancelled
from nafas.script import Session
from nafas.script.model.beds import NightSea
from nafas.sound import build_mix
from nafas.sound.master.balance import balance
from nafas.timing import compile_session
from nafas.voice import Narrator, cast_timeline


def mix_of(**fields):
    session = Session(blocks=(breath("3-4", 4),), **fields)
    narrator = Narrator(session.voice, session.language, Path())
    return build_mix(cast_timeline(compile_session(session, narrator.spoken_length), narrator))


def test_the_voice_is_as_far_over_the_bed_as_was_asked():
    """Every LU asked for more is measured; the least word is under the whole, and is named."""
    found = {under: balance(mix_of(bed=NightSea(under_voice=under))) for under in (8.0, 14.0, 20.0)}
    for under, measured in found.items():
        assert measured.overall == pytest.approx(under, abs=3.0)
        assert measured.worst <= measured.overall and measured.where is not None
    assert found[20.0].overall - found[8.0].overall == pytest.approx(12.0, abs=0.1)


def test_without_a_bed_or_a_voice_it_says_so():
    assert math.isinf(balance(mix_of(bed=None)).overall)
    silent = balance(_unspoken())
    assert math.isnan(silent.overall) and silent.where is None


def _unspoken():
    session = Session(blocks=(breath("3-4", 1, style={"cue": "none", "counting": "silent"}),))
    narrator = Narrator(session.voice, session.language, Path())
    return build_mix(cast_timeline(compile_session(session, narrator.spoken_length), narrator))


def test_measuring_can_be_stopped():
    def stop(done):
        raise Cancelled

    with pytest.raises(Cancelled):
        balance(mix_of(), stop)
