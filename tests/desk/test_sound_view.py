"""The Sound view: it measures what a render measures; chimes, bed and seam are heard; choices change it."""

import re

import numpy as np
import pytest
import soundfile
from helpers import breath, produce, ready
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QFileDialog

from nafas.desk.audio.outputs import SILENT
from nafas.desk.preferences import output
from nafas.score.selection import Chosen
from nafas.script import PhaseKind, Talk
from nafas.script.edits.session_edits import change, change_block
from nafas.script.model.assets import Asset
from nafas.script.model.beds import FileBed, GeneratedBed
from nafas.script.model.voice_level import VoiceLevel
from nafas.sound.chimes.synthesis import chime


@pytest.fixture
def sound(qtbot, window):
    qtbot.keyClick(window, Qt.Key.Key_4, Qt.KeyboardModifier.ControlModifier)
    measured(qtbot, window)
    return window.views.sound


def measured(qtbot, window):
    ready(qtbot, window)

    def done():
        found = window.views.sound.measuring.findings
        return found is not None and found.mix is window.preparation.mix

    qtbot.waitUntil(done, timeout=120_000)


def test_its_figures_are_those_of_the_master(window, sound, folder):
    made = produce(window.document.session, folder, folder / "m.wav", with_proof=False)
    found = sound.measuring.findings.measured
    for name in ("loudness", "true_peak", "range", "short_term_max", "momentary_max"):
        assert getattr(found, name) == pytest.approx(getattr(made.mastered.measured, name), abs=1e-6)
    text = sound.figures.text().replace("\N{MINUS SIGN}", "-")
    assert f"{found.loudness:.1f} LUFS" in text and f"{found.range:.1f} LU" in text
    assert "over the bed" in sound.balance.text()


