"""Telling lines apart: similarity, the best path through a reading, sources of sound, and the reader who practises."""

import numpy as np
import pytest
import soundfile
from hypothesis import given
from hypothesis import strategies as st

from nafas.errors import InputError
from nafas.voice.engines.cache import CachedEngine
from nafas.voice.engines.espeak import Espeak
from nafas.voice.level import speech_bounds
from nafas.voice.recording.practice import RATE, Manners, practice_line, practice_recording, room
from nafas.voice.segmentation.adaptation import adapted
from nafas.voice.segmentation.aligner import Candidates, Match, align, spans_of
from nafas.voice.segmentation.features import FRAMES, by_reader, cepstra, distances, features
from nafas.voice.segmentation.matcher import _supported, match_lines, strangeness, stretches
from nafas.voice.segmentation.source import Source
from nafas.voice.segmentation.utterances import RATE as LOOKED_AT
from nafas.voice.segmentation.utterances import Utterance, band_levels, find_utterances, noise_floor

ENGINE = CachedEngine(Espeak())
WORDS = ("one", "two", "six", "inhale", "let your back be long")


def said(word, voice="en", pace=130):
    import soxr

    samples, rate = ENGINE.read(word, voice, pace)
    samples = soxr.resample(samples, rate, LOOKED_AT).astype(np.float32)
    begin, end = speech_bounds(samples, LOOKED_AT, 30.0, 0.0)
    return samples[begin:end]


def heard(voice="en", pace=130):
    return np.array([features(said(word, voice, pace)) for word in WORDS])


@pytest.mark.parametrize(("voice", "pace"), [("en", 160), ("en+f2", 130), ("en+m5", 110), ("en-us", 130)])
def test_a_word_is_most_like_itself_in_another_voice_and_pace(voice, pace):
    found = distances(heard(voice, pace), heard())
    assert list(found.argmin(axis=1)) == list(range(len(WORDS)))


def test_distance_is_nothing_to_oneself_and_the_same_both_ways():
    one = heard()
    found = distances(one, one)
    assert np.allclose(np.diag(found), 0, atol=1e-3) and np.allclose(found, found.T, atol=1e-3)
    assert np.allclose(distances(one[:1], one), found[:1], atol=1e-4)  # in parts or at once


@given(st.floats(0.001, 10))
def test_level_says_nothing_about_a_word(gain):
    word = said("six")
    assert np.allclose(features(word * np.float32(gain)), features(word), atol=0.02)


@pytest.mark.parametrize("samples", [np.zeros(0), np.zeros(100), np.zeros(16_000)])
def test_nothing_to_hear_is_no_error(samples):
    found = features(samples.astype(np.float32))
    assert found.shape[0] == FRAMES and np.isfinite(found).all()


def path(costs, lengths=None, starts=None):
    """The lines that an alignment gives to utterances a second apart, with these distances to each line."""
    costs = np.array(costs, np.float32)
    begin = np.arange(len(costs)) * 2.0 if starts is None else np.array(starts)
    spans = [(n, n) for n in range(len(costs))]
    lengths = np.ones(costs.shape[1]) if lengths is None else np.array(lengths)
    seconds = np.ones(len(begin))
    found = align(Candidates(spans, costs, seconds, np.zeros(len(begin))), lengths)
    return [match.line for match in found]


def near(*lines, many=4):
    """Distances of a reading in which each utterance sounds like this line; None like none."""
    return [[0.5 if line == n else 1.0 for n in range(many)] for line in lines]


@pytest.mark.parametrize(
    "read",
    [
        [0, 1, 2, 3],
        [0, 0, 1, 2, 2, 2, 3],  # second tries
        [0, 1, 3],  # a skipped line
        [1, 2, 3],  # the first one left out
        [0, None, 1, 2, None, 3],  # coughs
        [0, 1, 2, 3, 0, 1, 2, 3],  # the sheet read twice
        [0, 1, 0, 1, 2, 3],  # back to the beginning after a slip
        [2],
    ],
)
def test_a_slip_does_not_shift_what_follows(read):
    assert path(near(*read)) == read


