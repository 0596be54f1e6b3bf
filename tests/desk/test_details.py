"""Details of everything a set can say, typed and chosen by hand."""

import pytest
from helpers import ready
from PySide6.QtCore import Qt

from nafas.score.selection import Chosen
from nafas.script import Counting, Level, PhaseKind, Route, Session, Side, block_notation, read_block
from nafas.script.edits.session_edits import insert_blocks
from nafas.script.model.pacing import Glide, Ladder, StepUp, Table

LEFT = Qt.MouseButton.LeftButton


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
        pick(form.pacing.kind, kind)
        assert form.pacing.written.line.text() == begins
    pick(form.pacing.kind, StepUp)
    type_into(qtbot, form.pacing.written, "step 1 to 9")
    pick(form.drop, "last")
    type_into(qtbot, form.ease, "20")
    assert notation(form) == "4-4-6 x3 step 1 to 9 drop last ease 20s"
    assert "12 rounds" in form.expanded.text() and "7-7-9" in form.expanded.text()
    type_into(qtbot, form.pacing.written, "step 1 to 99")
    assert (
        form.pacing.written.fault.isVisible()
        and "1 to 60" in form.pacing.written.fault.text()
        and "to 9 " in notation(form)
    )
    pick(form.pacing.kind, None)
    assert form.pacing.written.line.text() == "" and "step" not in notation(form)


def test_a_pacing_is_set_by_controls_that_say_what_comes_of_it(qtbot, form):
    fields = form.pacing
    pick(fields.kind, StepUp)
    fields.limit.setValue(7)
    pick(fields.grows, (PhaseKind.EXHALE,))
    assert notation(form) == "4-4-6 x3 step 1 on out to 7"
    assert fields.words.text() == "2 steps of 3 rounds: 4-4-6, 4-4-7. 6 rounds in all."
    assert len(fields.picture.steps) == 2 and fields.picture.isVisible() and fields.limit.suffix() == " counts"
    fields.by.setValue(-1)
    assert (
        "step -1 on out to 2" in notation(form)
        and "Down to" in form._groups[fields.limit].labelForField(fields.limit).text()
    )
    assert fields.by.suffix() == " count"
    pick(fields.kind, Ladder)
    type_into(qtbot, fields.ratios, "1, 2")
    pick(fields.rounding, "down")
    assert notation(form) == "4-4-6 x3 ladder 1 2 round down" and "4-4-4, 4-4-8" in fields.words.text()
    type_into(qtbot, fields.ratios, "1, 99")
    assert "ladder 1 round" in notation(form) and "0.25 to 6" in form.faults.text()
    pick(fields.kind, Glide)
    type_into(qtbot, fields.to, "1.5")
    assert notation(form) == "4-4-6 x3 glide to 1.5s" and "from 1 s to 1.5 s over 3 rounds" in fields.words.text()
    pick(fields.kind, None)
    assert not fields.words.isVisible() and not fields.picture.isVisible() and not fields.to.isVisible()


def test_the_voice_thins_out_in_rows(qtbot, form):
    fields = form.fade
    assert fields.rows == [] and fields.words.text() == "Every count of every round."
    form.rounds.setValue(9)
    qtbot.mouseClick(fields.add, LEFT)
    qtbot.mouseClick(fields.add, LEFT)
    assert notation(form).endswith("x9 fade full 3 cues 2 chimes 2") and len(fields.rows) == 3
    pick(fields.rows[2].level, Level.SILENT)
    fields.rows[2].rounds.setValue(0)
    assert notation(form).endswith("fade full 3 cues 2 silent")
    assert fields.words.text() == "Rounds 1 to 3 counted, 4 to 5 cue words, 6 to 9 silent (56 s)."
    qtbot.mouseClick(fields.rows[1].remove, LEFT)
    assert notation(form).endswith("fade full 3 silent") and len(fields.rows) == 2
    type_into(qtbot, fields.written, "full 2 silent at-least 60s full")
    assert "at least 60 s" in fields.rows[1].seconds.text() and not fields.rows[1].rounds.isVisible()


def test_fade_style_and_their_cost_in_time(qtbot, form):
    type_into(qtbot, form.fade.written, "full 2 silent about 30s")
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
