"""The proof of a finished file must find what is there, and must notice what is not: a table of faults put into a
finished master, each of which has to be seen."""

import hashlib
import json
import subprocess
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import soundfile
from helpers import breath, produce

from nafas.cli.main import main
from nafas.errors import InputError
from nafas.review.proof import FaultKind, levels, prove, prove_again
from nafas.review.proof.levels import EXACT, compare
from nafas.review.proof.record import record_path
from nafas.script import Session, read_block, save_session
from nafas.sound.master.limiter import MasterStream
from nafas.sound.mix.mix import build_mix

RATE = 48_000


@pytest.fixture(scope="module")
def made(tmp_path_factory):
    folder = tmp_path_factory.mktemp("made")
    session = Session(opening=2, closing=5, blocks=(breath("3-2-4", 2, count_length="20/21"),))
    produced = produce(session, Path(), folder / "m.wav", also=[folder / name for name in ("m.mp3", "m.ogg", "m.opus")])
    sound, _ = soundfile.read(folder / "m.wav", dtype="float32")
    return produced, sound, build_mix(produced.cast)


def judged(made, folder, sound, name="f.wav", **how):
    path = folder / name
    with soundfile.SoundFile(path, "w", RATE, sound.shape[1], how.pop("subtype", "PCM_24"), **how) as file:
        for at in range(0, len(sound), 65_536):
            file.write(sound[at : at + 65_536])
    mastered = made[0].mastered
    return prove(path, made[2], mastered.gain, mastered.measured)


def test_a_good_master_holds_in_every_format(made):
    for proof in made[0].proofs:
        assert proof.holds, (proof.path.name, proof.faults)
        assert len(proof.cues) == 18 and len(proof.chimes) == 7  # six phases and the end bell
        assert proof.worst <= 0.5 + proof.tolerance.place and proof.mean > 0  # against exact times: rounding shows
        assert proof.measured.loudness == pytest.approx(-16, abs=0.05 + proof.tolerance.gain)
    assert made[0].proofs[0].worst <= 0.5 and max(match.spread for match in made[0].proof.cues) < 0.2


def silence(sound, made):
    cue = made[0].cast.placements[4]
    sound[cue.start : cue.end] = 0


def take_out(sound, made):
    """One cue taken out of the mixture, bed and chimes left as they are."""
    cue, gain = made[0].cast.placements[4], 10 ** (made[0].mastered.gain / 20)
    sound[cue.start : cue.end] -= (cue.clip.samples * np.float32(gain))[:, None]


def say(sound, made, number, at):
    cue, gain = made[0].cast.placements[number], 10 ** (made[0].mastered.gain / 20)
    sound[at : at + cue.clip.frames] += (cue.clip.samples * np.float32(gain))[:, None]


def another_word(sound, made):
    take_out(sound, made)
    say(sound, made, 2, made[0].cast.placements[4].start)


def chime_late(sound, made):
    ring, gain = made[2].chimes.sounds[3], 10 ** (made[0].mastered.gain / 20)
    tone = (ring.samples * np.float32(ring.gain * gain)).T
    sound[ring.start : ring.start + len(tone)] -= tone
    sound[ring.start + 900 : ring.start + 900 + len(tone)] += tone


def no_bell(sound, made):
    ring, gain = made[2].chimes.sounds[-1], 10 ** (made[0].mastered.gain / 20)
    tone = (ring.samples * np.float32(ring.gain * gain)).T
    sound[ring.start : ring.start + len(tone)] -= tone


def one_late(sound, made):
    take_out(sound, made)
    say(sound, made, 4, made[0].cast.placements[4].start + 3)


def drop_out(sound, made):
    """5 ms of nothing in the loudest place of a word, on one side only."""
    cue = made[0].cast.placements[4]
    middle = cue.start + int(abs(sound[cue.start : cue.end, 0]).argmax())
    sound[middle - 120 : middle + 120, 0] = 0


