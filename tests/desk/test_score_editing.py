"""Editing on the page: dragging, retyping words, several blocks at once, finding, zooming, printing."""

from fractions import Fraction

import pytest
from helpers import ready
from PySide6.QtCore import QMimeData, QPoint, Qt
from PySide6.QtGui import QGuiApplication

from nafas.score.breath_line import pieces
from nafas.score.row import PAUSE_TOP, ROUND
from nafas.score.selection import Chosen
from nafas.script import Session, Talk, block_notation, read_block
from nafas.script.edits.session_edits import insert_blocks

LEFT, CTRL, SHIFT = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


@pytest.fixture(autouse=True)
def clipboard():
    yield
    QGuiApplication.clipboard().clear()  # as leaving the application does


@pytest.fixture
def start(qtbot, window):
    """Start from lines of notation."""

    def begin(*notations):
        window.document.start(insert_blocks(Session(bed=None), 0, [read_block(text) for text in notations]))
        ready(qtbot, window)
        return window

    return begin


def row_of(window, kind, number=0, index=0):
    rows = window.score.layout_.rows
    return next(r for r in rows if (r.kind, r.block.index) == (kind, index) and number in (0, r.round))


def at(window, row, x, dy):
    window.score._reveal(row)
    return QPoint(int(x), int(row.y + dy - window.score.verticalScrollBar().value()))


def drag(qtbot, window, begin, *ends):
    viewport = window.score.viewport()
    qtbot.mousePress(viewport, LEFT, pos=begin)
    for end in ends:
        qtbot.mouseMove(viewport, end)
    qtbot.mouseRelease(viewport, LEFT, pos=ends[-1])


def notation(window, index=0):
    return block_notation(window.document.session.blocks[index])


def test_a_phase_edge_is_dragged_by_whole_counts_in_one_step_of_undo(qtbot, start):
    window = start("4-6 x3")
    row = row_of(window, "round", 2)
    piece = next(iter(pieces(window.score.layout_, row)))
    scale = window.score.layout_.scale
    begin = at(window, row, piece.x1, 20)
    qtbot.mouseMove(window.score.viewport(), begin)
    assert window.score.viewport().cursor().shape() == Qt.CursorShape.SizeHorCursor
    drag(qtbot, window, begin, begin + QPoint(int(scale * 1.2), 0), begin + QPoint(int(scale * 2.1), 0))
    assert notation(window) == "6-6 x3" and window.score.chosen == Chosen(0, 2, 1)
    window.menus.undo.trigger()
    assert notation(window) == "4-6 x3"


def test_the_foot_of_a_set_is_pulled_for_rounds(qtbot, start):
    window = start("4-6 x3", "rapid 20")
    foot = row_of(window, "foot")
    begin = at(window, foot, 100, 4)
    drag(qtbot, window, begin, begin + QPoint(0, ROUND), begin + QPoint(0, 2 * ROUND + 5))
    assert notation(window) == "4-6 x5"
    window.menus.undo.trigger()
    assert notation(window) == "4-6 x3"
    window.choose(Chosen(0))
    window.score.setFocus()
    qtbot.keyClicks(window.score, "+-+")
    assert notation(window) == "4-6 x4"


def retype(qtbot, window, place, text, taken=True):
    qtbot.mouseDClick(window.score.viewport(), LEFT, pos=place)
    editor = window.score.editor
    assert editor.isVisible()
    editor.selectAll()
    qtbot.keyClicks(editor, text)
    qtbot.keyClick(editor, Qt.Key.Key_Return)
    assert editor.isVisible() is not taken


