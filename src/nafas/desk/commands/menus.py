"""The menus: every command with its keys, in one place."""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QUrl
from PySide6.QtGui import QAction, QActionGroup, QDesktopServices, QKeySequence
from PySide6.QtWidgets import QApplication, QMenu, QMessageBox, QWidget

from nafas.desk import preferences
from nafas.desk.audio.outputs import SILENT, output_names
from nafas.desk.dialogs.parts_dialog import PartsDialog
from nafas.desk.dialogs.session_file import chosen_file
from nafas.desk.preferences import Colours
from nafas.desk.widgets.labels import message_box
from nafas.desk.widgets.ribbon import Ribbon
from nafas.desk.widgets.spoken_parts import Speaking
from nafas.handbook import PAGES
from nafas.log import log_folder
from nafas.score.selection import Chosen
from nafas.state.recent_files import recent_files

if TYPE_CHECKING:
    from nafas.desk.handbook.window import Handbook
    from nafas.desk.window import MainWindow

_CAUTION = (
    "Nafas measures and checks recordings. It gives no medical advice and does not replace licensed care. "
    "Every session should say: stop and breathe naturally if light-headed, tingling, short of breath or uneasy; "
    "never force; not while driving, in or near water, or at machines; ask a clinician first if pregnant or "
    "living with a heart, lung, eye-pressure, seizure or mental-health condition."
)
_STEPS = 25  # of the history, as many as a menu can show
_SPEEDS = (0.5, 0.75, 0.9, 1.0, 1.1, 1.25, 1.5)

_PARTS = (
    ("voice", "Mute the &voice"),
    ("chimes", "Mute the &chimes"),
    ("bed", "Mute the &bed"),
    ("clicks", "Clicks on cou&nts"),
)


