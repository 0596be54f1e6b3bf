"""Paints the guide: the row that is breathed now, large, its line written as time passes, and what comes next below it.

Everything is a part of the height and width there is, so that it is read from a few metres on any screen.
"""

import math
from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPainterPath, QPen, QTransform

from nafas.drawing.page.curve import add_piece, breath_path
from nafas.drawing.page.lettering import wrapped
from nafas.drawing.theme import Theme, font
from nafas.languages import handed
from nafas.rehearsal.breathing import Breath
from nafas.rehearsal.guide import Guide, Now
from nafas.score.breath_line import BOTTOM, TOP, pieces
from nafas.score.row import LEFT, Row
from nafas.score.spoken_lines import figures_of
from nafas.script.edits.session_edits import block_name
from nafas.script.model.blocks import BreathSet
from nafas.timing.clock import clock
from nafas.timing.timeline import Event, EventKind

_SIDE, _HEAD, _NAME, _LOW, _RISE, _CUES, _COUNTS, _NEXT = 0.06, 0.07, 0.27, 0.60, 0.22, 0.665, 0.755, 0.86
"""Where things stand: of the width the margin; of the height the head, the phase, the foot and rise of the line, the
words below it, and what comes next."""
_MOVES = 0.35
"""Seconds in which the next row moves up: it is in its place when its first cue sounds."""
_MOST_A_SECOND = 0.12
"""Of the width that a second takes at most: a short round is not blown up past this."""
_SWELL = 7.0
"""Seconds of one swell of natural breath."""


