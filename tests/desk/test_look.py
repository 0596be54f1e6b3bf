"""What can be checked of the look without eyes: contrast, and that every state paints something of its own."""

import unicodedata

import pytest
from helpers import breath, ready
from PySide6.QtCore import Qt
from PySide6.QtGui import QFontMetricsF

from nafas.desk.score.view import wrapped
from nafas.drawing import theme
from nafas.drawing.theme import DAY, NIGHT, font
from nafas.score.selection import Chosen
from nafas.script import Session, Talk
from nafas.script.edits.session_edits import change_block, insert_block


def luminance(colour):
    parts = [v / 12.92 if v <= 0.03928 else ((v + 0.055) / 1.055) ** 2.4 for v in colour.getRgbF()[:3]]
    return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]


def contrast(a, b):
    high, low = sorted((luminance(a), luminance(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("colours", [DAY, NIGHT], ids=["day", "night"])
def test_every_text_can_be_read_on_every_ground(colours):
    """WCAG 2.1, success criterion 1.4.3: 4.5 : 1."""
    for ground in (colours.paper, colours.page, colours.chosen):
        for ink in (colours.ink, colours.muted):
            assert contrast(ink, ground) >= 4.5, (ink.name(), ground.name())
    for ground in (colours.paper, colours.page):
        assert contrast(colours.warning, ground) >= 4.5 and contrast(colours.accent, ground) >= 4.5
    assert contrast(colours.on_accent, colours.accent) >= 4.5
    for kind_colour in (colours.inhale, colours.hold, colours.exhale, colours.rest):
        assert contrast(colours.ink, kind_colour) >= 4.5  # the line of the breath on its own wash


def test_figures_stand_still(window):
    """Tabular figures: a clock does not jump sideways as it runs."""
    metrics = QFontMetricsF(font())
    assert len({metrics.horizontalAdvance(digit) for digit in "0123456789"}) == 1


def picture(window):
    return window.score.viewport().grab().toImage()


def test_choosing_playing_and_night_change_what_is_seen(qtbot, window):
    plain = picture(window)
    window.choose(Chosen(1, 1, 1))
    chosen = picture(window)
    window.player.seek(float(window.preparation.timeline.blocks[1].start) + 0.5)
    playing = picture(window)
    window.set_night(True)
    night = picture(window)
    window.set_night(False)
    again = picture(window)
    assert plain != chosen != playing != night and again == playing


def test_a_cue_ahead_and_a_collision_are_drawn(qtbot, window):
    seen = [picture(window)]
    for fields in ({"style": {"cue": "ahead", "cue_room": 3}}, {"count_length": "0.25"}):
        window.document.edit(change_block(window.document.session, 1, **fields), "look")
        ready(qtbot, window)
        seen.append(picture(window))
    assert seen[0] != seen[1] != seen[2]
    warning = theme.theme().warning.rgb()
    last = seen[2]
    found = any(last.pixel(x, y) == warning for y in range(0, last.height()) for x in range(0, last.width(), 1))
    assert found  # the hatching


def test_talk_that_overruns_its_slot_is_hatched(qtbot, window):
    block = Talk(id="t", slot=1, paragraphs=("Much more than fits into one second of time.",))
    window.document.edit(insert_block(window.document.session, 1, block), "talk")
    ready(qtbot, window)
    assert any(m.placement.moment.block == "t" for m in window.preparation.cast.misfits)
    before = picture(window)
    window.score.layout_.misfits.clear()
    window.score._pictures.clear()
    assert picture(window) != before


@pytest.mark.parametrize("blocks", [(), (breath("1-1", 1),), (breath("60-60-60-60", 2, count_length=6),)])
def test_none_one_and_very_long_are_painted(qtbot, window, blocks):
    window.document.edit(Session(title="x" * 120, blocks=blocks), "look")
    ready(qtbot, window)
    for size in ((1280, 800), (1024, 700), (2200, 1300)):
        window.resize(*size)
        assert not window.grab().isNull()
        layout = window.score.layout_
        for row in layout.rows:
            assert row.kind != "round" or layout.x_of(row, row.begin + row.seconds) <= layout.width


def test_long_talk_is_wrapped_and_loses_no_word(qtbot):
    metrics = QFontMetricsF(font(11.5))
    text = "word " * 60 + "x" * 200 + " end"
    lines = wrapped(text, 300, metrics)
    assert "".join(lines).replace(" ", "") == text.replace(" ", "")
    assert all(metrics.horizontalAdvance(line) <= 300 for line in lines if " " in line)
    assert wrapped("", 300, metrics) == [""]


def test_the_ribbon_moves_the_playhead_by_keys(qtbot, window):
    ribbon, keys = window.ribbon, Qt.Key
    window.player.seek(3.0)
    for key, place in ((keys.Key_Right, 8.0), (keys.Key_Left, 3.0), (keys.Key_Left, 0.0), (keys.Key_PageDown, None)):
        qtbot.keyClick(ribbon, key)
        expected = float(window.preparation.timeline.length) if place is None else place
        assert window.player.seconds == pytest.approx(
            min(expected, float(window.preparation.timeline.length)), abs=0.01
        )
    qtbot.keyClick(ribbon, keys.Key_Home)
    assert window.player.seconds == 0


@pytest.mark.parametrize("text", ["หายใจเข้าลึกๆแล้วกลั้นไว้สักครู่ก่อนจะปล่อยออกช้าๆ" * 4, "Donaudampfschiff" * 12, "吸气" * 60])
def test_words_without_spaces_are_wrapped_and_nothing_is_lost(qtbot, text):
    metrics = QFontMetricsF(font(11.5))
    lines = wrapped(f"In {text} out", 240.0, metrics)
    assert len(lines) > 2 and all(metrics.horizontalAdvance(line) <= 240 for line in lines)
    assert "".join(lines).replace(" ", "") == f"In{text}out"
    assert wrapped("", 240.0, metrics) == [""] and len(wrapped("ก" * 9, 0.5, metrics)) == 9
    marks = [line[0] for line in lines if unicodedata.category(line[0]) == "Mn"]
    assert marks == []  # no line begins with a vowel mark or a tone of the letter before