class Menus:
    """Builds the menu bar of a window and keeps the actions that change."""

    def __init__(self, window: "MainWindow") -> None:
        self.window = window
        self.handbook: Handbook | None = None
        keys = QKeySequence.StandardKey
        editing = window.editing
        file = self._menu("&File")
        self.add(file, "&New", keys.New, window.files.new)
        self.add(file, "&Open…", keys.Open, window.files.open)
        self.recent = file.addMenu("Open re&cent")
        self.recent.aboutToShow.connect(self._fill_recent)
        self.add(file, "Open a scr&ipt…", "Ctrl+Shift+O", window.scripts.open)
        self.add(file, "&Save", keys.Save, window.save)
        self.add(file, "Save &as…", "Ctrl+Shift+S", window.save_as)
        self.add(file, "Save as &text…", None, window.scripts.save_as_text)
        file.addSeparator()
        self.add(file, "&Print session sheet…", keys.Print, window.outputs.print_sheet)
        self.add(file, "&Render…", "Ctrl+R", window.outputs.render)
        self.add(file, "Ren&ders…", "Ctrl+Shift+R", window.outputs.show_renders)
        self.add(file, "S&eries…", "Ctrl+Shift+E", window.outputs.show_series)
        self.add(file, "Review a recordin&g…", "Ctrl+Shift+U", window.outputs.review_recording)
        file.addSeparator()
        leave = self.add(file, "&Quit", "Ctrl+Q", window.close)
        leave.setShortcuts([QKeySequence("Ctrl+Q"), QKeySequence("Ctrl+W")])

        edit = self._menu("&Edit")
        self.undo = self.add(edit, "&Undo", keys.Undo, window.undo)
        self.redo = self.add(edit, "&Redo", "Ctrl+Shift+Z", window.redo)
        self.redo.setShortcuts([QKeySequence("Ctrl+Shift+Z"), QKeySequence("Ctrl+Y")])
        self.history = edit.addMenu("Go back t&o")
        self.history.aboutToShow.connect(self._fill_history)
        edit.addSeparator()
        # Without keys of their own: in a text field Ctrl+C must stay the field's. The score and the list ask for them.
        for text, key, does in (
            ("Cu&t blocks", "Ctrl+Shift+X", self._on_what_is_seen(editing.cut)),
            ("&Copy blocks", "Ctrl+Shift+C", editing.copy),
            ("&Paste after", "Ctrl+Shift+V", window.scripts.paste),
        ):
            self.add(edit, text, key, does)
        self.add(edit, "Select &all blocks", "Ctrl+Shift+A", editing.choose_all)
        self.add(edit, "&Find…", keys.Find, window.find_words)
        edit.addSeparator()
        self.add(edit, "Type a &breath", "Ctrl+B", window.focus_entry)
        self.add(edit, "Add tal&k", "Ctrl+T", lambda: editing.add("talk"))
        self.add(edit, "Add natural breat&h", "Ctrl+E", lambda: editing.add("rest"))
        self.add(edit, "Pla&y a recording…", None, self._ask_recording)
        edit.addSeparator()
        self.add(edit, "Mo&ve up", "Alt+Up", self._on_what_is_seen(lambda: editing.move(-1)))
        self.add(edit, "Move &down", "Alt+Down", self._on_what_is_seen(lambda: editing.move(1)))
        self.add(edit, "Re&move block", "Ctrl+Backspace", self._on_what_is_seen(editing.remove))
        self.add(edit, "&Lock or unlock", "Ctrl+L", self._on_what_is_seen(editing.lock))
        self.add(edit, "Fit to a len&gth…", "Ctrl+Shift+F", window.views.fit_to_length)
        self.add(edit, "Save to l&ibrary…", "Ctrl+Shift+L", window.outputs.keep)
        edit.addSeparator()
        self._give_to(edit, window.score.viewport(), window.order.list)
        self.add(edit, "Session detail&s", "Ctrl+I", lambda: editing.choose(Chosen()))
        self.add(edit, "Prefere&nces…", "Ctrl+,", self._show_preferences)

        play = self._menu("&Play")
        self.add(play, "&Play or pause", "Space", window.player.toggle)
        self.add(play, "Play &from the selection", "Shift+Space", window.listening.play_chosen)
        self.add(play, "Back to the &start", "Ctrl+Home", lambda: window.player.seek(0.0))

        play.addSeparator()
        self.loop = QAction("&Loop selection", window, checkable=True, shortcut=QKeySequence("Ctrl+Alt+L"))
        self.loop.triggered.connect(window.listening.set_loop)
        play.addAction(self.loop)
        play.addSeparator()
        self.parts: dict[str, QAction] = {}
        for number, (name, text) in enumerate(_PARTS, 1):
            part = QAction(text, window, checkable=True, shortcut=QKeySequence(f"Ctrl+Alt+{number}"))
            part.triggered.connect(lambda _=False, name=name: window.listening.hear(window.player.parts.toggled(name)))
            play.addAction(part)
            self.parts[name] = part
        solo = play.addMenu("S&olo")
        for name, text in (("voice", "&Voice"), ("chimes", "&Chimes"), ("bed", "&Bed")):
            self.add(solo, text, None, partial(window.listening.hear_alone, name))

        play.addSeparator()
        speeds = play.addMenu("Sp&eed")
        group = QActionGroup(speeds)
        for speed in _SPEEDS:
            text = f"{speed:g} \N{MULTIPLICATION SIGN}"
            action = self.add(speeds, text, None, partial(window.listening.set_speed, speed))
            action.setCheckable(True)
            action.setChecked(speed == 1)
            group.addAction(action)
        self.output = play.addMenu("Outp&ut")
        self.output.aboutToShow.connect(self._fill_output)

        view = self._menu("&View")
        self.add(view, "&Plan", "Ctrl+1", lambda: window.show_view("plan"))
        self.add(view, "&Score", "Ctrl+2", lambda: window.show_view("score"))
        self.add(view, "&Takes", "Ctrl+3", lambda: window.show_view("takes"))
        self.add(view, "S&ound", "Ctrl+4", lambda: window.show_view("sound"))
        self.add(view, "Re&hearse", "Ctrl+5", lambda: window.show_view("rehearse"))
        self.add(view, "&Review", "Ctrl+6", lambda: window.show_view("review"))
        self.add(view, "&Deliver", "Ctrl+7", lambda: window.show_view("deliver"))
        self.add(view, "&Ledger", "Ctrl+8", lambda: window.show_view("ledger"))
        self.add(view, "Rehearse in f&ull screen", "F11", window.views.rehearse_full)
        view.addSeparator()
        self.add(view, "Sho&w as a list…", "F4", self._show_parts)
        self.add(view, "Zoom &in", keys.ZoomIn, lambda: window.score.step_zoom(1))
        self.add(view, "&Zoom out", keys.ZoomOut, lambda: window.score.step_zoom(-1))
        self.add(view, "&Fit the page", "Ctrl+0", lambda: window.score.step_zoom(0))
        view.addSeparator()
        self.left_panel = self._fold(view, "Left p&anel", "F9", window.left)
        self.right_panel = self._fold(view, "Ri&ght panel", "Shift+F9", window.side)
        self.night = QAction("&Night colours", window, checkable=True, shortcut=QKeySequence("Ctrl+D"))
        self.night.toggled.connect(window.set_night)
        self.night.triggered.connect(self._choose_night)  # a person has chosen; till then the desktop does
        view.addAction(self.night)

        voice = self._menu("V&oice")
        self.add(voice, "&Record line by line…", "Ctrl+M", lambda: window.views.takes_room().record())
        self.add(voice, "&Perform the session…", "Ctrl+Shift+P", window.outputs.perform)
        self.add(voice, "&Import a recording or clips…", "Ctrl+Shift+I", lambda: window.views.takes_room().import_())
        self.add(voice, "Read the call sheet in &large type…", "Ctrl+Shift+M", lambda: window.views.takes_room().read())
        self.add(voice, "&Save the call sheet…", None, window.outputs.save_call_sheet)
        voice.addSeparator()
        self.add(voice, "&Choose a take book…", None, lambda: window.views.takes_room().choose_book())
        self.add(voice, "&Begin a take book…", None, lambda: window.views.takes_room().begin_book())

        guide = self._menu("&Help")
        self.add(guide, "&Find a command…", "Ctrl+K", self._find_command)
        self.add(guide, "&Handbook", "F1", self._show_handbook)
        self.add(guide, "&Keys", "Shift+F1", self._show_keys)
        self.add(guide, "&Tour of six steps", None, window.views.begin_tour)
        self.add(guide, "&Ways to begin", None, lambda: window.show_view("welcome"))
        self.add(guide, "What is &new…", None, window.views.show_news)
        self.add(guide, "Show the &log folder", None, self._show_log)
        self.add(guide, "&Cautions", None, self._show_cautions)

    def _on_what_is_seen(self, does: Callable[[], object]) -> Callable[[], None]:
        """A command on the chosen blocks, which does nothing where no block is on the screen."""

        def do() -> None:
            if self.window.order.isVisibleTo(self.window) or self.window.score.isVisibleTo(self.window):
                does()
            else:
                self.window.say("No block is shown here: choose it in Score first")

        return do

    def _menu(self, title: str) -> QMenu:
        return self.window.menuBar().addMenu(title)

    def add(
        self, menu: QMenu, text: str, keys: str | QKeySequence.StandardKey | None, does: Callable[[], object]
    ) -> QAction:
        """A command of a menu."""
        action = QAction(text, self.window)
        if keys is not None:
            action.setShortcut(QKeySequence(keys))

        def act() -> None:
            self.window.details.flush()  # words still being typed belong to the session before the action
            does()

        action.triggered.connect(lambda _=False: act())
        menu.addAction(action)
        return action

    def _fold(self, menu: QMenu, text: str, keys: str, panel: QWidget) -> QAction:
        """A tick that shows a panel of all views, or gives its room to the middle."""
        action = QAction(text, self.window, checkable=True, checked=True, shortcut=QKeySequence(keys))
        action.toggled.connect(lambda on: panel.setVisible(on and self.window.views.shown != "welcome"))
        menu.addAction(action)
        return action

    def _give_to(self, edit: QMenu, *places: QWidget) -> None:
        """What can be done with blocks, where blocks are seen, by the other button of the mouse or the menu key."""
        actions = edit.actions()
        first = next(n for n, action in enumerate(actions) if action.text() == "Cu&t blocks")
        for place in places:
            place.addActions(actions[first:])
            place.setContextMenuPolicy(Qt.ContextMenuPolicy.ActionsContextMenu)

    def _fill_history(self) -> None:
        """The steps that can be taken back, the last first."""
        self.history.clear()
        for number, label in enumerate(self.window.document.steps[:_STEPS], 1):
            self.add(self.history, f"before: {label}", None, partial(self.window.document.undo, number))
        if self.history.isEmpty():
            self.history.addAction("Nothing to take back").setEnabled(False)

    def _fill_recent(self) -> None:
        self.recent.clear()
        for path in recent_files():
            self.add(self.recent, str(path), None, partial(self.window.files.open, path))
        if self.recent.isEmpty():
            self.recent.addAction("No recent sessions").setEnabled(False)

    def _fill_output(self) -> None:
        """The devices there are now: they come and go."""
        self.output.clear()
        now = preferences.output()
        usual, silent = ("", "System default"), (SILENT, "No sound (timing only)")
        for name, text in (usual, *((name, name) for name in output_names()), silent):
            action = self.add(self.output, text, None, partial(self.window.listening.set_output, name))
            action.setCheckable(True)
            action.setChecked(name == now)

    def _choose_night(self, night: bool) -> None:
        preferences.choose_colours(Colours.NIGHT if night else Colours.DAY)

    def _ask_recording(self) -> None:
        window = self.window
        if (file := chosen_file(window, window.document.folder, "A recording to play")) is not None:
            window.editing.add_recording(file)

    def _show_preferences(self) -> None:
        from nafas.desk.dialogs.preferences_dialog import PreferencesDialog  # late: few sessions ask for it

        window = self.window
        self.preferences = dialog = PreferencesDialog(window.text_size, window)
        dialog.coloured.connect(window.follow_colours)
        dialog.output_chosen.connect(window.listening.set_output)
        dialog.still_chosen.connect(window.views.show_less_motion)
        dialog.again.connect(window.open_again)
        dialog.open()

    def _show_handbook(self) -> None:
        """The handbook at the page of the view that is shown."""
        from nafas.desk.handbook.window import Handbook

        if self.handbook is None:
            self.handbook = Handbook(self.window)
        shown = self.window.views.shown
        self.handbook.show_place(shown if shown in PAGES else "notation" if shown == "score" else "tour")
        self.handbook.show()
        self.handbook.activateWindow()

    def _show_log(self) -> None:
        """Open the folder of the log, and say where it is: there may be no program for folders here."""
        folder = log_folder()
        QDesktopServices.openUrl(QUrl.fromLocalFile(str(folder)))
        self.window.say(f"Errors are written to {folder}")

    def _show_cautions(self) -> None:
        box = message_box(QMessageBox.Icon.Information, "Cautions", _CAUTION, "", self.window)
        box.setStandardButtons(QMessageBox.StandardButton.Close)
        box.exec()

    def _find_command(self) -> None:
        from nafas.desk.dialogs.command_search import CommandSearch
        from nafas.desk.dialogs.command_words import commands_of  # late: not every session asks for it

        self.search = CommandSearch(commands_of(self.window.menuBar()), self.window)
        self.search.open()

    def _show_parts(self) -> None:
        """The picture with the focus, or the first one in the window, as a list."""
        widgets = [QApplication.focusWidget(), *self.window.findChildren(QWidget)]
        pictures = [each for each in widgets if each is not None and isinstance(each, Speaking) and each.isVisible()]
        # The ribbon is there in every view, and says least.
        pictures.sort(key=lambda each: isinstance(each, Ribbon) and not each.hasFocus())
        if pictures:
            shown = [
                each
                for each in self.window.findChildren(PartsDialog)
                if each.isVisible() and each.widget is pictures[0]
            ]
            dialog = shown[0] if shown else PartsDialog(pictures[0], self.window)
            dialog.show()
            dialog.activateWindow()

    def _show_keys(self) -> None:
        from nafas.desk.dialogs.keys_dialog import KeysDialog  # late: few look at it

        groups = {}
        for action in self.window.menuBar().actions():
            menu = action.menu()
            assert isinstance(menu, QMenu)
            rows = [(a.text(), a.shortcut()) for a in menu.actions() if not a.shortcut().isEmpty()]
            named = [(text.replace("&", "").rstrip("…"), keys.toString()) for text, keys in rows]
            if named:
                groups[action.text().replace("&", "")] = named
        self.keys = KeysDialog(groups, self.window)
        self.keys.show()
