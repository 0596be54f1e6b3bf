"""Take books: what is read, and what is refused with its file named."""

import json

import numpy as np
import pytest
import soundfile
from helpers import breath

from nafas.demo import FOLDER
from nafas.errors import InputError
from nafas.script import Session
from nafas.voice import Narrator, TakeBook
from nafas.voice.delivery import Delivery, SpokenLine
from nafas.voice.level import HIGHEST_PEAK, active_level, tame_peaks


def book(folder, *files, **take):
    takes = [{"file": f, "text": "two", "trim": [0, 1], **take} for f in files]
    (folder / "takes.json").write_text(json.dumps({"format": 1, "takes": takes}))
    return folder


def tone(path, rate=48_000, seconds=0.4, channels=1, subtype=None):
    wave = 0.3 * np.sin(2 * np.pi * 300 * np.arange(int(rate * seconds)) / rate)
    soundfile.write(path, np.stack([wave] * channels, axis=1), rate, subtype=subtype)


def test_telephone_takes_and_stereo_takes_are_read(folder):
    tone(folder / "a.wav", rate=8000, subtype="PCM_U8")
    tone(folder / "b.flac", rate=96_000, channels=2)
    found = TakeBook(book(folder, "a.wav", "b.flac"))
    a, b = (found.clip(take) for take in found.takes("Two.", "en"))
    assert (a.rate, b.rate) == (8000, 96_000)
    assert float(a.at_rate(48_000).seconds) == pytest.approx(0.4, abs=0.001)
    assert found.takes("two", "fr") == ()


@pytest.mark.parametrize(
    ("make", "says"),
    [
        (lambda path: None, "cannot be read"),
        (lambda path: path.write_bytes(b"RIFF nonsense"), "is not audio"),
        (lambda path: tone(path, seconds=0), "is empty"),
        (lambda path: tone(path, rate=2000), "2000 Hz"),
        (lambda path: soundfile.write(path, np.full(9000, np.nan), 8000, subtype="FLOAT"), "not numbers"),
        (lambda path: path.mkdir(), "is a folder"),
    ],
)
def test_a_take_that_cannot_be_used_is_named(folder, make, says):
    make(folder / "x.wav")
    found = TakeBook(book(folder, "x.wav"))
    with pytest.raises(InputError, match=says) as caught:
        found.clip(found.takes("two", "en")[0])
    assert "x.wav" in str(caught.value) and caught.value.remedy


def test_a_changed_take_is_noticed(folder):
    tone(folder / "x.wav")
    found = TakeBook(book(folder, "x.wav", sha256="0" * 64))
    with pytest.raises(InputError, match="changed or broken"):
        found.clip(found.takes("two", "en")[0])


@pytest.mark.parametrize("text", ["", "{", "[]", '{"format": 3}', '{"format": 1, "x": 1}', '{"format":1,"takes":[{}]}'])
def test_a_broken_index_is_refused(folder, text):
    (folder / "takes.json").write_text(text)
    with pytest.raises(InputError, match=r"takes\.json"):
        TakeBook(folder)


def test_the_window_goes_on_with_the_stand_in_where_a_take_is_broken(folder):
    session = Session(voice={"take_book": {"path": "."}}, blocks=(breath(),))
    book(folder, "gone.wav")
    lenient = Narrator(session.voice, "en", folder, strict=False)
    assert lenient.clips("two")[0].stand_in and len(lenient.problems) == 1
    other = session.voice.take_book.model_copy(update={"sha256": "0" * 64})
    with pytest.raises(InputError, match="not the take book"):
        Narrator(session.voice.model_copy(update={"take_book": other}), "en", folder)
    with pytest.raises(InputError, match=r"gone\.wav"):
        Narrator(session.voice, "en", folder).clips("two")


def test_everything_is_read_at_once_and_what_is_broken_is_told(folder):
    takes = [{"file": f"{word}.wav", "text": word, "trim": [0, 1]} for word in ("two", "three", "four")]
    (folder / "takes.json").write_text(json.dumps({"format": 1, "takes": takes}))
    tone(folder / "two.wav"), tone(folder / "four.wav", rate=8000)
    voice = Session(voice={"take_book": {"path": "."}}).voice
    lines = [SpokenLine(text, Delivery.WORD) for text in ("two", "three", "four", "five", "two")]
    read = Narrator(voice, "en", folder, strict=False)
    read.read_all(lines)
    assert [place.rpartition("/")[2] for place in read.problems] == ["three.wav"]
    (folder / "two.wav").unlink()  # nothing is read a second time
    assert [read.clips(line.text, line.delivery)[0].stand_in for line in lines] == [False, True, False, True, False]
    assert read.known_length("five") is None and read.clips("four", Delivery.WORD)[0].rate == 8000
    with pytest.raises(InputError, match=r"three\.wav"):
        Narrator(voice, "en", folder).read_all(lines[1:])
    unsaid = Narrator(voice.model_copy(update={"fills": False}), "en", folder, strict=False)
    unsaid.read_all(lines)
    assert unsaid.clips("five", Delivery.WORD)[0].waiting


def test_peaks_are_eased_without_changing_the_loudness():
    random = np.random.default_rng(3)
    speech = (random.standard_normal(24_000) * 0.05).astype(np.float32)
    speech[::4000] += 0.6
    eased = tame_peaks(speech, 48_000)
    assert np.abs(eased).max() <= 10 ** (HIGHEST_PEAK / 20) * 1.01
    assert active_level(eased, 48_000) == pytest.approx(active_level(speech, 48_000), abs=0.3)


def test_the_shipped_takes_are_whole_and_say_where_they_come_from():
    shipped = TakeBook(FOLDER / "takes")
    assert "CC0" in shipped.index.licence and "piper" in shipped.index.origin
    for take in shipped.index.takes:
        clip = shipped.clip(take)
        assert 0 <= clip.beat < float(clip.seconds)
