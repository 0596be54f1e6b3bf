"""Details of everything a set can say, typed and chosen by hand."""

import pytest
from helpers import ready
from PySide6.QtCore import Qt

from nafas.score.selection import Chosen
from nafas.script import Counting, Level, PhaseKind, Route, Session, Side, block_notation, read_block
from nafas.script.edits.session_edits import change_block, insert_blocks
from nafas.script.model.pacing import Glide, Ladder, StepUp, Table
from nafas.script.notation.set import parse_fade, parse_pacing

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
    type_into(qtbot, form.ease.seconds, "20")
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
    assert not form.guidance.is_open and form.guidance.head.summary == "every count"
    form.guidance.head.click()
    assert fields.rows == [] and fields.words.text() == "Every count of every round."
    form.rounds.setValue(9)
    fields.add.click()
    fields.add.click()
    assert notation(form).endswith("x9 fade full 3 cues 2 chimes 2") and len(fields.rows) == 3
    pick(fields.rows[2].level, Level.SILENT)
    fields.rows[2].rounds.setValue(0)
    assert notation(form).endswith("fade full 3 cues 2 silent")
    assert fields.words.text() == "Rounds 1 to 3 counted, 4 to 5 cue words, 6 to 9 silent (56 s)."
    fields.rows[1].remove.click()
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


def test_calls_and_phrases_of_a_set(qtbot, form):
    fields = form.calls
    fields.section.head.click()
    assert not fields.once.isVisibleTo(form)
    type_into(qtbot, fields.left, "2, 3")
    fields.half.click()
    fields.minute.click()
    fields.every.setValue(5)
    type_into(qtbot, fields.phrases, "I let go | Calm")
    fields.once.click()
    pick(fields.kind, PhaseKind.INHALE)
    assert notation(form).endswith('x3 announce round 5 left 3 2 half minute phrases "I let go" "Calm" once on in')
    type_into(qtbot, fields.left, "some")
    assert "numbers of rounds" in fields.left.fault.text() and form.document.session.blocks[0].calls.left == (3, 2)
    fields.phrases.line.setFocus()
    fields.phrases.line.selectAll()
    qtbot.keyClick(fields.phrases.line, Qt.Key.Key_Backspace)
    assert notation(form).endswith("minute") and not fields.once.isVisibleTo(form)


def test_the_chosen_phase_says_all_it_can(qtbot, form):
    phase = form.phase
    assert phase.isVisibleTo(form) and "Hold full" in phase.name.text() and not phase.side.isVisibleTo(form)
    type_into(qtbot, phase.length, "30s")
    type_into(qtbot, phase.calls.written, 'half "half way" 5')
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
    session.wording.section.head.click()
    exhale = session.wording.lines["exhale"]
    assert exhale.line.placeholderText() == "exhale" and exhale.line.text() == ""
    type_into(qtbot, exhale, "let go")
    written = session.wording.written
    qtbot.waitUntil(written.isVisible)
    assert window.document.session.wording.exhale == "let go" and written.edit.toPlainText() == "exhale: let go"
    assert session.wording.section.head.summary == "1 phrase of its own"
    written.edit.setPlainText("exhale let go")
    written.flush()
    assert written.fault.isVisible() and window.document.session.wording.exhale == "let go"
    type_into(qtbot, exhale, " ")
    assert window.document.session.wording.exhale is None
    pick(session.language, "de")
    assert window.document.session.language == "de"
    qtbot.keyClick(window.score, Qt.Key.Key_Down)


