"""Fit a session to a length: the real ways there, each with what it costs.

Every option is a whole changed session, timed again; it says "exact" only where that length is the target to the last
digit. Locked blocks stay as they are, and sets end on a round whatever is chosen.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import partial

from nafas.errors import InputError
from nafas.script.edits.session_edits import block_name, change
from nafas.script.model.blocks import BreathSet
from nafas.script.model.exact import decimal_text
from nafas.script.model.session import BELL_RINGS, MAX_SESSION, Session
from nafas.suggest.slack import (
    LONGEST_CLOSING,
    MOST_GROWTH,
    Slack,
    count_bounds,
    counted_seconds,
    nearest_rounds,
    rest_slack,
    rounds_in_proportion,
    scalable_sets,
    seconds_with_rounds,
    sets,
    share,
    talk_slack,
    with_closing,
    with_count_factor,
    with_lengths,
    with_rounds,
)
from nafas.timing.clock import clock
from nafas.timing.compile import SessionLengths, SpokenLength, compile_session
from nafas.timing.timeline import Timeline

NOTICED = Fraction(10, 100)
"""A count length changed by more than this is said to be felt (counts wander by up to 10 % in one recording made by
hand; common practice, no source)."""
_MOST = Fraction(25, 100)
"""No count length is changed by more: that is another practice."""
_SMALLEST_CLOSING = Fraction(4)
"""Seconds; the end bell rings longer, and is not cut off to reach a length."""


@dataclass(frozen=True)
class Option:
    """One way to the target.

    Attributes:
        kind: "rounds", "counts", "rests", "talk", "closing", or two of them joined by " and ".
        title: what changes, in a line.
        consequence: what that means for the listener, and where it lands.
        session: the changed session.
        length: its exact length in seconds.
        off: `length` less the target; 0 is exact.
        strain: how much it asks, for the order of the list; 0 is nothing.
    """

    kind: str
    title: str
    consequence: str
    session: Session
    length: Fraction
    off: Fraction
    strain: float

    @property
    def exact(self) -> bool:
        return not self.off


@dataclass(frozen=True)
class LengthFit:
    """The ways of one session to one target, best first: exact ones by how little they ask, then the nearest."""

    now: Fraction
    target: Fraction
    options: tuple[Option, ...]

    @property
    def reached(self) -> bool:
        """Whether the session is that long already."""
        return self.now == self.target

    @property
    def summary(self) -> str:
        """In a line: how far off, whether it can be met, and what is nearest."""
        off = self.target - self.now
        if not off:
            return f"Already {_exact_clock(self.target)} exactly."
        way = f"{_exact_clock(abs(off))} {'longer' if off > 0 else 'shorter'}"
        if any(option.exact for option in self.options):
            return f"It must become {way} to last {_exact_clock(self.target)}."
        if not self.options:
            return f"It must become {way}, and nothing in it may change: unlock a block, or choose another length."
        near = self.options[0]
        return (
            f"{_exact_clock(self.target)} cannot be met. The nearest is {_exact_clock(near.length)}: {near.title}. "
            "Unlock a block or give a rest wider bounds to come nearer."
        )


def fit(session: Session, spoken_length: SpokenLength, target: Fraction) -> LengthFit:
    """List the ways to give a session a length.

    Args:
        session: what to fit.
        spoken_length: seconds each sentence takes.
        target: exact seconds; a bed's frames over its rate make it land on the bed's last sample.

    Raises:
        InputError: the target is not within 1 s and 4 h.
    """
    return _fitting(session, spoken_length, target).fit()


def best_fit(session: Session, spoken_length: SpokenLength, target: Fraction, keep_counts: bool = False) -> LengthFit:
    """As `fit`, with its first way alone: the others are not worked out where they can come to no better.

    Args:
        session, spoken_length, target: as `fit` takes them.
        keep_counts: no way that changes a count's length.

    Raises:
        InputError: as `fit`.
    """
    return _fitting(session, spoken_length, target).best(keep_counts)


def brought_to(session: Session, spoken_length: SpokenLength, length: Fraction | None) -> tuple[Session, str]:
    """A session with its target set and brought to it in the best way there is, and in words what was done to it.

    Args:
        length: exact seconds; None leaves the session as it is.

    Raises:
        InputError: as `fit`.
    """
    if length is None:
        return session, ""
    session = change(session, target_length=length)
    ways = fit(session, spoken_length, length)
    if ways.reached or not ways.options:
        return session, ways.summary
    best = ways.options[0]
    return best.session, ways.summary if not best.exact else f"{best.title}, to last {clock(length)}."


def _fitting(session: Session, spoken_length: SpokenLength, target: Fraction) -> "_Fitting":
    if not 1 <= target <= MAX_SESSION:
        raise InputError("target length", f"{clock(target)} is not allowed", "write 0:01 to 4:00:00")
    return _Fitting(session, spoken_length, target)


@dataclass(frozen=True)
class _Way:
    """A way there that is not timed yet: as an `Option`, with its cost in words and what makes the changed session;
    `misses` where it is known that it does not land on the target."""

    kind: str
    title: str
    cost: str
    strain: float
    make: Callable[[], Session]
    misses: bool = False


class _Fitting:
    def __init__(self, session: Session, spoken_length: SpokenLength, target: Fraction) -> None:
        self.session, self.spoken_length, self.target = session, spoken_length, target
        self.timeline = compile_session(session, spoken_length)
        self.length_of = SessionLengths(spoken_length)
        self.by = target - self.timeline.length

    def fit(self) -> LengthFit:
        """All ways, in their order."""
        if not self.by:
            return LengthFit(self.timeline.length, self.target, ())
        return self._listed([option for way in self._ways() for option in self._timed(way)])

    def best(self, keep_counts: bool = False) -> LengthFit:
        """The first of them alone: those that ask less are timed first, and the first exact one is it."""
        if not self.by:
            return self.fit()
        options: list[Option] = []
        ways = (way for way in self._ways() if not (keep_counts and "counts" in way.kind))
        for way in sorted(ways, key=lambda way: (way.misses, way.strain)):
            options += self._timed(way)
            if options and options[-1].exact:
                break
        listed = self._listed(options)
        return LengthFit(listed.now, listed.target, listed.options[:1])

    def _ways(self) -> Iterator["_Way"]:
        for ways in (self._rests, self._counts, self._talk, self._closing, self._rounds, self._together):
            yield from ways()

    def _listed(self, options: list[Option]) -> LengthFit:
        """The options in their order."""
        if not any(option.exact for option in options):
            options = [*options, *(option for way in self._everything() for option in self._timed(way))]
        # A way that brings nothing nearer is no way; but whole rounds are shown on both sides of the target.
        useful = [option for option in options if abs(option.off) < abs(self.by) or option.kind == "rounds"]
        seen: dict[Session, Option] = {}
        for option in sorted(useful, key=lambda o: (not o.exact, o.strain if o.exact else float(abs(o.off)), o.strain)):
            seen.setdefault(option.session, option)
        return LengthFit(self.timeline.length, self.target, tuple(seen.values())[:10])

    def _timed(self, way: "_Way") -> Iterator[Option]:
        """The way as an option; none where the session would not be sound."""
        try:
            made = way.make()
            length = self.length_of(made)
        except (ValueError, InputError):
            return
        off = length - self.target
        lands = "lands exactly" if not off else f"lands {_exact_clock(abs(off))} {'over' if off > 0 else 'under'}"
        text = f"{way.cost}; {lands}" if way.cost else lands
        yield Option(way.kind, way.title, text[0].upper() + text[1:], made, length, off, way.strain)

    # -- one thing changes

    def _rests(self) -> Iterator[_Way]:
        yield from self._given("rests", rest_slack(self.timeline), "rest", 0.2)

    def _talk(self) -> Iterator[_Way]:
        yield from self._given("talk", talk_slack(self.timeline), "pause after talk", 0.5)

    def _given(self, kind: str, slacks: list[Slack], what: str, weight: float) -> Iterator[_Way]:
        lengths = share(slacks, self.by)
        if lengths:
            title, cost, strain = _told(slacks, lengths, what, self.session)
            gained = sum((lengths[give.index] - give.now for give in slacks if give.index in lengths), Fraction(0))
            make = partial(with_lengths, self.session, slacks, lengths)
            yield _Way(kind, title, cost, weight + strain, make, misses=gained != self.by)

    def _closing(self) -> Iterator[_Way]:
        closing = self.session.closing
        low, high = min(closing, _smallest_closing(self.session)), max(closing, LONGEST_CLOSING)
        new = min(high, max(low, closing + self.by))
        title = f"Music after the last word {_change(closing, new)}"
        cost = "the practice is not changed"
        strain = 0.3 + float(abs(new - closing)) / 30
        make = partial(with_closing, self.session, new - closing)
        yield _Way("closing", title, cost, strain, make, misses=new != closing + self.by)

    def _everything(self) -> Iterator[_Way]:
        """Rests, pauses and closing music at once, each as far as it must."""
        closing = self.session.closing
        low, high = min(closing, _smallest_closing(self.session)), max(closing, LONGEST_CLOSING)
        music = Slack(-1, closing, low, high, "closing")
        slack = [*rest_slack(self.timeline), *talk_slack(self.timeline), music]
        lengths = share(slack, self.by)
        if len(lengths) < 2:
            return

        def make() -> Session:
            made = with_lengths(self.session, slack, lengths)
            return with_closing(made, lengths.get(-1, closing) - closing)

        way = "longer" if self.by > 0 else "shorter"
        cost = f"{len(lengths)} places, all within their bounds"
        yield _Way("all pauses", f"Rests, pauses and closing music {way}", cost, 1.0, make)

    def _counts(self, session: Session | None = None, kind: str = "counts", before: str = "") -> Iterator[_Way]:
        session = session or self.session
        places = scalable_sets(session)
        total = counted_seconds(session, places) if places else Fraction(0)
        by = self.target - self.length_of(session)
        if not total or total + by <= 0:
            return
        factor = (total + by) / total
        low, high = count_bounds(session, places)
        low, high = max(low, 1 - _MOST), min(high, 1 + _MOST)
        wanted, factor = factor, min(high, max(low, factor))
        share_ = factor - 1
        way = "slower" if share_ > 0 else "faster"
        percent = abs(float(share_)) * 100
        title = (
            before + f"Every count {percent:.1f} % {way}"
            if percent >= 0.05
            else before + f"Every count very slightly {way}"
        )
        felt = "; that is felt" if abs(share_) > NOTICED else ""
        if len({session.count_length_of(session.blocks[i]) for i in places}) == 1:  # type: ignore[arg-type]
            was = session.count_length_of(session.blocks[places[0]])  # type: ignore[arg-type]
            cost = f"a count {_change(was, was * factor)}{felt}"
        else:
            cost = f"in {len(places)} sets{felt}"
        strain = 0.25 + abs(float(share_)) * 15

        def make() -> Session:
            made = with_count_factor(session, places, factor)
            left = self.target - self.length_of(made)
            # Counts are kept to a millionth of a second: what that leaves is less than a sample's worth of music.
            return with_closing(made, left) if left and abs(left) < Fraction(1, 100) else made

        yield _Way(kind, title, cost, strain, make, misses=abs(wanted - factor) * total > 1)

    def _rounds(self) -> Iterator[_Way]:
        several = len(list(sets(self.session))) > 1
        for index, block in sets(self.session):
            for number in nearest_rounds(self.session, block, self._set_length(index) + self.by):
                if several and number > MOST_GROWTH * block.rounds:
                    continue  # nobody makes one set of many carry it all: that is spread over them
                title = _rounds_title(block, number)
                strain = 0.4 + abs(number - block.rounds) / max(block.rounds, number) * 2
                make = partial(with_rounds, self.session, {index: number})
                long = seconds_with_rounds(self.session, block, number)
                yield _Way("rounds", title, "", strain, make, misses=long != self._set_length(index) + self.by)
        rounds = rounds_in_proportion(self.session, self.by)
        if len(rounds) > 1:
            yield _Way("rounds", self._spread(rounds), "", 0.9, lambda: with_rounds(self.session, rounds))

    def _set_length(self, index: int) -> Fraction:
        return self.timeline.blocks[index].length

    def _spread(self, rounds: dict[int, int]) -> str:
        blocks = self.session.blocks
        text = ", ".join(_rounds_title(blocks[i], n) for i, n in list(rounds.items())[:3])  # type: ignore[arg-type]
        return text + (f" and {len(rounds) - 3} more sets" if len(rounds) > 3 else "")

    # -- rounds, and something small for what they leave

    def _together(self) -> Iterator[_Way]:
        rounds = rounds_in_proportion(self.session, self.by)
        if not rounds:
            return
        try:
            session = with_rounds(self.session, rounds)
            timeline = compile_session(session, self.spoken_length)
        except (ValueError, InputError):
            return
        title = self._spread(rounds)
        changed = sum(abs(n - self.session.blocks[i].rounds) / self.session.blocks[i].rounds for i, n in rounds.items())  # type: ignore[union-attr]
        strain = 0.5 + changed / len(rounds)
        yield from self._remainder(timeline, title, strain)
        for way in self._counts(session, "rounds and counts", f"{title}; then every count "):
            fixed = way.title.replace("every count Every count", "every count")
            yield replace(way, title=fixed, strain=strain + way.strain)

    def _remainder(self, timeline: Timeline, title: str, strain: float) -> Iterator[_Way]:
        session, left = timeline.session, self.target - timeline.length
        slack = rest_slack(timeline)
        lengths = share(slack, left)
        if lengths:
            then, cost, more = _told(slack, lengths, "rest", session)
            line = f"{title}; then {then[0].lower() + then[1:]}"
            yield _Way(
                "rounds and rests", line, cost, strain + 0.1 + more, lambda: with_lengths(session, slack, lengths)
            )
        closing = session.closing + left
        if min(session.closing, _smallest_closing(session)) <= closing <= LONGEST_CLOSING:
            line = f"{title}; then music after the last word {_change(session.closing, closing)}"
            yield _Way(
                "rounds and closing",
                line,
                "",
                strain + 0.2 + float(abs(left)) / 40,
                lambda: with_closing(session, left),
            )


def _smallest_closing(session: Session) -> Fraction:
    return BELL_RINGS if session.end_bell and session.chimes.own.bell is None else _SMALLEST_CLOSING


def _rounds_title(block: BreathSet, number: int) -> str:
    what = ("rounds" if number > 1 else "round") + ("" if block.pacing is None else " a step")
    return f"{block_name(block)} {block.rounds} → {number} {what}"


def _told(slacks: list[Slack], lengths: dict[int, Fraction], what: str, session: Session) -> tuple[str, str, float]:
    """Title, consequence and strain of some rests or talks with new lengths."""
    before = {give.index: give.now for give in slacks}
    by = sum((length - before[i] for i, length in lengths.items()), Fraction(0))
    way = "longer" if by > 0 else "shorter"
    most = max(lengths, key=lambda i: abs(lengths[i] - before[i]))
    name = block_name(session.blocks[most]) or what
    if len(lengths) == 1:
        title = f"{name} {_change(before[most], lengths[most])}"
        cost = f"one {what} {way}"
    else:
        plural = "rests" if what == "rest" else "pauses after talk"
        title = f"{len(lengths)} {plural} {way}, {_short(abs(by))} in all"
        cost = f"most of it in {name}, {_change(before[most], lengths[most])}"
    room = sum((give.room(by > 0) for give in slacks), Fraction(0))
    return title, cost, float(abs(by) / room) if room else 1.0


def _change(before: Fraction, after: Fraction) -> str:
    """30 s → 31.2 s; or by how little, where that could not be seen."""
    if _short(before) == _short(after):
        return f"{'longer' if after > before else 'shorter'} by {_short(abs(after - before))}"
    return f"{_short(before)} → {_short(after)}"


def _short(seconds: Fraction) -> str:
    """Seconds to the millisecond, without needless zeros; less than one in microseconds."""
    if 0 < abs(seconds) < Fraction(1, 2000):
        return f"{float(seconds) * 1e6:.0f} µs"
    return f"{decimal_text(Fraction(round(seconds * 1000), 1000))} s"


def _exact_clock(seconds: Fraction) -> str:
    """12:00, or with tenths where there are any; to the millisecond below a second."""
    if 0 < seconds < 1:
        return _short(seconds)
    return clock(seconds, tenths=seconds.denominator != 1)