def test_a_click_on_the_curve_moves_the_playhead(qtbot, window, sound):
    middle = QPoint((42 + sound.curve.width() - 12) // 2, 60)
    qtbot.mouseClick(sound.curve, Qt.MouseButton.LeftButton, pos=middle)
    assert window.player.seconds == pytest.approx(sound.curve.seconds / 2, abs=0.1)


def test_the_curve_is_read_block_by_block(window, sound):
    """The loudest three seconds that end in a block, as a meter of others reads them; a block is gone to."""
    parts = sound.curve.spoken_parts()
    timeline = window.preparation.timeline
    assert len(parts) == len(timeline.blocks)
    measured = sound.measuring.findings.measured
    highest = max(float(re.search(r"loudest minus ([0-9.]+)", part.name)[1]) * -1 for part in parts)
    assert highest == pytest.approx(measured.short_term_max, abs=0.11)
    parts[1].choose()
    assert window.player.seconds == pytest.approx(float(timeline.blocks[1].start), abs=0.01)


def test_a_stretch_of_the_curve_is_shown_and_all_of_it_again(qtbot, window, sound):
    curve = sound.curve
    whole = curve.seconds
    window.player.seek(whole / 2)
    for _ in range(2):
        qtbot.keyClick(curve, Qt.Key.Key_Plus)
    begin, end = curve.span
    assert end - begin == pytest.approx(whole * 0.64**2, rel=0.01) or end - begin == pytest.approx(5, abs=8)
    assert begin < whole / 2 < end
    before = curve.grab().toImage()
    qtbot.mouseClick(curve, Qt.MouseButton.LeftButton, pos=QPoint(42, 60))
    assert window.player.seconds == pytest.approx(begin, abs=0.1)
    qtbot.keyClick(curve, Qt.Key.Key_0)
    assert curve.span == (0, whole) and curve.grab().toImage() != before


def test_chimes_bell_and_bed_are_heard_as_chosen(qtbot, window, sound):
    sound.heard.buttons["Out"].click()
    tones = sound.audition.samples
    sound.form.family.setCurrentIndex(1)
    sound.form.family.activated.emit(1)
    assert window.document.session.chimes.family == "bowls"
    measured(qtbot, window)
    sound.heard.buttons["Out"].click()
    assert len(sound.audition.samples) != len(tones)
    bowl = chime(PhaseKind.EXHALE, 48_000, None, "bowls").mean(axis=0)
    assert np.corrcoef(sound.audition.samples, bowl)[0, 1] > 0.999
    for button in (sound.heard.buttons["Tick"], sound.heard.buttons["End bell"], sound.bed.alone):
        button.click()
        assert sound.audition.playing
    sound.audition.stop()


def test_a_generated_bed_is_chosen_and_its_controls_change_it(qtbot, window, sound):
    fields = sound.form.bed_fields
    fields.kind.chose.emit("rain")
    assert isinstance(window.document.session.bed, GeneratedBed)
    assert fields.controls["motion"].isVisibleTo(sound.form)
    fields.controls["brightness"].setValue(90)
    fields.under.setValue(20)
    bed = window.document.session.bed
    assert (bed.kind, bed.brightness, bed.under_voice) == ("rain", 0.9, 20.0)
    window.document.undo()
    fields.kind.chose.emit(None)
    assert window.document.session.bed is None and not fields.under.isVisibleTo(sound.form)
    measured(qtbot, window)
    assert "no bed" in sound.balance.text() and not sound.bed.alone.isEnabled()


def test_a_recording_is_chosen_its_seam_heard_and_its_loss_survived(qtbot, window, sound, folder, monkeypatch):
    wave = np.random.default_rng(1).standard_normal((48_000 * 12, 2)) * 0.1
    soundfile.write(folder / "rain.wav", wave, 48_000)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(folder / "rain.wav"), ""))
    sound.form.bed_fields.kind.chose.emit("file")
    assert isinstance(window.document.session.bed, FileBed)
    measured(qtbot, window)
    assert "dB apart" in sound.bed.loop.text()
    sound.bed.loop_point_button.click()
    assert sound.audition.playing
    sound.audition.stop()
    (folder / "rain.wav").unlink()
    sound.form.bed_fields.crossfade.line.textEdited.emit("2")
    ready(qtbot, window)
    qtbot.waitUntil(lambda: "bed cannot be used" in window.statusBar().currentMessage(), timeout=30_000)
    assert window.preparation.mix.bed is None  # everything else still plays
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: ("", ""))
    sound.form.bed_fields.kind.chose.emit("file")
    assert window.document.session.bed.crossfade == 2.0


def test_loudness_by_use_and_by_hand(qtbot, window, sound):
    form = sound.form
    form.use.chose.emit("broadcast")
    assert window.document.session.master.loudness == -23 and form.loudness.line.text() == "\N{MINUS SIGN}23"
    form.loudness.line.setText("loud")
    form.loudness.line.textEdited.emit("loud")
    assert "not a level" in form.loudness.fault.text() and window.document.session.master.loudness == -23
    form.loudness.line.textEdited.emit("-18 LUFS")
    assert window.document.session.master.loudness == -18 and form.use.value() is None
    measured(qtbot, window)
    assert sound.measuring.findings.measured.loudness == pytest.approx(-18, abs=0.1)


def studied(qtbot, window):
    """Wait until the recording's tempo is known, and the mix measured."""
    measured(qtbot, window)
    qtbot.waitUntil(lambda: window.views.sound.bed.study.studied is not None, timeout=120_000)
    qtbot.waitUntil(lambda: window.views.sound.bed.study.studied.tempo is not None, timeout=300_000)


def engine(path, wander=0.0, rate=24_000):
    """Thirty seconds of clicks at 62 bpm, in an even row or in one that wanders by so many seconds."""
    wave = np.random.default_rng(2).standard_normal((30 * rate, 2)) * 0.004
    u = np.arange(int(0.05 * rate)) / rate
    for number, place in enumerate(np.arange(0.3, 29.8, 60 / 62)):
        start = int((place + wander * np.sin(number / 4)) * rate)
        wave[start:][: len(u)] += (0.5 * np.sin(2 * np.pi * 800 * u) * np.exp(-u / 0.01))[:, None]
    soundfile.write(path, wave, rate)


