"""The Sound view: it measures what a render measures; chimes, bed and seam are heard; choices change it."""

import numpy as np
import pytest
import soundfile
from helpers import ready
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QFileDialog

from nafas.review import produce
from nafas.script.beds import FileBed, GeneratedBed
from nafas.sound.chimes import chime


@pytest.fixture
def sound(qtbot, window):
    qtbot.keyClick(window, Qt.Key.Key_4, Qt.KeyboardModifier.ControlModifier)
    measured(qtbot, window)
    return window.sound


def measured(qtbot, window):
    ready(qtbot, window)

    def done():
        found = window.sound.measuring.findings
        return found is not None and found.mix is window.preparation.mix

    qtbot.waitUntil(done, timeout=30_000)


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


def test_chimes_bell_and_bed_are_heard_as_chosen(qtbot, window, sound):
    sound.buttons["Out"].click()
    tones = sound.audition._samples
    window.details.session_form.chimes.setCurrentIndex(1)
    window.details.session_form.chimes.activated.emit(1)
    assert window.document.session.chimes.family == "bowls"
    measured(qtbot, window)
    sound.buttons["Out"].click()
    assert len(sound.audition._samples) != len(tones)
    from nafas.script import PhaseKind

    bowl = chime(PhaseKind.EXHALE, 48_000, None, "bowls").mean(axis=0)
    assert np.corrcoef(sound.audition._samples, bowl)[0, 1] > 0.999
    for name in ("Tick", "End bell", "Hear the bed alone"):
        sound.buttons[name].click()
        assert sound.audition.playing
    sound.audition.stop()


def test_a_generated_bed_is_chosen_and_its_controls_change_it(qtbot, window, sound):
    fields = window.details.session_form.bed
    fields.kind.chose.emit("rain")
    assert isinstance(window.document.session.bed, GeneratedBed)
    assert fields.controls["motion"].isVisibleTo(window.details.session_form)
    fields.controls["brightness"].setValue(90)
    fields.under.setValue(20)
    bed = window.document.session.bed
    assert (bed.kind, bed.brightness, bed.under_voice) == ("rain", 0.9, 20.0)
    window.document.undo()
    fields.kind.chose.emit(None)
    assert window.document.session.bed is None and not fields.under.isVisibleTo(window.details.session_form)
    measured(qtbot, window)
    assert "no bed" in sound.balance.text() and not sound.buttons["Hear the bed alone"].isEnabled()


def test_a_recording_is_chosen_its_seam_heard_and_its_loss_survived(qtbot, window, sound, folder, monkeypatch):
    wave = np.random.default_rng(1).standard_normal((48_000 * 12, 2)) * 0.1
    soundfile.write(folder / "rain.wav", wave, 48_000)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(folder / "rain.wav"), ""))
    window.details.session_form.bed.kind.chose.emit("file")
    assert isinstance(window.document.session.bed, FileBed)
    measured(qtbot, window)
    assert "dB apart" in sound.seam.text()
    sound.buttons["Hear its seam"].click()
    assert sound.audition.playing
    sound.audition.stop()
    (folder / "rain.wav").unlink()
    window.details.session_form.bed.crossfade.setValue(2)
    ready(qtbot, window)
    qtbot.waitUntil(lambda: "bed cannot be used" in window.statusBar().currentMessage(), timeout=5000)
    assert window.preparation.mix.bed is None  # everything else still plays
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: ("", ""))
    window.details.session_form.bed.kind.chose.emit("file")
    assert window.document.session.bed.crossfade == 2.0


def test_loudness_by_use_and_by_hand(qtbot, window, sound):
    form = window.details.session_form
    form.use.chose.emit("broadcast")
    assert window.document.session.master.loudness == -23 and form.loudness.line.text() == "-23"
    form.loudness.line.setText("loud")
    form.loudness.line.textEdited.emit("loud")
    assert "no loudness" in form.loudness.fault.text() and window.document.session.master.loudness == -23
    form.loudness.line.textEdited.emit("-18 LUFS")
    assert window.document.session.master.loudness == -18 and form.use.value() is None
    measured(qtbot, window)
    assert sound.measuring.findings.measured.loudness == pytest.approx(-18, abs=0.1)