def test_an_earlier_line_read_again_in_passing_moves_nothing():
    """Read 0 1 2 3 4, then 1 once more, then on with 5; every word a little unclear."""
    read = [0, 1, 2, 3, 4, 1, 5, 6]
    assert path(near(*read, many=7)) == read


def test_what_only_order_holds_up_is_not_sure():
    """Matches of a row are believed where their lines are near; by their places alone they are not."""
    draw = np.random.default_rng(2)
    spans = [(n, n) for n in range(12)]
    matches = [Match(n, n, n, 0.95) for n in range(12)]
    anywhere = draw.uniform(0.8, 1.2, (12, 12)).astype(np.float32)
    assert max(match.confidence for match in _supported(matches, spans, anywhere)) < 0.5
    there = anywhere - 0.5 * np.eye(12, dtype=np.float32)
    assert min(match.confidence for match in _supported(matches, spans, there)) > 0.9
    mostly = there.copy()
    mostly[9:] = anywhere[9:]  # where the end is another's, the end is not sure
    kept = [match.confidence for match in _supported(matches, spans, mostly)]
    assert min(kept[:5]) > 0.7 and kept[11] < 0.5


def test_an_unclear_word_is_settled_by_its_neighbours():
    costs = near(0, 1, 2, 3)
    costs[1] = [1.0, 0.72, 0.75, 0.70]  # a little more like the last line than like its own
    assert path(costs) == [0, 1, 2, 3]


def test_confidence_says_how_much_dearer_any_other_way_is():
    """An unclear word between sure neighbours is surer than one by itself; a toss-up is not sure at all."""
    costs = np.array(near(0, 1, 2, 3), np.float32)
    costs[1] = [1.0, 0.72, 0.75, 0.70]
    many = len(costs)
    spans, ones = [(n, n) for n in range(many)], np.ones(many)
    among = align(Candidates(spans, costs, ones, np.zeros(many)), np.ones(4))
    alone = align(Candidates(spans[:1], costs[1:2], ones[:1], np.zeros(1)), np.ones(4))
    assert among[0].confidence > 0.9 and among[1].line == 1
    assert alone[0].confidence < 0.5 and among[1].confidence > alone[0].confidence


def test_what_sounds_as_the_one_before_is_the_same_line_again():
    """Two lines that the stand-in tells apart badly, each read twice: which reading is the second, the reader says."""
    costs = [[0.6, 0.62, 1.0], [0.62, 0.6, 1.0], [0.62, 0.6, 1.0], [0.62, 0.62, 1.0], [1.0, 1.0, 0.5], [1.0, 1.0, 0.5]]
    spans, ones = [(n, n) for n in range(6)], np.ones(6)
    for alike, lines in (([-1, 2, -1, 2, -1, 2], [0, 0, 1, 1, 2, 2]), ([-1, -1, 2, 2, -1, 2], [0, 1, 1, 1, 2, 2])):
        found = align(
            Candidates(spans, np.array(costs, np.float32), ones, np.zeros(6), np.array(alike, float)), np.ones(3)
        )
        assert [match.line for match in found] == lines


def test_a_learnt_map_brings_a_voice_nearer_to_the_reader():
    stand_in, reader = (np.array([cepstra(said(word, voice)) for word in WORDS]) for voice in ("en", "en+f4"))
    stand_in, reader = by_reader(stand_in, stand_in), by_reader(reader, reader)
    nearer = adapted(stand_in, reader, [(line, line) for line in range(4)])
    before, after = (np.diag(distances(voice, reader)) for voice in (stand_in, nearer))
    assert after[:4].mean() < 0.8 * before[:4].mean() and after[4] < before[4] * 1.05  # also what it has not heard
    assert adapted(stand_in, reader, []) is stand_in


