"""Save to the library: under which name, for what."""

from PySide6.QtWidgets import QDialogButtonBox, QFormLayout, QLineEdit, QVBoxLayout, QWidget

from nafas.desk.widgets.controls import fill
from nafas.desk.widgets.dialog import Dialog
from nafas.desk.widgets.fields import Choice
from nafas.desk.widgets.labels import Label
from nafas.library.own import PURPOSES


class KeepDialog(Dialog):
    """Asks for name, purpose and a line about it; and whether the chosen set or the whole session is kept."""

    def __init__(self, block: str | None, session: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Save to library")
        self.setMinimumWidth(420)
        form = QFormLayout()
        options = [(True, f"the whole session: {session}")]
        if block is not None:
            options.insert(0, (False, f"the chosen block: {block}"))
        self.what = Choice("What", *options)
        self.name = QLineEdit(block or session)
        self.name.setMaxLength(120)
        self.name.setAccessibleName("Name")
        self.purpose = Choice("Purpose", *PURPOSES)
        self.about = QLineEdit()
        self.about.setMaxLength(400)
        self.about.setAccessibleName("About it")
        self.about.setPlaceholderText("a line about it")
        self.what.chose.connect(lambda whole: self.name.setText(session if whole else block or session))
        for label, field in (
            ("Save", self.what),
            ("Name", self.name),
            ("Purpose", self.purpose),
            ("About", self.about),
        ):
            form.addRow(label, field)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Save | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        fill(QVBoxLayout(self), Label("Save to library", objectName="heading"), form, buttons)
