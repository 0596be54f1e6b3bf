"""The handbook next to the work: its pages, and a search through all of them."""

from PySide6.QtCore import Qt, QUrl
from PySide6.QtGui import QDesktopServices, QKeyEvent
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from nafas.handbook import PAGES, Place, page, search, title

_PLACE = Qt.ItemDataRole.UserRole


class Handbook(QDialog):
    """Pages on the left, or what was found; the page on the right. It stays open next to the work."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Handbook")
        self.resize(min(1000, self.screen().availableGeometry().width()), 680)
        self.line = QLineEdit()
        self.line.setPlaceholderText("Search the handbook")
        self.line.setAccessibleName("Search the handbook")
        self.line.setClearButtonEnabled(True)
        self.line.textChanged.connect(self._list)
        self.list = QListWidget()
        self.list.setObjectName("plain")
        self.list.setAccessibleName("Pages")
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentItemChanged.connect(self._choose)
        self.text = QTextBrowser()
        self.text.setAccessibleName("Page")
        self.text.setOpenLinks(False)
        self.text.anchorClicked.connect(self._follow)
        left = QVBoxLayout()
        left.addWidget(self.line)
        left.addWidget(self.list, 1)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 14, 16, 14)
        row.addLayout(left, 2)
        row.addWidget(self.text, 5)
        self.shown = ""
        self._list("")

    def show_place(self, place: str) -> None:
        """Show a page, or one of its headings: "takes" or "takes#The room"."""
        name, _, heading = place.partition("#")
        self.line.clear()
        self.line.setFocus()
        self.list.setCurrentRow(PAGES.index(name))
        self._show(Place(name, heading, ""))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Down and Up go through what was found while one types."""
        if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up) and self.line.hasFocus():
            self.list.setFocus()
            self.list.setCurrentRow(max(0, self.list.currentRow()))
        elif event.key() not in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            super().keyPressEvent(event)

    def _list(self, words: str) -> None:
        """List what has the words; without any, the pages."""
        self.list.clear()
        for place in search(words) if words.strip() else (Place(name, "", "") for name in PAGES):
            name = title(place.page)
            under = "" if not place.heading or place.heading.startswith(name) else f": {place.heading}"
            found = f"\n{place.line}" if place.line else ""
            item = QListWidgetItem(f"{name}{under}{found}")
            item.setData(_PLACE, place)
            self.list.addItem(item)
        if not self.list.count():
            nothing = QListWidgetItem("Nothing has all of these words. Try one of them.")
            nothing.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(nothing)

    def _choose(self, item: QListWidgetItem | None) -> None:
        place = item.data(_PLACE) if item is not None else None
        if isinstance(place, Place):
            self._show(place)

    def _show(self, place: Place) -> None:
        if place.page != self.shown:
            self.shown = place.page
            self.text.setMarkdown(page(place.page))
            self.text.document().setDocumentMargin(14)
        document = self.text.document()
        blocks = map(document.findBlockByNumber, range(document.blockCount()))
        heads = (block for block in blocks if block.blockFormat().headingLevel())
        found = next((head for head in heads if place.heading and head.text().startswith(place.heading)), None)
        top = 0 if found is None else int(document.documentLayout().blockBoundingRect(found).top())
        self.text.verticalScrollBar().setValue(top)

    def _follow(self, link: QUrl) -> None:
        """A page of the handbook, or what the desktop opens."""
        name = link.fileName().removesuffix(".md")
        if name in PAGES and not link.host():
            self.show_place(name)
        elif link.scheme() in ("http", "https"):
            QDesktopServices.openUrl(link)
