"""A recording put to the test: performances whose truth is known, by the demo's takes; scored by mir_eval."""

import json
from dataclasses import replace

import mir_eval
import numpy as np
import pytest
import soundfile
import soxr
from helpers import produce

from nafas.cli.main import main
from nafas.demo import SESSION
from nafas.errors import Cancelled, InputError
from nafas.exchange.aac import write_m4a
from nafas.review.audit.against import align
from nafas.review.audit.audit import _against, audit
from nafas.review.audit.damage import damage_in
from nafas.review.audit.decoder import Ear
from nafas.review.audit.draft import drafted
from nafas.review.audit.heard import without_talk
from nafas.review.audit.infer import infer
from nafas.review.audit.judge import judge_sets
from nafas.review.audit.promised import broken_promises
from nafas.review.audit.second_hearing import meant
from nafas.review.audit.speakers import speaker_findings
from nafas.review.audit.talk import Sentence, pace_findings
from nafas.review.audit.vocabulary import of_language, of_timeline
from nafas.script import Session, load_session, read_block, save_session
from nafas.script.edits.session_edits import change
from nafas.script.model.phase import PhaseKind
from nafas.script.performed import CountedWord, performed
from nafas.tasks.audit import AuditRequest, run
from nafas.tasks.exit_codes import ExitCode
from nafas.timing import compile_session, paced
from nafas.voice.beat.felt_beat import find_beat
from nafas.voice.segmentation.source import Source
from nafas.voice.takebook.book import TakeBook

RATE = 48_000
CUES = of_language().kinds
NUMBERS = {"two": 2, "three": 3, "four": 4, "five": 5, "six": 6}
TEXTS = of_language().texts
ROUND = ("inhale", "two", "three", "four", "exhale", "two", "three", "four", "five", "six")


def heard(text, at, room=0.4):
    number = 0 if text in CUES else NUMBERS.get(text, 1)
    return CountedWord(text, number, CUES.get(text), at, at + 0.35, at, 0.9, room)


def counted(*rounds, count=1.0, begin=0.0):
    """Words of rounds, "" for one that is left out, each a count after the other."""
    words, at = [], begin
    for one in rounds:
        for text in one:
            if text:
                words.append(heard(text, at))
            at += count
    return words


def checks(words):
    return [finding.check for finding in judge_sets(performed(words))]


# -- of words with their times


def test_rounds_counts_and_their_length_are_read_off_the_words():
    (one,) = performed(counted(*[ROUND] * 4, count=1.5, begin=7.0))
    assert one.pattern == ((PhaseKind.INHALE, 4), (PhaseKind.EXHALE, 6)) and len(one.rounds) == 4
    assert one.count_length == pytest.approx(1.5) and one.start == 7.0 and not checks(counted(*[ROUND] * 4))


def test_counting_down_and_holds_are_understood():
    row = ("inhale", "two", "three", "four", "hold", "two", "exhale", "six", "five", "four", "three", "two")
    words = counted(*[row] * 3)
    (one,) = performed(words)
    assert [(kind.plain, counts) for kind, counts in one.pattern][-1] == ("exhale", 7)
    assert one.pattern[1] == (PhaseKind.HOLD_FULL, 2) and not judge_sets(performed(words))


def test_two_sets_with_talk_between_stay_two():
    words = counted(*[ROUND] * 3) + counted(*[ROUND] * 4, begin=60.0)
    assert [len(one.rounds) for one in performed(words)] == [3, 4]


@pytest.mark.parametrize(
    ("check", "change"),
    [
        ("doubled", lambda r: r.__setitem__(3, "three")),
        ("missing", lambda r: r.__setitem__(6, "")),
        ("swapped", lambda r: r.__setitem__(slice(6, 8), ("four", "three"))),
        ("mislabelled", lambda r: r.__setitem__(5, "six")),
        ("cue-order", lambda r: r.__setitem__(4, "inhale")),
        ("counts-differ", lambda r: r.__delitem__(slice(3, 4))),
    ],
)
def test_each_slip_of_the_tongue_is_told(check, change):
    rounds = [list(ROUND) for _ in range(6)]
    change(rounds[3])
    assert check in checks(counted(*rounds))


def test_a_set_that_stops_mid_breath_and_one_that_drifts_are_told():
    assert checks(counted(*[ROUND] * 4, ROUND[:4])) == ["mid-breath"]
    words, at = [], 0.0
    for number in range(8):
        for text in ROUND:
            words.append(heard(text, at))
            at += 1.0 + 0.01 * number
    assert "drift" in checks(words)


