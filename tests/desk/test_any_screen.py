"""Small screens, large text, and what is chosen once for all sessions."""

import locale
import os
import subprocess
import sys

import pytest
from PySide6.QtCore import QSettings, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QComboBox, QLineEdit, QMessageBox, QVBoxLayout, QWidget

from nafas.desk import app as start
from nafas.desk import preferences, style
from nafas.desk.application import application
from nafas.desk.dialogs import preferences_dialog
from nafas.desk.preferences import Colours
from nafas.desk.widgets.controls import Button, fill
from nafas.desk.widgets.dialog import Dialog
from nafas.desk.widgets.masthead import VIEWS
from nafas.script import save_session


@pytest.fixture
def settings():
    store = QSettings("nafas", "nafas")
    store.clear()
    yield store
    store.clear()


@pytest.mark.parametrize("name", [name for name, _, _ in VIEWS])
def test_every_view_can_be_worked_at_960_by_500(qtbot, window, name):
    """A screen of 1920 x 1080 at 200 %, less the desktop's own bars: nothing lies where nobody can reach it."""
    window.resize(960, 500)
    window.show_view(name)
    qtbot.wait(50)
    assert (window.width(), window.height()) == (960, 500)
    assert window.centre.height() > (250 if window.ribbon.isVisible() else 300)
    for widget in window.findChildren(QWidget):
        if isinstance(widget, QAbstractButton | QComboBox | QLineEdit) and widget.isVisible():
            left = widget.mapTo(window, widget.rect().topLeft()).x()
            assert left >= 0 and left + widget.width() <= 960 + 1, (name, widget.accessibleName())


def test_panels_fold_for_every_view_until_they_are_asked_for(qtbot, window):
    wide = window.centre.width()
    window.menus.left_panel.trigger()
    window.menus.right_panel.trigger()
    qtbot.waitUntil(lambda: window.centre.width() > wide + 400)
    window.show_view("takes")
    assert not window.left.isVisible() and not window.side.isVisible()
    window.show_view("welcome")
    window.menus.left_panel.trigger()
    assert not window.left.isVisible()  # nothing stands next to the ways to begin
    window.show_view("score")
    assert window.left.isVisible() and not window.side.isVisible()
    window.menus.right_panel.trigger()


def test_words_without_room_end_in_an_ellipsis_and_stand_in_the_tip(qtbot):
    style.apply(application(), False)
    owner = QWidget()
    qtbot.addWidget(owner)
    button = Button("Against clicks and the bed")
    fill(QVBoxLayout(owner), button)
    owner.show()
    button.setFixedWidth(400)
    button.grab()
    assert button.toolTip() == ""
    button.setFixedWidth(90)
    cut = button.grab().toImage()
    assert "Against clicks and the bed" in button.toolTip()
    assert button.text() == "Against clicks and the bed"
    shorter = []
    for letters in range(3, 20):
        button.setText(f"{'Against clicks and the bed'[:letters].rstrip()}…")
        shorter.append(button.grab().toImage())
    assert cut in shorter  # drawn as one of these
    lines = Button("A short form\ncosts no time")
    qtbot.addWidget(lines)
    lines.setFixedWidth(lines.sizeHint().width())
    lines.grab()
    assert lines.toolTip() == ""  # each line has the room of its own


def test_a_dialog_larger_than_the_screen_scrolls_to_what_has_the_focus(qtbot):
    dialog = Dialog()
    qtbot.addWidget(dialog)
    high = QWidget()
    high.setMinimumSize(300, 3000)
    first, last = Button("Begin"), Button("Go on")
    fill(QVBoxLayout(dialog), first, high, last)
    with qtbot.waitActive(dialog):
        dialog.show()
    room = dialog.screen().availableGeometry()
    assert dialog.height() <= room.height() and last.mapTo(dialog, last.rect().center()).y() > dialog.height()
    first.setFocus()
    QTest.keyClick(first, Qt.Key.Key_Tab)
    qtbot.waitUntil(lambda: last.mapTo(dialog, last.rect().center()).y() < dialog.height())


@pytest.mark.parametrize(("screen", "in_use", "sizes"), [
    ((1920, 1080), 100, [100, 110, 125, 150, 175, 200]), ((960, 540), 200, [100, 110, 125, 150, 175, 200]),
    ((1366, 768), 100, [100, 110, 125, 150]), ((800, 800), 100, [100]), ((800, 600), 175, [100, 110, 125, 150, 175]),
])  # fmt: skip
def test_text_sizes_are_those_with_which_the_window_fits_its_screen(screen, in_use, sizes):
    assert preferences.fitting_sizes(*screen, in_use) == sizes


def test_preferences_are_taken_at_once(qtbot, window, settings, monkeypatch):
    monkeypatch.setattr(preferences_dialog, "fitting_sizes", lambda *_: [100, 150])
    window.menus._show_preferences()
    dialog = window.menus.preferences
    assert dialog.colours.value() is Colours.SYSTEM and not dialog.again_button.isVisible()
    dialog.colours.show_value(Colours.NIGHT)
    dialog.colours.activated.emit(dialog.colours.currentIndex())
    assert window.menus.night.isChecked() and preferences.colours() is Colours.NIGHT
    dialog.colours.activated.emit(0)
    assert preferences.colours() is Colours.SYSTEM and not window.menus.night.isChecked()
    dialog.size_.show_value(150)
    dialog.size_.activated.emit(dialog.size_.currentIndex())
    assert dialog.again_button.isVisible() and preferences.text_size() == 150 and "again" in dialog.notes.text()
    dialog.size_.activated.emit(0)
    assert not dialog.again_button.isVisible()
    window.show_view("rehearse")
    dialog.still.click()
    assert window.views.rehearse.canvas.still and preferences.less_motion()
    dialog.close()


@pytest.mark.parametrize(("kept", "given", "ratio"), [("150", None, "1.5"), ("7", None, "1.0"), ("200", "3", "2.0")])
def test_text_size_scales_all_and_is_not_inherited(settings, kept, given, ratio):
    """Also of a broken setting; what the desktop set for other programs is there again."""
    settings.setValue("text size", kept)
    settings.sync()
    look = (
        "import os; from nafas.desk.application import application as a; "
        "print(a().devicePixelRatio(), os.environ.get('QT_SCALE_FACTOR'))"
    )
    more = {} if given is None else {"QT_SCALE_FACTOR": given}
    done = subprocess.run(
        [sys.executable, "-c", look], capture_output=True, text=True, check=True, env={**os.environ, **more}
    )
    assert done.stdout.split() == [ratio, str(given)]


def test_nafas_opens_again_with_the_session_unless_one_stays(qtbot, short, folder, monkeypatch, settings):
    save_session(short, folder / "s.nafas")
    begun, windows = [], []
    monkeypatch.setattr(os, "execv", lambda program, arguments: begun.append(arguments))
    real = start.MainWindow
    monkeypatch.setattr(start, "MainWindow", lambda: windows.append(real()) or windows[-1])

    def leave(answer):
        window = windows[-1]
        window.document.edit(window.document.session.replace(title="Changed"), "title")
        monkeypatch.setattr(QMessageBox, "exec", lambda box: answer)
        window.open_again()

    def stay_and_then_leave():
        leave(QMessageBox.StandardButton.Cancel)
        assert windows[-1].isVisible() and not windows[-1].to_open_again
        windows[-1].resize(900, 650)
        leave(QMessageBox.StandardButton.Save)

    QTimer.singleShot(300, stay_and_then_leave)
    assert start.open_window(folder / "s.nafas") == 0
    assert begun == [[sys.executable, "-m", "nafas", str(folder / "s.nafas")]]
    QTimer.singleShot(200, lambda: windows[-1].close())
    start.open_window(folder / "s.nafas")
    assert windows[-1].document.session.title == "Changed" and len(begun) == 1
    assert (windows[-1].width(), windows[-1].height()) == (900, 650)  # as it was left
    application().processEvents()


@pytest.mark.parametrize(("system", "chosen", "language"), [
    ("de_DE", "", "de"), ("en_GB", "", "en"), ("xx_YY", "", "en"), (None, "", "en"), ("de_DE", "es", "es"),
    ("es_ES", "??", "es"),
])  # fmt: skip
def test_a_new_session_begins_in_the_language_of_the_system_or_the_chosen_one(
    window, monkeypatch, settings, system, chosen, language
):
    monkeypatch.setattr(locale, "getlocale", lambda: (system, "UTF-8"))
    preferences.choose_language(chosen)
    window.document.new()
    assert window.document.session.language == language
