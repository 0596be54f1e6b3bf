"""What is made from the open session: its sheet, its call sheet, its master, and entries of one's own to start from."""

from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QDialog

from nafas.desk.dialogs.save_name import ask_save_name
from nafas.errors import InputError
from nafas.score.selection import Chosen
from nafas.script.edits.session_edits import block_name

if TYPE_CHECKING:
    from nafas.desk.dialogs.render_dialog import RenderDialog
    from nafas.desk.dialogs.renders_dialog import Renders, RendersDialog
    from nafas.desk.rehearse.perform_dialog import PerformDialog
    from nafas.desk.review.audit_dialog import AuditDialog
    from nafas.desk.series.series_dialog import SeriesDialog
    from nafas.desk.window import MainWindow
    from nafas.script import Session
    from nafas.timing import Moment


class OutputCommands:
    """Making in one window. What it needs is imported when it is asked for: the first paint need not wait for it.

    Attributes:
        render_dialog, renders_dialog: the last ones that were opened.
    """

    def __init__(self, window: "MainWindow") -> None:
        self.window = window
        self.render_dialog: RenderDialog | None = None
        self.renders_dialog: RendersDialog | None = None
        self.audit_dialog: AuditDialog | None = None
        self.series_dialog: SeriesDialog | None = None

    @property
    def rendering(self) -> bool:
        in_queue = "renders" in self.__dict__ and self.renders.running
        in_series = self.series_dialog is not None and self.series_dialog.running
        return in_queue or in_series or (self.render_dialog is not None and self.render_dialog.running)

    def show_rendering(self) -> None:
        """Bring what is being rendered to the front."""
        if self.render_dialog is not None and self.render_dialog.running:
            self.render_dialog.raise_()
        elif self.series_dialog is not None and self.series_dialog.running:
            self.show_series()
        else:
            self.show_renders()

    def _default_path(self, suffix: str) -> Path:
        """A file name next to the session's, for what is made from it."""
        document = self.window.document
        stem = document.path.stem if document.path else document.session.title.lower().replace(" ", "-")
        folder = document.path.parent if document.path else Path.home()
        return folder / f"{stem.replace('/', '-')[:80] or 'session'}{suffix}"

    def review_recording(self) -> "AuditDialog":
        """Open the dialog that puts a recording to the test; it is held against the session where there is one."""
        from nafas.desk.review.audit_dialog import AuditDialog

        window = self.window
        timeline = window.preparation.timeline
        held = timeline if timeline is not None and timeline.blocks else None
        self.audit_dialog = AuditDialog(held, window.document.session.title, window)
        self.audit_dialog.show()
        return self.audit_dialog

    def show_series(self) -> "SeriesDialog":
        """One script, many recordings: the table of a series."""
        if self.series_dialog is None:
            from nafas.desk.series.series_dialog import SeriesDialog

            self.series_dialog = SeriesDialog(self.window)
            self.series_dialog.open_session.connect(self._open_variant)
        self.series_dialog.session_path = self.window.document.path
        self.series_dialog.show()
        self.series_dialog.raise_()
        return self.series_dialog

    def _open_variant(self, session: "Session", folder: Path) -> None:
        if self.window.files.may_leave():
            self.window.document.start(session, folder)
            self.window.show_view("score")
            self.window.say("This is the variant as the series makes it: save it under a name to keep it")

    def perform(self) -> "PerformDialog | None":
        """Open the prompter, to perform the session from what is chosen on."""
        window = self.window
        timeline = window.preparation.timeline
        if timeline is None or not timeline.spoken or not window.preparation.fresh:
            window.say("Nothing is said in this session yet, or it is still being read: wait a moment")
            return None
        from nafas.desk.rehearse.perform_dialog import PerformDialog

        begin, room = window.score.play_place() or 0.0, window.views.takes_room
        self.perform_dialog = PerformDialog(
            window.document, timeline, window.player, room, lambda: window.preparation.mix, begin, window
        )
        self.perform_dialog.open()
        return self.perform_dialog

    def print_sheet(self) -> None:
        """Ask where, and write the session sheet as a PDF."""
        start = self._default_path(".pdf")
        path = ask_save_name(self.window, "Print session sheet", start, "PDF (*.pdf)", (".pdf",))
        if path is not None:
            self.print_to(path)

    def print_to(self, path: Path) -> None:
        """Write the session sheet as a PDF."""
        from nafas.drawing.paper.session_sheet import print_sheet

        timeline = self.window.preparation.timeline
        if timeline is not None:
            try:
                print_sheet(timeline, path)
                self.window.say(f"Printed to {path}")
            except InputError as error:
                self.window.say(str(error))

    def save_call_sheet(self) -> None:
        """Ask where, and save the call sheet."""
        self.window.views.takes_room().save_sheet(self._default_path(" call sheet.pdf"))

    def render(self) -> None:
        """Open the render dialog on the session as it stands."""
        from nafas.desk.dialogs.render_dialog import RenderDialog

        window = self.window
        window.details.flush()
        if self.render_dialog is not None and self.render_dialog.running:
            self.render_dialog.raise_()
            return
        document = window.document
        window.files.ask_outside(document.session, document.folder)  # who left them out may have thought better of it
        self.render_dialog = RenderDialog(
            document.session, document.folder, self._default_path(".flac"), self.renders, window
        )
        self.render_dialog.go_to.connect(self.go_to)
        self.render_dialog.show()

    def go_to(self, moment: "Moment") -> None:
        """Show a moment's place on the page, and choose it there."""
        window = self.window
        blocks = [block.id for block in window.document.session.blocks]
        if moment.block in blocks:
            window.show_view("score")
            window.choose(Chosen(blocks.index(moment.block), moment.round, moment.phase))
        elif moment.block:
            window.say("That block is no longer in the session")

    @cached_property
    def renders(self) -> "Renders":
        """The queue of renders."""
        from nafas.desk.dialogs.renders_dialog import Renders

        renders = Renders(self.window)
        renders.moved.connect(lambda: self.window.say(renders.line) if renders.line else None)
        renders.ended.connect(lambda text: self.window.say(text.partition("\n")[0] + " (Ctrl+Shift+R shows them)"))
        return renders

    def show_renders(self) -> None:
        """Show the queue of renders."""
        from nafas.desk.dialogs.renders_dialog import RendersDialog

        if self.renders_dialog is None:
            self.renders_dialog = RendersDialog(self.renders, self.window)
        self.renders_dialog.show()
        self.renders_dialog.raise_()

    def keep(self) -> None:
        """Save the chosen set or the whole session to the library."""
        from nafas.desk.dialogs.keep_dialog import KeepDialog

        window = self.window
        session, index = window.document.session, window.editing.chosen.block
        block = session.blocks[index] if 0 <= index < len(session.blocks) else None
        name = block_name(block) if block is not None and block.kind in ("breath", "strokes") else None
        dialog = KeepDialog(name, session.title or "Untitled session", window)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            what = (dialog.name.text(), dialog.purpose.value(), dialog.about.text())
            window.editing.keep_in_library(*what, bool(dialog.what.value()))
            if window.views.plan is not None:
                window.views.plan.repertoire.fill()
