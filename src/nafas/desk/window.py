"""The main window: lays out the parts and carries what one says to the others. Nothing is computed here."""

from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QKeyEvent, QResizeEvent, QShowEvent
from PySide6.QtWidgets import (
    QAbstractButton,
    QComboBox,
    QFrame,
    QMainWindow,
    QSplitter,
    QStackedWidget,
    QWidget,
)

from nafas.desk import preferences, style
from nafas.desk.application import application, is_night
from nafas.desk.audio.player import Player
from nafas.desk.commands.dropped_files import DroppedFiles
from nafas.desk.commands.edit_commands import EditCommands
from nafas.desk.commands.file_commands import FileCommands
from nafas.desk.commands.menus import Menus
from nafas.desk.commands.output_commands import OutputCommands
from nafas.desk.commands.playback_commands import PlaybackCommands
from nafas.desk.commands.script_commands import ScriptCommands
from nafas.desk.details import Details
from nafas.desk.document import Document
from nafas.desk.score import ScoreView
from nafas.desk.views import Views
from nafas.desk.welcome.tour import TourBar
from nafas.desk.widgets.controls import Button
from nafas.desk.widgets.find_bar import FindBar
from nafas.desk.widgets.keyboard import digit_key
from nafas.desk.widgets.masthead import VIEWS, Masthead
from nafas.desk.widgets.notice_bar import NoticeBar
from nafas.desk.widgets.ribbon import Ribbon
from nafas.desk.widgets.running_order import RunningOrder
from nafas.desk.widgets.spoken_parts import announce
from nafas.desk.window_layout import lay_out
from nafas.desk.work.imports import import_views
from nafas.desk.work.preparation import Preparation
from nafas.rehearsal.places import open_marks
from nafas.score.hit_test import Word
from nafas.score.selection import Chosen
from nafas.script import Block
from nafas.script.edits.session_edits import block_name

_LOW = 660  # px of height under which the page has the room of what is said around it
NOTICE_MS = 10_000
"""For which what a person did stays in the status line, with Undo next to it."""