@pytest.fixture
def pulsed(qtbot, window, sound, folder):
    """A recording at 62 bpm as bed of a session whose second set begins where talk happens to end."""
    engine(folder / "engine.wav")
    talk = Talk(id="more", paragraphs=("And once more.",), pause_after="1.13")
    blocks = (*window.document.session.blocks, talk, breath("3-3", 2).model_copy(update={"id": "again"}))
    bed = FileBed(file=Asset(path="engine.wav"), crossfade=1)
    window.document.edit(change(window.document.session, bed=bed, blocks=blocks), "pulsed")
    studied(qtbot, window)
    return sound.bed


def pick(choice, words):
    place = next(n for n in range(choice.count()) if words in choice.itemText(n))
    choice.setCurrentIndex(place)
    choice.activated.emit(place)


def test_bed_and_count_agree_by_the_beds_pace_and_sets_begin_on_beats(qtbot, window, sound, pulsed):
    """The whole way: the tempo is found, a way chosen, what is left of it shown, and fixed; one step of undo each."""
    assert "62.0 bpm" in pulsed.tempo.text() and pulsed.counts is None
    pick(pulsed.agree, "the bed 3.2% slower")
    studied(qtbot, window)
    bed = window.document.session.bed
    assert bed.pace == pytest.approx(60 / 62, rel=1e-3) and bed.pulse.bpm == pytest.approx(62, rel=1e-3)
    assert pulsed.counts.agreeing < 1 and pulsed.set_on_beats.isVisibleTo(sound)
    pulsed.set_on_beats.click()
    assert "longer" in window.statusBar().currentMessage()
    studied(qtbot, window)
    assert pulsed.counts.worst < 0.005 and "Every count is on a beat" in pulsed.kept.text()
    assert not pulsed.set_on_beats.isVisibleTo(sound)
    window.document.undo()
    window.document.undo()
    assert window.document.session.bed.pulse is None


def test_the_count_takes_its_length_from_the_bed_or_goes_its_own_way(qtbot, window, sound, pulsed):
    pick(pulsed.agree, "counts of 0.96")
    assert float(window.document.session.count_length) == pytest.approx(60 / 62, rel=1e-3)
    assert window.document.session.bed.pace == 1
    studied(qtbot, window)
    assert "counts of 0.96" in pulsed.agree.currentText()
    pick(pulsed.agree, "do not match")
    assert window.document.session.bed.pulse is None
    sound.form.bed_fields.tempo.line.textEdited.emit("fast")
    assert "not a tempo" in sound.form.bed_fields.tempo.fault.text()
    sound.form.bed_fields.tempo.line.textEdited.emit("31 bpm")
    assert window.document.session.bed.pulse.bpm == 31
    studied(qtbot, window)
    assert "as set" in pulsed.tempo.text() and pulsed.agree.currentText() == "as set on the right"


def test_a_bed_that_wanders_is_said_to_and_counts_are_held_to_its_own_beats(qtbot, window, sound, folder):
    engine(folder / "drum.wav", wander=0.08)
    window.document.edit(change(window.document.session, bed=FileBed(file=Asset(path="drum.wav"), crossfade=1)), "drum")
    studied(qtbot, window)
    assert "wanders by" in sound.bed.tempo.text()
    pick(sound.bed.agree, "slower")
    studied(qtbot, window)
    assert 0.04 < sound.bed.counts.worst < 0.25  # an even row would say that every count keeps to it


