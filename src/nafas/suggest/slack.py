"""What can give way in a session when its length must change: rounds, counts, rests, talk, and the music at the end.

Each function here takes a session and gives a changed one, leaves every locked block as it is, and never cuts a round.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from math import floor

from nafas.script.edits.session_edits import change, with_blocks
from nafas.script.expansion import expand, set_seconds
from nafas.script.model.blocks import BreathSet, Rest, Strokes, Talk
from nafas.script.model.guidance import FadeStep
from nafas.script.model.pacing import LONGEST_COUNT, MAX_ROUNDS, SHORTEST_COUNT, Glide, Table
from nafas.script.model.session import Session
from nafas.timing.timeline import EventKind, Timeline

SHORTEST_REST, LONGEST_REST = Fraction(15), Fraction(90)
"""Ease between sets is 15 to 90 s (common practice, no source); a rest outside keeps its own length as bound."""
LANDING = Fraction(30)
"""Recovery after vigorous work is not made shorter than this (common practice, no source)."""
SPARE = Fraction(1, 2)
"""Seconds left after the last word of trimmed talk."""
MORE_TALK = Fraction(20)
"""Seconds by which the pause after talk may grow."""
LONGEST_CLOSING = Fraction(60)
MOST_GROWTH = 2
"""Times as many rounds that one set of several is offered alone."""
_FINE = 1_000_000
_TENTH = Fraction(1, 10)


@dataclass(frozen=True)
class Slack:
    """How far one block's natural breath or pause can go.

    Attributes:
        index: the block's place in the session.
        now: exact seconds it lasts, all repeats together.
        low, high: exact seconds it may last in all, low <= now <= high.
        field: the block's field in which it is written, in seconds for one repeat.
        times: repeats: the ease between a set's steps comes as often as there are steps but one.
    """

    index: int
    now: Fraction
    low: Fraction
    high: Fraction
    field: str
    times: int = 1

    def room(self, longer: bool) -> Fraction:
        """Seconds it can grow, or shrink."""
        return self.high - self.now if longer else self.now - self.low


def words_end(timeline: Timeline, index: int) -> Fraction:
    """Seconds from a block's start to the end of its last word of talk."""
    body = timeline.blocks[index].body
    ends = (event.tick + event.length for event in body.events if event.kind is EventKind.TALK)
    return Fraction(max(ends, default=0), body.per_second)


def rest_slack(timeline: Timeline) -> list[Slack]:
    """All natural breath that is not locked: rests, the ease between steps, recovery after strokes.

    Each has its own bounds or the usual ones, and is never shorter than the words said over its start.
    """
    slack = []
    for index, block in enumerate(timeline.session.blocks):
        if block.locked:
            continue
        if isinstance(block, Rest):
            low, high = block.shortest or SHORTEST_REST, block.longest or LONGEST_REST
            slack.append(_give(index, block.seconds, low, high, words_end(timeline, index), "seconds"))
        elif isinstance(block, Strokes) and block.recovery:
            said = words_end(timeline, index) - (block.seconds - block.recovery)
            slack.append(_give(index, block.recovery, LANDING, LONGEST_REST, said, "recovery"))
        elif isinstance(block, BreathSet) and block.ease:
            eases = [event for event in timeline.blocks[index].body.events if event.kind is EventKind.EASE]
            if eases:
                said = _words_in_ease(timeline, index)
                slack.append(_give(index, block.ease, SHORTEST_REST, LONGEST_REST, said, "ease", len(eases)))
    return slack


def _give(
    index: int, now: Fraction, low: Fraction, high: Fraction, said: Fraction, field: str, times: int = 1
) -> Slack:
    low = min(now, max(low, said))
    return Slack(index, times * now, times * low, times * max(now, high), field, times)


def _words_in_ease(timeline: Timeline, index: int) -> Fraction:
    """Seconds from the start of a set's ease to the end of its words."""
    events = timeline.blocks[index].body.events
    first = next(event for event in events if event.kind is EventKind.EASE)
    inside = (e for e in events if e.kind is EventKind.TALK and first.tick <= e.tick < first.tick + first.length)
    end = max((e.tick + e.length - first.tick for e in inside), default=0)
    return Fraction(end, timeline.blocks[index].body.per_second)


def talk_slack(timeline: Timeline) -> list[Slack]:
    """Every talk that is not locked: its slot, or the pause after it, may shrink to its words or grow a little."""
    slack = []
    for index, block in enumerate(timeline.session.blocks):
        if isinstance(block, Talk) and not block.locked:
            now = timeline.blocks[index].length
            low = min(now, max(Fraction(1), words_end(timeline, index) + SPARE))
            slack.append(Slack(index, now, low, now + MORE_TALK, "slot"))
    return slack


