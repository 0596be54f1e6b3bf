"""Sets found by the vote of their rounds, where many words are misheard, missing or strangers."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nafas.review.audit import audit as auditing
from nafas.review.audit.folded import folded
from nafas.review.audit.vocabulary import of_language
from nafas.script.model.phase import PhaseKind
from nafas.script.performed import CountedWord, performed

IN, FULL, OUT = PhaseKind.INHALE, PhaseKind.HOLD_FULL, PhaseKind.EXHALE
CUES = {IN: "inhale", FULL: "hold", OUT: "exhale", PhaseKind.HOLD_EMPTY: "hold"}
NUMBERS = {number: str(number) for number in range(1, 21)}
KINDS = {IN: IN, FULL: FULL, OUT: OUT, PhaseKind.HOLD_EMPTY: FULL}


def spoken(pattern, rounds, count=1.0, wander=0.0, seed=0):
    """Every word of a set as it is said, in order."""
    draw, at, words = np.random.default_rng(seed), 3.0, []
    for _ in range(rounds):
        for kind, counts in pattern:
            for number in range(1, counts + 1):
                cue = KINDS[kind] if number == 1 else None
                text = CUES[kind] if number == 1 else NUMBERS[number]
                words.append(CountedWord(text, 0 if cue else number, cue, at, at + 0.3, at, 0.9, 0.3))
                at += count * (1 + wander * draw.uniform(-0.5, 0.5))
    return words


def misheard(words, lost, wrong, seed):
    """The same with a part of the words lost and a part taken for others; the first and the last are heard."""
    draw = np.random.default_rng(seed)
    kept = []
    for place, word in enumerate(words):
        inside = 2 <= place < len(words) - 2
        if inside and draw.random() < lost:
            continue
        if inside and draw.random() < wrong:
            number = int(draw.integers(2, 9))
            word = CountedWord(NUMBERS[number], number, None, word.start, word.end, word.beat)
        kept.append(word)
    return kept


PATTERNS = st.tuples(st.integers(3, 8), st.sampled_from([0, 2, 4]), st.integers(3, 10)).map(
    lambda c: tuple((kind, n) for kind, n in zip((IN, FULL, OUT), c) if n)
)


@given(PATTERNS, st.integers(4, 10), st.floats(0.7, 1.6))
@settings(max_examples=40, deadline=None)
def test_what_is_heard_whole_is_the_same_set(pattern, rounds, count):
    (one,) = folded(spoken(pattern, rounds, count), CUES, NUMBERS)
    assert one.pattern == pattern and len(one.rounds) == rounds
    assert one.count_length == pytest.approx(count, rel=0.02)


@pytest.mark.parametrize(("lost", "wrong", "least"), [(0.3, 0.15, 0.95), (0.5, 0.2, 0.8)])
def test_half_of_the_words_are_enough(lost, wrong, least):
    right = 0
    for seed in range(20):
        pattern = ((IN, 4), (FULL, 2), (OUT, 6)) if seed % 2 else ((IN, 4), (OUT, 6))
        words = misheard(spoken(pattern, 8, 1.1, 0.08, seed), lost, wrong, seed)
        found = folded(words, CUES, NUMBERS)
        right += [(one.pattern, len(one.rounds)) for one in found] == [(pattern, 8)]
    assert right >= least * 20


def test_noise_is_no_set_and_strangers_at_the_ends_are_no_rounds():
    draw = np.random.default_rng(1)
    beats = np.cumsum(draw.uniform(0.5, 4, 60))
    noise = [CountedWord(NUMBERS[n], n, None, t, t + 0.3, t) for n, t in zip(draw.integers(1, 9, 60), beats)]
    assert folded(noise, CUES, NUMBERS) == [] and folded([], CUES, NUMBERS) == []
    words = spoken(((IN, 4), (OUT, 6)), 6)
    stranger = CountedWord("7", 7, None, 1.0, 1.3, 1.0)
    assert [len(one.rounds) for one in folded([stranger, *words], CUES, NUMBERS)] == [6]


def test_an_audit_that_hears_badly_says_so_and_names_no_slips(folder, monkeypatch):
    import soundfile

    words = misheard(spoken(((IN, 4), (OUT, 6)), 8, 1.0, 0.05), 0.3, 0.2, 3)
    soundfile.write(folder / "p.wav", 0.01 * np.random.default_rng(0).standard_normal(90 * 16_000), 16_000)
    monkeypatch.setattr(auditing, "hear", lambda *_: list(words))
    monkeypatch.setattr(auditing, "heard_twice", lambda found, _: list(found))
    made = auditing.audit(folder / "p.wav", vocabulary=of_language("en", 20), transcribe=False)
    assert [[(k, c) for k, c in one.pattern] for one in made.sets] == [[(IN, 4), (OUT, 6)]]
    assert len(made.sets[0].rounds) == 8 and any("not heard well enough" in limit for limit in made.limits)
    assert not [f for f in made.findings if f.check in ("swapped", "missing", "doubled", "cue-order", "counts-differ")]
    assert len(performed(words)[0].rounds) and len(made.words) > 50
