"""Recordings in blocks: their place and level in the written file, and what cannot be."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
import soundfile
from hypothesis import given
from hypothesis import strategies as st

from nafas.errors import InputError
from nafas.exchange.description import credits_of
from nafas.exchange.packed import pack, unpack
from nafas.review.proof import prove
from nafas.script import Rest, Session, Talk, load_session, read_block
from nafas.script.model.assets import Asset
from nafas.script.model.beds import NightSea
from nafas.script.model.recordings import PlacedRecording, placed
from nafas.script.text.own import read_written
from nafas.script.text.written import written_text
from nafas.sound.mix.mix import build_mix
from nafas.tasks.render import RenderRequest, produce
from nafas.timing import compile_session, paced
from nafas.voice.casting import cast_session

RATE = 48_000


@pytest.fixture
def sounds(folder):
    """A hummed tone of 6 s at another rate, and a breath of air of 3 s; neither has a sharp edge."""
    t = np.arange(6 * 44_100) / 44_100
    hum = (
        (np.sin(2 * np.pi * 220 * t) + 0.5 * np.sin(2 * np.pi * 330 * t + np.sin(5 * t))) * np.sin(np.pi * t / 6) * 0.2
    )
    soundfile.write(folder / "hum.wav", np.stack([hum, 0.8 * hum], 1), 44_100)
    air = np.random.default_rng(5).standard_normal(3 * RATE) * np.sin(np.pi * np.arange(3 * RATE) / RATE / 3) ** 2
    soundfile.write(folder / "air.flac", 0.1 * air, RATE)
    return folder


def at(name, how):
    return placed(Asset(path=name), how)


def watch(**more):
    return Session(
        title="Watch", opening=2, closing=12,
        blocks=(
            Rest(id="hum", seconds=7, recordings=(at("hum.wav", "after 0.5s level -3 by the night watch, CC0"),)),
            Talk(id="hi", paragraphs=("Good evening, deck crew.",)),
            read_block("4-6 x3", "set").replace(recordings=(
                at("air.flac", "phase 2 after 0.4s level -6 over"), at("air.flac", "round 2 phase 1 count 3 beat 1.5s"),
            )),
        ),
        **more,
    )  # fmt: skip


def test_recordings_sound_in_their_places_and_the_file_proves_it(sounds, tmp_path):
    session = watch()
    made = produce(RenderRequest(session, sounds, tmp_path / "a.wav"))
    (proof,) = made.proofs
    found = {match.name: match for match in proof.matches}
    assert proof.holds and sum(match.name == "recording" for match in proof.matches) == 1 + 3 + 1, found
    # Without the bed the sound itself is read back: its place, and its level over the voice.
    bare = session.replace(bed=None, end_bell=False, blocks=session.blocks[:1])
    produce(RenderRequest(bare, sounds, tmp_path / "b.wav", with_proof=False))
    heard, _ = soundfile.read(tmp_path / "b.wav", dtype="float32")
    loud = np.flatnonzero(np.abs(heard[:, 0]) > 0.01 * np.abs(heard).max())
    begin, end = 2.5, 8.5
    assert loud[0] / RATE == pytest.approx(begin, abs=0.05) and loud[-1] / RATE == pytest.approx(end, abs=0.05)


@pytest.mark.parametrize("fault", ["shifted", "silent", "softer"])
def test_a_proof_misses_a_recording_that_is_not_as_placed(sounds, tmp_path, fault):
    session = watch()
    made = produce(RenderRequest(session, sounds, tmp_path / "a.wav", with_proof=False))
    wrong = build_mix(cast_session(session, sounds), sounds)
    moved = wrong.recordings[0]
    if fault == "shifted":
        clip = moved.clip._replace(start=moved.clip.start + 3)
    else:
        clip = moved.clip._replace(gain=moved.clip.gain * (0.0 if fault == "silent" else 0.5))
    object.__setattr__(wrong, "recordings", (replace(moved, clip=clip), *wrong.recordings[1:]))
    heard = wrong.read(0, wrong.length) * np.float32(10 ** (made.mastered.gain / 20))
    soundfile.write(tmp_path / "wrong.wav", heard.T, RATE, subtype="PCM_24")
    proof = prove(tmp_path / "wrong.wav", made.mix, made.mastered.gain, made.mastered.measured)
    assert not proof.holds and any(
        said in each.text for each in proof.faults for said in ("recording", "too soft from 0:02")
    ), proof.faults


def test_the_bed_makes_room_unless_it_is_to_stay(sounds):
    recordings = (at("hum.wav", "after 3s"), at("air.flac", "after 16s over"))
    session = watch(bed=NightSea(lift=6.0)).replace(blocks=(Rest(id="rest", seconds=30, recordings=recordings),))
    mix = build_mix(cast_session(session, sounds), sounds)
    hum, air = (played.clip.start + RATE for played in mix.recordings)
    under, beside = mix.bed.turns[0].level.level_at(np.array([hum, air]))
    assert beside - under == pytest.approx(6.0)


def test_what_does_not_fit_is_told_and_a_missing_file_is_named(sounds):
    late = watch().replace(blocks=(
        Rest(id="a", seconds=3, recordings=(at("hum.wav", "beat 4s"), at("hum.wav", "round 2"))),
    ), closing=4, bed=None, end_bell=False)  # fmt: skip
    mix = build_mix(cast_session(late, sounds), sounds)
    assert mix.read(0, mix.length).any()
    said = " ".join(mix.troubles)
    assert "begin 2.0 s before the session" in said and "round 2, which" in said
    gone = watch().replace(blocks=(Rest(id="a", seconds=3, recordings=(at("no.wav", ""),)),))
    with pytest.raises(InputError, match=r"no\.wav"):
        build_mix(cast_session(gone, sounds), sounds)
    assert "silent" in build_mix(cast_session(gone, sounds), sounds, strict=False).troubles[0]
    (sounds / "text.wav").write_text("not sound")
    other = gone.replace(blocks=(Rest(id="a", seconds=3, recordings=(at("text.wav", ""),)),))
    with pytest.raises(InputError, match=r"text\.wav"):
        build_mix(cast_session(other, sounds), sounds)


def test_recordings_are_packed_credited_and_kept_in_text(sounds, tmp_path):
    session = watch()
    assert [b.recordings for b in read_written(written_text(session)).blocks] == [b.recordings for b in session.blocks]
    assert "- Sound: hum.wav, the night watch, CC0." in credits_of(cast_session(session, sounds))
    script = unpack(pack(compile_session(session, paced()), sounds, tmp_path / "w.nafas-packed"), tmp_path / "back")
    inside = load_session(script).blocks[0].recordings[0].file.path
    assert (script.parent / inside).read_bytes() == (sounds / "hum.wav").read_bytes()


seconds = st.fractions(0, 3600, max_denominator=1000)


@given(st.builds(
    PlacedRecording, file=st.just(Asset(path="a.wav")), round=st.none() | st.integers(1, 99), phase=st.integers(1, 9),
    count=st.none() | st.integers(1, 20), after=seconds, begin=seconds.map(lambda s: s / 2), level=st.integers(-40, 12),
    fade_out=st.fractions(0, 60, max_denominator=100), over=st.booleans(), by=st.sampled_from(["", "a, b by c"]),
))  # fmt: skip
def test_a_place_in_words_reads_back(recording):
    assert placed(recording.file, recording.text) == recording


@pytest.mark.parametrize(
    ("text", "message"),
    [("tomorrow", "not understood"), ("after", "not understood"), ("count 3", "phase 1"),
     ("from 3s to 2s", "later end"),
     ("level 40", "less than or equal to 12"), ("after 1e9s", "not understood"), ("beat 1s from 2s", "outside")],
)  # fmt: skip
def test_places_that_cannot_be_are_refused(text, message):
    with pytest.raises(ValueError, match=message):
        at("a.wav", text)
    assert at("a.wav", "after 1,5s, level −6").after == Fraction(3, 2)


@pytest.mark.parametrize("pacer", ["air", "hum"])
def test_a_breath_is_heard_through_its_phase_without_a_click(sounds, tmp_path, pacer):
    blocks = (read_block("4-2-6 x2", "a"), read_block("3-3 x2", "b").replace(pacer=False))
    session = watch(chimes={"pacer": pacer, "pacer_level": -9.0}).replace(blocks=blocks)
    made = produce(RenderRequest(session, sounds, tmp_path / "a.wav"))
    assert made.proofs[0].holds and sum(match.name == "breath" for match in made.proofs[0].matches) == 4
    heard = made.mix.pacer
    assert [round(each.clip.samples.shape[-1] / RATE) for each in heard] == [4, 6, 4, 6]
    for each in heard:
        whole = each.clip.samples[..., 0 : each.clip.samples.shape[-1]]
        assert np.array_equal(whole[:, 1000:3000], each.clip.samples[..., 1000:3000])  # by its place alone
        assert np.abs(whole[:, [0, -1]]).max() < 1e-6 and 0.4 < np.sqrt(np.mean(whole**2)) < 1.1
        steps = np.abs(np.diff(whole, axis=1)).max(axis=0)
        assert steps[:480].max() < 0.02 and steps[-480:].max() < 0.02  # it comes and goes
    lost = replace(made.mix, pacer=heard[1:])
    sound = lost.read(0, lost.length) * np.float32(10 ** (made.mastered.gain / 20))
    soundfile.write(tmp_path / "wrong.wav", sound.T, RATE, subtype="PCM_24")
    proof = prove(tmp_path / "wrong.wav", made.mix, made.mastered.gain, made.mastered.measured)
    assert not proof.holds and sum(match.name == "breath" and match.found is None for match in proof.matches) == 1


def test_who_has_no_breath_heard_hears_none(sounds):
    assert not build_mix(cast_session(watch(), sounds), sounds).pacer
    text = written_text(watch().replace(blocks=(read_block("4-6 x2", "a").replace(pacer=False),)))
    assert not read_written(text).blocks[0].pacer and "breath heard: no" in text


def test_a_recording_that_is_loudest_late_is_found_past_the_part_that_it_begins_in(folder, tmp_path):
    air = np.random.default_rng(6).standard_normal(14 * RATE) * np.linspace(0, 1, 14 * RATE) ** 3
    soundfile.write(folder / "rise.wav", 0.1 * air, RATE)
    # Files are looked through in parts of 30 s: this one begins a second before the second part.
    rest = Rest(id="rest", seconds=45, recordings=(at("rise.wav", "after 27s fade-out 1s"),))
    made = produce(RenderRequest(watch().replace(blocks=(rest,)), folder, tmp_path / "a.wav"))
    assert made.proofs[0].holds, made.proofs[0].faults
