"""The main window: lays out the parts and carries what one says to the others. Nothing is computed here."""

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, QSettings, Qt, QTimer
from PySide6.QtGui import QAction, QCloseEvent, QKeySequence, QShowEvent
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QFrame,
    QHBoxLayout,
    QMainWindow,
    QMenu,
    QMessageBox,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from nafas.desk import theme
from nafas.desk.details import Details
from nafas.desk.document import Document
from nafas.desk.files import Files
from nafas.desk.masthead import Masthead
from nafas.desk.player import Player
from nafas.desk.preparation import Preparation
from nafas.desk.ribbon import Ribbon
from nafas.desk.running_order import RunningOrder
from nafas.desk.score import Chosen, ScoreView
from nafas.script import Block, BreathSet, Pattern, Rest, SetNotation, Talk
from nafas.script.edit import block_name, change_block, insert_block, move_block, remove_block
from nafas.script.keeping import recent_files
from nafas.script.phase import MAX_COUNTS

_CAUTION = (
    "Nafas measures and checks recordings. It gives no medical advice and does not replace licensed care. "
    "Every session should say: stop and breathe naturally if light-headed, tingling, short of breath or uneasy; "
    "never force; not while driving, in or near water, or at machines; ask a clinician first if pregnant or "
    "living with a heart, lung, eye-pressure, seizure or mental-health condition."
)


if TYPE_CHECKING:
    from nafas.desk.render_dialog import RenderDialog


