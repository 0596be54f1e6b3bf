"""What goes out: a lossy bed as it is, stems that sum to the mix, tags in any script, a loudness out of reach told."""

import numpy as np
import pytest
import soundfile
from helpers import produce
from mutagen.id3 import ID3
from mutagen.wave import WAVE

from nafas.cli.main import main
from nafas.errors import InputError
from nafas.files import file_digest
from nafas.script import save_session
from nafas.script.edits.session_edits import change
from nafas.script.model.assets import Asset
from nafas.script.model.beds import FileBed
from nafas.script.model.session import MasterSettings, Tags

RATE = 48_000


def clicking(seconds: float) -> np.ndarray:
    """Noise with a click every tenth of a second: what is shifted by ten milliseconds is heard and measured."""
    rng = np.random.default_rng(2)
    sound = rng.standard_normal((round(seconds * RATE), 2)) * 0.02
    sound[:: RATE // 10] += 0.5
    return sound.astype(np.float32)


def write(path, sound, container, subtype):
    with soundfile.SoundFile(path, "w", RATE, 2, subtype, format=container) as file:
        for part in np.array_split(sound, 40):
            file.write(part)


@pytest.mark.parametrize(("name", "container", "subtype"), [("b.ogg", "OGG", "VORBIS"), ("b.mp3", "MP3", None)])
def test_a_lossy_bed_sounds_in_a_render_as_it_does_from_the_start(tmp_path, short, name, container, subtype):
    """In Ogg Vorbis 52 to 110 blocks of a master were wrong, and stems did not sum to the mix."""
    write(tmp_path / name, clicking(40), container, subtype)
    write(tmp_path / "b.wav", soundfile.read(tmp_path / name, dtype="float32")[0], "WAV", "FLOAT")
    made = {}
    for bed in (name, "b.wav"):
        session = change(short, bed=FileBed(file=Asset(path=bed), find_seam=False))
        stems = tmp_path / f"{bed} stems"
        produce(session, tmp_path, tmp_path / f"{bed}.wav", stems, with_proof=False, bits="float")
        made[bed] = [soundfile.read(stems / f"{stem}.wav")[0] for stem in ("voice", "chimes", "bed")]
        made[bed].append(soundfile.read(tmp_path / f"{bed}.wav")[0])
    for lossy, plain in zip(made[name], made["b.wav"]):
        assert np.abs(lossy - plain).max() < 2e-6
    voice, chimes, bed, master = made[name]
    mix = voice + chimes + bed
    gain = float((mix * master).sum() / (mix * mix).sum())
    assert np.abs(master - gain * mix).max() < 1e-5


def test_another_recording_under_a_bed_s_name_is_refused(tmp_path, short):
    write(tmp_path / "b.wav", clicking(5), "WAV", "PCM_16")
    bed = FileBed(file=Asset(path="b.wav", sha256=file_digest(tmp_path / "b.wav")))
    produce(change(short, bed=bed), tmp_path, tmp_path / "m.wav", with_proof=False)
    write(tmp_path / "b.wav", clicking(6), "WAV", "PCM_16")
    with pytest.raises(InputError, match="not the recording this session was made with"):
        produce(change(short, bed=bed), tmp_path, tmp_path / "m.wav", with_proof=False)


def test_tags_of_any_script_are_read_as_they_were_written(tmp_path, short):
    tags = Tags(artist="Экипаж ночной паромы", album="夜の渡し", comment="ruhig – ça va")
    session = change(short, title="Zwischen Überfahrten", tags=tags)
    also = [tmp_path / "m.mp3", tmp_path / "f.flac"]
    produce(session, tmp_path, tmp_path / "m.wav", also=also, with_proof=False)
    for found in (ID3(tmp_path / "m.mp3"), WAVE(tmp_path / "m.wav").tags):
        assert found.version == (2, 4, 0)
        said = [found[key].text[0] for key in ("TIT2", "TPE1", "TALB")] + [found.getall("COMM")[0].text[0]]
        assert said == [session.title, tags.artist, tags.album, tags.comment]
    assert (tmp_path / "m.mp3").read_bytes()[-128:-125] != b"TAG"  # no ID3v1, which would cut and garble them
    with soundfile.SoundFile(tmp_path / "f.flac") as file:
        assert (file.title, file.artist) == (session.title, tags.artist)
    lengths = {soundfile.info(path).frames for path in (tmp_path / "m.wav", *also)}
    assert len(lengths) == 1


def test_a_loudness_out_of_reach_has_an_exit_code_of_its_own(tmp_path, short, capsys):
    session = change(
        short, bed=None, end_bell=False, chimes={"phase": -40}, master=MasterSettings(loudness=-8, ceiling=-20)
    )
    save_session(session, tmp_path / "a.nafas")
    arguments = ["render", str(tmp_path / "a.nafas"), "-o", str(tmp_path / "m.wav"), "--no-proof"]
    assert main(arguments) == 3
    assert "-8 LUFS is out of reach" in capsys.readouterr().err and not (tmp_path / "m.wav").exists()
    assert main([*arguments, "--anyway"]) == 0 and (tmp_path / "m.wav").exists()
    assert "misses its target" in capsys.readouterr().out
