"""Paints rows of the score. Every measure of a row is here; where rows stand is the layout's business."""

from dataclasses import dataclass
from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QFontMetricsF, QPainter, QPainterPath, QPen

from nafas.desk.score.layout import LEFT, MARGIN, RIGHT, TALK_LINE, Layout, Row
from nafas.desk.theme import Theme, font
from nafas.script import BreathSet, PhaseKind, Rest, format_set
from nafas.script.edit import block_name
from nafas.script.exact import decimal_text
from nafas.timing import Event, EventKind
from nafas.timing.clock import clock

_CURVE_TOP, _CURVE_BOTTOM, _WORDS, _BARS = 10, 40, 57, 63


@dataclass(frozen=True)
class Chosen:
    """What is selected: a block, and within a set a round and a phase (0: none)."""

    block: int = -1
    round: int = 0
    phase: int = 0


@lru_cache(maxsize=4096)
def _width(text: str, strong: bool) -> float:
    """Width of a word under its count."""
    return QFontMetricsF(font(9.5, bold=strong)).horizontalAdvance(text)


class ScorePainter:
    """Paints one layout with one theme."""

    def __init__(self, layout: Layout, theme: Theme, chosen: Chosen, playhead: float | None) -> None:
        self.layout, self.theme, self.chosen, self.playhead = layout, theme, chosen, playhead
        self.small, self.word, self.body = font(8.5), font(9.5), font(11.5)
        self.strong, self.heading = font(9.5, bold=True), font(13, bold=True)
        self.playing = layout.row_of_time(playhead) if playhead is not None else None

    def is_plain(self, row: Row) -> bool:
        """Whether the row looks as it does when nothing is chosen in it and nothing plays there."""
        chosen = row.block.index == self.chosen.block and row.kind in ("title", "round")
        return not chosen and self.playing is not row

    def paint(self, painter: QPainter, row: Row) -> None:
        mine = row.block.index == self.chosen.block
        if mine and (row.kind == "title" or (row.kind == "round" and row.round == self.chosen.round)):
            area = QRectF(MARGIN / 2, row.y + 1, self.layout.width - MARGIN, row.height - 2)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self.theme.chosen)
            painter.drawRoundedRect(area, 6, 6)
        {"title": self._title, "talk": self._talk, "rest": self._rest, "round": self._round}[row.kind](painter, row)

    # -- talk and titles

    def _title(self, painter: QPainter, row: Row) -> None:
        block, y = row.block.block, row.y + 29
        about = f"{clock(row.block.length, tenths=True)}"
        if isinstance(block, BreathSet):
            length = row.block.length / (block.rounds * block.round_counts)
            text = format_set(block.pattern, block.rounds, None).replace(" x", "  ×")
            about = f"{text}   {decimal_text(length)} s a count   {about}"
        painter.setFont(self.small)
        painter.setPen(self.theme.muted)
        painter.drawText(QRectF(MARGIN, row.y, LEFT - MARGIN - 12, 35), _RIGHT_BOTTOM, clock(row.start))
        painter.setFont(self.word)
        width = _width(about, False)
        painter.drawText(QPointF(self.layout.width - RIGHT - width, y), about)
        painter.setFont(self.heading)
        painter.setPen(self.theme.ink)
        room = self.layout.width - RIGHT - width - LEFT - 20
        name = QFontMetricsF(self.heading).elidedText(block_name(block), Qt.TextElideMode.ElideRight, room)
        painter.drawText(QPointF(LEFT, y), name)
        painter.setPen(QPen(self.theme.rule, 1))
        painter.drawLine(QPointF(LEFT, row.y + 38), QPointF(self.layout.width - RIGHT, row.y + 38))

    def _talk(self, painter: QPainter, row: Row) -> None:
        assert row.event is not None
        begun = self.playing is row
        painter.setFont(self.small)
        painter.setPen(self.theme.accent if begun else self.theme.muted)
        painter.drawText(QRectF(MARGIN, row.y, LEFT - MARGIN - 12, 20), _RIGHT_MIDDLE, clock(row.start))
        painter.drawText(QRectF(self.layout.width - RIGHT - 56, row.y, 56, 20), _RIGHT_MIDDLE, f"{row.seconds:.1f} s")
        painter.setFont(self.body)
        painter.setPen(self.theme.accent if begun else self.theme.ink)
        for number, line in enumerate(row.lines):
            painter.drawText(QPointF(LEFT, row.y + 17 + number * TALK_LINE), line)
        if any(id(p) in self.layout.misfits for p in self._placements(row)):
            bottom = row.y + row.height - 6
            self._hatch(painter, QRectF(LEFT, bottom, self.layout.width - LEFT - RIGHT - 60, 4))

    def _rest(self, painter: QPainter, row: Row) -> None:
        assert isinstance(row.block.block, Rest)
        path = QPainterPath(QPointF(LEFT, row.y + 12))
        end = min(self.layout.width - RIGHT - 150, LEFT + float(row.block.length) * 9)
        x, up = float(LEFT), True
        while x < end:  # an easy swell: natural breath, uncounted
            path.cubicTo(x + 11, row.y + (4 if up else 20), x + 11, row.y + (4 if up else 20), x + 22, row.y + 12)
            x, up = x + 22, not up
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(self.theme.muted, 1.3))
        painter.drawPath(path)
        painter.setFont(font(9.5, italic=True))
        painter.drawText(QPointF(x + 12, row.y + 16), f"natural breath, {decimal_text(row.block.block.seconds)} s")

    # -- rounds

    def _round(self, painter: QPainter, row: Row) -> None:
        painter.setFont(self.strong)
        painter.setPen(self.theme.ink)
        painter.drawText(QRectF(MARGIN, row.y + 8, LEFT - MARGIN - 12, 18), _RIGHT_MIDDLE, str(row.round))
        painter.setFont(self.small)
        painter.setPen(self.theme.muted)
        painter.drawText(QRectF(MARGIN, row.y + 26, LEFT - MARGIN - 12, 16), _RIGHT_MIDDLE, clock(row.start))
        self._curve(painter, row)
        self._counts(painter, row)
        self._takes(painter, row)
        if self.playing is row and self.playhead is not None:
            x = self.layout.x_of(row, self.playhead)
            painter.setPen(QPen(self.theme.accent, 2))
            painter.drawLine(QPointF(x, row.y + 3), QPointF(x, row.y + row.height - 4))

    def _span(self, row: Row, event: Event) -> tuple[float, float]:
        assert row.event is not None
        per_pixel = self.layout.scale / row.block.body.per_second
        begin = LEFT + (event.tick - row.event.tick) * per_pixel
        return begin, begin + event.length * per_pixel

    def _curve(self, painter: QPainter, row: Row) -> None:
        """The breath as a line, tinted beneath phase by phase; room for a cue said ahead stays bare."""
        path = self._breath(row)
        low = row.y + _CURVE_BOTTOM
        painter.setPen(Qt.PenStyle.NoPen)
        for event in row.events:
            if event.kind is EventKind.PHASE and event.phase_kind is not None:
                begin, end = self._span(row, event)
                hill = QPainterPath(QPointF(begin + 0.5, low + 5))
                self._phase(hill, row, event)
                hill.lineTo(end - 0.5, low + 5)
                painter.fillPath(hill, self.theme.tint(event.phase_kind))
                if self._is_chosen(row) and event.phase == self.chosen.phase:
                    painter.setBrush(Qt.BrushStyle.NoBrush)
                    painter.setPen(QPen(self.theme.accent, 2))
                    area = QRectF(begin, row.y + 4, end - begin, _CURVE_BOTTOM + 1)
                    painter.drawRoundedRect(area.adjusted(1, 0, -1, 0), 3, 3)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(self.theme.ink, 2, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        painter.drawPath(path)
        for event in row.events:
            if event.kind is EventKind.CUE:  # time the cue takes before count one: the breath waits
                begin, end = self._span(row, event)
                background = self.theme.chosen if self._is_chosen(row) else self.theme.page
                painter.fillRect(QRectF(begin + 1, row.y + 4, end - begin - 2, _CURVE_BOTTOM + 1), background)
                painter.setPen(QPen(self.theme.muted, 1.2, Qt.PenStyle.DotLine))
                full = event.phase_kind in (PhaseKind.EXHALE, PhaseKind.HOLD_FULL)
                level = row.y + _CURVE_TOP if full else low
                painter.drawLine(QPointF(begin + 3, level), QPointF(end - 3, level))

    def _is_chosen(self, row: Row) -> bool:
        return row.block.index == self.chosen.block and row.round == self.chosen.round and row.kind == "round"

    def _breath(self, row: Row) -> QPainterPath:
        path = QPainterPath()
        for event in row.events:
            if event.kind is EventKind.PHASE:
                self._phase(path, row, event)
        return path

    def _phase(self, path: QPainterPath, row: Row, event: Event) -> None:
        """Add one phase to a path: a rise, a plateau, a fall or a rest."""
        high, low = row.y + _CURVE_TOP, row.y + _CURVE_BOTTOM
        begin, end = self._span(row, event)
        from_y = high if event.phase_kind in (PhaseKind.EXHALE, PhaseKind.HOLD_FULL) else low
        to_y = high if event.phase_kind in (PhaseKind.INHALE, PhaseKind.HOLD_FULL) else low
        if path.elementCount():
            path.lineTo(begin, from_y)
        else:
            path.moveTo(begin, from_y)
        middle = (begin + end) / 2
        if from_y == to_y:
            path.lineTo(end, to_y)
        else:
            path.cubicTo(middle, from_y, middle, to_y, end, to_y)

    def _counts(self, painter: QPainter, row: Row) -> None:
        baseline = row.y + _CURVE_BOTTOM + 4
        written_to = 0.0
        for event in row.events:
            if event.kind is EventKind.CHIME:
                self._chime(painter, self._span(row, event)[0], row.y + 7)
            if event.kind not in (EventKind.COUNT, EventKind.CUE):
                continue
            x = self._span(row, event)[0]
            long = event.count == 1
            painter.setPen(QPen(self.theme.ink if long else self.theme.muted, 1.4 if long else 1))
            painter.drawLine(QPointF(x, baseline - (7 if long else 4)), QPointF(x, baseline + 1))
            cue = long or event.kind is EventKind.CUE
            width = _width(event.text, cue)
            if event.text and x - 1 >= written_to:
                painter.setFont(self.strong if cue else self.word)
                painter.setPen(self.theme.ink)
                painter.drawText(QPointF(x - 1, row.y + _WORDS), event.text)
                written_to = x + width + 2
            elif not event.text:
                painter.setPen(self.theme.muted)
                painter.drawText(QPointF(x - 1, row.y + _WORDS), "·")

    def _chime(self, painter: QPainter, x: float, y: float) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.accent)
        mark = QPainterPath(QPointF(x, y - 4))
        for dx, dy in ((3.5, 0), (0, 4), (-3.5, 0)):
            mark.lineTo(x + dx, y + dy)
        painter.drawPath(mark)

    def _placements(self, row: Row) -> list:
        found = self.layout.placements.get((row.block.block.id, row.round), [])
        if row.kind != "talk" or row.event is None:
            return found
        return [p for p in found if p.moment.count == row.event.count]

    def _takes(self, painter: QPainter, row: Row) -> None:
        """A bar for how long each take really sounds; what runs into the next word is hatched."""
        for placement in self._placements(row):
            rate = placement.clip.rate
            begin = self.layout.x_of(row, placement.start / rate)
            end = self.layout.x_of(row, placement.end / rate)
            misfit = self.layout.misfits.get(id(placement))
            fits = end if misfit is None else self.layout.x_of(row, placement.start / rate + misfit.room)
            colour = QColor(self.theme.accent)
            colour.setAlpha(110 if placement.clip.stand_in else 190)
            painter.fillRect(QRectF(begin, row.y + _BARS, max(1.0, fits - begin - 1), 3), colour)
            if misfit is not None:
                self._hatch(painter, QRectF(fits, row.y + _BARS - 2, max(4.0, end - fits), 7))

    def _hatch(self, painter: QPainter, area: QRectF) -> None:
        painter.fillRect(area, QBrush(self.theme.warning, Qt.BrushStyle.BDiagPattern))
        painter.setPen(QPen(self.theme.warning, 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(area)


_RIGHT_MIDDLE = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
_RIGHT_BOTTOM = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom
