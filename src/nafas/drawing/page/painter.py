"""Paints rows of the score. Every measure of a row is here; where rows stand is the layout's business."""

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QFontMetricsF, QPainter, QPainterPath, QPen

from nafas.drawing.page.curve import add_piece, breath_path
from nafas.drawing.page.lettering import RIGHT_MIDDLE, width_of
from nafas.drawing.page.stroke_painter import paint_comb
from nafas.drawing.page.word_painter import paint_said
from nafas.drawing.theme import Theme, font
from nafas.score.breath_line import BOTTOM, TOP, Piece, inside_joints, pieces, span
from nafas.score.drawn_time import LONG_HOLD
from nafas.score.layout import Layout
from nafas.score.row import LEFT, MARGIN, PAUSE, PAUSE_TOP, RIGHT, TALK_LINE, Row
from nafas.score.selection import Chosen
from nafas.script import BreathSet, Level, Phase, PhaseKind, Side, Strokes, Talk
from nafas.script.edits.session_edits import block_name
from nafas.script.model.exact import decimal_text
from nafas.script.notation.block import block_notation
from nafas.script.notation.phases import format_pattern
from nafas.timing import Event, EventKind
from nafas.timing.clock import clock

_BARS_UP = 13  # px over a row's foot

_LEVEL_WORDS = {Level.CUES: "cues", Level.CHIMES: "chimes", Level.SILENT: "silent"}
_LEVEL_PENS = {
    Level.FULL: Qt.PenStyle.SolidLine,
    Level.CUES: Qt.PenStyle.SolidLine,
    Level.CHIMES: Qt.PenStyle.DashLine,
    Level.SILENT: Qt.PenStyle.DotLine,
}
_ROUTE_WORDS = {"nose": "nose", "mouth": "mouth", "pursed": "pursed lips", "throat": "narrowed throat"}


_HINT = "Write what is said here: Enter begins the next paragraph; a line such as 4-6 x6 can become a set."


