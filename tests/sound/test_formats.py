"""Masters in every format: dither, several at once, tags, and cues where they were after decoding."""

import numpy as np
import pyloudnorm
import pytest
import soundfile
from helpers import produce

from nafas.cli.main import main
from nafas.errors import InputError
from nafas.script import save_session
from nafas.script.edits.session_edits import change
from nafas.sound.files.dither import FULL_SCALE, Dither
from nafas.sound.files.formats import ENDINGS, encoding_of

RATE = 48_000


@pytest.fixture(scope="module")
def made(tmp_path_factory):
    """Twenty seconds in every format, in one pass."""
    from helpers import breath

    from nafas.script import Session, Talk

    folder = tmp_path_factory.mktemp("formats")
    talk = Talk(id="hello", paragraphs=("Sit by the rail. Listen.",), pause_after=1)
    session = Session(title="Crossing", opening=2, closing=4, blocks=(talk, breath("2-3", 2)))
    session = change(session, tags={"artist": "The deck crew", "comment": "made up"})
    paths = [folder / f"m{ending}" for ending in ENDINGS]
    return produce(session, folder, paths[0], also=paths[1:])


def test_tpdf_dither_leaves_no_trace_of_the_signal():
    """Lipshitz, Wannamaker and Vanderkooy 1992: the error's mean is 0 and its power 1/4 step squared (1/12 from
    rounding and 2/12 from the draws) whatever the signal is; without dither a tone below one step is lost."""
    n = 400_000
    for level in (0.0, 0.2, 0.5, 0.77):
        error = Dither(1)(np.full((1, n), level / FULL_SCALE, np.float32))[0] - level
        assert error.mean() == pytest.approx(0, abs=0.005) and error.var() == pytest.approx(0.25, rel=0.02)
    tone = 0.4 * np.sin(2 * np.pi * 1000 * np.arange(n) / RATE)
    dithered = Dither(1)((tone / FULL_SCALE).astype(np.float32)[None])[0]
    kept = 2 * np.mean(dithered * np.sin(2 * np.pi * 1000 * np.arange(n) / RATE))
    assert kept == pytest.approx(0.4, abs=0.01) and not np.rint(tone).any()
    spectrum = np.abs(np.fft.rfft(dithered * np.hanning(n)))
    third = spectrum[round(3000 * n / RATE)]
    assert third < 6 * np.median(spectrum)  # no distortion stands out of the hiss


def test_dither_follows_the_places_not_the_blocks():
    block = np.random.default_rng(1).standard_normal((2, 5000)).astype(np.float32) * 0.5
    whole, pieces = Dither(2), Dither(2)
    parts = [pieces(block[:, a:b]) for a, b in ((0, 17), (17, 3000), (3000, 5000))]
    assert np.array_equal(whole(block), np.concatenate(parts, axis=1))
    assert not np.array_equal(*Dither(2)(np.zeros((2, 1000), np.float32)))  # each side its own
    loud = Dither(1)(np.full((1, 10), 2.0, np.float32))
    assert (loud == 32767).all()


def test_every_format_is_the_same_master(made):
    """Length and loudness, measured by pyloudnorm; codecs within 0.2 LU."""
    reference, _ = soundfile.read(made.mastered.path)
    target = pyloudnorm.Meter(RATE).integrated_loudness(reference)
    assert len(made.mastered.also) == len(ENDINGS) - 1
    for path in made.mastered.also:
        found, rate = soundfile.read(path)
        assert rate == RATE and abs(len(found) - len(reference)) <= 4608
        assert pyloudnorm.Meter(RATE).integrated_loudness(found) == pytest.approx(target, abs=0.2)


@pytest.mark.parametrize("ending", ENDINGS)
def test_a_decoded_master_has_its_cues_where_they_were(made, ending):
    """The codec's own delay, found by cross-correlation, is taken off by the container: none is left."""
    path = made.mastered.path.with_suffix(ending)
    reference, _ = soundfile.read(made.mastered.path)
    found, _ = soundfile.read(path)
    for placement in made.cast.placements[2::4]:
        begin = placement.start
        word = reference[begin : begin + 12_000, 0]
        around = found[begin - 4000 : begin + 16_000, 0]
        similarity = np.correlate(around, word, "valid")
        assert abs(int(similarity.argmax()) - 4000) <= 2, placement.moment.address


@pytest.mark.parametrize("ending", [".flac", ".mp3", ".ogg", ".opus"])
def test_tags_are_in_the_file(made, ending):
    with soundfile.SoundFile(made.mastered.path.with_suffix(ending)) as file:
        assert (file.title, file.artist) == ("Crossing", "The deck crew")


@pytest.mark.parametrize(("name", "bits", "subtype"), [
    ("a.wav", "16", "PCM_16"), ("a.wav", "24", "PCM_24"), ("a.wav", "float", "FLOAT"), ("a.flac", "16", "PCM_16"),
])  # fmt: skip
def test_bits_are_as_asked_and_always_alike(short, folder, name, bits, subtype):
    first = produce(short, folder, folder / name, with_proof=False, bits=bits)
    assert soundfile.info(folder / name).subtype == subtype
    again = folder / f"b{first.mastered.path.suffix}"
    produce(short, folder, again, with_proof=False, bits=bits)
    assert again.read_bytes() == first.mastered.path.read_bytes()
    found, _ = soundfile.read(folder / name)
    measured = pyloudnorm.Meter(RATE).integrated_loudness(found)
    assert measured == pytest.approx(first.mastered.measured.loudness, abs=0.1)


@pytest.mark.parametrize(("name", "bits", "rate", "says"), [
    ("a.aac", "24", 48_000, "not a known audio format"), ("a", "24", 48_000, "no ending"),
    ("a.flac", "float", 48_000, "float bits"), ("a.wav", "8", 48_000, "8 bits"),
    ("a.mp3", "24", 96_000, "cannot hold 96000"), ("a.opus", "24", 44_100, "cannot hold 44100"),
])  # fmt: skip
def test_what_cannot_be_written_is_said_before_any_work(folder, short, name, bits, rate, says):
    with pytest.raises(InputError, match=says):
        encoding_of(folder / name, bits, rate)
    with pytest.raises(InputError, match=says):
        produce(short, folder, folder / "m.wav", also=[folder / name], bits=bits, rate=rate)
    assert list(folder.iterdir()) == []


def test_the_command_line_writes_several(folder, short, capsys):
    save_session(short, folder / "s.nafas")
    arguments = ["render", str(folder / "s.nafas"), "--no-proof", "-o", str(folder / "m.flac")]
    assert main([*arguments, "-o", str(folder / "m.mp3"), "--bits", "16", "--target", "broadcast"]) == 0
    told = capsys.readouterr().out
    assert "-23.0 LUFS" in told and "m.mp3" in told and "loudness range" in told
    assert main([*arguments, "-o", str(folder / "m.flac")]) == 1
    assert "given twice" in capsys.readouterr().err
