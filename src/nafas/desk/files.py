"""Open, save, recent files, the guard for unsaved work, and recovery after a crash."""

import datetime
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from nafas.desk.document import Document
from nafas.errors import InputError
from nafas.script.keeping import find_recoverable

_FILTER = "Nafas session (*.nafas)"
_BUTTONS = QMessageBox.StandardButton


class Files:
    """What the File menu does. Every method that may stop half-way returns whether it was done."""

    def __init__(self, document: Document, window: QWidget) -> None:
        self.document, self.window = document, window

    def new(self) -> bool:
        if not self.may_leave():
            return False
        self.document.new()
        return True

    def open(self, path: Path | None = None, as_copy: bool = False) -> bool:
        if not self.may_leave():
            return False
        if path is None:
            name, _ = QFileDialog.getOpenFileName(self.window, "Open a session", str(self.document.folder), _FILTER)
            if not name:
                return False
            path = Path(name)
        try:
            self.document.open(path, as_copy)
        except InputError as error:
            self.complain("This session cannot be opened", error)
            return False
        return True

    def save(self) -> bool:
        return self.save_as() if self.document.path is None else self._write(self.document.path)

    def save_as(self) -> bool:
        title = "".join(c if c.isalnum() or c in " -" else "" for c in self.document.session.title).strip()
        start = self.document.path or Path.home() / f"{title.lower().replace(' ', '-') or 'session'}.nafas"
        name, _ = QFileDialog.getSaveFileName(self.window, "Save the session", str(start), _FILTER)
        if not name:
            return False
        path = Path(name)
        return self._write(path if path.suffix == ".nafas" else path.with_name(path.name + ".nafas"))

    def _write(self, path: Path) -> bool:
        try:
            self.document.save(path)
        except InputError as error:
            self.complain("The session was not saved; it is still open here", error)
            return False
        return True

    def may_leave(self) -> bool:
        """Whether the open work is saved or may be given up; asks when it is neither."""
        if not self.document.dirty:
            return True
        box = QMessageBox(self.window)
        box.setIcon(QMessageBox.Icon.Question)
        box.setWindowTitle("Unsaved changes")
        box.setText(f"Save the changes to “{self.document.session.title or 'Untitled session'}”?")
        box.setStandardButtons(_BUTTONS.Save | _BUTTONS.Discard | _BUTTONS.Cancel)
        box.setDefaultButton(_BUTTONS.Save)
        answer = box.exec()
        if answer == _BUTTONS.Save:
            return self.save()
        return bool(answer == _BUTTONS.Discard)

    def offer_recovery(self) -> bool:
        """Offer unsaved work of a run that ended without closing; True when it was taken up."""
        for found in find_recoverable():
            when = datetime.datetime.fromtimestamp(found.when).strftime("%d %B, %H:%M")
            box = QMessageBox(self.window)
            box.setIcon(QMessageBox.Icon.Information)
            box.setWindowTitle("Unsaved work was kept")
            box.setText(f"“{found.session.title or 'Untitled session'}” was not saved when Nafas last ended ({when}).")
            box.setInformativeText("Open it again? Later keeps it for the next start.")
            again = box.addButton("Open it", QMessageBox.ButtonRole.AcceptRole)
            drop = box.addButton("Throw it away", QMessageBox.ButtonRole.DestructiveRole)
            box.addButton("Later", QMessageBox.ButtonRole.RejectRole)
            box.setDefaultButton(again)
            box.exec()
            if box.clickedButton() is again:
                self.document.restore(found)
                return True
            if box.clickedButton() is drop:
                found.kept.unlink(missing_ok=True)
        return False

    def complain(self, text: str, error: InputError) -> None:
        """Show what happened, where, and what to do."""
        box = QMessageBox(QMessageBox.Icon.Warning, "Nafas", text, _BUTTONS.Ok, self.window)
        box.setInformativeText(f"{error.place}\n{error.problem}.\n{error.remedy[:1].upper()}{error.remedy[1:]}.")
        box.exec()