def test_words_are_retyped_where_they_stand(qtbot, start):
    window = start("4-6 x2")
    row = row_of(window, "round", 1)
    exhale = list(pieces(window.score.layout_, row))[1]
    retype(qtbot, window, at(window, row, exhale.x0 + 8, 53), "let it go")
    assert notation(window) == 'in 4, out 6 "let it go" x2'
    retype(qtbot, window, at(window, row_of(window, "title"), 120, 25), "Evening")
    assert window.document.session.blocks[0].title == "Evening"
    number = row_of(window, "round", 1)
    qtbot.mouseDClick(window.score.viewport(), LEFT, pos=at(window, number, exhale.x1 - 10, 70))
    assert not window.score.editor.isVisible() and "Numbers follow" in window.statusBar().currentMessage()
    window.choose(Chosen(0, 1, 1))
    window.score.setFocus()
    qtbot.keyClick(window.score, Qt.Key.Key_F2)
    qtbot.keyClicks(window.score.editor, "never")
    qtbot.keyClick(window.score.editor, Qt.Key.Key_Escape)
    assert "never" not in notation(window)


def test_a_sentence_is_retyped_and_a_bad_word_is_refused(qtbot, window):
    row = next(row for row in window.score.layout_.rows if row.kind == "talk")
    retype(qtbot, window, at(window, row, 100, 10), "Sit well back.")
    assert window.document.session.blocks[0].paragraphs == ("Sit well back. Listen.",)
    ready(qtbot, window)
    before = window.document.session
    row = row_of(window, "round", 1, 1)
    retype(qtbot, window, at(window, row, window.score.layout_.x_of(row, row.begin) + 4, 53), 'say "in"', taken=False)
    qtbot.keyClick(window.score.editor, Qt.Key.Key_Escape)
    assert window.document.session is before and "no quotes" in window.statusBar().currentMessage()


def test_several_blocks_are_chosen_copied_moved_and_removed(qtbot, start):
    window = start("4-4", "rest 20", "4-6", "4-8")
    score, viewport = window.score, window.score.viewport()
    qtbot.mouseClick(viewport, LEFT, pos=at(window, row_of(window, "title"), 120, 20))
    qtbot.mouseClick(viewport, LEFT, CTRL, pos=at(window, row_of(window, "title", index=2), 120, 20))
    assert window.editing.places == [0, 2] and len(window.order.list.selectionModel().selectedIndexes()) == 2
    score.setFocus()
    qtbot.keyClick(score, Qt.Key.Key_C, CTRL)
    assert "4-4 x1" in QGuiApplication.clipboard().text()
    window.choose(Chosen(3))
    qtbot.keyClick(score, Qt.Key.Key_V, CTRL)
    kinds = [notation(window, n) for n in range(6)]
    assert kinds[4:] == ["4-4 x1", "4-6 x1"] and window.editing.places == [4, 5]
    window.editing.move(-1)
    assert [notation(window, n) for n in range(3, 6)] == ["4-4 x1", "4-6 x1", "4-8 x1"]
    qtbot.keyClick(score, Qt.Key.Key_X, CTRL)
    assert len(window.document.session.blocks) == 4
    window.choose(Chosen(0))
    qtbot.keyClick(score, Qt.Key.Key_Down, SHIFT)
    qtbot.keyClick(score, Qt.Key.Key_Down, SHIFT)
    assert window.editing.places == [0, 1, 2]
    qtbot.keyClick(window.order.list, Qt.Key.Key_Delete)
    assert [notation(window, n) for n in range(len(window.document.session.blocks))] == ["4-8 x1"]
    window.menus.undo.trigger()
    assert len(window.document.session.blocks) == 4


def test_text_from_elsewhere_is_pasted_as_blocks(start):
    window = start("4-4")
    QGuiApplication.clipboard().setText("Sit down.\n4-6 x3")
    window.scripts.paste()
    assert [block.kind for block in window.document.session.blocks] == ["breath", "talk", "breath"]
    data = QMimeData()
    data.setData("application/x-nafas-blocks+json", b"{}")
    QGuiApplication.clipboard().setMimeData(data)
    before = window.document.session
    window.scripts.paste()
    assert window.document.session is before and "copy them again" in window.statusBar().currentMessage()


def test_blocks_are_dragged_in_the_running_order(start):
    window = start("4-4", "4-5", "4-6")
    model = window.order.list.model()
    dragged = model.mimeData([model.index(0), model.index(1)])
    model.dropMimeData(dragged, Qt.DropAction.MoveAction, 3, 0, model.index(-1))
    assert [notation(window, n) for n in range(3)] == ["4-6 x1", "4-4 x1", "4-5 x1"]
    assert window.editing.places == [1, 2]


