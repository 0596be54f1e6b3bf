"""The Review view on the real window: findings read, remedied with one click, taken back, set aside, and gone to."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
import soundfile
from helpers import ready
from PySide6.QtCore import Qt

from nafas.desk.review import audit_dialog
from nafas.review.audit.judge import judge_sets
from nafas.review.audit.talk import Sentence
from nafas.review.audit.vocabulary import of_language
from nafas.review.checks.finding import Finding
from nafas.script import Rest, Session, Talk, load_session, read_block
from nafas.script.edits.session_edits import change
from nafas.script.performed import CountedWord, performed
from nafas.script.words.cautions import CAUTIONS
from nafas.tasks.audit import AuditResult

KEYS, LEFT = Qt.Key, Qt.MouseButton.LeftButton
ROUND = (("inhale", 0), ("two", 2), ("three", 3), ("exhale", 0), ("two", 2), ("three", 3))
CUES = of_language().kinds
SAID = [(float(6 * one + at), *word) for one in range(4) for at, word in enumerate(ROUND)]
SAID[8] = (8.0, "two", 2)  # said twice, where the three was


@pytest.fixture
def review(qtbot, window):
    """The window on a session that promises nine rounds and has eight."""
    blocks = (
        Talk(id="safe", title="Cautions", paragraphs=(CAUTIONS["every"],), sentence_pause=2),
        Talk(id="how", title="How", paragraphs=("In for four, out for six. Nine rounds.",), pause_after=3),
        read_block("4-6 x8", "set"),
        Rest(id="rest", seconds=Fraction(10)),
    )
    window.document.start(Session(title="Watch below", end_bell=False, blocks=blocks))
    qtbot.keyClick(window, KEYS.Key_6, Qt.KeyboardModifier.ControlModifier)
    ready(qtbot, window)
    heard(qtbot, window)
    return window.views.review


def heard(qtbot, window):
    """Wait until the newest session was listened to."""

    def done():
        found = window.views.review.reviewed
        return found is not None and found.subject.session is window.document.session and not found.review.waiting

    qtbot.waitUntil(done, timeout=60_000)


def findings(review):
    rows = (review.list.item(row).data(Qt.ItemDataRole.UserRole) for row in range(review.list.count()))
    return [row for row in rows if isinstance(row, Finding)]


def test_a_line_that_does_not_fit_is_fixed_where_it_is_found(qtbot, window, review):
    long = change(window.document.session, wording={"inhale": "breathe in slowly, now, as it comes to you"})
    window.document.edit(long, "longer")
    ready(qtbot, window)
    heard(qtbot, window)
    found = next(each for each in findings(review) if each.check == "misfit")
    assert found.text.startswith("\N{LEFT DOUBLE QUOTATION MARK}breathe in") and "count 1" in found.where
    review.list.chose.emit(found)
    remedy, button = review.side.remedies[0]
    qtbot.mouseClick(button, LEFT)
    ready(qtbot, window)
    heard(qtbot, window)
    assert window.document.session == remedy.session != long
    assert not [each for each in findings(review) if each.check == "misfit"]


def test_a_promise_that_is_not_kept_is_mended_with_a_click_and_taken_back(qtbot, window, review):
    assert window.masthead.views["review"].text() == "Review 1" and review.heading.text() == "1 must be changed"
    assert review.list.finding.check == "promised-rounds" and review.list.hasFocus()
    words = [button.text() for _, button in review.side.remedies]
    assert words[0].startswith("Make it 9 rounds\ncosts 10.0 s more") and "read again" in words[1]
    qtbot.mouseClick(review.side.remedies[0][1], LEFT)
    assert window.document.session.blocks[2].rounds == 9
    heard(qtbot, window)
    assert not findings(review) and review.heading.text() == "Nothing to change" and review.looked.is_open
    assert window.masthead.views["review"].text() == "Review"
    window.undo()
    heard(qtbot, window)
    assert [finding.check for finding in findings(review)] == ["promised-rounds"]


def test_a_finding_is_set_aside_with_a_reason_typed(qtbot, window, review):
    assert not review.side.aside_button.isEnabled()
    qtbot.keyClicks(review.side.reason, "the ninth is the crew's own")
    qtbot.keyClick(review.side.reason, KEYS.Key_Return)
    assert window.document.session.set_aside[0].reason == "the ninth is the crew's own"
    heard(qtbot, window)
    assert window.masthead.views["review"].text() == "Review" and findings(review)[0].reason
    qtbot.mouseClick(review.side.aside_button, LEFT)  # taken up again
    heard(qtbot, window)
    assert window.masthead.views["review"].text() == "Review 1" and not window.document.session.set_aside


def test_enter_goes_to_the_place_and_publishing_is_part_of_the_session(qtbot, window, review):
    qtbot.mouseClick(review.side.publish, LEFT)
    assert window.document.session.publishing
    heard(qtbot, window)
    assert "stand-ins" in {finding.check for finding in findings(review)}
    qtbot.keyClick(review.list, KEYS.Key_Home)
    qtbot.keyClick(review.list, KEYS.Key_Down)
    row = next(
        r
        for r in range(review.list.count())
        if getattr(review.list.item(r).data(256), "check", "") == "promised-rounds"
    )
    review.list.setCurrentRow(row)
    qtbot.keyClick(review.list, KEYS.Key_Return)
    assert window.centre.currentWidget() is window.page and window.editing.chosen.block == 1


def test_the_count_is_kept_while_another_view_is_shown(qtbot, window, review):
    window.show_view("score")
    blocks = list(window.document.session.blocks)
    blocks[1] = blocks[1].model_copy(update={"paragraphs": ("In for five. Nine rounds.",)})
    window.document.edit(window.document.session.model_copy(update={"blocks": tuple(blocks)}), "write")
    qtbot.waitUntil(lambda: window.masthead.views["review"].text() == "Review 2", timeout=60_000)


def test_all_that_was_looked_at_can_be_read_in_a_narrow_window(qtbot, window, review):
    window.resize(1024, 700)
    if not review.looked.is_open:
        qtbot.mouseClick(review.looked.head, LEFT)
    label = review.groups["Promises"]
    qtbot.waitUntil(lambda: label.height() >= label.heightForWidth(label.width()) > 40)


def test_a_recording_is_reviewed_and_heard_from_its_place(qtbot, window, folder, monkeypatch):
    rate = 16_000
    soundfile.write(folder / "hum.wav", 0.2 * np.sin(np.arange(5 * rate) * 0.05), rate)
    qtbot.keyClick(window, KEYS.Key_U, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    dialog = window.outputs.audit_dialog
    dialog.review(folder / "gone.wav")
    qtbot.waitUntil(lambda: not dialog.running and "gone.wav" in dialog.outcome.text())
    dialog.review(folder / "hum.wav")
    qtbot.waitUntil(lambda: dialog.audit is not None and not dialog.running, timeout=60_000)
    assert "no counting" in dialog.outcome.text() and not dialog.picture.isVisible()
    words = [CountedWord(text, number, CUES.get(text), at, at + 0.3, at, 0.9, 0.5) for at, text, number in SAID]
    made = replace(
        dialog.audit,
        talk=(Sentence(0.2, 0.9, "Sit where you like."),),
        words=tuple(words),
        sets=performed(words),
        findings=tuple(judge_sets(performed(words))),
    )
    dialog.ended(AuditResult(made))
    told = [dialog.list.item(row).text() for row in range(dialog.list.count())]
    assert dialog.picture.isVisible() and any("said twice" in text for text in told)
    assert dialog.said.item(0).text().endswith("Sit where you like.") and dialog.parts.tabText(1) == "Talk (1)"
    monkeypatch.setattr(audit_dialog, "ask_save_name", lambda *_: folder / "made.pdf")
    qtbot.mouseClick(dialog.page, LEFT)
    assert (folder / "made.pdf").read_bytes().startswith(b"%PDF") and b"/Image" in (folder / "made.pdf").read_bytes()
    monkeypatch.setattr(audit_dialog, "ask_save_name", lambda *_: folder / "made.nafas")
    qtbot.mouseClick(dialog.make, LEFT)
    qtbot.waitUntil(lambda: "made.nafas" in dialog.outcome.text() and not dialog.running, timeout=30_000)
    assert load_session(folder / "made.nafas").blocks[-1].rounds == 4
    dialog.list.itemClicked.emit(dialog.list.item(0))
    assert dialog.audition.playing
    qtbot.mouseClick(dialog.stop, LEFT)
    assert not dialog.audition.playing
    dialog.reject()


def test_my_words_cover_this_is_one_click_and_can_be_taken_back(qtbot, window, review):
    own = (
        "If you get dizzy, stop. Never force it. Not at the wheel. Your doctor knows better. The mate asks the purser."
    )
    for title in ("Watch below", "Another watch"):
        talk = Talk(id="safe", paragraphs=(own,), sentence_pause=2)
        window.document.start(Session(title=title, end_bell=False, blocks=(talk, read_block("4-6 x8", "set"))))
        heard(qtbot, window)
        (row,) = [n for n, each in enumerate(findings(review)) if each.check == "cautions-every"]
        review.list.setCurrentRow(review.list.row(_items(review)[row]))
        if title == "Watch below":
            assert not findings(review)[row].reason
            (button,) = [button for remedy, button in review.side.remedies if remedy.title == "My words cover this"]
            qtbot.mouseClick(button, LEFT)
            heard(qtbot, window)
            assert window.document.session.set_aside
    assert findings(review)[row].reason and not window.document.session.set_aside  # known in the next session
    qtbot.mouseClick(review.side.aside_button, LEFT)
    qtbot.waitUntil(lambda: not any(e.reason for e in findings(review) if e.check == "cautions-every"), timeout=60_000)


def _items(review):
    items = [review.list.item(row) for row in range(review.list.count())]
    return [item for item in items if isinstance(item.data(Qt.ItemDataRole.UserRole), Finding)]
