"""The panel at the right: details of what is chosen, the session itself or one block."""

from functools import cached_property
from typing import TYPE_CHECKING, TypeVar

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtWidgets import QScrollArea, QStackedWidget

from nafas.desk.details.form import Form
from nafas.desk.details.session_form import SessionForm
from nafas.desk.document import Document
from nafas.script.edits.session_edits import block_name

if TYPE_CHECKING:
    from nafas.desk.details.set_form import SetForm
    from nafas.desk.details.stroke_form import StrokeForm
    from nafas.desk.details.talk_form import RestForm, TalkForm


_F = TypeVar("_F", bound=Form)


class _Stack(QStackedWidget):
    """Only the form that is shown decides how wide and high it is."""

    def sizeHint(self) -> QSize:
        shown = self.currentWidget()
        return super().sizeHint() if shown is None else shown.sizeHint()

    def minimumSizeHint(self) -> QSize:
        shown = self.currentWidget()
        return super().minimumSizeHint() if shown is None else shown.minimumSizeHint()


class Details(QScrollArea):
    """Shows one form at a time.

    Signals:
        made: a form was made.
    """

    made = Signal(object)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Details")
        self._document = document
        self._stack = _Stack()
        self.session_form = SessionForm(document)
        self._stack.addWidget(self.session_form)
        self.setWidget(self._stack)

    # Each form is made when first it is shown: together they would hold up the first paint.

    def _made(self, form: _F) -> _F:
        self._stack.addWidget(form)
        self.made.emit(form)
        return form

    @cached_property
    def talk(self) -> "TalkForm":
        from nafas.desk.details.talk_form import TalkForm

        return self._made(TalkForm(self._document))

    @cached_property
    def rest(self) -> "RestForm":
        from nafas.desk.details.talk_form import RestForm

        return self._made(RestForm(self._document))

    @cached_property
    def breath(self) -> "SetForm":
        from nafas.desk.details.set_form import SetForm

        return self._made(SetForm(self._document))

    @cached_property
    def strokes(self) -> "StrokeForm":
        from nafas.desk.details.stroke_form import StrokeForm

        return self._made(StrokeForm(self._document))

    @property
    def form(self) -> Form:
        """The form that is shown."""
        shown = self._stack.currentWidget()
        assert isinstance(shown, Form)
        return shown

    def show_block(self, index: int, round_number: int = 0, phase: int = 0) -> None:
        """Show a block and its phase, or the session for -1 or a block that is gone."""
        self.flush()
        blocks = self._document.session.blocks
        form: Form = self.session_form if not 0 <= index < len(blocks) else getattr(self, blocks[index].kind)
        index = -1 if form is self.session_form else index
        if form is not self.form:
            self._stack.setCurrentWidget(form)
            self.verticalScrollBar().setValue(0)
        form.show_index(index)
        if index >= 0 and blocks[index].kind == "breath":
            self.breath.show_phase(round_number, phase)
        self._stack.setAccessibleName("Session" if index < 0 else block_name(blocks[index]))

    def flush(self) -> None:
        """Hand over words still being typed."""
        for name in ("talk", "rest"):
            if name in self.__dict__:
                getattr(self, name).words.flush()
        self.session_form.wording.flush()
        self.session_form.target.take()

    def focus_first(self) -> None:
        """Put the cursor where a change most likely begins."""
        self.form.first.setFocus(Qt.FocusReason.ShortcutFocusReason)
