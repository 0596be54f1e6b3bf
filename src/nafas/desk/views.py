"""The window's views: each made when it is first asked for, put in its three places, and kept up to date.

A view is one entry of `Views._makers`: to add one, write its maker and name it in `widgets/masthead.py` as well.
"""

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from nafas.desk import preferences
from nafas.desk.welcome.tour import Doing
from nafas.errors import InputError
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
    from nafas.desk.window import MainWindow
    from nafas.ledger.entries import Entry
    from nafas.library.own import LibraryEntry
    from nafas.script import Session
    from nafas.voice.takebook.editor import TakeBookEditor


@dataclass(frozen=True)
class View:
    """A view in its three places.

    Attributes:
        left, centre, side: what stands there while it is shown.
        refresh: brings it up to date with the session.
        focus: puts the focus where its work begins.
        ribbon: whether the ribbon stands below it.
    """

    left: QWidget
    centre: QWidget
    side: QWidget
    refresh: Callable[[], None] = lambda: None
    focus: Callable[[], object] = lambda: None
    ribbon: bool = True


class Views:
    """All views of a window. Those that were not asked for yet are None."""

    def __init__(self, window: "MainWindow") -> None:
        self.window = window
        self.shown = "score"
        self.plan: PlanView | None = None
        self.fit_panel: FitPanel | None = None
        self.takes: TakesRoom | None = None
        self.sound: SoundView | None = None
        self.review: ReviewView | None = None
        self.rehearse: RehearseView | None = None
        self.deliver: DeliverView | None = None
        self.ledger: LedgerView | None = None
        self.welcome: WelcomePage | None = None
        self._makers = {
            "welcome": self._make_welcome, "plan": self._make_plan, "score": self._make_score,
            "takes": self._make_takes, "sound": self._make_sound, "rehearse": self._make_rehearse,
            "review": self._make_review, "deliver": self._make_deliver, "ledger": self._make_ledger,
        }  # fmt: skip
        self._made: dict[str, View] = {}
        self._landing: tuple[Session, LibraryEntry, Fraction | None] | None = None
        window.preparation.ready.connect(self._land)

    def view(self, name: str) -> View:
        """A view by its name; it is made where it is not there yet, before the first paint has to wait for it."""
        if name not in self._made:
            self._made[name] = view = self._makers[name]()
            window = self.window
            for stack, part in zip((window.left, window.centre, window.side), (view.left, view.centre, view.side)):
                if stack.indexOf(part) < 0:
                    stack.addWidget(part)
                    window.watch(part)
        return self._made[name]

    def show(self, name: str) -> None:
        """Show a view by its name in the masthead, or "welcome": the ways to begin."""
        window, view = self.window, self.view(name)
        if window.centre.currentWidget() is not view.centre:
            window.details.flush()
            for stack, part in zip((window.left, window.centre, window.side), (view.left, view.centre, view.side)):
                stack.setCurrentWidget(part)
        self.shown = name
        working = name != "welcome"
        window.masthead.setVisible(working)
        for part, shown in ((window.left, window.menus.left_panel), (window.side, window.menus.right_panel)):
            part.setVisible(working and shown.isChecked())
        if working:
            window.masthead.show_view(name)
        window.ribbon.setVisible(view.ribbon)
        self.refresh()
        view.focus()

    def refresh(self) -> None:
        """Bring the view that is shown up to date with the session."""
        self.view(self.shown).refresh()

    def close_down(self) -> None:
        """Stop what works behind the views."""
        for view in (self.sound, self.review, self.rehearse, self.deliver):
            if view is not None:
                view.close_down()

    def repaint_theme(self) -> None:
        """Paint again what keeps colours."""
        if self.takes is not None:
            self.takes.list.list.viewport().update()

    def _make_score(self) -> View:
        window = self.window
        return View(window.order, window.page, window.details, focus=window.score.setFocus)

    # -- before any session is open

    def _make_welcome(self) -> View:
        from nafas.desk.welcome.page import WelcomePage

        window = self.window
        self.welcome = page = WelcomePage()
        page.demo.connect(self._open_demo)
        page.open.connect(window.files.open)
        page.recent.connect(window.files.open)
        page.blank.connect(lambda: window.show_view("score"))
        page.purpose.connect(self._show_purpose)
        page.recording.connect(lambda: window.outputs.review_recording().begin())
        page.news.connect(self.show_news)

        def refresh() -> None:
            page.show_recent(recent_files(), is_news())

        return View(window.order, page, window.details, refresh, ribbon=False)

    def _open_demo(self) -> None:
        """Open the demo; for the first time, with the tour."""
        if not preferences.tour_seen():
            self.begin_tour()
        else:
            self.window.files.open(DEMO, as_copy=True)

    def begin_tour(self) -> None:
        """Show the tour on the demo."""
        if self.window.files.open(DEMO, as_copy=True):
            preferences.note_tour_seen()
            self.show("score")
            self.window.tour.begin(self._doing)

    def _doing(self) -> Doing:
        window = self.window
        dialog = window.outputs.render_dialog
        return Doing(
            window.document.session, window.player.playing, self.shown, dialog is not None and dialog.isVisible()
        )

    def _show_purpose(self, purpose: object) -> None:
        self.window.show_view("plan")
        assert self.plan is not None
        self.plan.repertoire.show_purpose(purpose)

    def leave_welcome(self) -> None:
        """A session is open: its page is shown where the ways to begin were."""
        if self.shown == "welcome":
            self.window.show_view("score")

    def show_news(self) -> None:
        """What is new, from the changelog."""
        from nafas.desk.dialogs.news_dialog import NewsDialog

        self.news = NewsDialog(self.window)
        self.news.open()
        if self.welcome is not None:
            self.welcome.show_recent(recent_files(), False)

    # -- Plan

    def _make_plan(self) -> View:
        from nafas.desk.plan import FitPanel, PlanView

        window = self.window
        self.plan, self.fit_panel = plan, panel = PlanView(), FitPanel()
        plan.arc.chose.connect(lambda index: window.editing.choose(Chosen(index)))
        plan.set_chosen(window.editing.chosen.block)
        plan.repertoire.start.connect(self._start_from)
        plan.repertoire.add.connect(window.editing.add_entry)
        plan.repertoire.said.connect(window.say)
        panel.target_changed.connect(window.editing.set_target)
        panel.apply.connect(window.editing.apply_fit)
        panel.said.connect(window.say)

        def refresh() -> None:
            preparation, session = window.preparation, window.document.session
            plan.repertoire.show_language(session.language)
            if preparation.timeline is not None:
                plan.show_timeline(preparation.timeline, preparation.cast if preparation.fresh else None)
                locked = [block_name(block) or "talk" for block in session.blocks if block.locked]
                panel.show_fit(preparation.fit(session.target_length), session.target_length, locked)

        return View(window.order, plan, panel, refresh, ribbon=False)  # the arc says the same as the ribbon, larger

    def fit_to_length(self) -> None:
        """Show the Plan with the cursor in the target; Enter goes to the ways there, and again takes the marked one."""
        self.window.show_view("plan")
        assert self.fit_panel is not None
        self.fit_panel.begin()

    def _start_from(self, entry: "LibraryEntry", length: Fraction | None) -> None:
        window = self.window
        if entry.session is None or not window.files.may_leave():
            return
        session, text = window.preparation.fitted(entry.session, length)
        window.files.ask_outside(session, Path.cwd())
        window.document.start(session)
        self._landing = (window.document.session, entry, length)
        window.say(f"Started from {entry.name}. {text}".strip())

    def _land(self) -> None:
        """Its talk is read now: a session begun for a length is fitted to it again, unless it has been changed."""
        begun, entry, length = self._landing or (None, None, None)
        self._landing = None
        window = self.window
        if begun is None or entry is None or entry.session is None or window.document.session is not begun:
            return
        timeline = window.preparation.timeline
        if length is not None and timeline is not None and timeline.length != length:
            session, text = window.preparation.fitted(entry.session, length)
            window.document.start(session)
            window.say(f"Started from {entry.name}. {text}".strip())

    # -- Takes

    def _make_takes(self) -> View:
        from nafas.desk.takes.room import TakesRoom

        window = self.window
        self.takes = room = TakesRoom(window.document, window.preparation, window)
        room.said.connect(window.say)
        room.play.connect(window.player.play_between)
        room.view.audition.playing_changed.connect(lambda on: window.player.pause() if on else None)
        room.shelf.changed.connect(window.show_state)
        return View(room.list, room.view, room.side, room.refresh, room.focus)

    def takes_room(self) -> "TakesRoom":
        """The Takes view, knowing the session as it stands."""
        self.view("takes")
        assert self.takes is not None
        if not self.takes.shelf.statuses:
            self.takes.refresh()
        return self.takes

    @property
    def edited_book(self) -> "TakeBookEditor | None":
        """The take book whose changes undo takes back: that of the Takes view, while it is shown."""
        return self.takes.shelf.edited if self.takes is not None and self.shown == "takes" else None

    # -- Sound

    def _make_sound(self) -> View:
        from nafas.desk.sound import SoundView

        window = self.window
        self.sound = sound = SoundView(window.document)
        sound.show_block(window.editing.chosen.block)
        sound.seek.connect(window.player.seek)
        sound.said.connect(window.say)
        sound.audition.playing_changed.connect(lambda on: window.player.pause() if on else None)
        window.player.moved.connect(sound.curve.set_playhead)

        def refresh() -> None:
            if window.preparation.mix is not None:
                sound.show_mix(window.preparation.mix, window.document.folder)

        return View(window.order, sound, sound.side, refresh)

    # -- Rehearse

    def _make_rehearse(self) -> View:
        from nafas.desk.rehearse import RehearseView

        window = self.window
        self.rehearse = rehearse = RehearseView(window.document, window.player)
        rehearse.said.connect(window.say)
        rehearse.open_mark.connect(self._open_mark)

        def refresh() -> None:
            timeline, layout = window.preparation.timeline, window.score.layout_
            if timeline is not None and layout is not None:
                rehearse.chosen_place = window.score.play_place() or 0.0
                rehearse.show_session(timeline, layout)

        return View(window.order, rehearse, rehearse.side, refresh, rehearse.canvas.setFocus)

    def show_less_motion(self, less: bool) -> None:
        """Change the guide's rows at once, or not."""
        if self.rehearse is not None:
            self.rehearse.side.still_box.setChecked(less)

    def rehearse_full(self) -> None:
        """The guide alone on the screen, and back."""
        self.window.show_view("rehearse")
        assert self.rehearse is not None
        self.rehearse.show_full()

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

    def _make_review(self) -> View:
        from nafas.desk.review import ReviewView

        window = self.window
        self.review = review = ReviewView(window.document)

        def counted(open_: int, words: str) -> None:
            window.masthead.show_open({"review": (open_, words)})
            self._show_must()

        def go(block: int) -> None:
            window.show_view("score")
            window.choose(Chosen(block))

        def play(seconds: float) -> None:
            window.player.seek(seconds)
            window.player.play()

        review.go.connect(go)
        review.play.connect(play)
        review.said.connect(window.say)
        review.counted.connect(counted)
        return View(window.order, review, review.side, lambda: self.look(listen=True), review.list.setFocus)

    def look(self, listen: bool = False) -> None:
        """Put the session to the checks as soon as it is cast; with what has to be heard where `listen`."""
        preparation = self.window.preparation
        if preparation.fresh and preparation.mix is not None:
            spoken_length = preparation.spoken_length(self.window.document.session)
            self.view("review")
            assert self.review is not None
            self.review.show_mix(preparation.mix, spoken_length, listen, preparation.narrator)

    # -- Deliver

    def _make_deliver(self) -> View:
        from nafas.desk.deliver.view import DeliverView

        window = self.window
        self.deliver = deliver = DeliverView(window.document)
        deliver.said.connect(window.say)
        deliver.review.connect(lambda: window.show_view("review"))

        def refresh() -> None:
            deliver.show_session()
            self._show_must()

        return View(window.order, deliver, deliver.side, refresh, deliver.start.setFocus)

    def deliver_view(self) -> "DeliverView":
        """The Deliver view."""
        self.view("deliver")
        assert self.deliver is not None
        return self.deliver

    def _show_must(self) -> None:
        """What the review says must be changed, where the session is to be handed over."""
        reviewed = self.review.reviewed if self.review is not None else None
        if self.deliver is not None and reviewed is not None:
            from nafas.review.checks.finding import Severity  # late: the first paint need not wait for it

            self.deliver.show_findings(reviewed.review.of(Severity.MUST))

    # -- Ledger

    def _make_ledger(self) -> View:
        from nafas.desk.ledger.view import LedgerView

        window = self.window
        self.ledger = ledger = LedgerView()
        ledger.said.connect(window.say)
        ledger.open_version.connect(self._open_version)
        return View(ledger.left, ledger, ledger.side, ledger.look, ledger.list.setFocus, ribbon=False)

    def _open_version(self, entry: "Entry") -> None:
        """A session as it was, as a copy without a name; its files are looked for where they were then."""
        from nafas.ledger.entries import session_in

        window = self.window
        try:
            session = session_in(entry, window.document.folder)
        except InputError as error:
            window.say(str(error))
            return
        if window.files.may_leave():
            window.files.ask_outside(session, window.document.folder)
            window.document.start(session, window.document.folder)
            window.show_view("score")
            window.say("This is the version as it was: save it under a name to keep it")
