"""Open, save, recent files, the guards for unsaved work and for other programs' changes, and recovery after a crash."""

import datetime
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from nafas.desk.dialogs.conflict_dialog import Answer, ConflictDialog
from nafas.desk.dialogs.outside_files import ask_outside
from nafas.desk.dialogs.save_name import ask_save_name
from nafas.desk.document import Document
from nafas.desk.widgets.labels import message_box
from nafas.errors import InputError
from nafas.files import FileChanged
from nafas.script import Session
from nafas.script.differences import differences
from nafas.state.recovery import find_recoverable

_FILTER = "Nafas session (*.nafas)"
_ENDING = (".nafas",)
_BUTTONS = QMessageBox.StandardButton


class FileCommands:
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
            self.document.open(path, as_copy, self.ask_outside)
        except InputError as error:
            self.complain("This session cannot be opened", error)
            return False
        return True

    def ask_outside(self, session: Session, folder: Path) -> None:
        """Ask whether the files outside its own folder that a session names may be read."""
        ask_outside(session, folder, self.window)

    def save(self) -> bool:
        return self.save_as() if self.document.path is None else self._write(self.document.path)

    def save_as(self) -> bool:
        title = "".join(c if c.isalnum() or c in " -" else "" for c in self.document.session.title).strip()
        start = self.document.path or Path.home() / f"{title.lower().replace(' ', '-')[:60] or 'session'}.nafas"
        path = ask_save_name(self.window, "Save the session", start, _FILTER, _ENDING)
        return path is not None and self._write(path)

    def _write(self, path: Path, over: bool = False) -> bool:
        try:
            self.document.save(path, over)
        except FileChanged:
            return self.settle()
        except InputError as error:
            self.complain("The session was not saved; it is still open here", error)
            return False
        return True

    def settle(self) -> bool:
        """Show what another program made of the open file, and do what is chosen; True when the work is saved."""
        path = self.document.path
        if path is None:
            return False
        lines, trouble = [], ""
        try:
            theirs = self.document.on_disk()
            lines = [] if theirs is None else differences(self.document.session, theirs)
        except InputError as error:
            trouble = f"{error.problem} ({error.place})"
        copy = _free_copy_name(path)
        dialog = ConflictDialog(path.name, lines, trouble, copy.name, self.window)
        dialog.exec()
        if dialog.answer is Answer.BOTH:
            return self._write(copy)
        if dialog.answer is Answer.MINE:
            return self._write(path, over=True)
        if dialog.answer is Answer.THEIRS:
            try:
                self.document.take_theirs()
            except InputError as error:
                self.complain("The file's version cannot be read", error)
                return False
            return True
        return False

    def may_leave(self) -> bool:
        """Whether the open work is saved or may be given up; asks when it is neither."""
        if not self.document.dirty:
            return True
        title = self.document.session.title or "Untitled session"
        box = message_box(
            QMessageBox.Icon.Question, "Unsaved changes", f"Save the changes to “{title}”?", "", self.window
        )
        box.setStandardButtons(_BUTTONS.Save | _BUTTONS.Discard | _BUTTONS.Cancel)
        box.setDefaultButton(_BUTTONS.Save)
        answer = box.exec()
        if answer == _BUTTONS.Save:
            return self.save()
        return bool(answer == _BUTTONS.Discard)

    def offer_recovery(self) -> bool:
        """Offer unsaved work of a run that ended without closing; True when it was taken up."""
        recoverable, notes = find_recoverable()
        if notes:
            box = message_box(
                QMessageBox.Icon.Warning, "Unsaved work", "Not all unsaved work could be looked at.", "\n".join(notes),
                self.window,
            )  # fmt: skip
            box.setStandardButtons(_BUTTONS.Ok)
            box.exec()
        for work in recoverable:
            when = datetime.datetime.fromtimestamp(work.when).strftime("%d %B, %H:%M")
            title = work.session.title or "Untitled session"
            box = message_box(
                QMessageBox.Icon.Information,
                "Unsaved work was kept",
                f"“{title}” was not saved when Nafas last ended ({when}).",
                "Open it again? Later keeps it for the next start.",
                self.window,
            )
            again = box.addButton("Open it", QMessageBox.ButtonRole.AcceptRole)
            drop = box.addButton("Discard it", QMessageBox.ButtonRole.DestructiveRole)
            box.addButton("Later", QMessageBox.ButtonRole.RejectRole)
            box.setDefaultButton(again)
            box.exec()
            if box.clickedButton() is again:
                self.ask_outside(work.session, work.folder)
                self.document.restore(work)
                return True
            if box.clickedButton() is drop:
                work.kept.unlink(missing_ok=True)
        return False

    def complain(self, text: str, error: InputError) -> None:
        """Show what happened, where, and what to do."""
        words = f"{error.place}\n{error.problem}.\n{error.remedy[:1].upper()}{error.remedy[1:]}."
        box = message_box(QMessageBox.Icon.Warning, "Nafas", text, words, self.window)
        box.setStandardButtons(_BUTTONS.Ok)
        box.exec()


def _free_copy_name(path: Path) -> Path:
    """A name next to a session's that nothing has yet: night 2.nafas."""
    number = 2
    while (copy := path.with_name(f"{path.stem[:80]} {number}{path.suffix}")).exists():
        number += 1
    return copy