FAULTS = {
    "a sample late": (lambda s, m: np.roll(s, 1, axis=0), FaultKind.SHIFT),
    "a tenth of a second early": (lambda s, m: np.roll(s, -4800, axis=0), FaultKind.SHIFT),
    "two seconds late": (lambda s, m: np.pad(s, ((96_000, 0), (0, 0)))[: len(s)], FaultKind.SHIFT),
    "cut short": (lambda s, m: s[: -3 * RATE], FaultKind.LENGTH),
    "a sample too long": (lambda s, m: np.pad(s, ((0, 1), (0, 0))), FaultKind.LENGTH),
    "a gap of 60 ms between words": (lambda s, m: s.__setitem__(slice(1 * RATE, 1 * RATE + 2880), 0), FaultKind.GAP),
    "a drop-out of 5 ms on one side": (drop_out, FaultKind.GAP),
    "a word silenced": (silence, FaultKind.MISSING),
    "a word taken out": (take_out, FaultKind.MISSING),
    "another word in its place": (another_word, FaultKind.MISSING),
    "one word three samples late": (one_late, FaultKind.OFF_PLACE),
    "a word said twice": (lambda s, m: say(s, m, 0, 60_000), FaultKind.EXTRA),
    "a word doubled on its place": (lambda s, m: say(s, m, 4, m[0].cast.placements[4].start), FaultKind.EXTRA),
    "a chime late": (chime_late, FaultKind.OFF_PLACE),
    "no bell": (no_bell, FaultKind.MISSING),
    "half a decibel up": (lambda s, m: s.__imul__(10 ** (0.5 / 20)), FaultKind.GAIN),
    "fades away": (lambda s, m: s.__imul__(np.linspace(1, 0.7, len(s), dtype="f4")[:, None]), FaultKind.GAP),
    "left for right": (lambda s, m: s[:, ::-1], FaultKind.SWAPPED),
    "one side turned round": (lambda s, m: s.__imul__(np.float32([1, -1])), FaultKind.SWAPPED),
    "one channel": (lambda s, m: s[:, :1], FaultKind.CHANNELS),
    "noise": (lambda s, m: np.random.default_rng(1).normal(0, 0.05, s.shape).astype("f4"), FaultKind.FOREIGN),
    "clipped hard": (lambda s, m: np.clip(s * 1.5, -1, 1) , FaultKind.PEAK),
    "its peaks cut off by 6 dB": (lambda s, m: np.clip(s, -abs(s).max() / 2, abs(s).max() / 2), FaultKind.CLIPPED),
    "silence": (lambda s, m: np.zeros_like(s), FaultKind.FOREIGN),
}  # fmt: skip


@pytest.mark.parametrize("name", FAULTS)
def test_every_fault_put_into_a_master_is_seen(made, folder, name):
    spoil, kind = FAULTS[name]
    sound = made[1].copy()
    changed = spoil(sound, made)
    proof = judged(made, folder, sound if changed is None else changed)
    assert not proof.holds and kind in {fault.kind for fault in proof.faults}, proof.faults
    if name == "two seconds late":
        assert "96000 samples (2000.00 ms) late" in str(proof.faults[0])
    assert not any(word in str(fault) for fault in proof.faults for word in ("nan", "inf", "None"))


LOSSY_FAULTS = [
    "a tenth of a second early", "a word taken out", "another word in its place", "cut short", "left for right",
    "a gap of 60 ms between words", "a drop-out of 5 ms on one side", "a word said twice", "no bell",
    "its peaks cut off by 6 dB",
]  # fmt: skip
LOSSY = [(ending, name) for ending in ("ogg", "mp3") for name in LOSSY_FAULTS]
LOSSY += [("opus", name) for name in ("a word taken out", "a drop-out of 5 ms on one side")]  # the slowest to write


@pytest.mark.parametrize(("ending", "name"), LOSSY)
def test_faults_are_seen_through_a_codec(made, folder, name, ending):
    spoil, kind = FAULTS[name]
    sound = made[1].copy()
    changed = spoil(sound, made)
    subtype = {"mp3": "MPEG_LAYER_III", "ogg": "VORBIS", "opus": "OPUS"}[ending]
    container = "MP3" if ending == "mp3" else "OGG"
    sound = sound if changed is None else changed
    proof = judged(made, folder, sound, f"f.{ending}", subtype=subtype, format=container)
    assert proof.tolerance is levels.LOSSY
    assert kind in {fault.kind for fault in proof.faults}, proof.faults