class MainWindow(QMainWindow):
    """One session in one window.

    Attributes:
        left, centre, side: the places that a view fills; `page` is the score's.
        splitter: between them.
        text_size: per cent of the usual, as the application began.
        to_open_again: Nafas is to be opened again once this window is closed.
    """

    page: QFrame
    left: QStackedWidget
    centre: QStackedWidget
    side: QStackedWidget
    splitter: QSplitter

    def __init__(self) -> None:
        super().__init__()
        self.resize(1280, 800)
        self.setMinimumSize(preferences.LEAST_WIDTH, preferences.LEAST_HEIGHT)
        self.text_size = preferences.text_size()
        self.to_open_again = False
        self.document = Document(self)
        self.files = FileCommands(self.document, self)
        self.scripts = ScriptCommands(self)
        self.preparation = Preparation(self)
        self.player = Player(self)
        self.editing = EditCommands(self.document, self)
        self.masthead, self.order, self.score = Masthead(), RunningOrder(), ScoreView()
        self.details, self.ribbon, self.find_bar = Details(self.document), Ribbon(), FindBar()
        self.notice, self.tour = NoticeBar("Compare…"), TourBar()
        self.undo_button = Button("Undo", self._undo_done, kind="small")
        self.undo_button.setStyleSheet("padding: 0px 10px; margin: 0px 8px; min-height: 0px")
        self.undo_button.setFixedHeight(self.statusBar().fontMetrics().height() + 4)  # the window stays as it is
        self.undo_button.hide()
        self.statusBar().addPermanentWidget(self.undo_button)
        self.statusBar().setMinimumHeight(self.undo_button.height() + 6)
        self._kept = QTimer(self, singleShot=True, interval=NOTICE_MS)
        self._kept.timeout.connect(self._show_notes)
        self.editing.ask_outside = self.files.ask_outside
        self.views = Views(self)
        self.listening, self.outputs = PlaybackCommands(self), OutputCommands(self)
        lay_out(self)
        self.menus = Menus(self)
        self.dropped = DroppedFiles(self, self)
        self._connect()
        self.watch(self)
        self.details.made.connect(self.watch)
        self.document.new()
        self.score.setFocus()

    def watch(self, part: QWidget) -> None:
        """Leave Space to the buttons and choices of a part."""
        for widget in (*part.findChildren(QAbstractButton), *part.findChildren(QComboBox)):
            widget.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Space plays from anywhere, but on a button or a choice it is that one's own key."""
        own_space = isinstance(watched, QAbstractButton | QComboBox) and event.type() == QEvent.Type.ShortcutOverride
        if own_space and isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Space and not event.modifiers():
            event.accept()
            return True
        if (
            event.type() == QEvent.Type.KeyPress
            and isinstance(event, QKeyEvent)
            and watched in (self.score, self.order.list)
        ):
            return self._block_keys(event)
        return super().eventFilter(watched, event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """The keys of the views by their place too: some layouts have digits on Shift."""
        number = digit_key(event)
        control = event.modifiers() == Qt.KeyboardModifier.ControlModifier
        if control and number and int(number) in range(1, len(VIEWS) + 1):
            self.show_view(VIEWS[int(number) - 1][0])
        else:
            super().keyPressEvent(event)

    def _block_keys(self, event: QKeyEvent) -> bool:
        """Copy, cut, paste and delete blocks, where no text is being written."""
        if event.modifiers() == Qt.KeyboardModifier.ControlModifier:
            keys = {Qt.Key.Key_C: self.editing.copy, Qt.Key.Key_X: self.editing.cut, Qt.Key.Key_V: self.scripts.paste}
            keys[Qt.Key.Key_A] = self.editing.choose_all
            if event.key() in keys:
                keys[Qt.Key(event.key())]()
                return True
        if event.key() == Qt.Key.Key_Delete and event.modifiers() == Qt.KeyboardModifier.NoModifier:
            self.editing.remove()
            return True
        return False

    # -- who tells whom

    def _connect(self) -> None:
        self.document.changed.connect(self._session_changed)
        self.document.opened.connect(self.editing.forget)
        self.document.marked.connect(self._show_marks)
        self.document.state_changed.connect(self.show_state)
        self.document.trouble.connect(self.say)
        self.document.changed_outside.connect(self.notice.tell)
        self.document.not_kept.connect(lambda text: self.notice.tell(text, action=False))
        self.document.opened.connect(self.notice.hide)
        self.document.opened.connect(self.views.leave_welcome)
        self.notice.acted.connect(self._settle)
        self.preparation.timed.connect(self._show_times)
        self.preparation.ready.connect(self._show_sound)
        self.preparation.failed.connect(self.say)
        self.masthead.entered.connect(self._entered)
        self.masthead.named.connect(lambda entry: self.editing.add_entry(entry, bool(entry.all_cautions)))
        self.masthead.entry.session = lambda: self.document.session
        self.masthead.entry.chosen = self.editing.chosen_block
        self.masthead.entry.changed.connect(self.editing.change_chosen)
        self.masthead.play.connect(self.player.toggle)
        self.masthead.render_asked.connect(self.outputs.render)
        self.masthead.view.connect(self.show_view)
        editing, score = self.editing, self.score
        self.order.chose.connect(self._chose_in_order)
        self.order.add.connect(editing.add)
        self.order.moved.connect(editing.move)
        self.order.remove.connect(editing.remove)
        self.order.reordered.connect(editing.reorder)
        self.order.lock.connect(editing.lock)
        editing.selected.connect(self._selected)
        editing.begin_writing.connect(self._begin_writing)
        editing.said.connect(self._say_done)
        score.chose.connect(lambda chosen: editing.choose(chosen, reveal=False))
        score.also_chose.connect(editing.choose_also)
        score.counts_typed.connect(editing.type_counts)
        score.counts_dragged.connect(editing.drag_counts)
        score.rounds_dragged.connect(editing.drag_rounds)
        score.pause_dragged.connect(editing.drag_pause)
        score.drag_ended.connect(self.document.part)
        score.word_changed.connect(self._retype)
        score.writing.set_typed.connect(self._make_set)
        editing.write.connect(self._write)
        score.edit_asked.connect(self.details.focus_first)
        score.said.connect(self.say)
        self.find_bar.found.connect(lambda position: editing.choose(Chosen(position)))
        self.find_bar.closed.connect(score.setFocus)
        self.ribbon.seek.connect(self.player.seek)
        self.player.moved.connect(self._moved)
        self.player.playing_changed.connect(self._playing)
        self.player.output_lost.connect(self._output_lost)
        self.player.failed.connect(self.say)
        for watched in (score, self.order.list):
            watched.installEventFilter(self)

    def say(self, text: str) -> None:
        """Say something in the status line; it stays until something else is said."""
        self.statusBar().showMessage(text)
        announce(self, lambda: text)

    def _say_done(self, text: str) -> None:
        """Say what was done for ten seconds, with a button that takes it back where it can be."""
        self.say(text)
        self.undo_button.setVisible("Ctrl+Z" in text)
        self._kept.start()

    def _undo_done(self) -> None:
        self._kept.stop()
        self.undo()
        self._show_notes()

    def _session_changed(self) -> None:
        self.editing.hold_selection()  # settled before the page is laid out, which then happens once
        self.preparation.prepare(self.document.session, self.document.folder)
        self.find_bar.show_session(self.document.session)

    def show_state(self) -> None:
        """Show what is saved, and what undo would take back."""
        document = self.document
        book = self.views.edited_book
        for action, word, label in (
            (self.menus.undo, "&Undo", (book and book.undo_label) or document.undo_label),
            (self.menus.redo, "&Redo", (book and book.redo_label) or document.redo_label),
        ):
            action.setEnabled(label is not None)
            action.setText(f"{word} {label}" if label else word)
        name = document.path.name if document.path else "not saved yet"
        mark = " •" if document.dirty else ""
        self.setWindowTitle(f"{document.session.title or 'Untitled session'} ({name}){mark} - Nafas")
        self.masthead.show_title(document.session.title, document.dirty)

    def _show_marks(self) -> None:
        """What was marked in rehearsals, on the pages that show the session."""
        timeline = self.preparation.timeline
        if timeline is not None:
            marks = open_marks(timeline, self.document.session.marks)
            self.score.show_marks(marks)
            self.ribbon.show_marks(marks)

    def _show_times(self) -> None:
        timeline = self.preparation.timeline
        if timeline is not None:
            self.order.show_timeline(timeline)
            self.order.set_current(self.editing.chosen.block, self.editing.also)
            self.score.show_timeline(timeline, None)
            self.ribbon.show_session(timeline, None, None)
            self.masthead.show_length(timeline.length, self.document.session.target_length, exact=False)
            self._show_marks()
            self.views.refresh()

    def _show_sound(self) -> None:
        timeline, cast, mix = self.preparation.timeline, self.preparation.cast, self.preparation.mix
        if timeline is None or cast is None or mix is None:
            return
        self.order.show_timeline(timeline)
        self.score.show_timeline(timeline, cast)
        self.ribbon.show_session(timeline, cast, mix)
        self.masthead.show_length(timeline.length, self.document.session.target_length, exact=True)
        self.views.refresh()
        self.player.set_mix(mix)
        from nafas.review.open_work import open_work  # late: the first paint need not wait for it

        self.masthead.show_open(open_work(cast, mix))
        if self.preparation.unread == 0:
            self.views.look(listen=False)
        if not self._kept.isActive():
            self._show_notes()

    def _show_notes(self) -> None:
        """What is to be known of the session, once what a person did has been read."""
        self.undo_button.hide()
        self.say("   ".join(self.preparation.notes))

    # -- choosing

    def choose(self, chosen: Chosen) -> None:
        """Select something everywhere."""
        self.editing.choose(chosen)

    def _chose_in_order(self, index: int, also: frozenset[int]) -> None:
        self.editing.choose(Chosen(index), also if len(also) > 1 else frozenset())

    def _selected(self, reveal: bool) -> None:
        chosen, also = self.editing.chosen, self.editing.also
        self.score.set_chosen(chosen, reveal, also)
        self.order.set_current(chosen.block, also)
        self.details.show_block(chosen.block, chosen.round, chosen.phase)
        if self.views.plan is not None:
            self.views.plan.set_chosen(chosen.block)
        if self.views.sound is not None:
            self.views.sound.show_block(chosen.block)

    def _entered(self, blocks: list[Block]) -> None:
        more = f" and {len(blocks) - 1} more" if len(blocks) > 1 else ""
        self.editing.insert(blocks, f"add {block_name(blocks[0])}{more}")
        self.score.setFocus()

    def _retype(self, word: Word, text: str) -> None:
        if not self.editing.retype(word, text):
            self.score.editor.again()
        elif self.score.writing.continues is not None:
            self.score.write(self.score.writing.continues)

    def _make_set(self, word: Word, text: str) -> None:
        if not self.editing.make_set(word, text):
            self.score.editor.again()

    def _write(self, index: int) -> None:
        self.show_view("score")
        self.score.write(index)

    def _begin_writing(self) -> None:
        self.show_view("score")
        self.details.focus_first()

    def focus_entry(self) -> None:
        self.masthead.entry.line.setFocus()
        self.masthead.entry.line.selectAll()

    def find_words(self) -> None:
        """Open the find bar."""
        self.show_view("score")
        self.find_bar.begin(self.document.session, self.editing.chosen.block)

    # -- views

    def show_view(self, name: str) -> None:
        """Show "plan", "score", "takes", "sound", "rehearse", "review", "deliver" or "ledger"."""
        self.views.show(name)
        self.show_state()

    def undo(self) -> None:
        """Take back the last step: of the take book, where that is shown and has one, else of the session."""
        if not (self.views.edited_book is not None and self.views.takes_room().shelf.undo()):
            self.document.undo()

    def redo(self) -> None:
        """Do again what was taken back."""
        if not (self.views.edited_book is not None and self.views.takes_room().shelf.redo()):
            self.document.redo()

    # -- playing

    def _output_lost(self) -> None:
        self.say(f"The sound card stopped answering; going on through {self.player.output_name}")

    def _moved(self, seconds: float) -> None:
        self.masthead.show_place(seconds)
        self.ribbon.set_playhead(seconds)
        self.score.set_playhead(seconds, follow=self.player.playing)

    def _playing(self, playing: bool) -> None:
        self.masthead.show_playing(playing)
        if playing:
            self.say(f"Playing through {self.player.output_name}")

    # -- files, rendering, leaving

    def save(self) -> bool:
        self.details.flush()
        return self._saved(self.files.save())

    def save_as(self) -> bool:
        self.details.flush()
        return self._saved(self.files.save_as())

    def _settle(self) -> None:
        """Compare with what another program made of the file."""
        self.details.flush()
        self._saved(self.files.settle())

    def _saved(self, done: bool) -> bool:
        if done:
            self.notice.hide()
            untaken = self.details.form.untaken()
            without = (
                f" without what is marked on the right, which the session cannot take yet: {untaken}" if untaken else ""
            )
            self.say(f"Saved {self.document.path}{without}")
        return done

    def set_night(self, night: bool) -> None:
        """Paper by day, slate by night."""
        style.apply(application(), night)
        self.ribbon.repaint_theme()
        self.score.viewport().update()
        self.order.list.viewport().update()
        self.views.repaint_theme()

    def follow_colours(self) -> None:
        """Take the colours that were chosen, or the desktop's."""
        self.menus.night.setChecked(is_night(application()))

    def open_again(self) -> None:
        """Close, and open the session again with what was chosen since, unless a person wants to stay."""
        self.to_open_again = True
        self.to_open_again = self.close()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        low = self.height() < _LOW
        self.masthead.set_low(low)
        self.ribbon.set_low(low)

    def changeEvent(self, event: QEvent) -> None:
        """Back from another program: it may have written the file, on a disk that does not tell."""
        super().changeEvent(event)
        if event.type() == QEvent.Type.ActivationChange and self.isActiveWindow():
            self.document.look_at_file()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        QTimer.singleShot(20, self.preparation.begin)
        import_views()

    def closeEvent(self, event: QCloseEvent) -> None:
        self.details.flush()
        if self.outputs.rendering:
            self.say("A render is running: cancel it or wait for it before closing")
            self.outputs.show_rendering()
            event.ignore()
        elif self.views.takes is not None and self.views.takes.busy:
            self.say("A recording is being cut up: cancel it or wait for it before closing")
            event.ignore()
        elif self.views.deliver is not None and self.views.deliver.running:
            self.say("The session is being delivered: cancel it or wait for it before closing")
            self.show_view("deliver")
            event.ignore()
        elif self.files.may_leave():
            self.player.pause()
            self.tour.leave()
            self.views.close_down()
            if self.outputs.series_dialog is not None:
                self.outputs.series_dialog.close_down()
            self.document.close()
            self.preparation.close()
            event.accept()
        else:
            event.ignore()
