"""Preferences: what holds for every session. Each is taken at once; a text size with the next start."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFormLayout, QVBoxLayout, QWidget

from nafas.desk import preferences
from nafas.desk.audio.outputs import SILENT, output_names
from nafas.desk.preferences import Colours, fitting_sizes
from nafas.desk.widgets.controls import Button, Tick, across, fill
from nafas.desk.widgets.dialog import Dialog
from nafas.desk.widgets.fields import Choice
from nafas.desk.widgets.labels import Label, set_tip
from nafas.languages import LANGUAGES, language_name


class PreferencesDialog(Dialog):
    """Text size, colours, output, motion, and the language of new sessions.

    Signals: coloured: other colours are chosen; output_chosen: its name; still: less motion or not; again: Nafas is to
    be opened again.
    """

    help_place = "desktop"

    coloured = Signal()
    output_chosen = Signal(object)
    still_chosen = Signal(bool)
    again = Signal()

    def __init__(self, text_size: int, parent: QWidget) -> None:
        """Args: text_size: the one in use, per cent."""
        super().__init__(parent)
        self.setWindowTitle("Preferences")
        self._size_in_use = text_size
        screen = self.screen().availableGeometry()
        sizes = fitting_sizes(screen.width(), screen.height(), text_size)
        self.size_ = Choice("Text size", *((size, f"{size} %") for size in sizes))
        set_tip(self.size_, "Sizes with which the window fits this screen")
        self.size_.show_value(preferences.text_size())
        self.size_.chose.connect(self._choose_size)
        self.again_button = Button("Open Nafas again now", self._open_again, auto=False)
        self.again_button.hide()
        self.colours = Choice(
            "Colours",
            (Colours.SYSTEM, "as the desktop"),
            (Colours.DAY, "paper by day"),
            (Colours.NIGHT, "slate by night"),
        )
        self.colours.show_value(preferences.colours())
        self.colours.chose.connect(self._choose_colours)
        names = [("", "System default"), *((name, name) for name in output_names()), (SILENT, "No sound (timing only)")]
        self.output = Choice("Sound output", *names)
        self.output.show_value(preferences.output())
        self.output.chose.connect(self.output_chosen)
        self.language = Choice("Language of new sessions", ("", "as the system"), *_languages())
        self.language.show_value(preferences.chosen_language())
        self.language.chose.connect(preferences.choose_language)
        self.still = Tick("Rows of the guide change at once (less motion)", self._choose_motion)
        self.still.setChecked(preferences.less_motion())
        form = QFormLayout()
        form.setVerticalSpacing(10)
        for choice in (self.size_, self.colours, self.output, self.language):
            form.addRow(choice.accessibleName(), choice)
            if choice is self.size_:
                form.addRow("", self.again_button)
        form.addRow("In Rehearse", self.still)
        self.notes = Label("", objectName="muted", wordWrap=True)
        close = Button("Close", self.accept)
        fill(
            QVBoxLayout(self),
            form,
            self.notes,
            None,
            across(None, close),
            spacing=12,
            margins=(18, 16, 18, 14),
        )
        self.setMinimumWidth(440)
        self.size_.setFocus()

    def _choose_size(self, per_cent: int) -> None:
        preferences.choose_text_size(per_cent)
        shown = per_cent != self._size_in_use
        self.again_button.setVisible(shown)
        self.notes.setText("The new size is used when Nafas is opened again." if shown else "")

    def _open_again(self) -> None:
        self.accept()
        self.again.emit()

    def _choose_colours(self, chosen: Colours) -> None:
        preferences.choose_colours(chosen)
        self.coloured.emit()

    def _choose_motion(self, less: bool) -> None:
        preferences.choose_less_motion(less)
        self.still_chosen.emit(less)


def _languages() -> list[tuple[str, str]]:
    return sorted(((code, language_name(code)) for code in LANGUAGES), key=lambda pair: pair[1])