def test_talk_is_no_counting():
    stream = [heard("two", 0.3 * n, room=0.02) for n in range(20)]
    lone = [heard("six", 30.0), heard("two", 31.0)]
    kept = without_talk([*stream, *lone, *counted(ROUND, begin=40.0)])
    assert [word.start for word in kept] == [40.0 + n for n in range(10)]


def test_words_are_laid_on_the_session_in_order():
    timeline = compile_session(Session(blocks=(read_block("4-6 x2", "s"),)), paced())
    words = counted(ROUND, ROUND, begin=30.0)
    assert all(pair.same for pair in align(timeline, words, TEXTS, 26.0))
    less = align(timeline, [*words[:5], *words[6:]], TEXTS, 26.0)
    assert [pair.word is None for pair in less].count(True) == 1 and less[5].word is None
    more = align(timeline, [*words[:5], heard("three", 34.5), *words[5:]], TEXTS, 26.0)
    assert [pair.moment is None for pair in more].count(True) == 1


def test_of_many_words_beside_their_time_the_furthest_is_named():
    timeline = compile_session(Session(blocks=(read_block("4-6 x2", "s"),)), paced())
    late = [replace(word, beat=word.beat + 0.3) for word in counted(ROUND, ROUND, begin=4.0)]
    late[7] = replace(late[7], beat=late[7].beat + 0.25)  # by its letters "two" would come last
    told = [finding.text for finding in _against(align(timeline, late, TEXTS), 0.0)]
    assert told == ["20 words lie more than 0.25 s off the session's time.", "“four” is 0.55 s late."]


def test_a_voice_that_is_heard_wrong_in_every_round_is_put_right_and_a_slip_is_not():
    numbers = {number: text for text, number in NUMBERS.items()}
    odd = ["inhale", "two", "three", "six", "exhale", "two", "three", "hold", "five", "six"]
    words = meant(counted(*[odd] * 5), numbers)
    assert (
        [word.text for word in words] == [*ROUND] * 5 and words[3].confidence < 0.9 and not judge_sets(performed(words))
    )
    slip = [list(ROUND) for _ in range(5)]
    slip[2][3] = "six"
    assert [word.text for word in meant(counted(*slip), numbers)] == [text for one in slip for text in one]
    down = ["inhale", "two", "three", "exhale", "six", "five", "four", "three", "two"]
    assert [word.text for word in meant(counted(*[down] * 5), numbers)] == down * 5


def test_a_session_is_listened_for_in_its_own_words():
    """A producer's own cue, counts past twelve, and one more than there are, so that one too many is heard."""
    own = Session(blocks=(read_block("14-6 x2", "s"),), wording={"inhale": "Let it in"})
    words = of_timeline(compile_session(own, paced()))
    assert words.kinds["let it in"] is PhaseKind.INHALE and max(words.values.values()) == 16
    spelled = Ear(words).dictionary.splitlines()
    place = words.texts.index("let it in")
    assert f"w{place} L EH T IH T IH N" in spelled
    spanish = Ear(of_language("es"))
    assert len(spanish.names) == 16 and "S Y EY T EY" in spanish.dictionary  # siete, by eSpeak's phonemes
    assert all(Ear(of_language(code)).names for code in ("de", "hi", "th", "ru"))


def test_what_talk_promises_is_held_against_what_was_performed():
    (one,) = performed(counted(*[ROUND] * 4, begin=20.0))
    wrong, right = Sentence(10.0, 11.0, "Eight rounds."), Sentence(12.0, 13.5, "In for four and out for six.")
    draft = drafted("p", (one,), (wrong, right), "en")
    assert [type(block).__name__ for block in draft.session.blocks] == ["Talk", "BreathSet"]
    (told,) = broken_promises(draft)
    assert told.check == "promised-rounds" and told.at == pytest.approx(10.0) and "4 rounds" in told.text
    assert not broken_promises(drafted("p", (one,), (replace(wrong, text="Four rounds."), right), "en"))
    quick = [Sentence(n * 2.0, n * 2.0 + 1.9, "Let your back be long and quiet.") for n in range(3)]
    assert [finding.check for finding in pace_findings(quick)] == ["pace"]
    slow = [replace(sentence, start=3 * sentence.start, end=3 * sentence.start + 4) for sentence in quick]
    assert not pace_findings(slow)