def share(slacks: list[Slack], by: Fraction) -> dict[int, Fraction]:
    """New lengths by block index, `by` seconds longer in all as far as they can, each in proportion to its room.

    Whole tenths of a second, but for the one that takes what is left over.
    """
    longer = by > 0
    total = sum((give.room(longer) for give in slacks), Fraction(0))
    if not total or not by:
        return {}
    part = min(Fraction(1), abs(by) / total)
    sign = 1 if longer else -1
    steps = {give.index: give.now + sign * floor(give.room(longer) * part / _TENTH) * _TENTH for give in slacks}
    missing = sign * part * total - sum((steps[give.index] - give.now for give in slacks), Fraction(0))
    for give in sorted(slacks, key=lambda give: -give.room(longer)):
        if not missing:
            break
        left = give.high - steps[give.index] if longer else steps[give.index] - give.low
        step = sign * min(abs(missing), left)
        steps[give.index] += step
        missing -= step
    return {give.index: steps[give.index] for give in slacks if steps[give.index] != give.now}


def with_lengths(session: Session, slacks: list[Slack], lengths: dict[int, Fraction]) -> Session:
    """The session with other lengths for some of what gives way. Raises ValueError."""
    blocks = list(session.blocks)
    for give in slacks:
        if give.index in lengths:
            block = blocks[give.index]
            new = {give.field: lengths[give.index] / give.times}
            blocks[give.index] = block.replace(**new)
    return with_blocks(session, blocks)


def with_closing(session: Session, by: Fraction) -> Session:
    """The session with a longer or shorter time after the last block, where the bed fades. Raises ValueError."""
    return change(session, closing=session.closing + by)


# -- rounds


def sets(session: Session) -> Iterator[tuple[int, BreathSet]]:
    """Breath sets that may change, with their places."""
    for index, block in enumerate(session.blocks):
        if isinstance(block, BreathSet) and not block.locked:
            yield index, block


def with_rounds(session: Session, rounds: dict[int, int]) -> Session:
    """The session with other rounds in some sets (in each step, where a set climbs). Raises ValueError."""
    blocks = list(session.blocks)
    for index, number in rounds.items():
        blocks[index] = blocks[index].replace(rounds=number)
    return with_blocks(session, blocks)


def seconds_with_rounds(session: Session, block: BreathSet, rounds: int) -> Fraction | None:
    """How long a set would be with other rounds; None where it cannot have them."""
    if not 1 <= rounds <= MAX_ROUNDS:
        return None
    try:
        return set_seconds(block.model_copy(update={"rounds": rounds}), session.count_length_of(block))
    except ValueError:
        return None


def nearest_rounds(session: Session, block: BreathSet, seconds: Fraction) -> list[int]:
    """The one or two numbers of rounds that bring a set next to so many seconds, below and above; not its own."""
    own = set_seconds(block, session.count_length_of(block))
    more = seconds_with_rounds(session, block, block.rounds + 1)
    fewer = seconds_with_rounds(session, block, block.rounds - 1)
    one = (more - own) if more is not None else (own - fewer) if fewer is not None else Fraction(0)
    if one <= 0:
        return []
    near = block.rounds + floor((seconds - own) / one)
    numbers = [n for n in (near, near + 1) if n != block.rounds]
    return [n for n in numbers if seconds_with_rounds(session, block, n) is not None]


def rounds_in_proportion(session: Session, by: Fraction) -> dict[int, int]:
    """New rounds for all sets that may change, so that the session becomes about `by` seconds longer.

    Each set changes in proportion to its length; then single rounds are added or taken while that comes nearer. A set
    of one round, such as a single sigh, is meant as one: it stays so where there is any other.
    """
    every = list(sets(session))
    free = [(index, block) for index, block in every if block.rounds > 1] or every
    lengths = {index: set_seconds(block, session.count_length_of(block)) for index, block in free}
    total = sum(lengths.values(), Fraction(0))
    if not total:
        return {}
    rounds: dict[int, int] = {}
    now = dict(lengths)
    factor = max(Fraction(0), (total + by) / total)
    for index, block in free:
        wanted = max(1, min(MAX_ROUNDS, floor(block.rounds * factor + Fraction(1, 2))))
        length = seconds_with_rounds(session, block, wanted)
        rounds[index] = block.rounds if length is None else wanted
        now[index] = lengths[index] if length is None else length
    goal = total + by
    for _ in range(2 * len(free) + 4):
        off = goal - sum(now.values(), Fraction(0))
        best: tuple[Fraction, int, int, Fraction] | None = None
        for index, block in free:
            number = rounds[index] + (1 if off > 0 else -1)
            length = seconds_with_rounds(session, block, number)
            if length is not None:
                left = abs(off - (length - now[index]))
                if left < abs(off) and (best is None or left < best[0]):
                    best = (left, index, number, length)
        if best is None:
            break
        _, index, rounds[index], now[index] = best
    return {index: number for index, number in rounds.items() if number != session.blocks[index].rounds}  # type: ignore[union-attr]


