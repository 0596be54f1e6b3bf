"""Written scripts in the window: opened, pasted or dropped, and the session written as text."""

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QApplication, QFileDialog

from nafas.desk.dialogs.save_name import ask_save_name
from nafas.desk.widgets.fields import message_of
from nafas.errors import InputError
from nafas.files import write_whole
from nafas.script import Session
from nafas.script.text.files import ENDINGS, read_text_file

if TYPE_CHECKING:
    from nafas.desk.window import MainWindow

_FILTER = f"Written script ({' '.join(f'*{ending}' for ending in ENDINGS)})"
_TEXTS = (".txt", ".md")


class ScriptCommands:
    """What the window does with a script that is a text."""

    def __init__(self, window: "MainWindow") -> None:
        self.window = window

    def open(self, path: Path | None = None) -> None:
        """Ask for a text file, and show it next to the page that it makes."""
        window = self.window
        if path is None:
            folder = str(window.document.folder)
            name, _ = QFileDialog.getOpenFileName(window, "Open a script", folder, _FILTER)
            if not name:
                return
            path = Path(name)
        try:
            self.show(read_text_file(path), path.name)
        except InputError as error:
            window.files.complain("This text cannot be read", error)

    def show(self, text: str, name: str) -> None:
        """Show a text next to the page that it makes."""
        from nafas.desk.dialogs.script_dialog import ScriptDialog  # late: few come

        window = self.window
        self.dialog = ScriptDialog(
            text,
            name,
            window.document.session,
            self._start,
            lambda blocks: window.editing.insert(blocks, "read a script"),
            lambda session: window.document.edit(session, "read the script again"),
            window,
        )
        self.dialog.open()

    def _start(self, session: Session) -> bool:
        if not self.window.files.may_leave():
            return False
        self.window.document.start(session, self.window.document.folder)
        self.window.show_view("score")
        return True

    def paste(self) -> None:
        """Paste blocks that were copied; or any text: at once where all of it is sure, else next to its page."""
        from nafas.script.edits.clipboard import MIME, read_json
        from nafas.script.text.reading import read_script

        editing = self.window.editing
        data = QApplication.clipboard().mimeData()
        try:
            if data.hasFormat(MIME):
                editing.put_in(read_json(bytes(data.data(MIME).data()).decode()), "paste")
                return
            script = read_script(data.text(), name="the clipboard", titled=False)
        except InputError as error:
            self.window.say(message_of(error))
            return
        if script.unsure:
            self.show(data.text(), "The clipboard")
        else:
            editing.put_in(list(script.session.blocks), "paste")

    def save_as_text(self) -> None:
        """Write the session as text, to be edited elsewhere and opened again."""
        from nafas.script.text.written import written_text

        document, window = self.window.document, self.window
        start = (document.path or document.folder / "session.nafas").with_suffix(_TEXTS[0])
        path = ask_save_name(window, "Save as text", start, "Text (*.txt *.md)", _TEXTS)
        if path is None:
            return
        try:
            write_whole(path, written_text(document.session).encode())
        except InputError as error:
            window.files.complain("The text was not saved", error)
            return
        window.say(f"{path.name}: edit it, and open it again with File, Open a script")