def test_a_phase_in_parts_by_rows(qtbot, form):
    form.window().choose(Chosen(0, 1, 3))
    phase, parts = form.phase, form.phase.parts
    assert not parts.section.is_open and parts.section.head.summary == "one whole breath"
    parts.section.head.click()
    parts.add.click()
    assert notation(form) == "in 4, hold 4, out 2+2+2 x3" and len(parts.list.rows) == 3
    for row, word in zip(parts.list.rows, ("chest", "ribs", "belly")):
        type_into(qtbot, row.word, word)
    parts.list.rows[0].counts.setValue(3)
    type_into(qtbot, parts.list.rows[1].movement, "hands low")
    assert notation(form) == "in 4, hold 4, out 3+2+2 (chest, ribs: hands low, belly) x3"
    parts.always.click()
    pick(parts.joint, {"smooth": False, "through": True})
    assert notation(form) == "in 4, hold 4, out 3+2+2 (chest, ribs: always hands low, belly) through x3"
    assert parts.words.text().startswith("3 parts: chest 3, ribs 2, belly 2.") and "one to 7" in parts.words.text()
    assert phase.picture.joints == (3 / 7, 5 / 7) and phase.picture.chosen == 2
    pick(phase.room, 3)
    assert " ahead 3 " in notation(form)
    type_into(qtbot, parts.list.rows[0].word, "chest: up")  # a colon would read as a movement
    assert form.faults.isVisible() and "plain" in form.faults.text() and "(chest, ribs" in notation(form)
    parts.list.rows[2].remove.click()
    parts.list.rows[1].remove.click()
    assert notation(form) == "in 4, hold 4, out 5 ahead 3 x3" and parts.list.rows == []


def test_calls_in_a_hold_by_rows(qtbot, form):
    calls = form.phase.calls
    type_into(qtbot, form.phase.length, "30s")
    assert calls.section.is_open  # a hold in seconds is what calls are for
    for _ in range(3):
        calls.add.click()
    assert notation(form) == "in 4, hold 30s calls half 5 release, out 6 x3"
    assert calls.words.text() == "“halfway” after 15 s, “five more seconds” after 25 s, “and release” at its end."
    calls.list.rows[1].units.setValue(8)
    type_into(qtbot, calls.list.rows[1].text, "nearly there")
    pick(calls.list.rows[0].where, "in")
    assert notation(form) == 'in 4, hold 30s calls +5 8 "nearly there" release, out 6 x3'
    assert form.phase.picture.calls == (pytest.approx(5 / 30), pytest.approx(22 / 30), 1)
    calls.list.rows[0].units.setValue(30)
    assert form.faults.isVisible() and "not inside" in form.faults.text()
    calls.list.rows[2].remove.click()
    assert notation(form) == 'in 4, hold 30s calls +5 8 "nearly there", out 6 x3'


def test_a_preparing_breath_and_the_words_between_steps_by_controls(qtbot, form):
    form.guidance.head.click()
    prepare = form.prepare
    prepare.on.click()
    prepare.out.setValue(5)
    assert form.document.session.blocks[0].prepare.model_dump() == "3-5" and prepare.picture.isVisible()
    assert prepare.words.text().startswith("8 s before round one") and "“and as it goes”" in prepare.words.text()
    prepare.on.click()
    assert form.document.session.blocks[0].prepare is None and not prepare.into.isVisible()
    form.changes.head.click()
    type_into(qtbot, form.pacing.written, "step 1 to 8")
    type_into(qtbot, form.ease.seconds, "20")
    assert form.ease.told.text() == "20 s of natural breath, 2 times: 0:40 in all."
    type_into(qtbot, form.ease.list.rows[0].words, "Relax.")
    form.ease.add.click()
    type_into(qtbot, form.ease.list.rows[1].words, "Once more.")
    assert form.document.session.blocks[0].ease_words == "Relax. | Once more." and not form.ease.add.isVisible()
    assert [row.after.text() for row in form.ease.list.rows] == ["After step 1", "After step 2"]
    form.ease.list.rows[0].remove.click()
    assert form.document.session.blocks[0].ease_words == "Once more." and len(form.ease.list.rows) == 1


def test_only_what_matters_for_a_set_is_open_and_what_is_folded_by_hand_stays(qtbot, form):
    assert [s.is_open for s in (form.changes, form.guidance, form.aloud, form.each)] == [False] * 4
    assert form.each.head.summary == "3 rounds, 42 s"
    form.aloud.head.click()
    type_into(qtbot, form.pattern, "4-4-7")
    assert form.aloud.is_open
    form.document.edit(
        change_block(form.document.session, 0, pacing=parse_pacing("step 1 to 8"), fade=parse_fade("full 1 cues")), "x"
    )
    assert form.changes.is_open and form.guidance.is_open
    form.changes.head.setFocus()
    qtbot.keyClick(form.changes.head, Qt.Key.Key_Space)
    type_into(qtbot, form.pattern, "4-4-6")
    assert not form.changes.is_open