def test_length_tells_apart_what_sounds_alike():
    costs = [[0.7, 0.7]] * 2
    spans, seconds = [(0, 0), (1, 1)], np.array([0.5, 3.0])
    found = align(Candidates(spans, np.array(costs, np.float32), seconds, np.zeros(2)), np.array([0.5, 3.0]))
    assert [match.line for match in found] == [0, 1]


def test_an_empty_reading_or_sheet_matches_nothing():
    empty = Candidates([], np.zeros((0, 3), np.float32), np.zeros(0), np.zeros(0))
    assert align(empty, np.ones(3)) == [] and match_lines([], [], np.zeros((0, FRAMES, 26)), [], np.ones(0)) == []


def test_neighbours_are_joined_over_short_pauses_only():
    starts, ends = np.array([0.0, 1.4, 4.0]), np.array([1.0, 2.0, 5.0])
    assert spans_of(starts, ends, 10.0) == [(0, 0), (0, 1), (1, 1), (2, 2)]
    assert spans_of(starts, ends, 1.5) == [(0, 0), (1, 1), (2, 2)]
    utterances = [Utterance(a, b, 30, -20) for a, b in zip(starts, ends)]
    assert stretches(utterances, 10.0) == spans_of(starts, ends, 10.0)


def test_every_utterance_is_answered_once_whatever_is_heard():
    draw = np.random.default_rng(3)
    utterances = [Utterance(n, n + 0.6, 30, -20) for n in range(12)]
    spans = stretches(utterances, 3.0)
    noise = draw.standard_normal((len(spans), FRAMES, 26)).astype(np.float32)
    readings = [heard(), heard("en+f2")]
    found = match_lines(utterances, spans, noise, readings, np.full(len(WORDS), 0.6))
    covered = [n for match in found for n in range(match.first, match.last + 1)]
    assert covered == list(range(12)) and all(0 <= match.confidence <= 1 for match in found)
    assert strangeness(found, spans, noise, readings) > 0.95  # and it is not taken for speech


# -- finding what was said


def looked_at(samples, rate=RATE):
    import soxr

    return find_utterances(band_levels([soxr.resample(samples.astype(np.float32), rate, LOOKED_AT)]))


def test_blocks_of_any_size_give_the_same_levels():
    samples = np.random.default_rng(0).standard_normal(LOOKED_AT * 3).astype(np.float32)
    whole = band_levels([samples])
    pieces = band_levels(np.array_split(samples, 37))
    assert np.allclose(whole, pieces, atol=1e-3) and len(whole) == pytest.approx(300, abs=3)


def test_the_floor_follows_a_room_that_changes():
    draw = np.random.default_rng(0)
    quiet, loud = (draw.standard_normal(LOOKED_AT * 30) * level for level in (0.001, 0.01))
    floor = noise_floor(band_levels([np.concatenate([quiet, loud]).astype(np.float32)]))
    assert np.median(floor[-1000:] - floor[:1000]) == pytest.approx(20, abs=1.5)


