"""Details of everything a set can say, typed and chosen by hand."""

import pytest
from helpers import ready
from PySide6.QtCore import Qt

from nafas.score.selection import Chosen
from nafas.script import Counting, Route, Session, Side, block_notation, read_block
from nafas.script.edits.session_edits import insert_blocks
from nafas.script.model.pacing import Ladder, StepUp, Table


@pytest.fixture
def form(qtbot, window):
    blocks = [read_block("4-4-6 x3"), read_block("4-6", "b"), read_block("rapid 20", "c"), read_block("rest 30", "d")]
    window.document.start(insert_blocks(Session(bed=None), 0, blocks))
    window.choose(Chosen(0, 1, 2))
    ready(qtbot, window)
    return window.details.breath


def type_into(qtbot, field, text):
    field.line.setFocus()
    field.line.selectAll()
    qtbot.keyClicks(field.line, text)


def pick(choice, value):
    choice.setFocus()
    choice.show_value(value)
    choice.chose.emit(value)


def notation(form, index=0):
    return block_notation(form.document.session.blocks[index])


def test_pacing_is_chosen_with_something_usual_and_then_typed(qtbot, form):
    for kind, begins in ((StepUp, "step 1 to 8"), (Ladder, "ladder 1 3/2 2"), (Table, "4-4-6 x3")):
        pick(form.kind, kind)
        assert form.pacing.line.text() == begins
    pick(form.kind, StepUp)
    type_into(qtbot, form.pacing, "step 1 to 9")
    pick(form.drop, "last")
    type_into(qtbot, form.ease, "20")
    assert notation(form) == "4-4-6 x3 step 1 to 9 drop last ease 20s"
    assert "12 rounds" in form.expanded.text() and "7-7-9" in form.expanded.text()
    type_into(qtbot, form.pacing, "step 1 to 99")
    assert form.pacing.fault.isVisible() and "1 to 60" in form.pacing.fault.text() and "to 9 " in notation(form)
    pick(form.kind, None)
    assert form.pacing.line.text() == "" and "step" not in notation(form)


def test_fade_style_and_their_cost_in_time(qtbot, form):
    type_into(qtbot, form.fade, "full 2 silent about 30s")
    assert notation(form).endswith("fade full 2 silent about 30s") and "silent" in form.expanded.text()
    pick(form.cue, "ahead")
    assert form.cost.isVisible() and "takes 12 s" in form.cost.text()  # 2 counts x 3 phases x 2 rounds that speak
    type_into(qtbot, form.first_room, "4")
    assert "takes 18 s" in form.cost.text()
    type_into(qtbot, form.carrier, "sea")
    form.last.click()
    pick(form.counting, Counting.TICK)
    style = form.document.session.blocks[0].style
    assert (style.first_room, style.carrier, style.announce_last, style.counting) == (4, "sea", True, Counting.TICK)
    type_into(qtbot, form.count, "50/min")
    assert form.document.session.blocks[0].count_length * 50 == 60


def test_the_chosen_phase_says_all_it_can(qtbot, form):
    phase = form.phase
    assert phase.isVisibleTo(form) and "Hold full" in phase.name.text() and not phase.side.isVisibleTo(form)
    type_into(qtbot, phase.length, "30s")
    type_into(qtbot, phase.calls, 'half "half way" 5')
    assert notation(form) == 'in 4, hold 30s calls half "half way" 5, out 6 x3'
    form.document.edit(form.document.session, "x")
    form.window().choose(Chosen(0, 2, 1))
    pick(phase.side, Side.LEFT)
    pick(phase.route, Route.NOSE)
    type_into(qtbot, phase.fill, "2/3")
    type_into(qtbot, phase.movement, "arms up")
    phase.always.click()
    type_into(qtbot, phase.length, "2+3 (belly, chest)")
    assert notation(form).startswith('in L 2+3 (belly, chest) nose to 2/3 move always "arms up", hold 30s')
    type_into(qtbot, phase.fill, "7")
    assert phase.fill.line.text() == "7" and form.faults.isVisible() and "to 2/3" in notation(form)


def test_a_count_is_borrowed_and_faults_are_said(qtbot, form):
    window = form.window()
    form.document.edit(form.document.session, "x")
    block = form.document.session.blocks[0]
    window.choose(Chosen(1))
    type_into(qtbot, form.count, f"as {block.id}")
    assert form.document.session.blocks[1].count_from == block.id
    window.choose(Chosen(0))
    type_into(qtbot, form.count, "as b")
    assert form.faults.isVisible() and "no earlier breath set" in form.faults.text()
    assert "no earlier" in window.statusBar().currentMessage() and form.document.session.blocks[0].count_from is None


def test_strokes_rests_and_the_session_have_their_own(qtbot, form):
    window = form.window()
    window.choose(Chosen(2))
    strokes = window.details.strokes
    assert window.details.form is strokes
    type_into(qtbot, strokes.rate, "50")
    strokes.demonstration.setValue(4)
    pick(strokes.kind, "bellows")
    strokes.arms.click()
    type_into(qtbot, strokes.words, "Let it settle.")
    assert notation(form, 2) == "bellows 20 @ 50/min every 10 arms demo 4 @ 10/min rest 45s"
    type_into(qtbot, strokes.rate, "500")
    assert strokes.faults.isVisible() and "4 to 240" in strokes.faults.text()
    window.choose(Chosen(3))
    type_into(qtbot, window.details.rest.longest, "60")
    assert window.document.session.blocks[3].longest == 60
    window.choose(Chosen())
    session = window.details.session_form
    session.wording.edit.setPlainText("exhale: let go")
    session.wording.flush()
    assert window.document.session.wording.exhale == "let go"
    session.wording.edit.setPlainText("exhale let go")
    session.wording.flush()
    assert session.wording.fault.isVisible() and window.document.session.wording.exhale == "let go"
    pick(session.language, "de")
    assert window.document.session.language == "de"
    qtbot.keyClick(window.score, Qt.Key.Key_Down)
