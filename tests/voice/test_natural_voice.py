"""The natural voice: the same every time, several readings that match, paced to fit; voices as files; and what happens
where one cannot be had."""

import json
import shutil
from fractions import Fraction

import numpy as np
import pytest
from helpers import breath

from nafas.cli.main import main
from nafas.errors import InputError
from nafas.script import Session, Talk
from nafas.script.model.assets import Asset
from nafas.script.model.voice import Pronunciation, Voice, VoiceModel
from nafas.timing import compile_session, paced
from nafas.voice import cast_session, cast_timeline
from nafas.voice.delivery import Delivery, deliveries
from nafas.voice.engines import voice_files
from nafas.voice.engines.adding import add_voice
from nafas.voice.engines.cache import CachedEngine
from nafas.voice.engines.choice import Reader, reader_for
from nafas.voice.engines.narrator import Narrator
from nafas.voice.engines.piper import Piper, clauses, length_scale
from nafas.voice.engines.readings import most_alike, pronounce, read_clips
from nafas.voice.pitch import median_pitch

from shelves import book_of  # isort: skip


@pytest.fixture(scope="module")
def joe():
    return voice_files.default_voice("en")


@pytest.fixture
def natural(monkeypatch, tmp_path):
    """As it is outside the tests: nothing makes eSpeak read."""
    monkeypatch.delenv("NAFAS_NARRATOR")
    monkeypatch.setenv("NAFAS_VOICES", str(tmp_path / "voices"))


def test_a_line_always_sounds_the_same_and_its_readings_differ(joe, folder):
    voice = Piper(joe)
    first, rate = voice.read("two,", "joe", 126)
    again, _ = voice.read("two,", "joe", 126)
    other, _ = voice.read("two,", "joe", 126, reading=1)
    assert rate == 22_050 and np.array_equal(first, again) and not np.array_equal(first[:2000], other[:2000])
    kept, _ = CachedEngine(voice, folder).read("two,", "joe", 126)
    assert np.array_equal(kept, first)
    assert np.array_equal(CachedEngine(voice, folder).read("two,", "joe", 126)[0], first)
    assert np.abs(first).max() < 1 and 0.2 < len(first) / rate < 1.2


def test_pace_and_punctuation(joe):
    voice, text = Piper(joe), "Sit with your back long, and let your shoulders be easy."
    slow, quick = (len(voice.read(text, "joe", pace)[0]) / 22_050 for pace in (90, 150))
    assert slow > quick * 1.25
    assert [length_scale(pace) for pace in (80, 105, 300)] == [1.6, pytest.approx(1.52, abs=0.01), 0.7]
    assert clauses(text) == ["Sit with your back long,", "and let your shoulders be easy."]
    assert clauses("inhale, belly") == ["inhale, belly"] and clauses("") == [""]
    assert not len(voice.read("", "joe", 105)[0])
    with pytest.raises(InputError, match="keep it under"):
        voice.read("word " * 500, "joe", 105)


def test_the_readings_that_are_cast_are_those_most_alike(joe):
    reader = Reader(CachedEngine(Piper(joe)), "joe", "joe", slow=True)
    clips = read_clips(reader, "four", Delivery.WORD, 105)
    assert len(clips) == 3 and len({clip.samples.tobytes() for clip in clips}) == 3
    lengths, beats = ([f(clip) for clip in clips] for f in (lambda c: c.spoken / c.rate, lambda c: c.beat))
    assert max(lengths) - min(lengths) < 0.04 and max(beats) - min(beats) < 0.02
    pitches = [median_pitch(clip.samples, clip.rate) for clip in clips]
    assert max(pitches) / min(pitches) < 2 ** (1 / 12)  # within a semitone
    odd = clips[0].shorter(0.6)
    assert odd not in most_alike([odd, *clips, *clips], 3)


