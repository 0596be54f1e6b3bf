"""The window's views: each made when it is first asked for, shown in its three places, and kept up to date."""

from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from nafas.desk.workspace import Workspace
from nafas.library.demo import DEMO
from nafas.score.selection import Chosen
from nafas.script.edits.session_edits import block_name
from nafas.script.model.marks import Felt, Mark
from nafas.state.news import is_news
from nafas.state.recent_files import recent_files

if TYPE_CHECKING:
    from nafas.desk.deliver.view import DeliverView
    from nafas.desk.ledger.view import LedgerView
    from nafas.desk.plan import FitPanel, PlanView
    from nafas.desk.rehearse import RehearseView
    from nafas.desk.review import ReviewView
    from nafas.desk.sound import SoundView
    from nafas.desk.takes.room import TakesRoom
    from nafas.desk.welcome.page import WelcomePage
    from nafas.library.own import LibraryEntry
    from nafas.script import Session
    from nafas.voice.takebook.editor import TakeBookEditor


class Views:
    """Those beside the Score, which is always there."""

    def __init__(self, window: Workspace) -> None:
        self.window = window
        self.plan: PlanView | None = None
        self.fit_panel: FitPanel | None = None
        self.takes: TakesRoom | None = None
        self.sound: SoundView | None = None
        self.review: ReviewView | None = None
        self.rehearse: RehearseView | None = None
        self.deliver: DeliverView | None = None
        self.ledger: LedgerView | None = None
        self.welcome: WelcomePage | None = None
        self._landing: tuple[Session, LibraryEntry, Fraction | None] | None = None
        window.preparation.ready.connect(self._land)

    def show(self, name: str) -> None:
        """Show a view by its name in the masthead, or "welcome": the ways to begin."""
        window = self.window
        parts = self._parts(name)
        if window.centre.currentWidget() is not parts[1]:
            window.details.flush()
            for stack, part in zip((window.left, window.centre, window.side), parts):
                stack.setCurrentWidget(part)
        working = name != "welcome"
        for part in (window.left, window.side, window.masthead):
            part.setVisible(working)
        if working:
            window.masthead.show_view(name)
        window.ribbon.setVisible(name not in ("plan", "ledger", "welcome"))  # the arc tells the same, larger
        self.refresh()
        if name == "takes":
            self.takes_room().focus()
        elif name == "rehearse":
            self.rehearse_view().canvas.setFocus()
        elif name == "review":
            self.review_view().list.setFocus()
        elif name == "deliver":
            self.deliver_view().start.setFocus()
        elif name == "ledger":
            self.ledger_view().list.setFocus()
        elif name == "score":
            window.score.setFocus()

    def fit_to_length(self) -> None:
        """Show the Plan with the cursor in the target; Enter goes to the ways there, and again takes the marked one."""
        self.window.show_view("plan")
        self._plan()[1].begin()

    def _parts(self, name: str) -> tuple[QWidget, QWidget, QWidget]:
        window = self.window
        if name == "welcome":
            return (window.order, self.welcome_page(), window.details)
        if name == "plan":
            return (window.order, *self._plan())
        if name == "takes":
            room = self.takes_room()
            return (room.list, room.view, room.side)
        if name == "sound":
            sound = self.sound_view()
            return (window.order, sound, sound.side)
        if name == "rehearse":
            rehearse = self.rehearse_view()
            return (window.order, rehearse, rehearse.side)
        if name == "review":
            review = self.review_view()
            return (window.order, review, review.side)
        if name == "deliver":
            deliver = self.deliver_view()
            return (window.order, deliver, deliver.side)
        if name == "ledger":
            ledger = self.ledger_view()
            return (ledger.left, ledger, ledger.side)
        return (window.order, window.page, window.details)

    def refresh(self) -> None:
        """Bring the view that is shown up to date with the session."""
        shown, preparation = self.window.centre.currentWidget(), self.window.preparation
        if self.plan is not None and self.fit_panel is not None and shown is self.plan:
            self._show_plan(self.plan, self.fit_panel)
        elif self.takes is not None and shown is self.takes.view:
            self.takes.refresh()
        elif self.sound is not None and shown is self.sound and preparation.mix is not None:
            self.sound.show_mix(preparation.mix, self.window.document.folder)
        elif self.review is not None and shown is self.review:
            self.look(listen=True)
        elif self.rehearse is not None and shown is self.rehearse:
            self._show_rehearse(self.rehearse)
        elif self.deliver is not None and shown is self.deliver:
            self.deliver.show_session()
            self._show_must()
        elif self.ledger is not None and shown is self.ledger:
            self.ledger.look()

    def look(self, listen: bool = False) -> None:
        """Put the session to the checks as soon as it is cast; with what has to be heard where `listen`."""
        preparation = self.window.preparation
        if preparation.fresh and preparation.mix is not None:
            spoken_length = preparation.spoken_length(self.window.document.session)
            self.review_view().show_mix(preparation.mix, spoken_length, listen)

    # -- before any session is open

    def welcome_page(self) -> "WelcomePage":
        """The ways to begin."""
        if self.welcome is None:
            from nafas.desk.welcome.page import WelcomePage

            window = self.window
            self.welcome = page = WelcomePage()
            window.centre.addWidget(page)
            page.demo.connect(lambda: window.files.open(DEMO, as_copy=True))
            page.open.connect(window.files.open)
            page.recent.connect(window.files.open)
            page.blank.connect(lambda: window.show_view("score"))
            page.purpose.connect(self._show_purpose)
            page.recording.connect(lambda: window.making.review_recording().begin())
            page.news.connect(self.show_news)
        self.welcome.show_recent(recent_files(), is_news())
        return self.welcome

    def _show_purpose(self, purpose: object) -> None:
        self.window.show_view("plan")
        self._plan()[0].repertoire.show_purpose(purpose)

    def leave_welcome(self) -> None:
        """A session is open: its page is shown where the ways to begin were."""
        if self.welcome is not None and self.window.centre.currentWidget() is self.welcome:
            self.window.show_view("score")

    def show_news(self) -> None:
        """What is new, from the changelog."""
        from nafas.desk.dialogs.news_dialog import NewsDialog

        self.news = NewsDialog(self.window.page.window())
        self.news.open()
        if self.welcome is not None:
            self.welcome.show_recent(recent_files(), False)

    # -- Plan

    def _plan(self) -> "tuple[PlanView, FitPanel]":
        if self.plan is None or self.fit_panel is None:
            from nafas.desk.plan import FitPanel, PlanView  # late: the first paint need not wait for it

            window = self.window
            self.plan, self.fit_panel = plan, panel = PlanView(), FitPanel()
            window.centre.addWidget(plan)
            window.side.addWidget(panel)
            plan.arc.chose.connect(lambda index: window.editing.choose(Chosen(index)))
            plan.arc.set_chosen(window.editing.chosen.block)
            plan.repertoire.start.connect(self._start_from)
            plan.repertoire.add.connect(window.editing.add_entry)
            plan.repertoire.said.connect(window.say)
            panel.target_changed.connect(window.editing.set_target)
            panel.apply.connect(window.editing.apply_fit)
            panel.said.connect(window.say)
            for part in (plan, panel):
                window.watch(part)
        return self.plan, self.fit_panel

    def _show_plan(self, plan: "PlanView", panel: "FitPanel") -> None:
        preparation, session = self.window.preparation, self.window.document.session
        if preparation.timeline is not None:
            plan.show_timeline(preparation.timeline, preparation.cast if preparation.fresh else None)
            locked = [block_name(block) or "talk" for block in session.blocks if block.locked]
            panel.show_fit(preparation.fit(session.target_length), session.target_length, locked)

    def _start_from(self, entry: "LibraryEntry", length: Fraction | None) -> None:
        window = self.window
        if entry.session is None or not window.files.may_leave():
            return
        session, told = window.preparation.fitted(entry.session, length)
        window.files.ask_outside(session, Path.cwd())
        window.document.start(session)
        self._landing = (window.document.session, entry, length)
        window.say(f"Started from {entry.name}. {told}".strip())

    def _land(self) -> None:
        """Its talk is read now: a session begun for a length is fitted to it anew, unless it has been changed since."""
        begun, entry, length = self._landing or (None, None, None)
        self._landing = None
        window = self.window
        if begun is None or entry is None or entry.session is None or window.document.session is not begun:
            return
        timeline = window.preparation.timeline
        if length is not None and timeline is not None and timeline.length != length:
            session, told = window.preparation.fitted(entry.session, length)
            window.document.start(session)
            window.say(f"Started from {entry.name}. {told}".strip())

    # -- Takes

    def takes_room(self) -> "TakesRoom":
        """The Takes view, knowing the session as it stands."""
        if self.takes is None:
            from nafas.desk.takes.room import TakesRoom

            window = self.window
            self.takes = room = TakesRoom(window.document, window.preparation, window)
            for stack, part in zip((window.left, window.centre, window.side), (room.list, room.view, room.side)):
                stack.addWidget(part)
                window.watch(part)
            room.said.connect(window.say)
            room.play.connect(window.player.play_between)
            room.view.audition.playing_changed.connect(lambda on: window.player.pause() if on else None)
            room.shelf.changed.connect(window.show_state)
        if not self.takes.shelf.standings:
            self.takes.refresh()
        return self.takes

    @property
    def tended(self) -> "TakeBookEditor | None":
        """The take book whose changes undo takes back: that of the Takes view, while it is shown."""
        shown = self.takes is not None and self.window.centre.currentWidget() is self.takes.view
        return self.takes.shelf.tended if self.takes is not None and shown else None

    # -- Sound

    def sound_view(self) -> "SoundView":
        """The Sound view."""
        if self.sound is None:
            from nafas.desk.sound import SoundView

            window = self.window
            self.sound = sound = SoundView(window.document)
            sound.show_block(window.editing.chosen.block)
            for stack, part in ((window.centre, sound), (window.side, sound.side)):
                stack.addWidget(part)
                window.watch(part)
            sound.seek.connect(window.player.seek)
            sound.said.connect(window.say)
            sound.audition.playing_changed.connect(lambda on: window.player.pause() if on else None)
            window.player.moved.connect(sound.curve.set_playhead)
        return self.sound

    # -- Rehearse

    def rehearse_view(self) -> "RehearseView":
        """The Rehearse view."""
        if self.rehearse is None:
            from nafas.desk.rehearse import RehearseView

            window = self.window
            self.rehearse = rehearse = RehearseView(window.document, window.player)
            for stack, part in ((window.centre, rehearse), (window.side, rehearse.side)):
                stack.addWidget(part)
                window.watch(part)
            rehearse.said.connect(window.say)
            rehearse.open_mark.connect(self._open_mark)
        return self.rehearse

    def rehearse_full(self) -> None:
        """The guide alone on the screen, and back."""
        self.window.show_view("rehearse")
        self.rehearse_view().show_full()

    def _show_rehearse(self, rehearse: "RehearseView") -> None:
        window, timeline = self.window, self.window.preparation.timeline
        layout = window.score.layout_
        if timeline is not None and layout is not None:
            rehearse.chosen_place = window.score.play_place() or 0.0
            rehearse.show_session(timeline, layout)

    def _open_mark(self, mark: Mark) -> None:
        """Show what a mark is about, with the control that changes it."""
        window = self.window
        ids = [block.id for block in window.document.session.blocks]
        if mark.block not in ids:
            window.say("Its block is gone; undo brings it back")
            return
        chosen = Chosen(ids.index(mark.block), mark.round, mark.phase)
        if mark.felt in (Felt.LOUD, Felt.QUIET):
            window.choose(chosen)
            window.show_view("sound")
            return
        window.show_view("score")
        window.choose(Chosen(chosen.block) if mark.felt is Felt.BREATH else chosen)
        if mark.felt in (Felt.RUSHED, Felt.SLOW, Felt.BREATH):
            window.details.focus_first()
        window.say(f"Marked: {mark.felt.value}{f', {mark.note}' if mark.note else ''}")

    # -- Review

    def review_view(self) -> "ReviewView":
        """The Review view."""
        if self.review is None:
            from nafas.desk.review import ReviewView

            window = self.window
            self.review = review = ReviewView(window.document)
            for stack, part in ((window.centre, review), (window.side, review.side)):
                stack.addWidget(part)
                window.watch(part)
            review.go.connect(lambda block: (window.show_view("score"), window.choose(Chosen(block))))
            review.play.connect(lambda seconds: (window.player.seek(seconds), window.player.play()))
            review.said.connect(window.say)
            review.counted.connect(lambda many, words: window.masthead.show_open({"review": (many, words)}))
            review.counted.connect(lambda *_: self._show_must())
        return self.review

    # -- Deliver

    def deliver_view(self) -> "DeliverView":
        """The Deliver view."""
        if self.deliver is None:
            from nafas.desk.deliver.view import DeliverView

            window = self.window
            self.deliver = deliver = DeliverView(window.document)
            for stack, part in ((window.centre, deliver), (window.side, deliver.side)):
                stack.addWidget(part)
                window.watch(part)
            deliver.said.connect(window.say)
            deliver.review.connect(lambda: window.show_view("review"))
        return self.deliver

    def _show_must(self) -> None:
        """What the review says must be changed, where the session is to be handed over."""
        reviewed = self.review.reviewed if self.review is not None else None
        if self.deliver is not None and reviewed is not None:
            from nafas.review.checks.finding import Severity  # late: the first paint need not wait for it

            self.deliver.show_findings(reviewed.review.of(Severity.MUST))

    # -- Ledger

    def ledger_view(self) -> "LedgerView":
        """The Ledger view."""
        if self.ledger is None:
            from nafas.desk.ledger.view import LedgerView

            window = self.window
            self.ledger = ledger = LedgerView()
            for stack, part in ((window.left, ledger.left), (window.centre, ledger), (window.side, ledger.side)):
                stack.addWidget(part)
                window.watch(part)
            ledger.said.connect(window.say)
            ledger.open_version.connect(self._open_version)
        return self.ledger

    def _open_version(self, session: "Session") -> None:
        """A session as it was, as a copy without a name; its files are looked for beside the one that is open."""
        window = self.window
        if window.files.may_leave():
            window.document.start(session, window.document.folder)
            window.show_view("score")
            window.say("This is the version as it was: save it under a name to keep it")