def test_find_goes_round(qtbot, start):
    window = start("4-4", "rest 20", "4-6", "4-4-4")
    window.find_words()
    bar = window.find_bar
    qtbot.keyClicks(bar.line, "4-4")
    assert window.editing.chosen.block == 0 and bar.count.text() == "1 of 2"
    qtbot.keyClick(bar.line, Qt.Key.Key_Return)
    assert window.editing.chosen.block == 3
    qtbot.keyClick(bar.line, Qt.Key.Key_Return)
    assert window.editing.chosen.block == 0
    qtbot.keyClicks(bar.line, "zzz")
    assert bar.count.text() == "nowhere"
    qtbot.keyClick(bar.line, Qt.Key.Key_Escape)
    assert not bar.isVisible()


def test_zoom_widens_the_page_and_comes_back(start):
    window = start("8-8-8-8 x3")
    scale = window.score.layout_.scale
    assert window.score.horizontalScrollBar().maximum() == 0
    window.score.step_zoom(1)
    window.score.step_zoom(1)
    assert window.score.layout_.scale == pytest.approx(2 * scale) and window.score.horizontalScrollBar().maximum() > 0
    for _ in range(20):
        window.score.step_zoom(1)
    assert window.score.zoom == 4.0
    window.score.step_zoom(0)
    assert window.score.layout_.scale == scale


def test_a_long_hold_is_drawn_short_and_time_is_still_found_in_it(start):
    window = start("in 4, hold 120s calls half 10 release, out 6", "4-6 x2")
    layout = window.score.layout_
    row = row_of(window, "round", 1)
    assert row.seconds == 130 and (layout.x_of(row, row.begin + 130) - layout.x_of(row, row.begin)) / layout.scale == 24
    for second in (0, 3, 4, 64, 124, 127, 130):
        assert layout.time_at(row, layout.x_of(row, row.begin + second)) == pytest.approx(second, abs=1e-6)
    assert layout.row_of_time(row.begin + 100) is row


def test_the_sheet_is_printed_whole_or_not_at_all(start, folder):
    window = start("4-4 x2 step 1 to 6", "rapid 10")
    window.outputs.print_to(folder / "sheet.pdf")
    data = (folder / "sheet.pdf").read_bytes()
    assert data.startswith(b"%PDF") and len(data) > 5000 and "Printed" in window.statusBar().currentMessage()
    window.outputs.print_to(folder / "nowhere" / "sheet.pdf")
    assert "no such folder" in window.statusBar().currentMessage() and list(folder.glob("*.pdf")) == [
        folder / "sheet.pdf"
    ]


def test_escape_ends_writing_and_keeps_the_words_until_undo(qtbot, window):
    score, before = window.score, window.document.session
    row = next(row for row in score.layout_.rows if row.kind == "write")
    qtbot.mouseDClick(score.viewport(), LEFT, pos=at(window, row, 120, 4))
    qtbot.keyClicks(score.editor, "Let the watch go.")
    qtbot.keyClick(score.editor, Qt.Key.Key_Escape)
    written = window.document.session.blocks[0].paragraphs
    assert written[-1] == "Let the watch go." and not score.editor.isVisible() and score.hasFocus()
    ready(qtbot, window)
    assert not score.editor.isVisible()  # no further paragraph is begun
    talk = next(row for row in score.layout_.rows if row.kind == "talk")
    qtbot.mouseDClick(score.viewport(), LEFT, pos=at(window, talk, 100, 10))
    qtbot.keyClicks(score.editor, "Stand up")
    qtbot.keyClick(score.editor, Qt.Key.Key_Escape)
    assert "Stand up" in window.document.session.blocks[0].paragraphs[0]
    window.document.undo()
    window.document.undo()
    assert window.document.session.blocks == before.blocks