def test_what_an_encoder_spreads_beside_a_word_is_no_fault_and_more_is(made, folder):
    due, draw = np.repeat([1.0, 0.0, 1e-8, 0.0], 50), made[0].mastered.measured

    def told(place, level, tolerance=levels.LOSSY):
        fine = due.copy()
        fine[place : place + 5] += 10 ** (level / 10)
        levels = compare(replace(draw, fine=fine), replace(draw, fine=due), tolerance)
        return [round(stretch.begin, 2) for stretch in levels.stretches]

    assert told(50, -35) == [] and told(50, -25) == [1.0]  # right after what is loud
    assert told(55, -35) == [1.1] and told(50, -35, EXACT) == [1.0]  # further away, and where nothing is encoded
    # Nothing sounds under these words: what Vorbis leaves next to them lies open.
    words = Session(
        opening=1, closing=1, bed=None, end_bell=False, blocks=(breath("3-4", 2),),
        voice={"engine_voice": "en-gb-scotland", "pace": 101},
    )  # fmt: skip
    coded = [folder / name for name in ("m.mp3", "m.ogg", "m.opus")]
    assert [proof.faults for proof in produce(words, folder, folder / "m.wav", also=coded).proofs] == [()] * 4


def test_the_level_that_lame_takes_away_at_low_rates_is_no_fault(made, folder):
    coded = folder / "low.mp3"
    soundfile.write(folder / "as-made.wav", made[1], RATE, subtype="PCM_24")
    command = ["ffmpeg", "-v", "error", "-i", str(folder / "as-made.wav"), "-b:a", "128k", str(coded)]
    subprocess.run(command, check=True)  # measured: 0.45 dB softer, a factor of 0.95
    proof = prove(coded, made[2], made[0].mastered.gain, made[0].mastered.measured)
    assert proof.holds and proof.tolerance is levels.LOSSY, proof.faults


def true_peak(path):
    """By ffmpeg, of what is decoded."""
    command = ["ffmpeg", "-nostats", "-i", str(path), "-filter_complex", "ebur128=peak=true", "-f", "null", "-"]
    told = subprocess.run(command, capture_output=True, text=True, check=True).stderr
    return float(told.rpartition("Peak:")[2].split()[0])


def test_a_coded_file_whose_encoder_raises_its_peaks_is_written_with_room_for_them(folder, monkeypatch):
    strokes = Session(
        opening=2, closing=6, bed=None, master={"mono": True}, blocks=(read_block("rapid 20 @ 60/min every 4", "a"),)
    )
    monkeypatch.setattr(sys.modules["nafas.tasks.render"], "_TIMES_EASED", 0)
    plain = produce(strokes, folder, folder / "m.wav", also=[folder / "m.opus"])
    (fault,) = plain.proofs[1].faults
    assert fault.kind is FaultKind.PEAK and not plain.eased and true_peak(folder / "m.opus") > 0
    monkeypatch.undo()
    made = produce(strokes, folder, folder / "m.wav", also=[folder / "m.opus"])
    assert made.holds and list(made.eased) == [folder / "m.opus"] and true_peak(folder / "m.opus") <= 0
    assert "m.opus: single peaks were lowered" in "\n".join(made.lines()) and "m.wav: single" not in "\n".join(
        made.lines()
    )
    assert made.proofs[1].measured.loudness == pytest.approx(-16, abs=0.3)


@pytest.mark.parametrize("shift", [1, -3, 480, -4800])
def test_a_shift_is_told_to_the_sample(made, folder, shift):
    proof = judged(made, folder, np.roll(made[1], shift, axis=0))
    assert [round(match.error) for match in proof.cues] == [shift] * 18
    told = str(proof.faults[0])
    assert f"{abs(shift)} samples" in told and ("late" if shift > 0 else "early") in told


def test_what_is_beside_its_place_is_named_and_nothing_else(made, folder):
    sound = made[1].copy()
    one_late(sound, made)
    proof = judged(made, folder, sound)
    off_place = [fault for fault in proof.faults if fault.kind is FaultKind.OFF_PLACE]
    cue = made[0].cast.placements[4].moment
    assert len(off_place) == 1 and cue.text in str(off_place[0]) and off_place[0].at == pytest.approx(float(cue.at))
    assert sum(match.error is not None and abs(match.error) > 0.5 for match in proof.cues) == 1


