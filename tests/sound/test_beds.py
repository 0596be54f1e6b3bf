"""Beds: made by rule or from a recording; endless, at their level, without a seam that is heard."""

from itertools import pairwise

import numpy as np
import pyloudnorm
import pytest
import soundfile
from helpers import produce
from hypothesis import given, settings
from hypothesis import strategies as st

from nafas.errors import InputError
from nafas.script import Session, save_session
from nafas.script.edits.session_edits import change, rebase_assets
from nafas.script.model.assets import Asset
from nafas.script.model.beds import FileBed, GeneratedBed, NightSea
from nafas.sound.bed import file_bed
from nafas.sound.bed.file_bed import RecordedBed, recorded_bed
from nafas.sound.bed.generated import generated_bed
from nafas.sound.bed.kept import kept_loops
from nafas.sound.bed.loop_points import find_loop_points
from nafas.sound.bed.looped import BED_LEVEL
from nafas.sound.bed.night_sea import night_sea
from nafas.sound.bed.plan import bed_sound

RATE = 48_000
KINDS = ("sea", "rain", "drone", "bowls", "pad")


def choice(**fields):
    return FileBed(file=Asset(path="x"), **fields)


def noise(seconds, rate=RATE, seed=1, level=0.1):
    return (np.random.default_rng(seed).standard_normal((int(seconds * rate), 2)) * level).astype(np.float32)


@pytest.fixture(scope="module")
def made():
    return {kind: generated_bed(GeneratedBed(kind=kind), RATE) for kind in KINDS}


