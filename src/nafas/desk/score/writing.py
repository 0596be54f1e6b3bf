"""Words written on the page: a new paragraph where talk ends, the next one after Enter; a line that is a breath may
become a set."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QRect, Signal

from nafas.score.hit_test import Word
from nafas.script.notation.typed.interpret import interpret

if TYPE_CHECKING:
    from nafas.desk.score.word_editor import WordEditor


class PageWriting(QObject):
    """Leads the editor of a page from paragraph to paragraph.

    Args:
        editor: the line over the page.

    Signals:
        retyped: (Word, text): words to be taken.
        set_typed: (Word, text): a line that is to become a set.
        said: what to tell.
    """

    retyped = Signal(object, str)
    set_typed = Signal(object, str)
    said = Signal(str)

    def __init__(self, editor: "WordEditor") -> None:
        super().__init__(editor)
        self._editor = editor
        self.continues: int | None = None
        """The block in which another paragraph is to begin once the page shows the last one."""
        editor.done.connect(self._done)
        editor.as_set.connect(self.set_typed)
        editor.textEdited.connect(self._read)

    def open(self, word: Word, left: int, top: int) -> None:
        """Open the editor on words of a page that is scrolled so far."""
        talk = word.target == "new" or isinstance(word.target, int)
        self._editor.begin(word, word.text, QRect(*word.area).translated(-left, -top), keeps=talk)

    def _done(self, word: Word, text: str, on: bool) -> None:
        self.continues = word.block if on and word.target == "new" and text.strip() else None
        self.retyped.emit(word, text)
        if self._editor.isVisible():  # it was not taken: the words stand there still
            self.continues = None

    def _read(self, text: str) -> None:
        word = self._editor.target
        if isinstance(word, Word) and word.target == "new" and any(letter.isdigit() for letter in text):
            readings = interpret(text, whole=True).readings
            if readings:
                self.said.emit(f"That reads as a breath: {readings[0].notation}. Ctrl+Enter makes it a set")