def test_two_voices_are_told_and_one_is_not(folder):
    t = np.arange(24 * RATE) / RATE
    words = counted(ROUND, ROUND, begin=1.0)
    for name, second, told in (("one", 1.05, False), ("two", 1.7, True)):
        pitch = np.where(t < 11, 110.0, 110.0 * second)
        voice = np.sign(np.sin(2 * np.pi * np.cumsum(pitch) / RATE)) * 0.2
        soundfile.write(folder / f"{name}.wav", voice, RATE)
        found = speaker_findings(Source(folder / f"{name}.wav"), words)
        assert [finding.check for finding in found] == (["two-voices"] if told else [])
        assert not told or found[0].at == 11.0


# -- of sound


def test_damage_is_found_where_it_was_done_and_nowhere_else(folder):
    samples, rate = produce_demo_minute(folder)
    whole = damage_in(folder / "whole.wav")
    assert not whole.clicks and not whole.dropouts and not whole.clipped
    hurt = samples.copy()
    hurt[20 * rate : 20 * rate + 2] += 0.3
    loud = 8 * rate + int(np.abs(samples[8 * rate : 9 * rate, 0]).argmax())
    hurt[loud - 300 : loud + 300] = 0
    hurt[40 * rate : 42 * rate] = np.clip(hurt[40 * rate : 42 * rate] * 40, -1, 1)
    soundfile.write(folder / "hurt.wav", hurt, rate)
    found = damage_in(folder / "hurt.wav")
    assert any(abs(at - 20) < 0.01 for at in found.clicks)
    assert [round(at, 2) for at in found.dropouts] == [round((loud - 300) / rate, 2)]
    assert found.clipped and all(39.9 < at < 42.1 for at in found.clipped)
    assert {finding.check for finding in found.findings()} == {"click", "drop-out", "clipped"}


def produce_demo_minute(folder):
    """The demo's first minute with its bed, as it is handed over."""
    session = load_session(SESSION)
    made = produce(change(session, blocks=session.blocks[:2], target_length=None), SESSION.parent, folder / "whole.wav")
    assert made.proof.holds
    return soundfile.read(folder / "whole.wav", dtype="float32")


def perform(path, rounds, count, seed=1):
    """A performance by the demo's takes, its count wandering by a tenth, over some noise: (times, words)."""
    book, draw = TakeBook(SESSION.parent / "takes"), np.random.default_rng(seed)
    clips = {}
    for take in book.index.takes:
        clips.setdefault(take.text, []).append(take)
    talk = [text for text in clips if len(text.split()) > 5][:2]
    placed, times, words, at = [], [], [], 1.5

    def put(text, moment):
        take = clips[text][draw.integers(len(clips[text]))]
        samples, rate = soundfile.read(book.folder / take.file, dtype="float32")
        beat = find_beat(samples, rate).seconds if text in NUMBERS or text in CUES else 0.0
        placed.append((moment - beat, samples, rate))
        return len(samples) / rate

    for sentence in talk:
        at += put(sentence, at) + 0.8
    at += 2.0
    for one in rounds:
        length = count * (1 + 0.1 * draw.uniform(-0.5, 0.5))
        for text in one:
            put(text, at)
            times.append(at)
            words.append(text)
            at += length
    out = np.zeros(int((at + 3) * RATE), np.float32)
    for begin, samples, rate in placed:
        first = max(0, round(begin * RATE))
        part = soxr.resample(samples, rate, RATE)
        out[first : first + len(part)] += part.astype(np.float32)
    out += draw.standard_normal(len(out)).astype(np.float32) * 0.002
    soundfile.write(path, out, RATE)
    return np.array(times), words


def test_counting_is_heard_and_what_was_planted_is_found(folder):
    count = 0.75
    rounds = [list(ROUND) for _ in range(5)]
    rounds[2][7] = "three"  # said twice
    times, words = perform(folder / "p.wav", rounds, count)
    found = audit(folder / "p.wav")
    assert not {"click", "drop-out", "clipped", "two-voices"} & {finding.check for finding in found.findings}
    beats = np.array([word.beat for word in found.words])
    assert mir_eval.onset.f_measure(times, np.sort(beats), window=0.05)[0] >= 0.95
    right = sum(any(w.text == text and abs(w.beat - at) < 0.1 for w in found.words) for at, text in zip(times, words))
    assert right >= 0.9 * len(words)  # a word lost in a window is found again mostly, not always
    assert "doubled" in {finding.check for finding in found.findings}
    assert found.sets[0].count_length == pytest.approx(count, rel=0.03)
    rows = found.labels().splitlines()
    assert len(rows) == len(found.words) + len(found.talk)
    assert {row.split("\t")[2] for row in rows} == {each.text for each in (*found.words, *found.talk)}


