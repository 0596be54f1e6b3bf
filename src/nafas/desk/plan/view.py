"""The Plan view: the arc above, the library below."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QSplitter, QVBoxLayout, QWidget

from nafas.desk.plan.arc_view import ArcView
from nafas.desk.plan.repertoire_panel import LibraryPanel
from nafas.desk.widgets.controls import fill
from nafas.desk.widgets.labels import Label, RichLabel
from nafas.timing import Timeline, arc_of
from nafas.timing.clock import clock
from nafas.voice import Cast


class PlanView(QWidget):
    """Shows a session's arc and figures, and what there is to start from."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Plan")
        top = QWidget()
        self.figures = RichLabel()
        self.figures.setWordWrap(True)
        self.arc = ArcView()
        fill(
            QVBoxLayout(top),
            Label("The arc", objectName="section"),
            self.figures,
            (self.arc, 1),
            spacing=4,
            margins=(12, 6, 12, 0),
        )
        bottom = QWidget()
        heading = Label("Start from", objectName="section")
        heading.setContentsMargins(12, 0, 0, 0)
        self.repertoire = LibraryPanel()
        fill(QVBoxLayout(bottom), heading, (self.repertoire, 1), spacing=2, margins=(0, 0, 0, 0))
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(top)
        split.addWidget(bottom)
        split.setStretchFactor(1, 1)
        split.setChildrenCollapsible(False)
        fill(QVBoxLayout(self), split, margins=(0, 0, 0, 0))

    def show_timeline(self, timeline: Timeline, cast: Cast | None) -> None:
        arc = arc_of(timeline)
        self.arc.show_arc(timeline, arc)
        if not timeline.blocks:
            self.figures.setText("")
            return
        begin, end = arc.silence if cast is None else (n / cast.rate for n in cast.longest_silence)
        facts = [
            f"<b>{clock(timeline.length)}</b> long",
            f"<b>{arc.talk_share:.0%}</b> talk",
            f"<b>{arc.breaths}</b> breaths led",
            f"longest without a natural breath <b>{clock(arc.strong)}</b>",
            f"longest silence <b>{float(end - begin):.0f} s</b> at {clock(begin)}",
        ]
        self.figures.setText(" &nbsp;·&nbsp; ".join(facts))
