"""What is seen: every kind of row, by day and by night, at small and large sizes; and the arc and its legend."""

import pytest
from helpers import ready
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QImage

from nafas.drawing.paper.session_sheet import sheet_html
from nafas.score.hit_test import Edge, Word, chosen_at, edge_at, word_at
from nafas.score.selection import Chosen
from nafas.script import Session, Talk, read_block
from nafas.script.edits.session_edits import insert_blocks

EVERYTHING = (
    "in 2+2 (belly, ribs) nose to 2/3, hold 30s calls half 10 5, out 6 hum x2",
    "in L 4, out R 4, in R 4, out L 4 x4 fade full 1 cues 1 chimes 1 silent 1",
    'in 4 move "arms up", hold 4 tick, out 6 down x2 step 1 to 7 ease 15s',
    "rapid 23 @ 60/min every 5 demo 2",
    "bellows 12 @ 50/min arms demo 1",
    "rest 20s",
)


@pytest.fixture
def full(qtbot, window):
    blocks = [Talk(id="t", title="Hello", paragraphs=("Sit down. " * 12,)), *map(read_block, EVERYTHING)]
    session = insert_blocks(Session(bed=None), 0, blocks)
    window.document.start(session)
    ready(qtbot, window)
    return window


def ink(widget):
    """How many different colours a picture of a widget has: a blank one has few."""
    image: QImage = widget.grab().toImage()
    step = max(1, image.width() // 300)
    return len({image.pixel(x, y) for x in range(0, image.width(), step) for y in range(0, image.height(), 2)})


@pytest.mark.parametrize("night", [False, True])
@pytest.mark.parametrize(("width", "height"), [(1024, 700), (1920, 1200)])
def test_every_row_is_painted_and_stays_inside_its_own(full, night, width, height):
    full.resize(width, height)
    full.menus.night.setChecked(night)
    layout = full.score.layout_
    assert {row.kind for row in layout.rows} >= {"title", "talk", "rest", "round", "ease", "strokes", "foot"}
    top = full.score.verticalScrollBar().maximum()
    for place in range(0, top + 1, max(1, top // 5)):
        full.score.verticalScrollBar().setValue(place)
        assert ink(full.score) > 12
    assert full.score.horizontalScrollBar().maximum() == 0
    full.menus.night.setChecked(False)


def test_the_ribbon_and_the_arc_show_strokes_and_silence(full):
    assert ink(full.ribbon) > 8
    full.show_view("plan")
    for width in (1024, 1600):
        full.resize(width, 700)
        assert ink(full.views.plan.arc) > 12
    assert not full.ribbon.isVisible()
    full.show_view("score")
    assert full.ribbon.isVisible()


def rows(window, kind):
    return [row for row in window.score.layout_.rows if row.kind == kind]


def test_a_point_on_the_page_is_a_phase_an_edge_or_a_word(full):
    layout = full.score.layout_
    first = rows(full, "round")[0]
    x = layout.x_of(first, first.begin + 4)  # in 4 ends here
    assert chosen_at(layout, first, x - 9) == Chosen(1, 1, 1) and chosen_at(layout, first, x + 9) == Chosen(1, 1, 2)
    edge = edge_at(layout, first, x + 2, first.y + 20)
    assert isinstance(edge, Edge) and (edge.phase, edge.size) == (1, 4)
    assert edge_at(layout, first, x + 30, first.y + 20) is None and edge_at(layout, first, x, first.y + 60) is None
    words = {}
    second = rows(full, "round")[1]  # in the first, how to breathe in takes the time of "ribs", which is reported
    for dx in range(0, 560, 4):
        for y in (30, 44, 53):
            found = word_at(layout, second, layout.x_of(second, second.begin) + dx, second.y + y, 800)
            if isinstance(found, Word):
                words[found.target.kind, found.target.index] = found.text
    assert words["part", 0] == "belly" and words["part", 1] == "ribs" and words["call", 0] == "halfway"
    assert words["cue", 0] in ("hold", "hum")
    assert word_at(layout, rows(full, "foot")[0], 100, rows(full, "foot")[0].y + 3, 800) is None


def test_a_call_is_retyped_inside_its_hold(qtbot, full):
    layout, row = full.score.layout_, rows(full, "round")[0]
    full.score._reveal(row)
    at = QPoint(int(layout.x_of(row, row.begin + 19)) + 4, int(row.y + 30 - full.score.verticalScrollBar().value()))
    qtbot.mouseDClick(full.score.viewport(), Qt.MouseButton.LeftButton, pos=at)
    full.score.editor.selectAll()
    qtbot.keyClicks(full.score.editor, "half way")
    qtbot.keyClick(full.score.editor, Qt.Key.Key_Return)
    assert full.document.session.blocks[1].pattern.phases[1].calls[0].text == "half way"


def test_keys_walk_through_rounds_and_phases_of_everything(qtbot, full):
    full.choose(Chosen(0))
    full.score.setFocus()
    seen = set()
    for _ in range(40):
        qtbot.keyClick(full.score, Qt.Key.Key_Down)
        qtbot.keyClick(full.score, Qt.Key.Key_Right)
        chosen = full.score.chosen
        seen.add((chosen.block, chosen.round))
        assert full.details.form.index == chosen.block
    assert {block for block, _ in seen} == set(range(1, 7))


def test_the_printed_sheet_has_every_word_and_the_cautions(full):
    html = sheet_html(full.preparation.timeline)
    for words in ("Hello", "halfway", "Leave out the rapid breathing", "Leave out the holds", "Natural breath, 20 s"):
        assert words in html
    assert "<script" not in sheet_html(full.preparation.timeline).lower()


def test_a_title_with_signs_of_html_stays_words(qtbot, window):
    block = Talk(id="t", title="<b>Bold</b> & plain", paragraphs=("One < two.",))
    window.document.start(Session(bed=None, title="A < B", blocks=(block,)))
    ready(qtbot, window)
    html = sheet_html(window.preparation.timeline)
    assert "&lt;b&gt;Bold" in html and "One &lt; two." in html and "A &lt; B" in html


def test_keys_are_grouped_found_and_fit_the_screen(qtbot, window):
    window.menus._show_keys()
    dialog = window.menus.keys
    assert dialog.isVisible() and dialog.height() <= 700
    tree = dialog.tree
    heads = [tree.topLevelItem(n) for n in range(tree.topLevelItemCount())]
    assert [head.text(0) for head in heads][:2] == ["File", "Edit"] and "In the quick entry" in [
        h.text(0) for h in heads
    ]
    qtbot.keyClicks(dialog.search, "undo")
    shown = [head.child(n).text(1) for head in heads for n in range(head.childCount()) if not head.child(n).isHidden()]
    assert shown == ["Ctrl+Z"] and [head.isHidden() for head in heads[:2]] == [True, False]
    dialog.search.setText("nothing of the kind")
    assert all(head.isHidden() for head in heads)
    dialog.close()


def test_messages_wear_the_window_s_own_marks(window):
    from PySide6.QtWidgets import QMessageBox

    from nafas.desk.widgets.labels import message_box

    for icon in (QMessageBox.Icon.Question, QMessageBox.Icon.Warning, QMessageBox.Icon.Information):
        box = message_box(icon, "Save", "Save <b>it</b>?", "", window)
        assert not box.iconPixmap().isNull() and box.icon() is QMessageBox.Icon.NoIcon


def test_every_view_says_how_much_of_its_work_is_open(qtbot, window):
    from nafas.script.edits.session_edits import change, insert_blocks

    buttons = window.masthead.views
    assert [buttons[name].text() for name in ("plan", "score", "takes")] == ["Plan", "Score", "Takes"]
    ends_right = read_block("in L 4, out R 4 x2 @ 0.4s", "sides")  # too quick for its words, and ends on the right
    session = insert_blocks(window.document.session, 1, [ends_right])
    window.document.edit(change(session, target_length=600, closing=2), "work")
    ready(qtbot, window)
    names = ["Plan", "Score", "Takes", "Sound", "Rehearse", "Review", "Deliver", "Ledger"]
    assert [button.text().split()[0] for button in buttons.values()] == names
    numbers = [button.text().split()[1:] for button in buttons.values()]
    assert numbers[0] == ["1"] and numbers[1] == ["1"] and int(numbers[2][0]) >= 2 and numbers[3] == ["1"]
    window.resize(1024, 700)
    qtbot.waitUntil(lambda: window.masthead.about.text().endswith("…"))  # the title gives way, the names do not
    assert all(button.width() >= button.sizeHint().width() for button in buttons.values())
    assert "under the target" in buttons["plan"].toolTip() and "lines do not fit" in buttons["takes"].toolTip()
