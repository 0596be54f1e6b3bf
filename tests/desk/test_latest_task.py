"""Work in the background of which only the newest counts."""

import time

import pytest

from nafas.desk.work.latest_task import LatestTask
from nafas.errors import Cancelled, InputError


class Counting(LatestTask):
    """Takes until it is let go; remembers what came."""

    def __init__(self):
        super().__init__()
        self.made, self.begun, self.hold = [], [], True

    def work(self, what, note):
        self.begun.append(what)
        while self.hold and not note.stopped():
            time.sleep(0.005)
        if note.stopped():
            raise Cancelled
        if what == "broken":
            raise InputError("x.wav", "breaks off", "use a whole copy")
        if what == "fault":
            raise ZeroDivisionError
        return what

    def take(self, made):
        self.made.append(made)


@pytest.fixture
def counting(qtbot):
    found = Counting()
    yield found
    found.stop()


def test_the_newest_wins_and_older_work_stops(qtbot, counting):
    for what in ("one", "two", "three"):
        counting.ask(what)
    counting.hold = False
    qtbot.waitUntil(lambda: counting.made == ["three"], timeout=30_000)
    assert counting.begun == ["one", "three"]  # the second was never begun
    counting.ask("three")
    assert not counting.background.running  # it is done already


@pytest.mark.parametrize(("what", "says"), [("broken", "x.wav: breaks off"), ("fault", "ZeroDivisionError")])
def test_what_fails_is_said_and_the_next_is_done(qtbot, counting, what, says):
    told = []
    counting.failed.connect(told.append)
    counting.hold = False
    counting.ask(what)
    qtbot.waitUntil(lambda: bool(told), timeout=30_000)
    assert says in told[0] and counting.made == []
    counting.ask("next")
    qtbot.waitUntil(lambda: counting.made == ["next"], timeout=30_000)


def test_it_can_be_stopped_for_good(qtbot, counting):
    counting.ask("one")
    counting.stop()
    qtbot.wait(50)
    assert counting.made == []
