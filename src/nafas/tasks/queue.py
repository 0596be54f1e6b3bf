"""Renders one after another: each with its progress and the time it has left; one that fails never stops the rest.

`add` from any thread. `run` works through what waits in the thread that calls it; `start` does so on one of its own.
"""

import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

from nafas.errors import Cancelled, InputError
from nafas.files import real_path
from nafas.log import logger
from nafas.sound.master.render import OutOfReach
from nafas.tasks.exit_codes import ExitCode
from nafas.tasks.progress import of_whole
from nafas.tasks.render import STAGES, RenderRequest, run
from nafas.tasks.render_result import RenderResult
from nafas.tasks.report import short_line

_KNOWN = 0.08  # share of a render after which the time it has left is shown


class State(StrEnum):
    """Where a render stands."""

    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"

    @property
    def ended(self) -> bool:
        return self in (State.DONE, State.FAILED, State.CANCELLED)


@dataclass(eq=False)
class Entry:
    """A render in the queue.

    Attributes:
        stage, done: what it is at, and 0.0 to 1.0 of the whole.
        result: of one that is done.
        trouble: of one that failed: what, where and the remedy.
        out_of_reach: it failed because the loudness it asks for cannot be had.
        seconds: it took so far.
    """

    request: RenderRequest
    state: State = State.WAITING
    stage: str = ""
    done: float = 0.0
    result: RenderResult | None = None
    trouble: str = ""
    out_of_reach: bool = False
    seconds: float = 0.0
    _began: float = field(default=0.0, repr=False)
    _stop: threading.Event = field(default_factory=threading.Event, repr=False)

    @property
    def left(self) -> float | None:
        """Seconds until it is done; None where that is not known."""
        if self.state is not State.RUNNING or self.done < _KNOWN:
            return None
        return self.seconds / self.done * (1 - self.done)

    def figures(self) -> dict[str, Any]:
        """What was measured of it, or why there is nothing, ready for JSON."""
        if self.result is None:
            return {"file": str(self.request.out), "trouble": self.trouble}
        return self.result.figures()


class RenderQueue:
    """Renders in their order.

    Args:
        changed: called after every change, from the thread that made it.
    """

    def __init__(self, changed: Callable[[], None] = lambda: None) -> None:
        self.entries: list[Entry] = []
        self._changed = changed
        self._lock = threading.Lock()
        self._thread: threading.Thread | None = None

    def add(self, request: RenderRequest) -> Entry:
        """Put a render at the end. Raises InputError for a file that one still to be done writes too."""
        files = {real_path(path) for path in request.files}
        with self._lock:
            for entry in self.entries:
                taken = files & {real_path(path) for path in entry.request.files}
                if taken and not entry.state.ended:
                    raise InputError(str(min(taken)), "is already going to be written", "choose another name, or wait")
            entry = Entry(request)
            self.entries.append(entry)
        self._changed()
        return entry

    def cancel(self, entry: Entry) -> None:
        """Stop a render, or take it out before it begins; what ended stays."""
        with self._lock:
            if entry.state is State.WAITING:
                entry.state = State.CANCELLED
            entry._stop.set()
        self._changed()

    def cancel_all(self) -> None:
        for entry in list(self.entries):
            self.cancel(entry)

    def forget_ended(self) -> None:
        """Take out what ended."""
        with self._lock:
            self.entries = [entry for entry in self.entries if not entry.state.ended]
        self._changed()

    @property
    def running(self) -> bool:
        """Whether anything is still to be done."""
        return any(not entry.state.ended for entry in self.entries)

    @property
    def left(self) -> float | None:
        """Seconds until all is done, by how long the work took until now; None while that is not known."""
        work = sum(entry.seconds for entry in self.entries if entry.done)
        sound = sum(entry.done * _length(entry) for entry in self.entries if entry.done)
        now = [entry for entry in self.entries if not entry.state.ended]
        if not now:
            return 0.0
        if not sound or any(entry.state is State.RUNNING and entry.left is None for entry in now):
            return None
        return sum((1 - entry.done) * _length(entry) for entry in now) * work / sound

    def start(self) -> None:
        """Work through what waits on a thread of its own; where it works already, it goes on to what was added."""
        with self._lock:
            if self._thread is not None:
                return
            self._thread = threading.Thread(target=self.run, name="renders", daemon=True)
            self._thread.start()

    def wait(self) -> None:
        """Until the thread has ended."""
        thread = self._thread
        if thread is not None:
            thread.join()

    def run(self) -> None:
        """Work through what waits."""
        while True:
            with self._lock:
                entry = next((entry for entry in self.entries if entry.state is State.WAITING), None)
                if entry is None:
                    self._thread = None
                    return
                entry.state, entry._began = State.RUNNING, time.monotonic()
            self._changed()
            try:
                self._render(entry)
            except BaseException:  # the one who calls stops the whole
                entry.state = State.CANCELLED
                raise
            self._changed()

    def _render(self, entry: Entry) -> None:
        def note(stage: str, done: float) -> None:
            if entry._stop.is_set():
                raise Cancelled
            entry.stage, entry.done = stage, max(entry.done, done)
            entry.seconds = time.monotonic() - entry._began
            self._changed()

        try:
            entry.result = run(entry.request, of_whole(note, STAGES))
            entry.state, entry.done = State.DONE, 1.0
        except Cancelled:
            entry.state = State.CANCELLED
        except InputError as error:
            entry.state, entry.trouble = State.FAILED, str(error)
            entry.out_of_reach = isinstance(error, OutOfReach)
        except Exception as error:  # a fault of ours must not stop the rest, and must be seen
            logger.exception("render of %s", entry.request.out)
            entry.state, entry.trouble = State.FAILED, repr(error)
        entry.seconds = time.monotonic() - entry._began

    @property
    def exit_code(self) -> ExitCode:
        """Of all that was rendered: what failed before what is not proven."""
        failed = [entry for entry in self.entries if entry.result is None]
        if any(entry.state is State.CANCELLED for entry in failed):
            return ExitCode.STOPPED
        if failed:
            return ExitCode.OUT_OF_REACH if all(entry.out_of_reach for entry in failed) else ExitCode.REFUSED
        return max((entry.result.exit_code for entry in self.entries if entry.result), default=ExitCode.DONE)


def _length(entry: Entry) -> float:
    return max(1.0, float(entry.request.session.written_length))


def summary(entries: Sequence[Entry]) -> str:
    """What became of some renders, in lines for people: how many, then each."""
    counts = [(state, sum(entry.state is state for entry in entries)) for state in State]
    words = {State.DONE: "rendered", State.RUNNING: "being rendered"}
    lines = [", ".join(f"{n} {words.get(state, state.value)}" for state, n in counts if n) or "nothing to render"]
    for entry in entries:
        if entry.state is State.FAILED:
            lines.append(f"{entry.request.name}: not rendered. {entry.trouble}")
        elif entry.result is not None:
            lines.append(f"{entry.request.out}: {short_line(entry.result.mastered, entry.result.proofs)}")
    return "\n".join(lines)