def test_words_go_on_within_a_phase_and_fall_at_its_end(joe):
    """The pitch at which counts are said is lower where the phase is over."""
    reader = Reader(CachedEngine(Piper(joe)), "joe", "joe", slow=True)
    lower = 0
    for word in ("two", "five", "seven"):
        goes_on, falls = (read_clips(reader, word, d, 105)[0] for d in (Delivery.WORD, Delivery.CLOSE))
        lower += median_pitch(falls.samples, falls.rate) < median_pitch(goes_on.samples, goes_on.rate)
    assert lower >= 2
    session = Session(blocks=(Talk(id="t", paragraphs=("Now.",)), breath("2-3", 1)))
    spoken = compile_session(session, paced()).spoken
    assert [d.value for d in deliveries(spoken)] == ["talk", "word", "close", "word", "word", "close"]


def test_the_default_voice_fits_counts_that_are_short_without_shortening(natural):
    """It reads quicker where its place is short; what is too long even so is reported."""
    style = {"carrier": "sea", "cue": "none"}
    session = Session(blocks=(breath("2-2", 1, count_length="0.75", style=style),), opening=2)
    narrator = Narrator(session.voice, "en", None)
    assert narrator.reader.title == "joe"
    cast = cast_timeline(compile_session(session, narrator.spoken_length), narrator)
    usual = {clip for d in Delivery for clip in narrator.clips("sea two", d)}
    assert not any(p.clip.at_rate(22_050) in usual for p in cast.placements if p.moment.text == "sea two")
    assert not cast.misfits and not cast.shortened
    tight = Session(blocks=(breath("in 2", 1, count_length="0.25"),), opening=2)
    assert cast_timeline(compile_session(tight, narrator.spoken_length), narrator).misfits


def test_who_reads(natural, folder):
    assert reader_for(Voice(), "en").title == "joe" and reader_for(Voice(), "es").title == "eSpeak"
    assert reader_for(Voice(narrator="espeak"), "en").title == "eSpeak"
    assert reader_for(Voice(engine_voice="en+f3"), "en").voice == "en+f3"
    gone = Voice(model=VoiceModel(name="nobody"))
    with pytest.raises(InputError, match="is not on this machine; add its files"):
        Narrator(gone, "en", folder)
    lenient = Narrator(gone, "en", folder, strict=False)
    assert lenient.clips("two")[0].stand_in and lenient.reader.title == "eSpeak" and len(lenient.problems) == 1
    another = Voice(model=VoiceModel(name="joe", sha256="0" * 64))
    with pytest.raises(InputError, match="another one of that name"):
        Narrator(another, "en", folder)


def test_espeak_takes_over_where_the_natural_voice_breaks_and_it_is_told(natural, folder, monkeypatch):
    def broken(self, *_):
        raise InputError("voice joe", "cannot be loaded", "install Nafas again")

    monkeypatch.setattr(Piper, "read", broken)
    session = Session(blocks=(breath("2-2", 1),), opening=2, voice=Voice(pace=111))  # nothing of it is kept yet
    cast = cast_session(session, folder)
    assert cast.narrator == "eSpeak" and "cannot be loaded" in cast.voice_problems[0]
    assert all(np.abs(p.clip.samples).max() > 0.01 for p in cast.placements)
    monkeypatch.setattr("nafas.voice.engines.choice.natural_voices_run", lambda: False)
    assert reader_for(Voice(), "en").title == "eSpeak"


