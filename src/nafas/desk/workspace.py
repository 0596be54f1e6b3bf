"""What commands and views may use of the window they belong to: the parts of one open session, and a line to say."""

from typing import Any, Protocol

from PySide6.QtWidgets import QStackedWidget, QWidget

from nafas.desk.audio.player import Player
from nafas.desk.details import Details
from nafas.desk.document import Document
from nafas.desk.score import ScoreView
from nafas.desk.widgets.masthead import Masthead
from nafas.desk.widgets.ribbon import Ribbon
from nafas.desk.widgets.running_order import RunningOrder
from nafas.desk.work.preparation import Preparation
from nafas.score.selection import Chosen


class Workspace(Protocol):
    """One session being worked on. `left`, `centre` and `side` are the places that a view fills."""

    document: Document
    preparation: Preparation
    player: Player
    masthead: Masthead
    order: RunningOrder
    score: ScoreView
    details: Details
    ribbon: Ribbon
    page: QWidget
    left: QStackedWidget
    centre: QStackedWidget
    side: QStackedWidget
    # Made of a workspace themselves, so that they cannot be named here.
    files: Any
    editing: Any
    views: Any
    menus: Any
    listening: Any
    making: Any
    dropped: Any

    def choose(self, chosen: Chosen) -> None: ...
    def say(self, text: str) -> None: ...
    def watch(self, part: QWidget) -> None: ...
    def show_view(self, name: str) -> None: ...
    def show_state(self) -> None: ...
