"""Where the parts of the main window stand: masthead above, the three places of a view, the ribbon at the foot."""

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QSplitter, QStackedWidget, QVBoxLayout, QWidget

from nafas.desk.widgets.controls import across, fill

if TYPE_CHECKING:
    from nafas.desk.window import MainWindow


def lay_out(window: "MainWindow") -> None:
    """Put the parts that the window has made in their places."""
    window.page = page = QFrame()
    fill(QVBoxLayout(page), window.find_bar, window.score, spacing=0, margins=(0, 8, 0, 0))
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
    fill(
        QVBoxLayout(middle),
        window.masthead,
        across(window.notice, margins=(12, 0, 12, 0)),
        across(window.tour, margins=(12, 0, 12, 0)),
        (window.splitter, 1),
        window.ribbon,
        spacing=4,
        margins=(0, 0, 0, 0),
    )
    window.setCentralWidget(middle)
    window.statusBar().setSizeGripEnabled(False)
