"""The proof as a picture: every sound's error along the session with the half-sample band, what could not be found, and
the loudness under it. A click on a sound goes to its place in the score."""

from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QSizePolicy, QVBoxLayout, QWidget

from nafas.desk.widgets.controls import fill
from nafas.desk.widgets.labels import Label
from nafas.drawing.proof import MARGIN, paint
from nafas.drawing.theme import theme
from nafas.review.proof import CueMatch, Proof
from nafas.review.proof.picture import HEIGHT, Mark, Picture, picture
from nafas.timing.clock import clock
from nafas.timing.timeline import Moment

_NEAR = 14.0  # px around a sound within which a click means it


class ProofPicture(QWidget):
    """The picture. Signals: pointed: the sound under the pointer, or None; chosen: the moment of one clicked on."""

    pointed = Signal(object)
    chosen = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setMouseTracking(True)
        self.setMinimumWidth(780)
        self.setFixedHeight(HEIGHT)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Error of every sound along the session, and loudness")
        self._proof: Proof | None = None
        self._drawn: Picture | None = None
        self._at: Mark | None = None

    def show_proof(self, proof: Proof) -> None:
        self._proof, self._at = proof, None
        self._lay_out()

    @property
    def marks(self) -> tuple[Mark, ...]:
        """Every sound in its place on the widget."""
        return self._drawn.marks if self._drawn is not None else ()

    def _lay_out(self) -> None:
        if self._proof is not None:
            self._drawn = picture(self._proof, max(100, self.width() - 2 * MARGIN))
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if event.size().width() != event.oldSize().width():
            self._lay_out()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._drawn is not None:
            painter = QPainter(self)
            paint(painter, self._drawn, theme(), self._at)
            if self.hasFocus():
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(QPen(theme().accent, 1))
                painter.drawRect(self.rect().adjusted(0, 0, -1, -1))

    def _near(self, point: QPointF) -> Mark | None:
        def far(mark: Mark) -> float:
            return max(abs(mark.x + MARGIN - point.x()), abs(mark.y - point.y()) / 3)

        best = min(self.marks, key=far, default=None)
        return best if best is not None and far(best) <= _NEAR else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._point(self._near(event.position()))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        mark = self._near(event.position())
        self._point(mark)
        if mark is not None:
            self.chosen.emit(mark.match.moment)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Left and right go from sound to sound, Return goes to its place in the score."""
        step = {Qt.Key.Key_Right: 1, Qt.Key.Key_Left: -1}.get(Qt.Key(event.key()))
        if step and self.marks:
            here = self.marks.index(self._at) if self._at in self.marks else -1 if step > 0 else len(self.marks)
            self._point(self.marks[min(max(0, here + step), len(self.marks) - 1)])
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._at is not None:
            self.chosen.emit(self._at.match.moment)
        else:
            super().keyPressEvent(event)

    def _point(self, mark: Mark | None) -> None:
        if mark is not self._at:
            self._at = mark
            self.setCursor(Qt.CursorShape.ArrowCursor if mark is None else Qt.CursorShape.PointingHandCursor)
            self.pointed.emit(None if mark is None else mark.match)
            self.update()


class ProofView(QWidget):
    """The picture with a line under it that says what is pointed at."""

    chosen = Signal(Moment)

    def __init__(self) -> None:
        super().__init__()
        self.picture = ProofPicture()
        self.line = Label(_HINT, objectName="muted")
        self.line.setSizePolicy(
            QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed
        )  # a long name is cut off at its end
        fill(QVBoxLayout(self), self.picture, self.line, spacing=4, margins=(0, 0, 0, 0))
        self.picture.pointed.connect(lambda match: self.line.setText(_HINT if match is None else told(match)))
        self.picture.chosen.connect(self.chosen)

    def show_proof(self, proof: Proof) -> None:
        """Draw a proof."""
        self.picture.show_proof(proof)
        self.line.setText(_HINT)


_HINT = "Round: a spoken cue. Diamond: a chime. Cross: not found. Click one, and the score goes there."


def told(match: CueMatch) -> str:
    """A sound in one line: when, what, where, and how far from its time."""
    if match.error is None:
        where = "was not found near its time"
    else:
        where = f"{abs(match.error):.2f} samples {'late' if match.error > 0 else 'early'}"
    return f"{clock(match.moment.at, tenths=True)}  “{match.name[:60]}”, {match.address}: {where}"