def test_a_recording_is_held_against_its_session(folder, capsys):
    perform(folder / "p.wav", [ROUND, ROUND, [*ROUND[:5], "three", "two", *ROUND[7:]], ROUND], 1.0)
    session = change(load_session(SESSION), blocks=(read_block("4-6 x4", "s"),), voice={}, target_length=None)
    save_session(session, folder / "s.nafas")
    held_against = ["audit", str(folder / "p.wav"), "--for", str(folder / "s.nafas"), "--no-talk"]
    assert main([*held_against, "--json"]) == ExitCode.FOUND
    told = json.loads(capsys.readouterr().out)
    assert "swapped" in {each["check"] for each in told["findings"]} and told["offset"] > 1
    other = change(session, blocks=(read_block("6-2-4 x9", "s"),))
    save_session(other, folder / "s.nafas")
    main(held_against)
    assert "not of this session" in capsys.readouterr().out


def test_a_session_is_made_of_a_performance_in_its_own_voice(folder, capsys):
    """Performed at a wandering 1.2 s, rendered again on the grid: every word is in place, and no stand-in speaks."""
    perform(folder / "p.wav", [ROUND] * 3, 1.2)
    out = folder / "made" / "p.nafas"
    out.parent.mkdir()
    main(["audit", str(folder / "p.wav"), "--session", str(out)])
    assert "moved by" in capsys.readouterr().out
    session = load_session(out)
    talk, block = session.blocks
    said = [sentence for paragraph in talk.lines for sentence in paragraph]
    assert (
        talk.paragraphs[0].startswith("This is a short") and len(said) >= 2
    )  # a draft of what the demo says, sentence by sentence
    counts = [(phase.kind, phase.counts) for phase in block.pattern.phases]
    assert counts == [(PhaseKind.INHALE, 4), (PhaseKind.EXHALE, 6)]
    assert block.rounds == 3 and float(block.count_length) == pytest.approx(1.2, rel=0.04)
    made = produce(session, out.parent, out.parent / "p.wav")
    assert made.proof.holds and not made.cast.stand_in_lines and len(made.cast.placements) == 30 + len(said)
    assert main(["audit", str(folder / "p.wav"), "--session", str(out)]) == 1  # what is there is not written over


def test_no_session_is_made_of_words_under_loud_music_or_of_none(folder):
    perform(folder / "p.wav", [ROUND] * 3, 1.0)
    found = audit(folder / "p.wav", transcribe=False)
    over = infer(replace(found, voice_over_rest=6.0), folder)
    assert not over.takes and any("cannot be taken out" in note for note in over.notes)
    assert not list(folder.glob("*-takes"))
    with pytest.raises(InputError, match="no set"):
        infer(replace(found, sets=()), folder)


def test_what_holds_no_counting_is_told_and_nothing_is_made_up(folder):
    draw = np.random.default_rng(1)
    soundfile.write(folder / "noise.wav", draw.standard_normal(5 * RATE) * 0.1, RATE)
    t = np.arange(5 * RATE) / RATE
    soundfile.write(folder / "song.wav", 0.3 * np.sin(2 * np.pi * 220 * t) * (np.sin(2 * np.pi * 2 * t) > 0), RATE)
    soundfile.write(folder / "nothing.wav", np.zeros(5 * RATE), RATE)
    for name in ("noise", "song", "nothing"):
        found = audit(folder / f"{name}.wav", transcribe=name == "song")
        assert (
            not found.words
            and not found.talk
            and not found.sets
            and any("no counting" in limit for limit in found.limits)
        ), name
    four = np.zeros((5 * RATE, 4), np.float32)
    four[:, 0] = soundfile.read(folder / "song.wav")[0]
    soundfile.write(folder / "four.wav", four, RATE)
    write_m4a(folder / "song.wav", folder / "song.m4a", (), {})
    for name in ("four.wav", "song.m4a"):  # of more channels; of a container that only PyAV opens
        heard = run(AuditRequest(folder / name, talk=False)).audit
        assert heard.path == folder / name and heard.seconds == pytest.approx(5.0, abs=0.05) and not heard.words
    with pytest.raises(InputError):
        audit(folder / "missing.wav")

    def stop(stage, done):
        raise Cancelled

    with pytest.raises(Cancelled):
        audit(folder / "song.wav", progress=stop)