def test_the_part_that_is_used_is_dragged(qtbot, window, sound, pulsed):
    wave = pulsed.wave
    right, left, middle = wave.width() - 8, 8, wave.width() // 2
    for begin, end in ((right, middle), (left, left + 40)):
        qtbot.mousePress(wave, Qt.MouseButton.LeftButton, pos=QPoint(begin, 30))
        qtbot.mouseMove(wave, QPoint(end, 30))
        qtbot.mouseRelease(wave, Qt.MouseButton.LeftButton, pos=QPoint(end, 30))
    bed = window.document.session.bed
    assert bed.end == pytest.approx(15, abs=0.2) and 0.5 < bed.begin < 5
    qtbot.mouseClick(wave, Qt.MouseButton.LeftButton, pos=QPoint(middle + 60, 30))  # nowhere near an end
    assert window.document.session.bed == bed
    for number, text, begin, end in (
        (1, "12,5", bed.begin, 12.5),
        (0, "2", 2.0, 12.5),
        (0, "nonsense", 2.0, 12.5),
        (1, "inf", 2.0, 12.5),
        (1, "0", 2.0, 2.5),
    ):  # the same by ear and keys
        wave.spoken_parts()[number].change(text)
        assert (window.document.session.bed.begin, window.document.session.bed.end) == (begin, end)


def test_a_bed_without_a_beat_is_said_to_have_none(qtbot, window, sound, folder):
    soundfile.write(folder / "rain.wav", np.random.default_rng(1).standard_normal((15 * 24_000, 2)) * 0.1, 24_000)
    window.document.edit(change(window.document.session, bed=FileBed(file=Asset(path="rain.wav"))), "rain")
    studied(qtbot, window)
    assert "no beat" in sound.bed.tempo.text() and not sound.bed.agree.isEnabled()


def test_what_a_block_does_with_the_bed(qtbot, window, sound):
    window.choose(Chosen(1))
    form = sound.form
    assert "In " in form.block_heading.text()
    form.sounds.click()
    assert window.document.session.blocks[1].bed.on is False
    form.sounds.click()
    assert window.document.session.blocks[1].bed is None  # nothing said, nothing kept
    pick(form.change, "rain")
    form.level.setValue(-6)
    form.bed_fields.under.setValue(22)  # now of the rain, not of the session's bed
    here = window.document.session.blocks[1].bed
    assert (here.level, here.change.kind, here.change.under_voice) == (-6, "rain", 22)
    assert window.document.session.bed.under_voice == 14 and "from" in form.bed_fields.heading.text()
    measured(qtbot, window)
    assert len(window.preparation.mix.bed.turns) == 2 and sound.bed.turn is window.preparation.mix.bed.turns[1]
    window.choose(Chosen(0))
    assert sound.bed.turn is window.preparation.mix.bed.turns[0] and form.bed_fields.under.value() == 14
    window.choose(Chosen(1))
    form.bed_fields.kind.chose.emit(None)
    assert window.document.session.blocks[1].bed.change is None


def test_the_voice_of_a_block_fades(qtbot, window, sound):
    window.choose(Chosen(1))
    form = sound.form
    form.voice_end.setValue(-12)
    assert window.document.session.blocks[1].voice == VoiceLevel(level=0, to=-12)
    form.voice_here.setValue(-3)
    assert window.document.session.blocks[1].voice == VoiceLevel(level=-3, to=-12)
    form.voice_end.setValue(form.voice_end.minimum())
    form.voice_here.setValue(0)
    assert window.document.session.blocks[1].voice is None and form.voice_end.text() == "the same"


def test_a_bell_without_room_is_told(qtbot, window, sound):
    window.document.edit(change(window.document.session, closing=2), "short end")
    measured(qtbot, window)
    assert "bell" in sound.troubles.text() and "longer" in window.statusBar().currentMessage()
    window.document.edit(change(window.document.session, closing=12), "long end")
    measured(qtbot, window)
    assert not sound.troubles.isVisibleTo(sound)


