"""The mix, its bed and chimes, and the master made of it."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import soundfile
from helpers import breath
from hypothesis import given
from hypothesis import strategies as st

from nafas.errors import Cancelled, InputError
from nafas.script import PhaseKind, Session
from nafas.script.model.beds import Ducking, NightSea
from nafas.sound import MasterStream, build_mix, find_master, measure, render
from nafas.sound.bed.ducking import plan_ducking
from nafas.sound.bed.night_sea import night_sea
from nafas.sound.chimes.synthesis import bell, chime
from nafas.sound.master.foresight import Foresight
from nafas.timing import compile_session
from nafas.voice import Narrator, cast_timeline

RATE = 48_000


def mix_of(session, rate=RATE):
    narrator = Narrator(session.voice, session.language, Path())
    return build_mix(cast_timeline(compile_session(session, narrator.spoken_length), narrator, rate))


def whole(programme):
    return programme.read(0, programme.length)


@pytest.fixture
def mix(short):
    return mix_of(short)


@pytest.mark.parametrize("limited", [False, True])
def test_a_block_depends_on_its_place_alone(mix, limited):
    """What lets Play begin anywhere and two cores share a render."""
    programme = MasterStream(mix, 25.0, -1.0) if limited else mix
    full = whole(programme)
    for start, frames in ((0, 1), (1, 70_000), (99_999, 12_345), (mix.length - 10, 100)):
        part = programme.read(start, frames)
        expected = full[:, start : start + frames]
        assert np.abs(part[:, : expected.shape[1]] - expected).max() < 2e-6
        assert not part[:, expected.shape[1] :].any()


def test_stems_sum_to_the_mix_and_files_to_within_a_24_bit_step(mix, folder):
    made = render(mix, folder / "m.wav", folder / "stems")
    total = sum(soundfile.read(path, dtype="float64")[0] for path in made.stems.values())
    assert np.abs(total.T - whole(mix)).max() <= 1.01 / 2**23
    master, rate = soundfile.read(folder / "m.wav", dtype="float64")
    assert rate == RATE and np.abs(master.T - whole(mix) * 10 ** (made.gain / 20)).max() <= 2 / 2**23


@pytest.mark.parametrize("name", ["m.wav", "m.flac"])
def test_the_master_measures_what_it_says(short, folder, name):
    """Read back and measured by pyloudnorm, another implementation of BS.1770."""
    import pyloudnorm

    made = render(mix_of(short), folder / name)
    samples, rate = soundfile.read(folder / name)
    # pyloudnorm also counts a last block that is more than half there; BS.1770 wants whole ones.
    whole_blocks = samples[: len(samples) // (rate // 10) * (rate // 10)]
    other = pyloudnorm.Meter(rate, filter_class="DeMan").integrated_loudness(whole_blocks)
    assert (soundfile.info(folder / name).subtype, len(samples)) == ("PCM_24", made.frames)
    assert other == pytest.approx(made.measured.loudness, abs=0.005) and other == pytest.approx(-16.0, abs=0.1)
    assert made.measured.true_peak <= -1.0


def test_the_limiter_holds_the_ceiling_when_much_is_asked(short):
    loud = short.model_copy(update={"master": short.master.model_copy(update={"loudness": -11.0})})
    stages = []
    master, _, found = find_master(mix_of(loud), stages.append)
    assert sum(done == 1.0 for done in stages) <= 4  # the mix, its peaks, and the limited master twice at most
    assert master.deepest < -1 and found.loudness == pytest.approx(-11.0, abs=0.1)
    assert measure(master).true_peak <= -1.0


@pytest.mark.parametrize("rate", [44_100, 48_000])
def test_what_the_limiter_takes_is_foreseen(short, rate):
    mix = mix_of(short, rate)
    plain = measure(mix)
    foresight = Foresight(mix, plain, -1.0, lambda done: None)
    assert foresight.loudness(3.0) == pytest.approx(plain.at_gain(3.0).loudness, abs=1e-6)  # nothing to limit there
    for gain in (-1.0 - plain.true_peak + over for over in (2.0, 6.0, 11.0)):
        assert foresight.loudness(gain) == pytest.approx(measure(MasterStream(mix, gain, -1.0)).loudness, abs=0.2)
    gain = foresight.gain_to(plain.loudness + 5.0, 60.0)
    assert foresight.loudness(gain) == pytest.approx(plain.loudness + 5.0, abs=0.01)
    assert foresight.gain_to(20.0, gain) == gain


def test_a_session_without_any_sound_is_still_a_file(folder):
    silent = Session(bed=None, end_bell=False, opening=1, closing=1, blocks=(breath("1-1", 1, chimes=False),))
    mix = mix_of(silent.model_copy(update={"blocks": ()}))
    made = render(mix, folder / "s.wav")
    assert made.frames == 2 * RATE and made.measured.loudness == -np.inf and made.gain == 0


@pytest.mark.parametrize("rate", [44_100, 48_000])
def test_the_bed_has_no_seam(rate):
    """Across every loop's joint the signal steps no more than it does elsewhere."""
    for loop in night_sea(NightSea(), rate).loops:
        steps = np.abs(np.diff(np.concatenate([loop[:, -2000:], loop[:, :2000]], axis=1), axis=1)).max(axis=0)
        assert steps[1999] <= np.percentile(steps, 99.9) * 1.5


def test_the_bed_is_repeatable_and_its_own_for_every_seed():
    one, same, other = (night_sea(NightSea(seed=s), RATE).read(10**9, 4000) for s in (1, 1, 2))
    assert np.array_equal(one, same) and not np.allclose(one, other)


