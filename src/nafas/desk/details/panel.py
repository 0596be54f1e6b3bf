"""The panel at the right: details of what is chosen, the session itself or one block."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QScrollArea, QStackedWidget

from nafas.desk.details.form import Form
from nafas.desk.details.session_form import SessionForm
from nafas.desk.details.set_form import SetForm
from nafas.desk.details.stroke_form import StrokeForm
from nafas.desk.details.talk_form import RestForm, TalkForm
from nafas.desk.document import Document
from nafas.script.edit import block_name


class Details(QScrollArea):
    """Shows one form at a time."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Details")
        self._document = document
        self._stack = QStackedWidget()
        self.session_form = SessionForm(document)
        self.talk, self.rest, self.breath = TalkForm(document), RestForm(document), SetForm(document)
        self.strokes = StrokeForm(document)
        self._forms: dict[str, Form] = {
            "talk": self.talk,
            "rest": self.rest,
            "breath": self.breath,
            "strokes": self.strokes,
        }
        for form in (self.session_form, *self._forms.values()):
            self._stack.addWidget(form)
        self.setWidget(self._stack)

    @property
    def form(self) -> Form:
        """The form that is shown."""
        return self._stack.currentWidget()

    def show_block(self, index: int, round_number: int = 0, phase: int = 0) -> None:
        """Show a block and its phase, or the session for -1 or a block that is gone."""
        self.flush()
        blocks = self._document.session.blocks
        form: Form = self.session_form if not 0 <= index < len(blocks) else self._forms[blocks[index].kind]
        index = -1 if form is self.session_form else index
        if form is not self.form:
            # Only the form that is shown decides how far the panel scrolls.
            self._stack.setCurrentWidget(form)
        form.show_index(index)
        if form is self.breath:
            self.breath.show_phase(round_number, phase)
        self._stack.setAccessibleName("Session" if index < 0 else block_name(blocks[index]))

    def flush(self) -> None:
        """Hand over words still being typed."""
        for form in (self.talk, self.rest):
            form.words.flush()
        self.session_form.wording.flush()

    def focus_first(self) -> None:
        """Put the cursor where a change most likely begins."""
        field = {
            self.talk: self.talk.words,
            self.rest: self.rest.words,
            self.breath: self.breath.pattern.line,
            self.strokes: self.strokes.rate.line,
        }.get(self.form, self.session_form.title.line)
        field.setFocus(Qt.FocusReason.ShortcutFocusReason)
