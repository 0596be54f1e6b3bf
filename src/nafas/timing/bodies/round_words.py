"""What is said in one round: the word on every count, cues said ahead, and calls in holds.

Events are relative to the round's start, in ticks.
"""

from collections.abc import Callable
from fractions import Fraction

from nafas.script.expansion import Round
from nafas.script.model.guidance import Level
from nafas.script.model.phase import Call, Counting, PhaseKind, Side
from nafas.timing.bodies.manner import Manner
from nafas.timing.bodies.openings import opening_words
from nafas.timing.bodies.phase_words import phase_words
from nafas.timing.timeline import EventKind

Tail = tuple[int, int, str, PhaseKind | None, Side | None]
Relative = tuple[int, int, EventKind, Tail]
"""Ticks from the round's start, ticks it lasts, its kind, and (phase, count, text, phase kind, side)."""


def round_events(
    one: Round,
    manner: Manner,
    ticks: Callable[[Fraction], int],
    lengths: dict[str, Fraction],
) -> list[Relative]:
    """One round's events.

    Args:
        one: the round.
        manner: how its set is led.
        ticks: seconds to ticks.
        lengths: seconds that the words which may run over take to say.
    """
    events_: list[Relative] = []
    at, release = 0, ""
    last = len(one.phases) - 1
    for index, number in enumerate(one.numbers[: len(one.phases)]):
        writer = _Phase(one, manner, number, index, ticks, lengths)
        events, at = writer.write(at, release, announce=one.before_last and index == last)
        events_ += events
        release = writer.release()
    return events_


class _Phase:
    def __init__(
        self,
        one: Round,
        manner: Manner,
        number: int,
        index: int,
        ticks: Callable[[Fraction], int],
        lengths: dict[str, Fraction],
    ) -> None:
        self.one, self.manner, self.number, self.place, self.phase = one, manner, number, index, one.phases[index]
        phase = self.phase
        self.ticks, self.lengths = ticks, lengths
        # A hold written in seconds is counted in seconds, and only if it says how.
        self.unit = Fraction(1) if phase.seconds is not None else one.count_length
        self.counting = phase.counting or (Counting.SILENT if phase.seconds is not None else manner.style.counting)
        self.length = ticks(phase.length(one.count_length))

    def tail(self, count: int = 0, text: str = "") -> Tail:
        return (self.number, count, text, self.phase.kind, self.phase.side)

    def write(self, at: int, release: str, announce: bool) -> tuple[list[Relative], int]:
        """Events of the phase from tick `at` on, and where it ends."""
        events: list[Relative] = []
        speaks, style = self.one.level.speaks, self.manner.style
        cue = self._cue(release) if speaks else ""
        if self.one.rooms[self.place]:
            room = self.ticks(self.one.rooms[self.place] * self.one.count_length)
            if cue:
                events.append((at, room, EventKind.CUE, self.tail(text=cue)))
            at, cue = at + room, ""
        elif style.cue == "none" and self.one.level is Level.FULL and not release:
            cue = ""
        events.append((at, self.length, EventKind.PHASE, self.tail()))
        if self.one.level is Level.CHIMES or (self.manner.chimes and speaks):
            events.append((at, self.length, EventKind.CHIME, self.tail()))
        said, lost, running = phase_words(self.place, self.one, self.manner, cue, self.counting, self._covers)
        # A hold in seconds that does not say how it is counted has no counts to show.
        words = said if self.phase.seconds is None or self.phase.counting else said[:1]
        calls = self._calls(announce, words)
        step = self.ticks(self.unit)
        taken = {when for when, _ in calls}
        for count, word in enumerate(words):
            text = "" if count * step in taken and count else word
            events.append((at + count * step, step, EventKind.COUNT, self.tail(count + 1, text)))
            if self.counting is Counting.TICK and self.one.level is Level.FULL and not text:
                events.append((at + count * step, step, EventKind.TICK, self.tail(count + 1)))
        events += [(at + n * step, step, EventKind.COVERED, self.tail(n + 1, text)) for n, text in lost]
        for count, text, counts in running:
            lasts = min(counts * step, self.length - count * step)
            events.append((at + count * step, lasts, EventKind.CALL, self.tail(count + 1, text)))
        for when, text in calls:
            lasts = min(step, self.length - when)
            events.append((at + when, lasts, EventKind.CALL, self.tail(when // step + 1, text)))
        return events, at + self.length

    def _cue(self, release: str) -> str:
        """What opens the phase. After a hold that is let go: "and release"; but words written by hand are said as they
        are written, and a side, or a breath in, is named all the same."""
        words = opening_words(self.place, self.one, self.manner)
        if not release or self.phase.cue is not None:
            return words
        plain = self.phase.kind is PhaseKind.EXHALE and self.phase.side is None
        return release if plain else f"{release}, {words}"

    def release(self) -> str:
        """What the phase after it says in the place of its cue, "" for its own."""
        if not self.one.level.speaks:
            return ""
        return next(
            (call.text or self.manner.lexicon.say("release") for call in self.phase.calls if call.at == "release"), ""
        )

    def _covers(self, text: str) -> int:
        seconds = self.lengths.get(text, Fraction(0))
        return int(max(1, -(-seconds // self.unit)))

    def _calls(self, announce: bool, words: list[str]) -> list[tuple[int, str]]:
        """(ticks from the phase's start, words) of each call, in order."""
        calls_: list[tuple[int, str]] = []
        if self.one.level.speaks:
            # Where two fall on one place, as "half" and "left" may in one step of a climb, the first written is said.
            calls = [call for call in self.phase.calls if call.at != "release"]
            calls_ = list(
                {self._place(call): (self._place(call), self._call_words(call)) for call in calls[::-1]}.values()
            )
        if announce:
            words_last = self.manner.lexicon.say("last")
            at = self.length - self.ticks(self.unit) * self.manner.style.last_ahead
            if at <= 0 and words and words[0]:  # a phase of one count: its cue must not be lost
                words_last, words[0] = f"{words[0]}, {words_last}", ""
            calls_ = [call for call in calls_ if call[0] != max(0, at)] + [(max(0, at), words_last)]
        return sorted(calls_)

    def _place(self, call: Call) -> int:
        return int(self.ticks(self.unit) * call.place(self.phase.size))

    def _call_words(self, call: Call) -> str:
        if call.text is not None:
            return call.text
        lexicon = self.manner.lexicon
        if call.at == "left":
            counted = self.phase.counting is not None or self.phase.seconds is None
            return lexicon.left(call.units, self.phase.seconds is not None, counted)
        return lexicon.count(call.units) if call.at == "in" else lexicon.say("half")