@pytest.mark.parametrize("kind", KINDS)
def test_a_generated_bed_is_at_its_level_and_has_no_seam(made, kind):
    """Level by pyloudnorm over a minute and a half; at every place where a loop begins again nothing jumps."""
    bed = made[kind]
    sound = bed.read(0, 90 * RATE)
    assert pyloudnorm.Meter(RATE).integrated_loudness(sound.T) == pytest.approx(BED_LEVEL, abs=1.0)
    assert np.abs(sound).max() < 0.9 and not np.array_equal(sound[0], sound[1])
    for loop in bed.loops:
        over = np.abs(loop[:, 0] - loop[:, -1])
        assert (over <= 1.05 * np.abs(np.diff(loop, axis=1)).max(axis=1)).all()
    lengths = [loop.shape[1] for loop in bed.loops]
    assert np.lcm.reduce([n // 480 for n in lengths]) * 480 > 300 * RATE  # seconds until all of it repeats


def test_kinds_differ_in_spectrum_and_controls_do_what_they_say(made):
    def centre(bed):
        power = np.abs(np.fft.rfft(bed.read(0, 30 * RATE)[0])) ** 2
        return float((power * np.fft.rfftfreq(30 * RATE, 1 / RATE)).sum() / power.sum())

    centres = {kind: centre(bed) for kind, bed in made.items()}
    assert centres["rain"] > 4 * centres["drone"] and centres["sea"] > centres["drone"]
    for kind in ("sea", "rain", "drone"):
        dull, bright = (generated_bed(GeneratedBed(kind=kind, brightness=b), RATE) for b in (0.0, 1.0))
        assert centre(bright) > 1.3 * centre(dull)
    flat, deep = (generated_bed(GeneratedBed(kind="sea", depth=d), RATE).read(0, 60 * RATE) for d in (0.0, 1.0))

    def swing(sound):
        levels = 10 * np.log10((sound[:, : 60 * RATE].reshape(2, -1, RATE // 2) ** 2).mean(axis=(0, 2)))
        return float(np.std(levels))

    assert swing(deep) > 1.5 * swing(flat)


def test_the_same_seed_is_the_same_sound():
    one, same, other = (generated_bed(GeneratedBed(kind="rain", seed=s), RATE).read(10**9, 4000) for s in (3, 3, 4))
    assert np.array_equal(one, same) and not np.array_equal(one, other)


@pytest.mark.parametrize("rate", [44_100, 48_000, 96_000])
def test_a_recording_goes_over_into_itself_at_equal_power(folder, rate):
    """On noise the level through the seam stays within 0.1 dB (equal-power law), its offset is gone, and it is
    brought to the bed's level."""
    soundfile.write(folder / "n.wav", noise(20, rate) + 0.05, rate, subtype="FLOAT")
    bed = RecordedBed(folder / "n.wav", choice(crossfade=4), RATE)
    turns = [bed.read(turn * bed.period, round(4 * RATE)) for turn in range(1, 12)]
    across = 10 * np.log10(np.mean([part**2 for part in turns]))
    inside = 10 * np.log10(np.mean([bed.read(n * bed.period + 5 * RATE, 4 * RATE) ** 2 for n in range(1, 12)]))
    assert across == pytest.approx(inside, abs=0.1)
    sound = bed.read(0, 60 * RATE)
    assert pyloudnorm.Meter(RATE).integrated_loudness(sound.T) == pytest.approx(BED_LEVEL, abs=0.1)
    assert abs(sound.mean()) < 1e-3


@settings(max_examples=15)
@given(st.lists(st.integers(1, 400_000), min_size=1, max_size=5), st.sampled_from([22_050, 44_100, 48_000]))
def test_a_recorded_bed_depends_on_the_place_alone(tmp_path_factory, sizes, rate):
    folder = tmp_path_factory.mktemp("bed")
    soundfile.write(folder / "n.flac", noise(3, rate), rate)
    bed = RecordedBed(folder / "n.flac", choice(crossfade=0.5), RATE)
    whole, at = bed.read(0, sum(sizes)), 0
    for size in sizes:
        assert np.abs(bed.read(at, size) - whole[:, at : at + size]).max() < 1e-5
        at += size


def test_the_loop_is_closed_where_it_sounds_alike():
    """A tone that steps through eight pitches: the seam is found where the first pitch comes back, not at the end."""
    pitches = [220, 262, 330, 392, 440, 523, 220, 587]
    parts = [np.sin(2 * np.pi * p * np.arange(4 * RATE) / RATE) for p in pitches]
    sound = np.array([np.concatenate(parts)] * 2, np.float32) * 0.2

    def read(start, frames):
        out = np.zeros((2, frames), np.float32)
        found = sound[:, max(0, start) : start + frames]
        out[:, : found.shape[1]] = found
        return out

    seam = find_loop_points(read, RATE, 0.0, 32.0, 2.0)
    assert 26.0 <= seam.end <= 28.1 and seam.apart < 0.2 * seam.usual


def test_one_side_six_channels_and_a_part_of_it(folder):
    mono = noise(4)[:, :1]
    soundfile.write(folder / "mono.wav", mono, RATE, subtype="FLOAT")
    both = RecordedBed(folder / "mono.wav", choice(), RATE).read(0, 1000)
    assert np.array_equal(both[0], both[1])
    six = np.zeros((4 * RATE, 6), np.float32)
    six[:, 2], six[:, 3] = noise(4)[:, 0], 0.9  # the centre, and a deep channel that is left out
    soundfile.write(folder / "six.wav", six, RATE, subtype="FLOAT")
    folded = RecordedBed(folder / "six.wav", choice(), RATE)
    assert abs(folded.read(0, RATE).mean()) < 0.01 and np.abs(folded.read(0, RATE)).max() > 0.05
    part = RecordedBed(folder / "mono.wav", choice(begin=1.0, end=3.0, crossfade=0.5, find_seam=False), RATE)
    assert part.period == round(1.5 * RATE)


@pytest.mark.parametrize(("make", "says"), [
    (lambda path: None, "cannot be read"),
    (lambda path: path.write_bytes(b"RIFF nonsense"), "is not audio"),
    (lambda path: soundfile.write(path, np.zeros((RATE, 2)), RATE), "is silent"),
    (lambda path: soundfile.write(path, noise(0.2), RATE), "only 0.20 s"),
    (lambda path: soundfile.write(path, np.full((RATE, 2), np.nan), RATE, subtype="FLOAT"), "not numbers"),
    (lambda path: soundfile.write(path, np.ones((RATE, 8)) * 0.1, RATE), "8 channels"),
])  # fmt: skip
def test_a_bed_that_cannot_be_used_is_named(folder, make, says):
    make(folder / "x.wav")
    with pytest.raises(InputError, match=says) as caught:
        RecordedBed(folder / "x.wav", choice(), RATE)
    assert "x.wav" in caught.value.place and caught.value.remedy


def test_what_is_no_number_far_into_a_recording_stops_it_there(folder, monkeypatch):
    """Past what is looked at beforehand: it is found when it would be heard."""
    monkeypatch.setattr(file_bed, "_MEASURED", 2.0)
    sound = noise(6).astype(np.float32)
    sound[5 * RATE] = np.nan
    soundfile.write(folder / "x.wav", sound, RATE, subtype="FLOAT")
    bed = RecordedBed(folder / "x.wav", choice(find_seam=False, crossfade=0.1), RATE)
    assert np.isfinite(bed.read(0, 4 * RATE)).all()
    with pytest.raises(InputError, match="not numbers") as caught:
        bed.read(4 * RATE, 2 * RATE)
    assert "from 4.0 s on" in caught.value.place


def test_another_pace_or_level_does_not_measure_the_file_again(folder, monkeypatch):
    soundfile.write(folder / "x.wav", noise(5), RATE)
    first = recorded_bed(folder / "x.wav", choice(crossfade=0.5), RATE)
    monkeypatch.setattr(file_bed, "LoudnessMeter", None)  # measuring would fail
    monkeypatch.setattr(file_bed, "find_loop_points", None)
    paced = recorded_bed(folder / "x.wav", choice(crossfade=0.5, pace=1.05), RATE)
    assert paced.loudness == first.loudness and paced.seam == first.seam
    assert paced.period == round(first.period / 1.05)
    monkeypatch.undo()
    soundfile.write(folder / "x.wav", noise(5) * 0.5, RATE)  # another sound under the same name
    again = recorded_bed(folder / "x.wav", choice(crossfade=0.5), RATE)
    assert again.loudness == pytest.approx(first.loudness - 6.02, abs=0.01)


def test_a_bed_shorter_than_its_crossfade_is_faded_over_a_third_of_it(folder):
    soundfile.write(folder / "x.wav", noise(3), RATE)
    bed = RecordedBed(folder / "x.wav", choice(crossfade=30), RATE)
    assert bed.seam.crossfade <= 1.0 and np.isfinite(bed.read(0, 20 * RATE)).all()


def test_a_bed_that_breaks_off_or_vanishes_stops_the_render_and_leaves_nothing(folder, short):
    soundfile.write(folder / "x.wav", noise(30), RATE)
    session = change(short, bed=FileBed(file=Asset(path="x.wav")))
    bed = bed_sound(session.bed, RATE, folder)
    data = (folder / "x.wav").read_bytes()
    produce(session, folder, folder / "whole.wav", with_proof=False)
    (folder / "x.wav").write_bytes(data[: len(data) // 2])
    bed.recording._reader._local.file = None
    with pytest.raises(InputError, match=r"x\.wav"):
        bed.read(25 * RATE, 1000)
    (folder / "x.wav").unlink()
    with pytest.raises(InputError, match=r"x\.wav"):
        produce(session, folder, folder / "m.wav", with_proof=False)
    assert not (folder / "m.wav").exists() and (folder / "whole.wav").exists()


def test_a_bed_s_path_is_kept_when_the_session_moves(folder):
    (folder / "deep").mkdir()
    session = Session(bed=FileBed(file=Asset(path="rain.wav")))
    moved = rebase_assets(session, folder, folder / "deep")
    assert moved.bed.file.path == "../rain.wav" and rebase_assets(moved, folder / "deep", folder) == session
    save_session(moved, folder / "deep" / "s.nafas")
    with pytest.raises(ValueError, match="ends after it begins"):
        FileBed(file=Asset(path="x"), begin=5, end=4)


def test_another_level_is_the_same_sound_made_once(folder):
    """Moving a bed under the voice makes nothing again: not its loops, and not the search for a seam."""
    soundfile.write(folder / "x.wav", noise(5), RATE)
    for bed in (NightSea(), GeneratedBed(kind="drone"), FileBed(file=Asset(path="x.wav"))):
        lower = bed.model_copy(update={"under_voice": 20.0, "lift": 1.0})
        assert bed_sound(bed, RATE, folder) is bed_sound(lower, RATE, folder)


def test_a_render_never_overwrites_what_its_session_uses(folder, short):
    soundfile.write(folder / "rain.wav", noise(5), RATE)
    soundfile.write(folder / "voice.wav", noise(1), RATE)
    before = (folder / "rain.wav").read_bytes(), (folder / "voice.wav").read_bytes()
    session = change(short, bed=choice(), chimes={"own": {"bell": {"path": "voice.wav"}}})
    session = change(session, bed=FileBed(file=Asset(path="rain.wav")))
    for outputs in (
        {"out": folder / "rain.wav"},
        {"out": folder / "m.flac", "also": [folder / "rain.wav"]},
        {"out": folder / "m.flac", "stems": folder},
    ):
        with pytest.raises(InputError, match="used by the session itself"):
            produce(session, folder, with_proof=False, **outputs)
    assert before == ((folder / "rain.wav").read_bytes(), (folder / "voice.wav").read_bytes())
    assert not (folder / "m.flac").exists()
    book = Session(voice={"take_book": {"path": "book"}}, blocks=short.blocks)
    (folder / "book").mkdir()
    (folder / "book" / "two.wav").write_bytes(b"a take")
    with pytest.raises(InputError, match="used by the session itself"):
        produce(book, folder, folder / "book" / "two.wav")


@pytest.mark.parametrize("kind", ["night-sea", "sea", "rain", "bowls"])
def test_no_band_comes_back_within_ten_minutes(kind):
    """Autocorrelation of ten minutes, band by band (Wiener and Khinchin): 1 would be the same again. Loops that went
    round came to 0.94 and more."""
    rate, minutes = 12_000, 10
    bed = night_sea(NightSea(), rate) if kind == "night-sea" else generated_bed(GeneratedBed(kind=kind), rate)
    sound = bed.read(0, minutes * 60 * rate).mean(axis=0)
    size = 1 << (2 * len(sound) - 1).bit_length()
    bins = np.fft.rfft(sound, size).astype(np.complex64)
    frequencies = np.arange(len(bins)) * rate / size
    bands = ((150, 600), (600, 2000), (2000, 5500))[kind == "bowls" :]  # a low bowl is like another
    for low, high in bands:
        band = np.where((frequencies >= low) & (frequencies < high), np.abs(bins) ** 2, 0)
        alike = np.fft.irfft(band, size)[: len(sound) // 2]
        whole = alike / alike[0] * len(sound) / (len(sound) - np.arange(len(alike)))
        assert whole[10 * rate :].max() < (0.5 if kind == "bowls" else 0.12), (low, high)


def test_a_wandering_bed_is_the_same_read_in_any_pieces():
    bed = night_sea(NightSea(), RATE)
    whole = bed.read(-3 * RATE, 40 * RATE)
    cuts = [-3 * RATE, -1, 0, 5 * RATE + 7, 16 * RATE, 37 * RATE]
    pieces = [bed.read(a, b - a) for a, b in pairwise(cuts)]
    assert np.array_equal(np.concatenate(pieces, axis=1), whole)
    assert np.array_equal(bed.read(20 * RATE, 100), bed.read(20 * RATE, RATE)[:, :100])


def test_a_bed_that_is_kept_is_the_one_that_was_made_and_a_damaged_one_is_made_again(tmp_path):
    choice, made = NightSea(seed=5), []

    def make():
        made.append(1)
        return tuple(np.random.default_rng(n).standard_normal((2, 1_000 + n)).astype(np.float32) for n in range(3))

    first, second = (kept_loops(choice, 48_000, make, tmp_path) for _ in range(2))
    assert len(made) == 1 and all(np.array_equal(a, b) for a, b in zip(first, second, strict=True))
    assert not second[0].flags.writeable
    kept_loops(choice, 44_100, make, tmp_path)
    kept_loops(NightSea(seed=6), 48_000, make, tmp_path)
    assert len(made) == 3
    for file in tmp_path.glob("beds/*/*"):
        file.write_bytes(file.read_bytes()[:-20])
    third = kept_loops(choice, 48_000, make, tmp_path)
    assert len(made) == 4 and np.array_equal(third[2], first[2])