def test_hum_clicks_and_breaths_are_no_lines():
    """A word between hum, clicks and breaths: one utterance, its ends within 50 ms."""
    draw = np.random.default_rng(1)
    word = practice_line(ENGINE, "seven", Manners(), draw)
    for seed in range(4):
        made = practice_recording(
            ENGINE, ["seven"], Manners(skip=0, retake=0, cough=0, breath=1, click=1, hum=12), seed
        )
        found = looked_at(made.samples)
        assert len(found) == 1, seed
        assert found[0].start == pytest.approx(made.truth[0].start, abs=0.05)
        assert found[0].end == pytest.approx(made.truth[0].end, abs=0.12)
    assert looked_at(room(RATE * 20, Manners(snr=20), draw)) == []
    assert len(looked_at(np.concatenate([word, np.zeros(RATE // 7), word]))) == 1  # a stop's closure does not cut
    assert len(looked_at(np.concatenate([np.zeros(RATE), word, np.zeros(RATE), word, np.zeros(RATE)]))) == 2


def test_the_practice_reader_is_the_same_for_the_same_seed_and_knows_the_truth():
    manners = Manners(cough=0.5, retake=0.5)
    one, other = (practice_recording(ENGINE, WORDS, manners, seed=5) for _ in range(2))
    assert np.array_equal(one.samples, other.samples) and one.truth == other.truth
    assert not np.array_equal(one.samples[:1000], practice_recording(ENGINE, WORDS, manners, seed=6).samples[:1000])
    assert {spoken.line for spoken in one.truth} >= {None, 0}
    assert all(a.end <= b.start for a, b in zip(one.truth, one.truth[1:]))
    skipped = practice_recording(ENGINE, WORDS, Manners(skip=1.0), seed=1)
    assert skipped.truth == () and np.isfinite(skipped.samples).all()


# -- recordings


@pytest.mark.parametrize(
    ("ending", "subtype"), [("wav", "FLOAT"), ("flac", "PCM_16"), ("ogg", None), ("aiff", "PCM_24"), ("mp3", None)]
)
def test_recordings_of_every_kind_are_read_alike(folder, ending, subtype):
    tone = 0.3 * np.sin(2 * np.pi * 440 * np.arange(44_100 * 2) / 44_100)
    soundfile.write(folder / f"r.{ending}", np.stack([tone, tone], axis=1), 44_100, subtype=subtype)
    source = Source(folder / f"r.{ending}")
    assert source.seconds == pytest.approx(2, abs=0.1)
    blocks = np.concatenate(list(source.blocks(LOOKED_AT)))
    assert len(blocks) == pytest.approx(2 * LOOKED_AT, abs=2000)
    assert np.sqrt(np.mean(blocks[4000:24_000] ** 2)) == pytest.approx(0.3 / np.sqrt(2), rel=0.03)


def test_clipping_broken_numbers_and_the_ends_of_a_recording(folder):
    samples = np.clip(2 * np.sin(np.arange(RATE * 2) / 20), -1, 1).astype(np.float32)
    samples[100:110] = np.nan
    soundfile.write(folder / "r.wav", samples, RATE, subtype="FLOAT")
    source = Source(folder / "r.wav")
    assert all(np.isfinite(block).all() for block in source.blocks(LOOKED_AT)) and source.clipped > 0.3
    assert len(source.read(RATE * 2 - 10, 100)) == 10 and len(source.read(RATE * 9, 100)) == 0
    for name, rate, length in (("short.wav", RATE, 50), ("slow.wav", 2000, 4000)):
        soundfile.write(folder / name, np.zeros(length), rate)
        with pytest.raises(InputError):
            Source(folder / name)


def test_a_click_joined_to_a_sentence_is_left_out_of_it():
    """Of two neighbouring sounds taken for one line, the end that makes it sound worse is no part of it; where both
    are needed, both stay."""
    spans = [(0, 0), (0, 1), (1, 1)]
    seconds, pauses = np.array([0.1, 2.0, 1.8]), np.array([0.0, 0.1, 0.0])
    lengths = np.array([1.8])
    for near, expected in ((0.6, [(0, None), (1, 0)]), (1.1, [(0, 0)])):
        distance = np.array([[1.3], [0.8], [near]], np.float32)
        found = align(Candidates(spans, distance, seconds, pauses), lengths, nothing=5.0)
        assert [(m.first, m.line) for m in found] == expected


def test_without_an_order_any_line_may_follow_any_other():
    """Four lines read backwards: told apart by sound alone, where going back costs nothing."""
    many = 4
    spans = [(n, n) for n in range(many)]
    distance = np.full((many, many), 1.0, np.float32)
    for n in range(many):
        distance[n, many - 1 - n] = 0.85
    candidates = Candidates(spans, distance, np.ones(many), np.zeros(many))
    found = align(candidates, np.ones(many), ordered=False)
    assert [m.line for m in found] == [3, 2, 1, 0]
    assert [m.line for m in align(candidates, np.ones(many))] != [3, 2, 1, 0]
