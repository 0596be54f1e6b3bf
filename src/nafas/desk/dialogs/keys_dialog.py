"""Every key there is, by where it works; found by typing a word of what it does."""

from collections.abc import Mapping, Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QLineEdit,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from nafas.desk.widgets.controls import fill
from nafas.desk.widgets.dialog import Dialog
from nafas.drawing.theme import font

Keys = Mapping[str, Sequence[tuple[str, str]]]
"""By group: what is done, and the keys for it."""

ELSEWHERE: Keys = {
    "On the page": (
        ("Next or previous line of the score", "Up, Down"),
        ("Next or previous phase", "Left, Right"),
        ("Set the chosen phase's counts", "0 to 9"),
        ("A round more or fewer", "+, \N{MINUS SIGN}"),
        ("Retype the title or the cue", "F2, double click"),
        ("Select several blocks", "Shift+Up, Shift+Down"),
        ("Change what is chosen", "Enter"),
    ),
    "In the quick entry": (
        ("Another way to read the line", "Up, Down"),
        ("Take it", "Enter"),
        ("Write the line that is offered", "Tab"),
        ("Close the list", "Esc"),
    ),
    "In Takes": (
        ("Hear the take, against clicks, counted, in its place", "P, C, E, I"),
        ("It is this line, set aside, another line", "Y, X, L"),
        ("Find the beat, next line to judge", "B, N"),
        ("Move the beat (finer with Shift)", "Left, Right"),
        ("Move the beginning, the end", "[ ], { }"),
        ("The take before or after", ", ."),
    ),
    "In Sound": (("A shorter stretch of the curve, a longer one, all", "+, \N{MINUS SIGN}, 0"),),
}


class KeysDialog(Dialog):
    """The list stays open next to the work."""

    def __init__(self, menus: Keys, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys")
        self.resize(560, 600)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find a command or a key")
        self.search.setAccessibleName("Find a command or a key")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(self.find_words)
        self._heads: list[QTreeWidgetItem] = []
        self.tree = QTreeWidget()
        self.tree.setAccessibleName("Keys")
        self.tree.setHeaderHidden(True)
        self.tree.setColumnCount(2)
        self.tree.setRootIsDecorated(False)
        self.tree.setItemsExpandable(False)
        self.tree.setSelectionMode(QAbstractItemView.SelectionMode.NoSelection)
        self.tree.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.tree.header().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.tree.header().setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        self.tree.header().setStretchLastSection(False)
        for group, rows in {**menus, **ELSEWHERE}.items():
            head = QTreeWidgetItem([group])
            head.setFont(0, font(10.5, bold=True))
            self.tree.addTopLevelItem(head)
            self._heads.append(head)
            head.setFirstColumnSpanned(True)
            head.addChildren([QTreeWidgetItem([does, keys]) for does, keys in rows])
            head.setExpanded(True)
        fill(QVBoxLayout(self), self.search, (self.tree, 1), spacing=8, margins=(16, 14, 16, 14))
        self.search.setFocus()

    def find_words(self, text: str) -> None:
        """Show only what has these words in it, and the groups that hold any."""
        wanted = text.strip().casefold()
        for head in self._heads:
            children = (head.child(index) for index in range(head.childCount()))
            rows = [row for row in children if row is not None]
            for row in rows:
                row.setHidden(bool(wanted) and wanted not in f"{row.text(0)} {row.text(1)}".casefold())
            head.setHidden(all(row.isHidden() for row in rows))