# -- counts


def scalable_sets(session: Session) -> list[int]:
    """Places of the sets whose count length may change: not locked, and no locked set takes its count from them."""
    held: set[str] = set()
    for block in reversed(session.blocks):
        if isinstance(block, BreathSet) and (block.locked or block.id in held) and block.count_from is not None:
            held.add(block.count_from)
    return [index for index, block in sets(session) if block.id not in held]


def counted_seconds(session: Session, places: list[int]) -> Fraction:
    """Seconds of some sets that follow the count length: all but holds in seconds and ease."""
    total = Fraction(0)
    for index in places:
        block = session.blocks[index]
        assert isinstance(block, BreathSet)
        rounds = expand(block, session.count_length_of(block))
        total += sum((one.counts * one.count_length for one in rounds), Fraction(0))
        if block.prepare is not None:
            total += block.prepare.counts * rounds[0].count_length
    return total


def with_count_factor(session: Session, places: list[int], factor: Fraction) -> Session:
    """The session with the count lengths of some sets multiplied. Practice alone keeps its rounds.

    The session's own count length changes where every set that follows it does; else each set gets its own.

    Raises:
        ValueError: a count would leave 0.2 to 6 s.
    """
    chosen = set(places)
    followers = [i for i, b in enumerate(session.blocks) if isinstance(b, BreathSet) and follows_session(b)]
    whole = bool(followers) and chosen.issuperset(followers)
    blocks = list(session.blocks)
    for index in places:
        block = blocks[index]
        assert isinstance(block, BreathSet)
        base = session.count_length_of(block)
        new: dict[str, object] = {"fade": _fixed_fade(block, base)}
        lent = block.count_from is not None and any(session.blocks[i].id == block.count_from for i in chosen)
        if not (lent or (whole and follows_session(block))):
            new |= {"count_length": _tidy(base * factor), "count_from": None}
        if isinstance(block.pacing, Glide):
            new["pacing"] = Glide(to=_tidy(block.pacing.to * factor))
        elif isinstance(block.pacing, Table):
            steps = tuple(
                step if step.count_length is None
                else step.model_copy(update={"count_length": _tidy(step.count_length * factor)})
                for step in block.pacing.steps_after
            )  # fmt: skip
            new["pacing"] = Table(steps_after=steps)
        blocks[index] = block.replace(**new)
    own = {"count_length": _tidy(session.count_length * factor)} if whole else {}
    return change(session, blocks=tuple(blocks), **own)


def follows_session(block: BreathSet) -> bool:
    """Whether a set counts as the session does."""
    return block.count_length is None and block.count_from is None


def count_bounds(session: Session, places: list[int]) -> tuple[Fraction, Fraction]:
    """The least and the greatest factor that keep every count of some sets within bounds."""
    lengths = [
        one.count_length
        for index in places
        if isinstance(block := session.blocks[index], BreathSet)
        for one in expand(block, session.count_length_of(block))
    ]
    return SHORTEST_COUNT / min(lengths), LONGEST_COUNT / max(lengths)


def _tidy(length: Fraction) -> Fraction:
    # A ratio a person can read stays exact; else a millionth of a second, and the rest is made up elsewhere.
    return length if length.denominator <= 1000 else Fraction(round(length * _FINE), _FINE)


def _fixed_fade(block: BreathSet, count_length: Fraction) -> tuple[FadeStep, ...]:
    """The fade with its practice alone written in rounds, so that other counts leave it alone."""
    if not any(step.seconds is not None for step in block.fade):
        return block.fade
    steps: list[FadeStep] = []
    for one in expand(block, count_length):
        if steps and steps[-1].level is one.level:
            steps[-1] = FadeStep(level=one.level, rounds=(steps[-1].rounds or 0) + 1)
        else:
            steps.append(FadeStep(level=one.level, rounds=1))
    return tuple(steps)
