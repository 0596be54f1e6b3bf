"""The Plan view: the arc above, the library below."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QScrollArea, QSplitter, QVBoxLayout, QWidget

from nafas.desk.plan.arc_view import ArcView
from nafas.desk.plan.repertoire_panel import LibraryPanel
from nafas.desk.widgets.controls import fill
from nafas.desk.widgets.labels import Label, RichLabel, set_tip
from nafas.desk.widgets.scrolled import Squeezed
from nafas.script.edits.session_edits import block_name
from nafas.timing import Timeline, arc_of
from nafas.timing.clock import clock
from nafas.timing.load import load_of, whole_load
from nafas.voice import Cast

_NARROWEST = 460  # px
_LEAST = 520  # px of height with which both can be read; in a lower window they scroll


class PlanView(QWidget):
    """Shows a session's arc and figures, and what there is to start from."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Plan")
        top = QWidget()
        self.figures = RichLabel()
        self.figures.setWordWrap(True)
        self.arc = ArcView()
        self.load = Label(objectName="muted", wordWrap=True)
        set_tip(
            self.load,
            "Rates, ratios and holds follow from the script. How much air moves depends on how deep one breathes, "
            "which no script says: so no figure of that is given.",
        )
        self._timeline: Timeline | None = None
        self._chosen = -1
        fill(
            QVBoxLayout(top),
            Label("The arc", objectName="section"),
            self.figures,
            self.load,
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
        split.setMinimumHeight(_LEAST)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        inner = Squeezed()
        fill(QVBoxLayout(inner), split, margins=(0, 0, 0, 0))
        scroll.setMinimumWidth(_NARROWEST)
        scroll.setWidget(inner)
        fill(QVBoxLayout(self), scroll, margins=(0, 0, 0, 0))

    def set_chosen(self, index: int) -> None:
        """Mark a block, and say what it asks of the breath; -1 for none."""
        self._chosen = index
        self.arc.set_chosen(index)
        self._show_load()

    def _show_load(self) -> None:
        """What the chosen set asks, or all sets together."""
        blocks = self._timeline.blocks if self._timeline is not None else ()
        chosen = next((block for block in blocks if block.index == self._chosen), None)
        load, name = (load_of(chosen), block_name(chosen.block)) if chosen is not None else (None, "")
        if load is None and self._timeline is not None:
            load, name = whole_load(self._timeline), "All sets"
        self.load.setText(f"{name or 'This set'}: {load.words}" if load is not None else "")

    def show_timeline(self, timeline: Timeline, cast: Cast | None) -> None:
        arc = arc_of(timeline)
        self._timeline = timeline
        self._show_load()
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