def test_talk_is_written_on_the_page_paragraph_by_paragraph(qtbot, window):
    score, keys = window.score, Qt.Key
    window.editing.add("talk")
    place = window.editing.chosen.block
    assert score.editor.isVisible() and score.editor.text() == "" and score.editor.hasFocus()
    row = next(row for row in score.layout_.rows_of(place) if row.kind == "write")
    assert row.height > 20  # it says what to do
    qtbot.keyClicks(score.editor, "Stand by the rail.")
    qtbot.keyClick(score.editor, keys.Key_Return)
    assert window.document.session.blocks[place].paragraphs == ("Stand by the rail.",)
    assert score.editor.isVisible() and score.editor.text() == ""  # the next paragraph
    qtbot.keyClicks(score.editor, "Look out.  Breathe.")
    qtbot.keyClick(score.editor, keys.Key_Return)
    qtbot.keyClick(score.editor, keys.Key_Return)  # nothing more to say
    assert window.document.session.blocks[place].paragraphs == ("Stand by the rail.", "Look out. Breathe.")
    assert not score.editor.isVisible()
    window.undo()
    assert window.document.session.blocks[place].paragraphs == ("Stand by the rail.",)


def test_a_line_that_is_a_breath_becomes_a_set(qtbot, window):
    score, keys = window.score, Qt.Key
    many = len(window.document.session.blocks)
    window.editing.add("talk")
    qtbot.keyClicks(score.editor, "in 4 out 6 for 1 min")
    assert (
        "Ctrl+Enter makes it a set" in window.statusBar().currentMessage()
        and "4-6 x6" in window.statusBar().currentMessage()
    )
    qtbot.keyClick(score.editor, keys.Key_Return, CTRL)
    blocks = window.document.session.blocks
    assert len(blocks) == many + 1 and block_notation(blocks[window.editing.chosen.block]) == "4-6 x6"
    window.editing.add("talk")
    qtbot.keyClicks(score.editor, "Now easy.")
    qtbot.keyClick(score.editor, keys.Key_Return)
    qtbot.keyClicks(score.editor, "no breath at all")
    qtbot.keyClick(score.editor, keys.Key_Return, CTRL)
    assert score.editor.isVisible() and score.editor.text() == "no breath at all"  # refused, and not lost
    assert "not understood" in window.statusBar().currentMessage() and len(window.document.session.blocks) == many + 2


def test_a_pause_between_sentences_is_dragged_or_typed(qtbot, window):
    blocks = (Talk(id="t", paragraphs=("Stand by the rail. Look out.", "Breathe.")),)
    window.document.start(Session(blocks=blocks, bed=None))
    ready(qtbot, window)
    score = window.score
    edge = score.layout_.page - 30

    def rows():
        return [row for row in score.layout_.rows if row.kind == "talk"]

    assert [row.pause for row in rows()] == [Fraction(6, 5), 3, 2]
    begin = at(window, rows()[0], edge, PAUSE_TOP + 6)
    drag(qtbot, window, begin, begin + QPoint(30, 0), begin + QPoint(60, 2))
    assert window.document.session.blocks[0].paragraphs[0] == "Stand by the rail. [3.7s] Look out."
    qtbot.mouseDClick(score.viewport(), LEFT, pos=at(window, rows()[2], edge, PAUSE_TOP + 6))
    assert score.editor.text() == "2"
    qtbot.keyClicks(score.editor, "12.5 s")
    qtbot.keyClick(score.editor, Qt.Key.Key_Return)
    assert window.document.session.blocks[0].paragraphs[1] == "Breathe. [12.5s]" and rows()[2].pause == Fraction(25, 2)
    window.undo()
    window.undo()
    assert window.document.session.blocks == blocks  # a drag is one step
    qtbot.mouseClick(score.viewport(), LEFT, pos=at(window, rows()[0], edge, PAUSE_TOP + 6))
    assert window.document.session.blocks == blocks  # a click changes nothing
    qtbot.mouseDClick(score.viewport(), LEFT, pos=at(window, rows()[0], 90, 8))
    assert score.editor.text() == "Stand by the rail."
    qtbot.keyClicks(score.editor, "Stand easy. [5s] Rest.")
    qtbot.keyClick(score.editor, Qt.Key.Key_Return)
    assert [row.pause for row in rows()][:2] == [5, Fraction(6, 5)]