def test_voices_are_added_as_files(natural, joe, folder, capsys):
    given = folder / "given"
    given.mkdir()
    shutil.copy(joe.model, given / "mate.onnx")
    config = json.loads(joe.config.read_text())
    (given / "mate.onnx.json").write_text(json.dumps(config | {"espeak": {"voice": "es"}}))
    (given / "MODEL_CARD").write_text("# Mate\n* License: CC BY 4.0\n")
    assert main(["voices", "--add", str(given / "mate.onnx")]) == 0
    assert "added mate (es), licence: CC BY 4.0" in capsys.readouterr().out
    assert [voice.name for voice in voice_files.voice_files()] == ["joe", "mate"]
    assert main(["voices", "--add", str(given / "mate.onnx")]) == 1 and "there already" in capsys.readouterr().err
    model = VoiceModel(name="mate", sha256=voice_files.find_voice(VoiceModel(name="mate")).sha256)
    assert Narrator(Voice(model=model), "es", folder).clips("dos", Delivery.CLOSE)[0].seconds > Fraction(1, 5)
    assert main(["say", "uno", "--language", "es", "--voice", "mate", "--word", "-o", str(folder / "uno.wav")]) == 0
    assert "by mate" in capsys.readouterr().out and (folder / "uno.wav").stat().st_size > 8000


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"espeak": None}, "does not describe a voice"),
        ({"phoneme_type": "pinyin"}, "cannot be read here"),
        (None, "does not describe a voice"),
        ("gone", "no such file"),
    ],
)
def test_files_that_are_no_voice_are_refused(natural, joe, folder, change, said):
    (folder / "x.onnx").write_bytes(b"not a model")
    config = folder / "x.onnx.json"
    if change is None:
        config.write_text("[" * 10_000)
    elif change != "gone":
        config.write_text(json.dumps(json.loads(joe.config.read_text()) | change))
    with pytest.raises(InputError, match=f"(?i){said}"):
        add_voice(folder / "x.onnx")
    assert not (folder / "voices").exists() or not list((folder / "voices").iterdir())


def test_a_model_that_is_none_is_told_and_the_session_reads_on(natural, joe, folder):
    (folder / "x.onnx").write_bytes(b"not a model")
    shutil.copy(joe.config, folder / "x.onnx.json")
    with pytest.raises(InputError, match="cannot be loaded"):  # it says no word: it is not added
        add_voice(folder / "x.onnx")
    assert not list(voice_files.voices_folder().glob("*")) and not list(voice_files.voices_folder().glob(".*"))
    broken = voice_files.voices_folder() / "x"  # one that breaks later
    broken.mkdir(parents=True)
    for name in ("x.onnx", "x.onnx.json"):
        shutil.copy(folder / name, broken / name)
    asked = Voice(model=VoiceModel(name="x"))
    with pytest.raises(InputError, match="cannot be loaded"):
        Narrator(asked, "en", folder).clips("two")
    lenient = Narrator(asked, "en", folder, strict=False)
    assert np.abs(lenient.clips("two")[0].samples).max() > 0.01 and lenient.reader_changed


def test_words_are_read_as_the_producer_wants(joe):
    said = (Pronunciation(word="inhale", read="in hale"), Pronunciation(word="prana", read="[[pɹˈɑːnə]]"))
    assert pronounce("Inhale. Inhaled, prana!", said, natural=True) == "in hale. Inhaled, [[pɹˈɑːnə]]!"
    assert pronounce("prana", said, natural=False) == "prana"
    assert pronounce(r"a\1", (Pronunciation(word="a", read=r"\g<0>"),), natural=True) == r"\g<0>\1"
    reader = Reader(CachedEngine(Piper(joe)), "joe", "joe", slow=True)
    usual, own = (read_clips(reader, "prana", Delivery.TALK, 105, words)[0] for words in ((), said))
    assert usual.frames != own.frames


def test_lines_without_a_take_may_stay_unsaid(folder):
    book = book_of(folder / "book", ("two.wav", "two", 0.4, {}))
    voice = Voice(take_book=Asset(path=str(book)), fills=False)
    session = Session(blocks=(breath("2-2", 1),), opening=2, voice=voice)
    cast = cast_session(session, folder)
    assert cast.waiting_lines == ["inhale", "exhale"] and not cast.stand_in_lines
    assert all(not p.clip.samples.any() for p in cast.placements if p.moment.text != "two")
    filled = session.model_copy(update={"voice": voice.model_copy(update={"fills": True})})
    assert cast_session(filled, folder).stand_in_lines == ["inhale", "exhale"]