def test_phases_are_told_apart_by_ear():
    """Rising in, falling out, wood for holds: the strongest pitch early and late in each chime."""

    def pitch(wave):
        spectrum = np.abs(np.fft.rfft(wave * np.hanning(len(wave)), 1 << 16))
        return np.argmax(spectrum) * RATE / (1 << 16)

    early = {k: pitch(chime(k, RATE)[0, : RATE // 10]) for k in PhaseKind}
    late = {k: pitch(chime(k, RATE)[0, RATE // 2 : RATE]) for k in (PhaseKind.INHALE, PhaseKind.EXHALE)}
    assert late[PhaseKind.INHALE] > 1.3 * early[PhaseKind.INHALE]
    assert late[PhaseKind.EXHALE] < 0.8 * early[PhaseKind.EXHALE]
    assert early[PhaseKind.HOLD_FULL] > 1.3 * early[PhaseKind.HOLD_EMPTY]
    for sound in (*(chime(k, RATE) for k in PhaseKind), bell(RATE)):
        assert np.abs(sound[:, 0]).max() == 0 and np.abs(sound[:, : RATE // 500]).max() < 0.6  # never startling
        assert np.abs(sound[:, -1]).max() < 1e-3


@given(st.lists(st.tuples(st.integers(0, 10**6), st.integers(1, 10**5)), max_size=8), st.integers(0, 10**6))
def test_the_bed_is_down_wherever_the_voice_sounds(starts, start):
    spans = sorted((begin, begin + length) for begin, length in starts)
    line = plan_ducking(spans, RATE, down=-14, up=-9)
    block = np.ones((2, 50_000), np.float32)
    line.apply(block, start)
    levels = 20 * np.log10(block[0])
    assert np.abs(levels - line.level_at(np.arange(start, start + 50_000))).max() < 1e-3
    for begin, end in spans:
        inside = levels[max(0, begin - start) : max(0, end - start)]
        assert not len(inside) or np.abs(inside + 14).max() < 1e-3
    assert np.abs(np.diff(levels)).max() < 0.01  # no jump


def test_a_cancelled_render_leaves_nothing(mix, folder):
    (folder / "m.wav").write_bytes(b"the old one")
    for stage in ("measuring", "writing"):

        def stop(at, done, stage=stage):
            if at == stage and done > 0.3:
                raise Cancelled

        with pytest.raises(Cancelled):
            render(mix, folder / "m.wav", folder / "stems", stop)
    assert (folder / "m.wav").read_bytes() == b"the old one"
    assert [p for p in folder.rglob("*") if p.is_file()] == [folder / "m.wav"]


@pytest.mark.parametrize("name", ["m.aac", "m", "none/m.wav", "."])
def test_a_place_that_cannot_be_written_is_refused_first(mix, folder, name):
    with pytest.raises(InputError):
        render(mix, folder / name)
    assert list(folder.iterdir()) == []


def test_a_disk_that_fills_up_leaves_no_partial_master(mix, folder, monkeypatch):
    import shutil
    import wave

    def full(self, data):
        raise OSError(28, "No space left on device")

    with monkeypatch.context() as patch:
        patch.setattr(wave.Wave_write, "writeframesraw", full)
        with pytest.raises(InputError, match="No space left"):
            render(mix, folder / "m.wav")
    assert list(folder.iterdir()) == []
    monkeypatch.setattr(shutil, "disk_usage", lambda path: shutil._ntuple_diskusage(10, 9, 1))
    with pytest.raises(InputError, match="free some space"):
        render(mix, folder / "m.flac")
    assert list(folder.iterdir()) == []


@given(
    st.lists(st.tuples(st.integers(1, 4000), st.integers(1, 4000)), min_size=1, max_size=12),
    st.floats(0.05, 2), st.floats(0, 4), st.floats(0.1, 3),
)  # fmt: skip
def test_the_bed_is_down_wherever_the_voice_is_and_its_level_never_goes_back_in_time(gaps, lead, hold, release):
    spans, at = [], 0
    for gap, length in gaps:
        spans.append((at + gap, at + gap + length))
        at += gap + length
    line = plan_ducking(spans, 1000, -12.0, 0.0, Ducking(lead=lead, hold=hold, release=release))
    assert (np.diff(line.places) >= 0).all()
    assert all((line.level_at(np.arange(begin, end + 1)) == -12.0).all() for begin, end in spans)
    assert np.abs(np.diff(line.level_at(np.arange(-3000, at + 4000)))).max() <= 12 / (1000 * min(lead, release)) * 1.01


def test_the_fades_that_are_drawn_are_those_that_sound(short):
    bed = build_mix(cast_timeline(compile_session(short, Narrator(short.voice, "en", Path()).spoken_length),
                                  Narrator(short.voice, "en", Path()))).bed  # fmt: skip
    plain = replace(bed, fade_in=0, fade_out=0)
    for begin in (0, bed.length - bed.fade_out - 1000, bed.length - 4000):
        places = np.arange(begin, begin + 4000)
        assert np.allclose(bed.read(begin, 4000), plain.read(begin, 4000) * bed.faded(places), atol=1e-6)
    ends = np.array([0, bed.fade_in // 2, bed.fade_in, bed.length - bed.fade_out // 2, bed.length])
    assert bed.faded(ends) == pytest.approx([0, 0.5, 1, 0.5, 0], abs=1e-4)
