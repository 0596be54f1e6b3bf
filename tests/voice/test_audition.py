"""What takes are judged by: words on clicks, even counts, outlines."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from nafas.demo import FOLDER
from nafas.voice import Clip, TakeBook
from nafas.voice.audition import RATE, against_click, on_grid, outline
from nafas.voice.beat.felt_beat import felt_beat, find_beat


def word(beat: float) -> Clip:
    """One sample at the beat, so that its place can be read to the sample."""
    samples = np.zeros(RATE // 2, np.float32)
    samples[round(beat * RATE)] = 0.5
    return Clip("two", "x", samples, RATE, beat)


@given(st.lists(st.floats(0, 0.4), min_size=1, max_size=9), st.sampled_from([0.5, 0.75, 1.0]))
def test_beats_stand_on_an_even_grid(beats, interval):
    sound = on_grid([word(beat) for beat in beats], interval, click=False)
    places = np.flatnonzero(sound == 0.5)
    assert len(places) == len(beats)
    assert (np.abs(np.diff(places) - interval * RATE) <= 1).all()


def test_a_click_is_on_every_beat_and_one_before_them():
    sound = against_click(word(0.123), times=4)
    places = np.flatnonzero(np.abs(sound) > 0.3)
    assert len(places) == 4 and np.ptp(np.diff(places)) <= 1
    first = np.flatnonzero(sound)[0]
    assert places[0] - first == pytest.approx(RATE, abs=3)
    assert len(on_grid([], 1.0, click=True)) > 0


def test_eight_shipped_counts_are_more_even_on_their_beats_than_by_their_files():
    """Felt beats measured again in the sum: on the grid they are even to the sample, file starts leave them uneven."""
    book = TakeBook(FOLDER / "takes")
    words = ("one", "two", "three", "four", "five", "six", "seven", "eight")
    clips = [book.clip(book.takes(text, "en")[0]) for text in words]

    def spread(by_beat):
        sound = on_grid(clips, 1.0, click=False, by_beat=by_beat)
        beats = []
        for n in range(8):
            begin = int((0.35 + n) * RATE)
            beats.append(begin / RATE + felt_beat(sound[begin : begin + int(0.95 * RATE)], RATE))
        return float(np.std(np.diff(beats)))

    assert spread(True) < 0.5 * spread(False)


@given(st.integers(0, 3000), st.integers(0, 300))
def test_an_outline_holds_every_extreme(many, columns):
    samples = np.random.default_rng(many).standard_normal(many).astype(np.float32)
    shape = outline(samples, columns)
    assert shape.shape == (columns, 2) and (shape[:, 0] <= shape[:, 1]).all()
    if many and columns and columns <= many:
        assert shape.max() == samples.max() and shape.min() == samples.min()


@pytest.mark.parametrize("language", ["en", "de", "fr", "es", "it", "hi"])
def test_beats_of_six_languages_hold_in_noise(language):
    """One to ten at 20 dB over room noise, 300 ms of it before each word: within 12 ms on the whole, 50 ms for most."""
    from nafas.script.words.lexicon import count_word
    from nafas.voice.engines.cache import CachedEngine
    from nafas.voice.engines.espeak import Espeak
    from nafas.voice.level import active_level, speech_bounds

    engine, draw, errors = CachedEngine(Espeak()), np.random.default_rng(4), []
    for number in range(1, 11):
        samples, rate = engine.read(count_word(number, language), language, 130)
        begin, end = speech_bounds(samples, rate, 30.0, 0.0)
        samples = samples[begin:end]
        lead = int(0.3 * rate)
        noise = draw.standard_normal(len(samples) + 2 * lead)
        noisy = noise * 10 ** ((active_level(samples, rate) - 20) / 20)
        noisy[lead : lead + len(samples)] += samples
        heard = find_beat(noisy.astype(np.float32), rate)
        errors.append(abs(heard.seconds - 0.3 - find_beat(samples, rate).seconds))
    assert np.median(errors) < 0.012 and np.quantile(errors, 0.85) < 0.05


def test_a_cue_is_counted_on_from_and_a_number_stands_in_its_place():
    from nafas.voice.audition import words_to_count
    from nafas.voice.call_sheet import Line, LineKind

    def words(text, kind):
        return words_to_count(Line(text, "en", kind, 1, None, 1, ""))

    assert words("inhale", LineKind.CUE)[:3] == ["inhale", "two", "three"]
    assert (
        words("five", LineKind.COUNT) == words("Thank you.", LineKind.TALK) and len(words("five", LineKind.COUNT)) == 8
    )