class ScorePainter:
    """Paints one layout with one theme."""

    def __init__(
        self, layout: Layout, theme: Theme, chosen: Chosen, playhead: float | None, also: frozenset[int] = frozenset()
    ) -> None:
        self.layout, self.theme, self.chosen, self.playhead, self.also = layout, theme, chosen, playhead, also
        self.small, self.word, self.body = font(8.5), font(9.5), font(11.5)
        self.strong, self.heading, self.slanted = font(9.5, bold=True), font(13, bold=True), font(9, italic=True)
        self.playing = layout.row_of_time(playhead) if playhead is not None else None
        self._kinds: dict[str, Callable[[QPainter, Row], None]] = {
            "title": self._title,
            "talk": self._talk,
            "rest": self._rest,
            "ease": self._rest,
            "round": self._round,
            "prepare": self._round,
            "strokes": self._comb,
            "flag": self._flag,
            "foot": self._foot,
            "write": self._write,
        }

    def is_plain(self, row: Row) -> bool:
        """Whether the row looks as it does when nothing is chosen in it and nothing plays there."""
        return not self._is_marked(row) and self.playing is not row

    def _is_marked(self, row: Row) -> bool:
        if row.kind == "title":
            return row.block.index == self.chosen.block or row.block.index in self.also
        return row.block.index == self.chosen.block and row.kind == "round" and row.round == self.chosen.round

    def paint(self, painter: QPainter, row: Row) -> None:
        if self._is_marked(row):
            area = QRectF(MARGIN / 2, row.y + 1, self.layout.width - MARGIN, row.height - 2)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self.theme.chosen)
            painter.drawRoundedRect(area, 6, 6)
        self._kinds[row.kind](painter, row)

    # -- talk and titles

    def _title(self, painter: QPainter, row: Row) -> None:
        block, y = row.block.block, row.y + 29
        about = "   ".join(filter(None, (block.manner, clock(row.block.length, tenths=True))))
        painter.setFont(self.small)
        painter.setPen(self.theme.muted)
        painter.drawText(QRectF(MARGIN, row.y, LEFT - MARGIN - 12, 35), _RIGHT_BOTTOM, clock(row.start))
        painter.setFont(self.heading)
        painter.setPen(self.theme.ink)
        metrics, end = QFontMetricsF(self.heading), self.layout.page - RIGHT
        width = width_of(about, False)
        led = isinstance(block, BreathSet | Strokes)
        heading = block_name(block) if block.title or not led else block_notation(block)
        name = metrics.elidedText(heading, Qt.TextElideMode.ElideRight, end - width - LEFT - 20)
        painter.drawText(QPointF(LEFT, y), name)
        painter.setFont(self.word)
        painter.drawText(QPointF(end - width, y), about)
        painter.setPen(self.theme.muted)
        if led:
            text = block_notation(block) if block.title else ""
            if isinstance(block, BreathSet) and block.count_length is None and block.count_from is None:
                assert row.block.count_length is not None
                text += f"   {decimal_text(row.block.count_length)} s a count"
            begin = LEFT + metrics.horizontalAdvance(name) + 16
            room = end - width - 14 - begin
            if room > 60:
                text = QFontMetricsF(self.word).elidedText(text, Qt.TextElideMode.ElideRight, room)
                painter.drawText(QRectF(begin, row.y, room, 33), _RIGHT_BOTTOM, text)
        painter.setPen(QPen(self.theme.rule, 1))
        painter.drawLine(QPointF(LEFT, row.y + 38), QPointF(end, row.y + 38))

    def _flag(self, painter: QPainter, row: Row) -> None:
        painter.setFont(self.word)
        painter.setPen(self.theme.warning)
        for number, line in enumerate(row.lines):
            painter.drawText(QPointF(LEFT + 16, row.y + 15 + 21 * number), line)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        mark = QPainterPath(QPointF(LEFT + 5, row.y + 4))
        mark.lineTo(LEFT + 10, row.y + 14)
        mark.lineTo(LEFT, row.y + 14)
        mark.closeSubpath()
        painter.drawPath(mark)

    def _talk(self, painter: QPainter, row: Row) -> None:
        assert row.event is not None
        begun = self.playing is row
        painter.setFont(self.small)
        painter.setPen(self.theme.accent if begun else self.theme.muted)
        painter.drawText(QRectF(MARGIN, row.y, LEFT - MARGIN - 12, 20), RIGHT_MIDDLE, clock(row.start))
        painter.drawText(QRectF(self.layout.page - RIGHT - 56, row.y, 56, 13), RIGHT_MIDDLE, f"{row.seconds:.1f} s")
        if row.pause is not None:
            box = QRectF(self.layout.page - RIGHT - PAUSE, row.y + PAUSE_TOP, PAUSE, 13)
            painter.drawText(box, RIGHT_MIDDLE, f"pause {float(row.pause):.3g} s")
        painter.setFont(self.body)
        painter.setPen(self.theme.accent if begun else self.theme.ink)
        for number, line in enumerate(row.lines):
            painter.drawText(QPointF(LEFT, row.y + 17 + number * TALK_LINE), line)
        if any(id(p) in self.layout.misfits for p in self.layout.placements_of(row)):
            bottom = row.y + row.height - 6
            self._hatch(painter, QRectF(LEFT, bottom, self.layout.page - LEFT - RIGHT - 60, 4))

    def _write(self, painter: QPainter, row: Row) -> None:
        """An empty block of talk says what to do with it."""
        if isinstance(row.block.block, Talk) and not row.block.block.paragraphs:
            painter.setFont(font(11, italic=True))
            painter.setPen(self.theme.muted)
            painter.drawText(QPointF(LEFT, row.y + 17), _HINT)

    def _rest(self, painter: QPainter, row: Row) -> None:
        seconds = row.seconds
        path = QPainterPath(QPointF(LEFT, row.y + 12))
        end = min(self.layout.page - RIGHT - 150, LEFT + seconds * 9)
        x, up = float(LEFT), True
        while x < end:  # an easy swell: natural breath, uncounted
            path.cubicTo(x + 11, row.y + (4 if up else 20), x + 11, row.y + (4 if up else 20), x + 22, row.y + 12)
            x, up = x + 22, not up
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(self.theme.muted, 1.3))
        painter.drawPath(path)
        painter.setFont(font(9.5, italic=True))
        what = "ease" if isinstance(row.block.block, BreathSet) else "natural breath"
        painter.drawText(QPointF(x + 12, row.y + 16), f"{what}, {_seconds(seconds)}")

    def _foot(self, painter: QPainter, row: Row) -> None:
        """The handle by which a set is pulled longer."""
        painter.setPen(QPen(self.theme.rule, 3, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        painter.drawLine(QPointF(LEFT + 2, row.y + 4), QPointF(LEFT + 34, row.y + 4))

    # -- rounds

    def _round(self, painter: QPainter, row: Row) -> None:
        label = str(row.round) if row.round else "ready"
        painter.setFont(self.strong)
        painter.setPen(self.theme.ink)
        painter.drawText(QRectF(MARGIN, row.y + 6, LEFT - MARGIN - 12, 18), RIGHT_MIDDLE, label)
        painter.setFont(self.small)
        painter.setPen(self.theme.muted)
        painter.drawText(QRectF(MARGIN, row.y + 23, LEFT - MARGIN - 12, 16), RIGHT_MIDDLE, clock(row.start))
        if row.one is not None and row.one.level in _LEVEL_WORDS:
            painter.setFont(self.slanted)
            area = QRectF(MARGIN - 6, row.y + 39, LEFT - MARGIN - 6, 16)
            painter.drawText(area, RIGHT_MIDDLE, _LEVEL_WORDS[row.one.level])
        self._curve(painter, row)
        paint_said(self, painter, row)
        self._takes(painter, row)
        self._notes(painter, row)
        self._head(painter, row)

    def _head(self, painter: QPainter, row: Row) -> None:
        if self.playing is row and self.playhead is not None:
            x = self.layout.x_of(row, self.playhead)
            painter.setPen(QPen(self.theme.accent, 2))
            painter.drawLine(QPointF(x, row.y + 3), QPointF(x, row.y + row.height - 4))

    def _notes(self, painter: QPainter, row: Row) -> None:
        """At the end of the line: how long it is and, where a step begins, which."""
        assert row.event is not None
        x = span(self.layout, row, row.event)[1] + 9
        painter.setFont(self.small)
        painter.setPen(self.theme.muted)
        painter.drawText(QPointF(x, row.y + 21), _seconds(row.seconds))
        one = row.one
        if one is not None and one.opens_step and row.block.rounds[-1].step > 1:
            painter.setPen(self.theme.accent)
            text = format_pattern(one.phases)
            fits = width_of(text, False, 8.5) < self.layout.width - RIGHT - x
            painter.drawText(QPointF(x, row.y + 36), text if fits else f"step {one.step}")

    def _curve(self, painter: QPainter, row: Row) -> None:
        """The breath as a line, tinted beneath phase by phase; room for a cue said ahead stays bare."""
        low = row.y + BOTTOM + 5
        drawn = list(pieces(self.layout, row))
        quiet = row.one is not None and not row.one.level.speaks
        for piece in drawn:
            assert piece.event.phase_kind is not None
            painter.setPen(Qt.PenStyle.NoPen)
            hill = QPainterPath(QPointF(piece.x0 + 0.5, low))
            add_piece(hill, piece)
            hill.lineTo(piece.x1 - 0.5, low)
            tint = QColor(self.theme.tint(piece.event.phase_kind))
            tint.setAlpha(120 if quiet or row.kind == "prepare" else 255)
            painter.fillPath(hill, tint)
            if self._is_marked(row) and piece.event.phase == self.chosen.phase:
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(QPen(self.theme.accent, 2))
                area = QRectF(piece.x0, row.y + 4, piece.x1 - piece.x0, BOTTOM + 1)
                painter.drawRoundedRect(area.adjusted(1, 0, -1, 0), 3, 3)
        level = row.one.level if row.one is not None else Level.CUES
        painter.setBrush(Qt.BrushStyle.NoBrush)
        weight = 2 if level is Level.FULL else 1.4
        painter.setPen(QPen(self.theme.ink, weight, _LEVEL_PENS[level], Qt.PenCapStyle.RoundCap))
        painter.drawPath(breath_path(self.layout, row))
        for event in row.events:
            if event.kind is EventKind.CUE and row.kind == "round":  # time the cue takes before count one
                self._room(painter, row, event)
        for piece in drawn:
            self._about_phase(painter, row, piece)

    def _room(self, painter: QPainter, row: Row, event: Event) -> None:
        begin, end = span(self.layout, row, event)
        background = self.theme.chosen if self._is_marked(row) else self.theme.page
        painter.fillRect(QRectF(begin + 1, row.y + 4, end - begin - 2, BOTTOM + 1), background)
        painter.setPen(QPen(self.theme.muted, 1.2, Qt.PenStyle.DotLine))
        full = event.phase_kind in (PhaseKind.EXHALE, PhaseKind.HOLD_FULL)
        level = row.y + (TOP if full else BOTTOM)
        painter.drawLine(QPointF(begin + 3, level), QPointF(end - 3, level))

    def _about_phase(self, painter: QPainter, row: Row, piece: Piece) -> None:
        """Side, fill, route, sound and movement of a phase, and where its parts begin."""
        phase = piece.phase
        if phase is None:
            return
        if phase.kind.is_hold and phase.seconds is not None and phase.seconds > LONG_HOLD:
            self._break(painter, (piece.x0 + piece.x1) / 2, piece.y0)
        painter.setPen(QPen(self.theme.ink, 1))
        for x, _ in inside_joints(piece)[1:]:
            painter.drawLine(QPointF(x, row.y + BOTTOM - 3), QPointF(x, row.y + BOTTOM + 5))
        if phase.side is not None:
            self._side(painter, row, piece)
        text = _about(phase, row.round == 1)
        room = piece.x1 - piece.x0 - 8
        width = width_of(text, False, 8.5) if text else 0
        if text and width <= room:
            painter.setFont(self.small)
            painter.setPen(self.theme.muted)
            # Where the hill is high there is room beneath the line: late in an inhale, early in an exhale.
            x = piece.x1 - 4 - width if phase.kind is PhaseKind.INHALE else piece.x0 + 4
            painter.drawText(QPointF(x, row.y + BOTTOM + 1), text)

    def _side(self, painter: QPainter, row: Row, piece: Piece) -> None:
        """A pennant pointing to the side the breath goes through; both ways for both."""
        assert piece.phase is not None and piece.phase.side is not None
        # Above the line where it is low: early in an inhale, late in an exhale.
        share = 0.32 if piece.phase.kind is PhaseKind.INHALE else 0.74
        middle, y = piece.x0 + share * (piece.x1 - piece.x0), row.y + 13.0
        painter.setFont(self.strong)
        painter.setPen(self.theme.accent)
        letter = {Side.LEFT: "L", Side.RIGHT: "R", Side.BOTH: "L R"}[piece.phase.side]
        width = width_of(letter, True)
        painter.drawText(QPointF(middle - width / 2, y + 3.5), letter)
        painter.setBrush(self.theme.accent)
        painter.setPen(Qt.PenStyle.NoPen)
        for side, way in ((Side.LEFT, -1), (Side.RIGHT, 1)):
            if piece.phase.side in (side, Side.BOTH):
                x = middle + way * (width / 2 + 4)
                arrow = QPainterPath(QPointF(x, y - 4))
                arrow.lineTo(x + way * 6, y)
                arrow.lineTo(x, y + 4)
                arrow.closeSubpath()
                painter.drawPath(arrow)

    def _break(self, painter: QPainter, x: float, y: float) -> None:
        """Two strokes through the line: it is longer than drawn."""
        painter.setPen(QPen(self.theme.page, 5))
        painter.drawLine(QPointF(x, y - 3), QPointF(x, y + 3))
        painter.setPen(QPen(self.theme.ink, 1.4))
        for dx in (-3, 3):
            painter.drawLine(QPointF(x + dx - 2, y + 6), QPointF(x + dx + 2, y - 6))

    def _comb(self, painter: QPainter, row: Row) -> None:
        paint_comb(self, painter, row)
        self._head(painter, row)

    def _takes(self, painter: QPainter, row: Row) -> None:
        """A bar for how long each take really sounds; what runs into the next word is hatched."""
        for placement in self.layout.placements_of(row):
            rate = placement.clip.rate
            begin = self.layout.x_of(row, placement.start / rate)
            end = self.layout.x_of(row, placement.said / rate)
            misfit = self.layout.misfits.get(id(placement))
            fits = end if misfit is None else self.layout.x_of(row, placement.start / rate + misfit.room)
            colour = QColor(self.theme.accent)
            colour.setAlpha(110 if placement.clip.stand_in else 190)
            painter.fillRect(QRectF(begin, row.y + row.height - _BARS_UP, max(1.0, fits - begin - 1), 3), colour)
            if misfit is not None:
                self._hatch(painter, QRectF(fits, row.y + row.height - _BARS_UP - 2, max(4.0, end - fits), 7))

    def _hatch(self, painter: QPainter, area: QRectF) -> None:
        painter.fillRect(area, QBrush(self.theme.warning, Qt.BrushStyle.BDiagPattern))
        painter.setPen(QPen(self.theme.warning, 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(area)


def _about(phase: Phase, first: bool) -> str:
    """What a phase asks for beyond its length, in a few words."""
    said = [_ROUTE_WORDS[phase.route.value]] if phase.route else []
    said += [f"to {phase.fill}"] if phase.fill else []
    said += [phase.sound.value] if phase.sound else []
    if phase.movement is not None and (first or phase.movement.always):
        said.append(phase.movement.words)
    return ", ".join(said)


def _seconds(seconds: float) -> str:
    return f"{seconds:.2f}".rstrip("0").rstrip(".") + " s"


_RIGHT_BOTTOM = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom
