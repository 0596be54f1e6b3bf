"""Where the parts of the main window stand: masthead above, the three places of a view, the ribbon at the foot."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QSplitter, QStackedWidget, QVBoxLayout, QWidget

from nafas.desk.workspace import Workspace


def lay_out(window: Workspace) -> None:
    """Put the parts that the window has made in their places."""
    window.page = page = QFrame()
    inner = QVBoxLayout(page)
    inner.setContentsMargins(0, 8, 0, 0)
    inner.setSpacing(0)
    inner.addWidget(window.find_bar)
    inner.addWidget(window.score)
    window.left, window.centre, window.side = QStackedWidget(), QStackedWidget(), QStackedWidget()
    window.left.addWidget(window.order)
    window.centre.addWidget(page)
    window.side.addWidget(window.details)
    window.splitter = QSplitter(Qt.Orientation.Horizontal)
    for widget in (window.left, window.centre, window.side):
        window.splitter.addWidget(widget)
    window.splitter.setStretchFactor(1, 1)
    window.splitter.setSizes([236, 744, 300])
    window.splitter.setChildrenCollapsible(False)
    window.left.setMinimumWidth(222)
    window.side.setMinimumWidth(258)
    middle = QWidget()
    box = QVBoxLayout(middle)
    box.setContentsMargins(0, 0, 0, 0)
    box.setSpacing(4)
    box.addWidget(window.masthead)
    above = QHBoxLayout()
    above.setContentsMargins(12, 0, 12, 0)
    above.addWidget(window.notice)
    box.addLayout(above)
    box.addWidget(window.splitter, 1)
    box.addWidget(window.ribbon)
    window.setCentralWidget(middle)
    window.statusBar().setSizeGripEnabled(False)
