"""Render from the window: progress, cancel, result, and errors that reach the person."""

import pytest

from nafas.desk.render_dialog import RenderDialog
from nafas.desk.renders_dialog import Renders
from nafas.script import BreathSet, Session


def end(qtbot, dialog):
    qtbot.waitUntil(lambda: not dialog.running, timeout=300_000)


@pytest.fixture
def dialog(qtbot, short, folder):
    found = RenderDialog(short, folder, folder / "m.wav", Renders())
    qtbot.addWidget(found)
    found.show()
    return found


def test_a_render_says_what_it_made_and_proved(qtbot, dialog, folder):
    dialog.stems.setChecked(True)
    dialog.start.click()
    assert dialog.running and not dialog.start.isEnabled() and dialog.bar.isVisible()
    end(qtbot, dialog)
    assert "-16.0 LUFS" in dialog.result.text() and "cues found in the rendered voice" in dialog.result.text()
    assert sorted(p.name for p in folder.iterdir()) == ["m stems", "m.wav"]


def test_cancel_leaves_no_file(qtbot, folder):
    long = Session(blocks=(BreathSet.model_validate({"id": "a", "pattern": "4-4", "rounds": 400}),))
    dialog = RenderDialog(long, folder, folder / "m.wav", Renders())
    qtbot.addWidget(dialog)
    dialog.show()
    dialog.start.click()
    qtbot.waitUntil(lambda: dialog.bar.value() > 5, timeout=120_000)
    dialog.close_button.click()
    end(qtbot, dialog)
    assert dialog.isVisible() and "Cancelled" in dialog.result.text() and list(folder.iterdir()) == []


def test_a_place_that_cannot_be_written_is_said(qtbot, dialog, folder):
    dialog.target.setText(str(folder / "gone" / "m.wav"))
    dialog.start.click()
    end(qtbot, dialog)
    assert "No such file" in dialog.result.text() and dialog.start.isEnabled()
