"""The one field for a length, wherever a length is typed."""

from fractions import Fraction

from PySide6.QtCore import QEvent, QObject, Qt, QTimer

from nafas.desk.widgets.fields import CheckedLine, message_of
from nafas.desk.widgets.labels import Label
from nafas.timing.clock import clock, parse_length


class LengthField(CheckedLine):
    """A line for a length: what is understood stands next to it while one types, and is taken with Enter or on
    leaving, not letter by letter. A click on it selects all of it."""

    def __init__(self, name: str, hint: str = "12:00, 12 min") -> None:
        super().__init__(name, lambda text: parse_length(text) if text.strip() else None, hint)
        self._mute = Label(objectName="muted")
        self._mute.setParent(self.line)
        self._mute.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self._mute.hide()
        self._typed = False
        self.line.returnPressed.connect(self.take)
        self.line.editingFinished.connect(self.take)
        self.line.installEventFilter(self)

    def show_length(self, seconds: Fraction | None) -> None:
        """Show a length from outside."""
        self.show_text("" if seconds is None else _written(seconds))

    def value(self) -> Fraction | None:
        """The length that stands there. Raises ValueError."""
        return self._parse(self.line.text())  # type: ignore[return-value]

    def take(self) -> None:
        """Hand over what was typed, where it is a length."""
        self._mute.hide()
        if self._typed and self.fault.isHidden():
            self._typed, value = False, self.value()
            self.line.setText("" if value is None else _written(value))
            self.changed.emit(value)

    def _read(self, text: str) -> None:
        self._typed = True
        try:
            value = self._parse(text)
        except ValueError as error:
            self._mark(message_of(error))
            self._mute.hide()
            return
        self._mark("")
        self._show_understood(value)

    def _show_understood(self, value: object) -> None:
        words = _written(value) if isinstance(value, Fraction) else ""
        self._mute.setVisible(bool(words) and words != self.line.text().strip())
        self._mute.setText(f"= {words}")
        self._mute.adjustSize()
        self._mute.move(self.line.width() - self._mute.width() - 8, (self.line.height() - self._mute.height()) // 2)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.FocusIn:
            QTimer.singleShot(0, self.line.selectAll)  # after the click has put the cursor somewhere
        return super().eventFilter(watched, event)


def _written(seconds: Fraction) -> str:
    return clock(seconds, tenths=seconds.denominator != 1)