def test_the_promise_is_of_the_file_and_not_of_what_came_before_it(folder, short, monkeypatch):
    """A fault in the last step before the encoder, which a stem does not show."""
    read = MasterStream.read
    monkeypatch.setattr(MasterStream, "read", lambda self, start, frames: read(self, start - 4800, frames))
    made = produce(short, folder, folder / "m.wav")
    assert (
        not made.holds and made.proof.faults[0].kind is FaultKind.SHIFT and "4800 samples" in str(made.proof.faults[0])
    )
    assert "does not hold" in "\n".join(made.lines())


def test_a_file_can_be_proven_again_from_the_session_alone(made, folder, capsys):
    save_session(made[0].cast.timeline.session, folder / "a.nafas")
    (folder / "m.flac").write_bytes(b"")
    soundfile.write(folder / "m.flac", made[1], RATE, subtype="PCM_24")
    again = prove_again(folder / "m.flac", made[0].cast.timeline.session, folder)
    assert again.holds and [match.found for match in again.matches] == [match.found for match in made[0].proof.matches]
    assert main(["prove", str(folder / "m.flac"), "--for", str(folder / "a.nafas")]) == 0
    assert "18 of 18 cues" in capsys.readouterr().out
    record = json.loads(record_path(folder / "m.flac").read_text())
    assert record["holds"] and record["cues"] == 18 and len(record["matches"]) == 25
    assert record["sha256"] == hashlib.sha256((folder / "m.flac").read_bytes()).hexdigest()
    soundfile.write(folder / "m.flac", np.roll(made[1], 480, axis=0), RATE, subtype="PCM_24")
    page = folder / "page.html"
    assert main(["prove", str(folder / "m.flac"), "--for", str(folder / "a.nafas"), "--page", str(page)]) == 5
    assert "480 samples" in capsys.readouterr().out and "480 samples" in page.read_text()
    whole = made[0].mastered.path.read_bytes()
    (folder / "cut.wav").write_bytes(whole[: len(whole) // 2])
    assert main(["prove", str(folder / "cut.wav"), "--for", str(folder / "a.nafas")]) == 1
    assert "cut.wav" in capsys.readouterr().err


def test_a_file_of_another_rate_or_none_is_refused(made, folder):
    soundfile.write(folder / "v.wav", made[1], 44_100)
    for path in (folder / "v.wav", folder / "none.wav"):
        with pytest.raises(InputError):
            prove(path, made[2], 0.0, made[0].mastered.measured)
    soundfile.write(folder / "w.wav", made[1], 22_050)
    with pytest.raises(InputError, match="22050"):
        prove_again(folder / "w.wav", made[0].cast.timeline.session, folder)


def test_the_session_path_refuses_what_cannot_become_a_master(folder, short):
    with pytest.raises(InputError, match="no blocks"):
        produce(Session(), folder, folder / "m.wav")
    with pytest.raises(InputError, match="44100"):
        produce(short, folder, folder / "m.wav", rate=12_345)
    broken = short.model_copy(update={"voice": Session(voice={"take_book": {"path": "gone"}}).voice})
    with pytest.raises(InputError, match="gone"):
        produce(broken, folder, folder / "m.wav")
    assert list(folder.iterdir()) == []


def test_summary_holds_every_figure(made):
    summary = made[0].figures()
    assert summary["cues"] == 18 and summary["cues_not_found"] == [] and summary["misfits"] == []
    assert summary["loudness_lufs"] == -16.0 and summary["true_peak_dbtp"] <= -1 and summary["holds"]
    assert summary["real_time_factor"] > 0 and summary["peak_memory_mb"] > 10


def test_the_report_names_each_line_that_does_not_fit_once_at_its_worst(folder):
    squeezed = Session(opening=2, closing=2, blocks=(breath("4-4", 9, count_length="0.25"),))
    told = produce(squeezed, folder, folder / "m.wav").lines()
    assert any(line.startswith("fit: ") and "longer than its slot" in line for line in told)
    rows = [line for line in told if "needs" in line]
    assert len(rows) == len({row.split("“")[1] for row in rows}) <= 5 and "more times" in rows[0]
    assert len(told) < 45
