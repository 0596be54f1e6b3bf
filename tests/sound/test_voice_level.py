"""The voice softer and softer through a block: in the mix, in the proof, in the text and in the window's own words."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from helpers import breath

from nafas.review.proof.prove import prove
from nafas.script import Session, Talk
from nafas.script.model.voice_level import VoiceLevel, voice_level_of
from nafas.sound import build_mix, render
from nafas.timing.sheet import sheet_text
from nafas.voice.casting import cast_session

FADING = VoiceLevel(level=0, to=-12)


def session(voice):
    talk = Talk(id="t", paragraphs=("Sit down now.",) * 5, voice=voice)
    return Session(opening=1, closing=2, bed=None, end_bell=False, blocks=(talk, breath("3-3", 2)))


def levels(mix):
    """dB of each thing that is said, at its place in the mix."""
    said = [mix.read(p.start, p.end - p.start) for p in mix.cast.placements]
    return [10 * np.log10(float((each**2).mean())) for each in said]


def test_each_sentence_is_as_loud_as_its_place_says_and_the_next_block_is_as_before():
    plain, fading = (build_mix(cast_session(session(voice), Path())) for voice in (None, FADING))
    by = np.array(levels(fading)) - levels(plain)
    timed = fading.cast.timeline.blocks[0]
    ways = [(p.target / 48_000 - float(timed.start)) / float(timed.length) for p in fading.cast.placements[:5]]
    assert by[:5] == pytest.approx([-12 * way for way in ways], abs=0.01)
    assert by[0] == pytest.approx(0, abs=0.1) and by[4] < -8 and by[5:] == pytest.approx(np.zeros(len(by) - 5))
    assert "voice 0 to \N{MINUS SIGN}12 dB" in sheet_text(fading.cast.timeline)


def test_a_master_is_proved_by_the_planned_levels(folder):
    mix = build_mix(cast_session(session(FADING), Path()))
    made = render(mix, folder / "m.wav")
    assert prove(made.path, mix, made.gain, made.measured).holds
    plain = build_mix(cast_session(session(None), Path()))
    proof = prove(made.path, plain, made.gain, replace(made.measured, fine=plain_powers(plain, made)))
    assert not proof.holds and any("too soft" in str(fault) for fault in proof.faults)


def plain_powers(mix, made):
    from nafas.sound import measure

    return measure(mix).at_gain(made.gain).fine


@pytest.mark.parametrize("text", ["-6 dB", "0 dB to -12 dB", "+1.5 dB to -30 dB"])
def test_what_is_written_is_read_back(text):
    assert voice_level_of(text).text == text
    for odd in ("", "loud", "0 to", "7 dB", "nan", "0 to -31"):
        with pytest.raises(ValueError, match="write -6 dB"):
            voice_level_of(odd)