class GuidePainter:
    """Paints a guide at a size.

    Args:
        guide: what is rehearsed.
        width, height: px.
        colours: of a theme.
        still: reduced motion: rows change places at once.
    """

    def __init__(self, guide: Guide, width: int, height: int, colours: Theme, still: bool = False) -> None:
        self.guide, self.width, self.height, self.theme, self.still = guide, width, height, colours, still
        self.words = handed(guide.timeline.session.language)
        self._paths: dict[int, tuple[QPainterPath, list[tuple[QPainterPath, QColor]]]] = {}
        self._scales: dict[str, float] = {}

    # -- places

    def x_at(self, row: Row, seconds: float) -> float:
        """Where a time of the session lies on a row's line, in px."""
        drawn = self.guide.layout.x_of(row, seconds) - LEFT
        return self.width * _SIDE + drawn * self._scale(row)

    def _scale(self, row: Row) -> float:
        """Px of the guide for one of the page: the longest round of the block fills the width."""
        name = row.block.block.id
        if name not in self._scales:
            layout = self.guide.layout
            rows = [each for each in layout.rows_of(row.block.index) if each.kind in ("round", "prepare", "strokes")]
            longest = max((layout.x_of(each, each.begin + each.seconds) - LEFT for each in rows), default=1.0)
            fits = self.width * (1 - 2 * _SIDE) / max(1.0, longest)
            self._scales[name] = min(fits, _MOST_A_SECOND * self.width / layout.scale)
        return self._scales[name]

    def _size(self, part: float, bold: bool = False, italic: bool = False) -> QFont:
        """A letter of a part of the height."""
        made = QFont(font(10, bold=bold, italic=italic))
        made.setPixelSize(max(9, round(min(self.height, self.width * 0.62) * part)))
        return made

    # -- painting

    def paint(self, painter: QPainter, now: Now, own: Sequence[Breath] = ()) -> None:
        """Paint a moment, with the breather's own line over it."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(QRectF(0, 0, self.width, self.height), self.theme.page)
        self._head(painter, now)
        come = 0.0 if self.still else min(1.0, max(0.0, 1 - (now.after_at - now.seconds) / _MOVES))
        painter.setOpacity(max(0.0, 1 - 1.6 * come))  # gone before the next covers it
        if now.row is None:
            self._centred(painter, self.words["begins" if now.after is not None else "over"])
        else:
            self._row(painter, now.row, now, own)
        self._after(painter, now)
        if now.after is not None and come > 0:
            painter.save()
            painter.setOpacity(max(0.0, 1.6 * come - 0.6))
            painter.translate(0, (1 - _eased(come)) * (_NEXT - _LOW) * self.height)
            self._row(painter, now.after, self.guide.at(now.after_at), own)
            painter.restore()
        painter.setOpacity(1.0)

    def _head(self, painter: QPainter, now: Now) -> None:
        block = now.row.block.block if now.row is not None else None
        painter.setFont(self._size(0.032))
        painter.setPen(self.theme.muted)
        side, y = self.width * _SIDE, self.height * _HEAD
        left = self.words["left"].format(clock=clock(now.seconds_left))
        width = QFontMetricsF(painter.font()).horizontalAdvance(left)
        painter.drawText(QPointF(self.width - side - width, y), left)
        name = (
            block_name(block, self.guide.timeline.session.language)
            if block is not None
            else self.guide.timeline.session.title
        )
        if isinstance(block, BreathSet) and now.row is not None and now.row.round:
            key = {0: "last_round", 1: "one_after"}.get(now.rounds_left, "after")
            last = self.words[key].format(n=now.rounds_left)
            name = f"{name}  ·  {last}"
        metrics = QFontMetricsF(painter.font())
        room = self.width - 2 * side - width - 20
        painter.drawText(QPointF(side, y), metrics.elidedText(name, Qt.TextElideMode.ElideRight, room))

    def _row(self, painter: QPainter, row: Row, now: Now, own: Sequence[Breath]) -> None:
        if row.kind == "talk":
            self._talk(painter, row, now)
        elif row.kind in ("rest", "ease"):
            self._rest(painter, row, now)
        elif row.kind == "strokes":
            self._strokes(painter, row, now)
        else:
            self._round(painter, row, now, own)

    def _name(self, painter: QPainter, text: str) -> None:
        painter.setFont(self._size(0.1, bold=True))
        painter.setPen(self.theme.ink)
        shown = text[:1].upper() + text[1:]
        painter.drawText(QPointF(self.width * _SIDE, self.height * _NAME), shown)

    def _round(self, painter: QPainter, row: Row, now: Now, own: Sequence[Breath]) -> None:
        self._name(painter, now.phase_words or (self.words["ready"] if row.kind == "prepare" else ""))
        path, hills = self._path(row)
        low, ink = self.height * _LOW, self.x_at(row, now.seconds)
        painter.setPen(Qt.PenStyle.NoPen)
        for hill, tint in hills:
            painter.fillPath(hill, tint)
        pen = QPen(self.theme.rule, self.height * 0.006, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap)
        painter.strokePath(path, pen)
        painter.save()
        painter.setClipRect(QRectF(0, 0, ink, self.height))
        pen = QPen(self.theme.ink, self.height * 0.012, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap)
        painter.strokePath(path, pen)
        painter.restore()
        painter.fillRect(
            QRectF(ink - 1, low - self.height * (_RISE + 0.03), 2, self.height * (_RISE + 0.06)), self.theme.accent
        )
        self._words(painter, row, now)
        self._own(painter, row, now, own)

    def _path(self, row: Row) -> tuple[QPainterPath, list[tuple[QPainterPath, QColor]]]:
        """The line of a row and the tint under each of its phases, where the guide has them."""
        path = self._paths.get(id(row))
        if path is None:
            if len(self._paths) > 8:
                self._paths.clear()
            layout = self.guide.layout
            high = self.height * _RISE / (BOTTOM - TOP)
            index = QTransform(
                self._scale(row), 0, 0, high, self.width * _SIDE - LEFT * self._scale(row),
                self.height * _LOW - (row.y + BOTTOM) * high,
            )  # fmt: skip
            hills = []
            for piece in pieces(layout, row):
                hill = QPainterPath(QPointF(piece.x0, row.y + BOTTOM))
                add_piece(hill, piece)
                hill.lineTo(piece.x1, row.y + BOTTOM)
                assert piece.event.phase_kind is not None
                hills.append((index.map(hill), self.theme.tint(piece.event.phase_kind)))
            path = self._paths[id(row)] = (index.map(breath_path(layout, row)), hills)
        return path

    def _words(self, painter: QPainter, row: Row, now: Now) -> None:
        """The word on each count: written, being said, to come."""
        said = [event for event in row.events if _is_written(event)]
        places = [self.x_at(row, float(row.block.at(event))) for event in said]
        until = self.x_at(row, row.begin + row.seconds)
        ends = [*places[1:], until]
        figures = figures_of(row.block.language)
        counts = [event.text in figures for event in said]
        metrics = QFontMetricsF(self._size(0.062, bold=True))
        rooms = [end - x for x, end in zip(places, ends)]
        widths = [metrics.horizontalAdvance(event.text) for event in said]
        whole = all(width < 0.92 * room for width, room, is_count in zip(widths, rooms, counts) if is_count)
        for event, x, room, is_count in zip(said, places, rooms, counts):
            current, begun = event is now.count, float(row.block.at(event)) <= now.seconds
            painter.setFont(self._size(0.062 if is_count else 0.05, bold=current))
            painter.setPen(self.theme.accent if current else self.theme.ink if begun else self.theme.muted)
            text = "·" if event.kind is EventKind.TICK else event.text
            if is_count and not whole:
                text = figures[text]
                if not current and metrics.horizontalAdvance(text) > room:
                    continue  # too narrow even for its figure: it is shown while it is said
            on_counts = is_count or event.kind is EventKind.TICK
            painter.drawText(QPointF(x, self.height * (_COUNTS if on_counts else _CUES)), text)

    def _own(self, painter: QPainter, row: Row, now: Now, own: Sequence[Breath]) -> None:
        """The breather's own line: up while breathing in, down while breathing out, level while neither."""
        begin, end = row.begin, row.begin + row.seconds
        low, high = self.height * _LOW, self.height * (_LOW - _RISE)
        path = QPainterPath()
        for breath in own:
            if breath.end < begin or breath.start > min(end, now.seconds):
                continue
            x0, x1 = (self.x_at(row, min(end, max(begin, at))) for at in (breath.start, breath.end))
            y0, y1 = (low, high) if breath.inward else (high, low)
            if path.elementCount():
                path.lineTo(x0, y0)
            else:
                path.moveTo(x0, y0)
            path.lineTo(x1, y1)
        painter.strokePath(path, QPen(self.theme.warning, self.height * 0.005, Qt.PenStyle.DashLine))

    def _talk(self, painter: QPainter, row: Row, now: Now) -> None:
        """The sentence, word by word as it is said."""
        assert row.event is not None
        letters = self._size(0.068)
        painter.setFont(letters)
        metrics = QFontMetricsF(letters)
        lines = wrapped(row.event.text, self.width * (1 - 2 * _SIDE), metrics)
        share = min(1.0, max(0.0, (now.seconds - row.begin) / max(0.1, row.seconds)))
        spoken = share * sum(len(line) for line in lines)
        y = self.height * 0.46 - metrics.height() * (len(lines) - 1) / 2
        for line in lines:
            x = self.width * _SIDE
            for word in line.split(" "):
                painter.setPen(self.theme.ink if spoken > 0 else self.theme.muted)
                painter.drawText(QPointF(x, y), word)
                x += metrics.horizontalAdvance(word + " ")
                spoken -= len(word) + 1
            y += metrics.height() * 1.05

    def _rest(self, painter: QPainter, row: Row, now: Now) -> None:
        """Natural breath: a slow swell, written as its time passes."""
        self._name(painter, self.words["natural" if row.kind == "rest" else "ease"])
        begin, seconds = row.begin, max(0.1, row.seconds)
        side = self.width * _SIDE
        far = self.width - 2 * side
        path = QPainterPath()
        for step in range(241):
            x = side + far * step / 240
            swell = 0.5 - 0.5 * math.cos(2 * math.pi * seconds * step / 240 / _SWELL)
            point = QPointF(x, self.height * (_LOW - 0.5 * _RISE * swell))
            path.lineTo(point) if step else path.moveTo(point)
        painter.strokePath(path, QPen(self.theme.rule, self.height * 0.006))
        share = min(1.0, max(0.0, (now.seconds - begin) / seconds))
        painter.save()
        painter.setClipRect(QRectF(0, 0, side + far * share, self.height))
        painter.strokePath(path, QPen(self.theme.ink, self.height * 0.012))
        painter.restore()
        painter.setFont(self._size(0.05))
        painter.setPen(self.theme.muted)
        left = max(0.0, begin + seconds - now.seconds)
        painter.drawText(QPointF(side, self.height * _COUNTS), self.words["as_you_like"].format(n=f"{left:.0f}"))

    def _strokes(self, painter: QPainter, row: Row, now: Now) -> None:
        """Strokes: a tooth each, written as they come."""
        strokes = [event for event in row.events if event.kind is EventKind.STROKE]
        current = max(
            (event for event in strokes if float(row.block.at(event)) <= now.seconds), key=_tick, default=None
        )
        self._name(painter, f"{current.count if current is not None else 1}")
        low = self.height * _LOW
        for event in strokes:
            x, begun = self.x_at(row, float(row.block.at(event))), float(row.block.at(event)) <= now.seconds
            colour = self.theme.accent if event is current else self.theme.ink if begun else self.theme.rule
            tall = self.height * _RISE * (1.0 if event is current else 0.7)
            painter.fillRect(QRectF(x, low - tall, self.height * (0.012 if begun else 0.006), tall), colour)

    def _after(self, painter: QPainter, now: Now) -> None:
        """What comes next, small and faint, until it moves up."""
        row = now.after
        if row is None:
            return
        painter.setFont(self._size(0.036))
        painter.setPen(self.theme.muted)
        text = f"{self.words['next']}  {self._in_words(row)}"
        side = self.width * _SIDE
        shown = QFontMetricsF(painter.font()).elidedText(text, Qt.TextElideMode.ElideRight, self.width - 2 * side)
        painter.drawText(QPointF(side, self.height * _NEXT), shown)
        if row.kind == "round":
            path, _ = self._path(row)
            small = QTransform(1, 0, 0, 0.3, 0, self.height * (0.955 - 0.3 * _LOW))
            painter.strokePath(small.map(path), QPen(self.theme.rule, self.height * 0.005))

    def _in_words(self, row: Row) -> str:
        if row.kind == "talk" and row.event is not None:
            return row.event.text
        if row.kind in ("rest", "ease"):
            return f"{self.words['natural'].lower()}, {row.seconds:.0f} s"
        if row.kind == "prepare":
            return self.words["prepare"]
        return self.words["round"].format(n=row.round) if row.kind == "round" else self.words["strokes"]

    def _centred(self, painter: QPainter, text: str) -> None:
        painter.setFont(self._size(0.06))
        painter.setPen(self.theme.muted)
        painter.drawText(QRectF(0, 0, self.width, self.height * 0.9), Qt.AlignmentFlag.AlignCenter, text)


def _is_written(event: Event) -> bool:
    return event.kind is EventKind.TICK or (event.kind in (EventKind.COUNT, EventKind.CUE) and bool(event.text))


def _tick(event: Event) -> int:
    return event.tick


def _eased(share: float) -> float:
    return share * share * (3 - 2 * share)
