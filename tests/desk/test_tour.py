"""The first-run tour: its steps are done with real keys and clicks, in order, and it can be left."""

import pytest
from helpers import ready
from PySide6.QtCore import QPoint, QSettings, Qt
from PySide6.QtTest import QTest

from nafas.desk.welcome.tour import STEPS
from nafas.score.selection import Chosen

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def first_time():
    store = QSettings("nafas", "nafas")
    store.remove("tour seen")
    yield
    store.remove("tour seen")


def at(qtbot, window, step):
    qtbot.waitUntil(lambda: window.tour.step == step, timeout=10_000)


def test_each_step_is_over_once_it_is_done(qtbot, window, first_time):
    with qtbot.waitActive(window):
        window.activateWindow()
    window.show_view("welcome")
    qtbot.mouseClick(window.views.welcome.demo_button, LEFT)
    ready(qtbot, window)
    tour = window.tour
    assert tour.isVisible() and tour.step == 0 and "1 of 6" in tour.words.text() and len(STEPS) <= 6
    qtbot.wait(400)
    assert tour.step == 0  # nothing was done yet
    QTest.keyClick(window, Qt.Key.Key_Space)
    at(qtbot, window, 1)
    QTest.keyClick(window, Qt.Key.Key_Space)
    number = next(n for n, block in enumerate(window.document.session.blocks) if hasattr(block, "pattern"))
    window.choose(Chosen(number, 1, 1))
    window.score.setFocus()
    QTest.keyClicks(window.score, "5")
    at(qtbot, window, 2)
    QTest.keyClick(window, Qt.Key.Key_B, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClicks(window.masthead.entry.line, "box for 2 min")
    QTest.keyClick(window.masthead.entry.line, Qt.Key.Key_Return)
    at(qtbot, window, 3)
    QTest.keyClick(window, Qt.Key.Key_3, Qt.KeyboardModifier.ControlModifier)
    at(qtbot, window, 4)
    qtbot.mouseClick(window.masthead.views["review"], LEFT, pos=QPoint(5, 5))
    at(qtbot, window, 5)
    ready(qtbot, window)
    QTest.keyClick(window, Qt.Key.Key_R, Qt.KeyboardModifier.ControlModifier)
    at(qtbot, window, 6)
    window.outputs.render_dialog.reject()
    assert "handbook" in tour.words.text()
    qtbot.mouseClick(tour.leave_button, LEFT)
    assert not tour.isVisible()


def test_it_begins_by_itself_only_once_and_can_be_left_and_asked_for(qtbot, window, first_time):
    window.show_view("welcome")
    qtbot.mouseClick(window.views.welcome.demo_button, LEFT)
    qtbot.mouseClick(window.tour.leave_button, LEFT)
    assert not window.tour.isVisible()
    window.player.toggle()
    qtbot.wait(1500)
    window.player.pause()
    assert window.tour.step == 0  # what is done after that is no step
    window.show_view("welcome")
    qtbot.mouseClick(window.views.welcome.demo_button, LEFT)
    assert not window.tour.isVisible()
    next(a for m in window.menuBar().actions() for a in m.menu().actions() if "Tour" in a.text()).trigger()
    assert window.tour.isVisible() and window.views.shown == "score"