class MainWindow(QMainWindow):
    """One session in one window."""

    def __init__(self) -> None:
        super().__init__()
        self.resize(1280, 800)
        self.setMinimumSize(900, 600)
        self.document = Document(self)
        self.files = Files(self.document, self)
        self.preparation = Preparation(self)
        self.player = Player(self)
        self.masthead, self.order, self.score = Masthead(), RunningOrder(), ScoreView()
        self.details, self.ribbon = Details(self.document), Ribbon()
        self.render_dialog: RenderDialog | None = None
        self._build()
        self._menus()
        self._connect()
        for widget in (*self.findChildren(QAbstractButton), *self.findChildren(QComboBox)):
            widget.installEventFilter(self)
        self.document.new()
        self.score.setFocus()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Space plays from anywhere, but on a button or a choice it is that one's own key."""
        if event.type() == QEvent.Type.ShortcutOverride and event.key() == Qt.Key.Key_Space and not event.modifiers():
            event.accept()
            return True
        return super().eventFilter(watched, event)

    def _build(self) -> None:
        page = QFrame()
        inner = QVBoxLayout(page)
        inner.setContentsMargins(0, 8, 0, 0)
        inner.addWidget(self.score)
        self.splitter = QSplitter(Qt.Orientation.Horizontal)
        for widget in (self.order, page, self.details):
            self.splitter.addWidget(widget)
        self.splitter.setStretchFactor(1, 1)
        self.splitter.setSizes([236, 744, 300])
        self.splitter.setChildrenCollapsible(False)
        self.order.setMinimumWidth(190)
        self.details.setMinimumWidth(268)
        middle = QWidget()
        box = QVBoxLayout(middle)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(4)
        box.addWidget(self.masthead)
        box.addWidget(self.splitter, 1)
        foot = QHBoxLayout()
        foot.setContentsMargins(0, 0, 0, 0)
        foot.addWidget(self.ribbon)
        box.addLayout(foot)
        self.setCentralWidget(middle)
        self.statusBar().setSizeGripEnabled(False)

    # -- menus

    def _act(self, menu: QMenu, text: str, keys: str | QKeySequence.StandardKey | None, does: object) -> QAction:
        action = QAction(text, self)
        if keys is not None:
            action.setShortcut(QKeySequence(keys))

        def act() -> None:
            self.details.flush()  # words still being typed belong to the session before the action
            does()

        action.triggered.connect(lambda _=False: act())
        menu.addAction(action)
        return action

    def _menus(self) -> None:
        keys = QKeySequence.StandardKey
        file = self.menuBar().addMenu("&File")
        self._act(file, "&New", keys.New, self.files.new)
        self._act(file, "&Open…", keys.Open, self.files.open)
        self.recent = file.addMenu("Open &recent")
        self.recent.aboutToShow.connect(self._fill_recent)
        self._act(file, "&Save", keys.Save, self.save)
        self._act(file, "Save &as…", "Ctrl+Shift+S", self.save_as)
        file.addSeparator()
        self._act(file, "&Render…", "Ctrl+R", self.render)
        file.addSeparator()
        self._act(file, "&Quit", "Ctrl+Q", self.close)
        edit = self.menuBar().addMenu("&Edit")
        self.undo_action = self._act(edit, "&Undo", keys.Undo, self._undo)
        self.redo_action = self._act(edit, "&Redo", "Ctrl+Shift+Z", self._redo)
        edit.addSeparator()
        self._act(edit, "Type a &breath", "Ctrl+B", self._focus_entry)
        self._act(edit, "Add &talk", "Ctrl+T", lambda: self.add("talk"))
        self._act(edit, "Add natural b&reath", "Ctrl+E", lambda: self.add("rest"))
        edit.addSeparator()
        self._act(edit, "Move block &up", "Alt+Up", lambda: self._move(self.score.chosen.block, -1))
        self._act(edit, "Move block &down", "Alt+Down", lambda: self._move(self.score.chosen.block, 1))
        self._act(edit, "Remove bloc&k", "Ctrl+Backspace", lambda: self._remove(self.score.chosen.block))
        edit.addSeparator()
        self._act(edit, "Session &details", "Ctrl+I", lambda: self.choose(Chosen()))
        play = self.menuBar().addMenu("&Play")
        self._act(play, "&Play or pause", "Space", self.player.toggle)
        self._act(play, "Play from what is &chosen", "Shift+Space", self._play_chosen)
        self._act(play, "Back to the &start", "Ctrl+Home", lambda: self.player.seek(0.0))
        view = self.menuBar().addMenu("&View")
        self.night = QAction("&Night colours", self, checkable=True, shortcut=QKeySequence("Ctrl+D"))
        self.night.toggled.connect(self.set_night)
        view.addAction(self.night)
        guide = self.menuBar().addMenu("&Help")
        self._act(guide, "&Keys", "F1", self._show_keys)
        self._act(guide, "&Cautions", None, lambda: QMessageBox.information(self, "Cautions", _CAUTION))

    def _fill_recent(self) -> None:
        self.recent.clear()
        for path in recent_files():
            self._act(self.recent, str(path), None, lambda path=path: self.files.open(path))
        if self.recent.isEmpty():
            self.recent.addAction("No recent sessions").setEnabled(False)

    def _show_keys(self) -> None:
        actions = [a for menu in self.menuBar().actions() for a in menu.menu().actions() if not a.shortcut().isEmpty()]
        rows = [(a.text().replace("&", "").rstrip("…"), a.shortcut().toString()) for a in actions]
        rows += [
            ("Next or previous line of the score", "Up, Down"),
            ("Next or previous phase", "Left, Right"),
        ]
        rows += [("Set the chosen phase's counts", "0 to 9"), ("Change what is chosen", "Enter")]
        cells = "".join(f"<tr><td style='padding-right:24px'>{text}</td><td>{key}</td></tr>" for text, key in rows)
        box = QMessageBox(
            QMessageBox.Icon.NoIcon, "Keys", f"<table>{cells}</table>", QMessageBox.StandardButton.Close, self
        )
        box.exec()

    # -- who tells whom

    def _connect(self) -> None:
        self.document.changed.connect(self._session_changed)
        self.document.state_changed.connect(self._state_changed)
        self.document.trouble.connect(self.say)
        self.preparation.timed.connect(self._show_times)
        self.preparation.ready.connect(self._show_sound)
        self.preparation.failed.connect(self.say)
        self.masthead.entered.connect(self._entered)
        self.masthead.play.connect(self.player.toggle)
        self.masthead.render.connect(self.render)
        self.order.chose.connect(lambda index: self.choose(Chosen(index)))
        self.order.add.connect(self.add)
        self.order.move.connect(self._move)
        self.order.remove.connect(self._remove)
        self.score.chose.connect(lambda chosen: self.choose(chosen, from_score=True))
        self.score.counts_typed.connect(self._counts_typed)
        self.score.edit_asked.connect(self.details.focus_first)
        self.ribbon.seek.connect(self.player.seek)
        self.player.moved.connect(self._moved)
        self.player.playing_changed.connect(self._playing)
        self.player.output_lost.connect(self._output_lost)

    def say(self, text: str) -> None:
        """Say something in the status line; it stays until something else is said."""
        self.statusBar().showMessage(text)

    def _session_changed(self) -> None:
        self.preparation.prepare(self.document.session, self.document.folder)
        chosen = self.score.chosen
        blocks = self.document.session.blocks
        if chosen.block >= len(blocks):
            chosen = Chosen()
        elif chosen.round and not isinstance(blocks[chosen.block], BreathSet):
            chosen = Chosen(chosen.block)
        self.score.set_chosen(chosen, reveal=False)
        self.details.show_block(chosen.block)
        self.order.set_current(chosen.block)

    def _state_changed(self) -> None:
        document = self.document
        for action, word, label in (
            (self.undo_action, "&Undo", document.undo_label),
            (self.redo_action, "&Redo", document.redo_label),
        ):
            action.setEnabled(label is not None)
            action.setText(f"{word} {label}" if label else word)
        name = document.path.name if document.path else "not saved yet"
        mark = " •" if document.dirty else ""
        self.setWindowTitle(f"{document.session.title or 'Untitled session'} ({name}){mark} - Nafas")
        self.masthead.show_title(document.session.title, document.dirty)

    def _show_times(self) -> None:
        timeline = self.preparation.timeline
        if timeline is not None:
            self.order.show_timeline(timeline)
            self.order.set_current(self.score.chosen.block)
            self.score.show_timeline(timeline, None)
            self.ribbon.show_session(timeline, None, None)
            self.masthead.show_length(timeline.length, self.document.session.target_length, exact=False)

    def _show_sound(self) -> None:
        timeline, cast, mix = self.preparation.timeline, self.preparation.cast, self.preparation.mix
        if timeline is None or cast is None or mix is None:
            return
        self.order.show_timeline(timeline)
        self.score.show_timeline(timeline, cast)
        self.ribbon.show_session(timeline, cast, mix)
        self.masthead.show_length(timeline.length, self.document.session.target_length, exact=True)
        self.player.set_mix(mix)
        notes = []
        if self.preparation.problems:
            notes.append(f"A take cannot be used, the stand-in speaks instead: {self.preparation.problems[0]}")
        if cast.misfits:
            many = f"{len(cast.misfits)} lines do not fit. The first:" if len(cast.misfits) > 1 else "Does not fit:"
            notes.append(f"{many} {cast.misfits[0]}")
        if cast.stand_ins and not notes:
            notes.append(f"{cast.stand_ins} line(s) are read by the stand-in voice")
        if cast.placements and not notes:
            notes.append("Every line fits its slot")
        self.say("   ".join(notes))

    # -- choosing and editing

    def choose(self, chosen: Chosen, from_score: bool = False) -> None:
        """Select something everywhere."""
        self.score.set_chosen(chosen, reveal=not from_score)
        self.order.set_current(chosen.block)
        self.details.show_block(chosen.block)

    def _insert(self, block: Block, label: str) -> None:
        blocks = self.document.session.blocks
        place = self.score.chosen.block + 1 if self.score.chosen.block >= 0 else len(blocks)
        self.document.edit(insert_block(self.document.session, place, block), label)
        self.choose(Chosen(place))

    def _entered(self, said: SetNotation) -> None:
        block = BreathSet(id="set-1", pattern=said.pattern, rounds=said.rounds or 1, count_length=said.count_length)
        self._try(lambda: self._insert(block, "add a breath set"))
        self.score.setFocus()

    def add(self, kind: str) -> None:
        """Add a block after the chosen one and put the cursor in it."""
        block: Block
        if kind == "talk":
            block = Talk(id="talk-1")
        elif kind == "rest":
            block = Rest(id="rest-1", seconds=30)
        else:
            block = BreathSet(id="set-1", pattern=Pattern.model_validate("4-6"), rounds=6)
        self._try(lambda: self._insert(block, f"add {block_name(block) or 'talk'}"))
        self.details.focus_first()

    def _move(self, index: int, by: int) -> None:
        blocks = self.document.session.blocks
        if 0 <= index < len(blocks) and 0 <= index + by < len(blocks):
            self.document.edit(move_block(self.document.session, index, index + by), "move a block")
            self.choose(Chosen(index + by))

    def _remove(self, index: int) -> None:
        if 0 <= index < len(self.document.session.blocks):
            name = block_name(self.document.session.blocks[index])
            self.document.edit(remove_block(self.document.session, index), f"remove {name or 'talk'}")
            left = len(self.document.session.blocks)
            self.choose(Chosen(min(index, left - 1)))
            self.say(f"Removed {name or 'talk'}. Ctrl+Z brings it back.")

    def _counts_typed(self, index: int, phase: int, counts: int) -> None:
        block = self.document.session.blocks[index]
        if not isinstance(block, BreathSet) or counts > MAX_COUNTS:
            self.say(f"A phase is at most {MAX_COUNTS} counts long")
            return
        phases = list(block.pattern.phases)
        phases[phase - 1] = phases[phase - 1].model_copy(update={"counts": counts})

        def set_counts() -> None:
            pattern = Pattern(phases=tuple(phases))
            self.document.edit(change_block(self.document.session, index, pattern=pattern), "change counts")

        self._try(set_counts)

    def _try(self, edit: object) -> None:
        """Do an edit; if the session would not be sound, say why and change nothing."""
        from nafas.desk.fields import message_of

        try:
            edit()
        except ValueError as error:
            self.say(message_of(error))

    def _undo(self) -> None:
        self.details.flush()
        self.document.undo()

    def _redo(self) -> None:
        self.document.redo()

    def _focus_entry(self) -> None:
        self.masthead.entry.line.setFocus()
        self.masthead.entry.line.selectAll()

    # -- playing

    def _play_chosen(self) -> None:
        place = self.score.play_place()
        self.player.seek(place or 0.0)
        self.player.play()

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

    def _saved(self, done: bool) -> bool:
        if done:
            self.say(f"Saved {self.document.path}")
        return done

    def render(self) -> None:
        """Open the render dialog on the session as it stands."""
        from nafas.desk.render_dialog import RenderDialog  # late: the first paint need not wait for it

        self.details.flush()
        if self.render_dialog is not None and self.render_dialog.running:
            self.render_dialog.raise_()
            return
        stem = self.document.path.stem if self.document.path else self.document.session.title.lower().replace(" ", "-")
        folder = self.document.path.parent if self.document.path else Path.home()
        target = folder / f"{stem.replace('/', '-') or 'session'}.flac"
        self.render_dialog = RenderDialog(self.document.session, self.document.folder, target, self)
        self.render_dialog.show()

    def set_night(self, night: bool) -> None:
        """Paper by day, slate by night."""
        theme.apply(QApplication.instance(), night)
        QSettings("nafas", "nafas").setValue("night", night)
        self.ribbon.repaint_theme()
        self.score.viewport().update()
        self.order.list.viewport().update()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        QTimer.singleShot(20, self.preparation.begin)

    def closeEvent(self, event: QCloseEvent) -> None:
        self.details.flush()
        if self.render_dialog is not None and self.render_dialog.running:
            self.say("A render is running: cancel it or wait for it before closing")
            self.render_dialog.raise_()
            event.ignore()
        elif self.files.may_leave():
            self.player.pause()
            self.document.close()
            self.preparation.close()
            event.accept()
        else:
            event.ignore()