def test_ducking_voice_and_own_chimes_are_set_and_heard(qtbot, window, sound, folder, monkeypatch):
    form = sound.form
    form.ducking["hold"].line.textEdited.emit("1:00")
    assert "at most 30" in form.faults.text() or "less than or equal to 30" in form.faults.text()
    form.ducking["hold"].line.textEdited.emit("1.5 s")
    assert window.document.session.ducking.hold == 1.5 and not form.faults.isVisibleTo(form)
    form.voice["high_pass"].setValue(90)
    form.voice["room"].setValue(40)
    assert window.document.session.voice_sound.room == 0.4
    measured(qtbot, window)
    form.hear_voice.emit(True)
    shaped = sound.audition.samples
    form.hear_voice.emit(False)
    assert sound.audition.playing and len(shaped) > len(sound.audition.samples)  # by the room's tail
    t = np.arange(24_000) / 24_000
    soundfile.write(folder / "ping.wav", np.sin(2 * np.pi * 700 * t) * np.exp(-5 * t) * 0.2, 24_000)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(folder / "ping.wav"), ""))
    form.choose_own("exhale")
    assert window.document.session.chimes.own.exhale.path == "ping.wav" and "Exhale" in form.own_note.text()
    form.own.menu().aboutToShow.emit()
    assert any("ping.wav" in action.text() for action in form.own.menu().actions())
    measured(qtbot, window)
    sound.heard.buttons["Out"].click()
    assert np.argmax(np.abs(np.fft.rfft(sound.audition.samples, 48_000))) == pytest.approx(700, abs=3)
    (folder / "ping.wav").unlink()
    sound.heard.buttons["Out"].click()
    assert "ping.wav" in window.statusBar().currentMessage()


def test_a_bed_that_breaks_off_while_it_plays_is_said(qtbot, window, sound, folder):
    soundfile.write(folder / "rain.wav", np.random.default_rng(1).standard_normal((48_000 * 30, 2)) * 0.1, 48_000)
    window.document.edit(change(window.document.session, bed=FileBed(file=Asset(path="rain.wav"))), "rain")
    measured(qtbot, window)
    recording = window.preparation.mix.bed.turns[0].sound.recording
    data = (folder / "rain.wav").read_bytes()
    (folder / "rain.wav").write_bytes(data[:4000])
    recording._reader._local.file = None
    window.player.play()
    qtbot.waitUntil(lambda: "rain.wav" in window.statusBar().currentMessage(), timeout=30_000)
    assert not window.player.playing


def test_what_cannot_be_used_is_told_and_the_rest_sounds(qtbot, window, sound):
    lost = FileBed(file=Asset(path="gone.wav"))
    session = change_block(window.document.session, 1, bed={"change": lost})
    own = {"own": {"exhale": {"path": "lost.wav"}, "bell": {"path": "lost.wav"}}}
    window.document.edit(change(session, chimes=own), "lost")
    measured(qtbot, window)
    told = window.statusBar().currentMessage()
    assert "gone.wav" in told and told.count("lost.wav") == 1
    mix = window.preparation.mix
    assert [turn.sound is None for turn in mix.bed.turns] == [False, True]
    assert any(each.samples is chime(PhaseKind.EXHALE, 48_000) for each in mix.chimes.sounds)


def test_another_speed_and_another_output(qtbot, window, sound):
    player = window.player
    player.play()
    window.listening.set_speed(1.5)
    assert player.speed == 1.5 and player.playing
    qtbot.waitUntil(lambda: player.seconds > 1.0, timeout=30_000)
    window.listening.set_output("silent")
    assert player.playing and "no sound card" in player.output_name and output() == SILENT
    window.menus.output.aboutToShow.emit()
    chosen = [action.text() for action in window.menus.output.actions() if action.isChecked()]
    assert chosen == ["No sound (timing only)"]
    window.document.edit(change(window.document.session, count_length="1.1"), "slower")
    ready(qtbot, window)
    qtbot.waitUntil(lambda: player.seconds > 2.0, timeout=30_000)  # it went on through the edit
    player.pause()
    window.listening.set_output("")
    window.listening.set_speed(1.0)
