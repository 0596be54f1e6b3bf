"""Blocks made of the parts of a text, each part with what it became."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import pairwise
from statistics import median

from nafas.script.expansion import set_seconds
from nafas.script.model.beds import BlockBed
from nafas.script.model.blocks import Block, BreathSet, CountStyle, Rest, Talk
from nafas.script.model.exact import decimal_text
from nafas.script.model.guidance import FadeStep, Level
from nafas.script.model.pacing import MAX_ROUNDS, Table
from nafas.script.model.phase import PhaseKind
from nafas.script.model.sentences import MAX_PARAGRAPHS, pause_text, split_paragraph
from nafas.script.notation.block import block_notation, read_block
from nafas.script.notation.typed.interpret import Reading, interpret
from nafas.script.text.counting import Called, spelled_set
from nafas.script.text.directions import Pause, Repeat
from nafas.script.text.lines import LONGEST_TITLE
from nafas.script.text.pieces import Part

_LEAST_GAP = Fraction(1, 2)
_WORDS_A_MINUTE = 105
_COUNTS = Fraction(1, 5), Fraction(6)
_KEPT = 80  # letters of a piece's key


@dataclass(frozen=True)
class Piece:
    """A part of a text and what it became.

    Attributes:
        key: names it among the choices; stays while its own words stay.
        first, end: its lines, from 0.
        text: as written.
        block: place of the block it is in; None where it is in none.
        became: what, in words.
        unsure: what is to be looked at; "" where nothing is.
        ways: (choice, what it does), the one that was taken first; () where there is but one.
        cues: the cue words that it calls.
    """

    key: str
    first: int
    end: int
    text: str
    block: int | None
    became: str
    unsure: str = ""
    ways: tuple[tuple[str, str], ...] = ()
    cues: tuple[tuple[PhaseKind, str], ...] = ()


@dataclass
class _Open:
    """A set that may still go on."""

    parts: list[tuple[Part, int]]  # with the place of its piece
    reading: Reading | None = None
    called: list[Called] = field(default_factory=list)
    repeats: list[tuple[Repeat, int]] = field(default_factory=list)
    inside: list[tuple[Part, int]] = field(default_factory=list)  # talk within a round
    times: list[tuple[Fraction, int]] = field(default_factory=list)


class Builder:
    """Takes the parts of a text in order.

    Args:
        choices: by the key of a piece, which of its ways to take.
    """

    def __init__(self, choices: Mapping[str, str]) -> None:
        self.choices = choices
        self.blocks: list[Block] = []
        self.pieces: list[Piece] = []
        self.cues: list[Counter[tuple[PhaseKind, str]]] = []
        self._keys: Counter[str] = Counter()
        self._title = ""
        self._headings: list[int] = []  # the pieces that the title is of
        self._waiting: list[int] = []
        self._paragraphs: list[str] = []
        self._line: object = None
        self._open: _Open | None = None
        self._phases: list[tuple[Part, int]] = []
        self._music = True
        self._until: Fraction | None = None

    def key(self, text: str) -> str:
        """The name of the next piece with these words."""
        words = " ".join(text.split())[:_KEPT]
        self._keys[words] += 1
        return f"{words}#{self._keys[words]}"

    # -- parts

    def heading(self, part: Part, key: str) -> None:
        """The title of the next block; one heading straight under another is added to it."""
        self._close()
        if not part.text:
            self._line = None
            return
        both = f"{self._title}: {part.text}" if self._title else part.text
        if len(both) > LONGEST_TITLE:
            self._leave_headings()
            both = part.text
        self._title = both
        self._headings.append(self._piece(part, key, "a heading: the title of the next block"))

    def _leave_headings(self) -> None:
        """Say of headings that no block has them."""
        for place in self._headings:
            unsure = "a heading with nothing under it: not kept"
            self.pieces[place] = replace(self.pieces[place], became="left out", unsure=unsure)
        self._headings.clear()
        self._title = ""

    def talk(self, part: Part, key: str, unsure: str = "", ways: tuple[tuple[str, str], ...] = ()) -> None:
        chosen = self.choices.get(key, "")
        if unsure and not ways:
            ways = (("talk", "say it"), ("leave", "leave it out"))
        if chosen == "leave":
            self._piece(part, key, "left out", "", (("leave", "leave it out"), ("talk", "say it")))
            return
        self._end_phases()
        open_ = self._open
        if open_ is not None and open_.reading is None and not _is_whole(open_.called):
            unsure = unsure or "stands inside a round: it is said before the set"
            open_.inside.append((part, self._piece(part, key, "talk", unsure, ways)))
            return
        self._end_set()
        self._piece(part, key, "talk", "" if chosen else unsure, ways)
        self._say(part, part.text)

    def note(self, part: Part, key: str, became: str, unsure: str = "", ways: tuple[tuple[str, str], ...] = ()) -> None:
        """A part that changes no block."""
        self._piece(part, key, became, unsure, ways)

    def pause(self, part: Part, key: str, pause: Pause) -> None:
        self._end_phases()
        if self._open is not None and self._open.reading is None and not _is_whole(self._open.called):
            self._piece(part, key, "left out", "a pause within a round is not kept")
            return
        self._end_set()
        unsure = f"no length is written: {decimal_text(pause.seconds)} s" if pause.assumed else ""
        self._piece(part, key, f"a pause of {decimal_text(pause.seconds)} s", unsure)
        self._say(part, pause_text(pause.seconds))

    def rests(self, part: Part, key: str, reading: Reading, said: bool) -> None:
        """Natural breath; `said`: the words are said over its start."""
        self._close()
        self._piece(part, key, block_notation(reading.blocks[0]))
        for block in reading.blocks:
            self._add(block.replace(paragraphs=(part.text,)) if said and isinstance(block, Rest) else block)

    def music(self, part: Part, key: str, on: bool) -> None:
        """The bed comes, or goes, from here on."""
        if on == self._music:
            self._piece(part, key, f"the bed {'sounds' if on else 'is silent'} here already")
            return
        self._close()
        self._music = on
        self._piece(part, key, f"the bed {'sounds' if on else 'is silent'} from here on")

    def counted(self, part: Part, key: str) -> None:
        ways = (("set", "count it as a breath set"), ("talk", "leave it as talk"))
        goes_on = self._open is not None and self._open.reading is None and not self._open.repeats
        if self.choices.get(key) == "talk" or (part.called[0].kind is None and not goes_on):
            self.talk(part, key, "", tuple(reversed(ways)) if key in self.choices else ())
            return
        self._end_phases()
        if not goes_on:
            self._close()
            self._open = _Open([])
        assert self._open is not None
        cues = tuple((one.kind, _bare_cue(one.cue)) for one in part.called if one.kind is not None)
        place = self._piece(part, key, "counting", "", ways, cues)
        self._open.parts.append((part, place))
        self._open.called += part.called
        if part.line.at is not None:
            self._open.times.append((part.line.at, sum(max(one.numbers, default=1) for one in part.called)))

    def phase(self, part: Part, key: str) -> None:
        """One phase of a round that goes on in other lines."""
        if not self._phases:
            self._close()
        self._phases.append((part, self._piece(part, key, "a phase of a round")))

    def read_set(
        self, part: Part, key: str, reading: Reading, unsure: str = "", ways: tuple[tuple[str, str], ...] = ()
    ) -> None:
        """A line that is a breath as one types it."""
        self._close()
        if any(isinstance(block, BreathSet) and block.count_from for block in reading.blocks):
            unsure = "the set that its count is taken from is not in this text"
            reading = replace(reading, blocks=tuple(map(_counted_alone, reading.blocks)))
        became = reading.notation.splitlines()[0] + (f" ({reading.note})" if reading.note else "")
        self._open = _Open([(part, self._piece(part, key, became, unsure, ways))], reading)

    def repeat(self, part: Part, key: str, repeat: Repeat) -> None:
        self._end_phases()
        open_ = self._open
        if open_ is None or (open_.reading is None and not _is_whole(open_.called)):
            self.talk(part, key, "what is to be repeated is not known" if repeat.begins_again else "")
            return
        chosen = self.choices.get(key)
        if chosen == "talk":
            self.talk(part, key, "", (("talk", "talk"), ("all", "rounds")))
            return
        ways: tuple[tuple[str, str], ...] = ()
        unsure = "" if repeat.sure else "not all of it is understood"
        if repeat.more is None:
            what = f"{repeat.rounds} rounds" if repeat.rounds else f"{decimal_text(repeat.seconds or Fraction(1))} s"
            on_top = repeat.seconds is not None and (repeat.alone or not repeat.begins_again)
            usual = "more" if on_top else "all"
            taken = chosen or usual
            names = {"all": f"{what} in all", "more": f"{what} more", "talk": "talk"}
            ways = tuple((way, names[way]) for way in sorted(names, key=lambda way: (way != taken, way == "talk")))
            repeat = replace(repeat, more=taken == "more")
            if not chosen and repeat.rounds and part.what == "repeat" and repeat.begins_again and open_.reading is None:
                unsure = unsure or f"{what} in all, or {what} more?"
        place = self._piece(part, key, "", unsure, ways)
        open_.repeats.append((repeat, place))

    def timed(self, part: Part) -> None:
        """A part whose time stands in the margin: the silence before it is a pause."""
        at, line = part.line.at, part.line
        assert at is not None
        if line is self._line or part.what in ("heading", "rule"):
            return
        words = len(line.text.split())
        gap = at - self._until if self._until is not None else Fraction(0)
        counting = part.what == "counted"
        least = _LEAST_GAP if line.until is not None else Fraction(2)
        if gap >= least and not (counting and self._open is not None):
            self._end_set()
            self._paragraphs.append(pause_text(min(Fraction(600), Fraction(round(gap * 10), 10))))
        guess = None if counting else at + Fraction(60 * words, _WORDS_A_MINUTE)
        self._until = line.until if line.until is not None else guess
        self._line = None

    def finish(self) -> None:
        """End what is open. To be called once, after the last part."""
        self._close()
        self._leave_headings()
        self._place(len(self.blocks) - 1 if self.blocks else None)

    # -- blocks

    def _piece(
        self,
        part: Part,
        key: str,
        became: str,
        unsure: str = "",
        ways: tuple[tuple[str, str], ...] = (),
        cues: tuple[tuple[PhaseKind, str], ...] = (),
    ) -> int:
        self._waiting.append(len(self.pieces))
        self.pieces.append(Piece(key, part.line.first, part.line.end, part.text, None, became, unsure, ways, cues))
        return len(self.pieces) - 1

    def _say(self, part: Part, text: str) -> None:
        """Add words, or a pause, to the talk: to its last paragraph where the line is the same."""
        if self._line is part.line and self._paragraphs:
            self._paragraphs[-1] += f" {text}"
        else:
            self._paragraphs.append(text)
        self._line = part.line

    def _close(self) -> None:
        self._end_phases()
        self._end_set()
        self._end_talk()

    def _end_talk(self) -> None:
        paragraphs = tuple(piece for each in self._paragraphs for piece in split_paragraph(each))
        self._paragraphs, self._line = [], None
        if not paragraphs:
            return
        for at in range(0, len(paragraphs), MAX_PARAGRAPHS):
            block = Talk(id="talk", paragraphs=paragraphs[at : at + MAX_PARAGRAPHS])
            if block.lines:
                self._add(block)
            else:
                self._add(Rest(id="rest", seconds=min(Fraction(3600), max(Fraction(1), block.lead))))

    def _end_phases(self) -> None:
        phases, self._phases = self._phases, []
        if not phases:
            return
        readings = interpret(", ".join(part.text.rstrip(" .,;") for part, _ in phases), whole=True).readings
        if readings:
            self._open = _Open(phases, readings[0])
            for _, place in phases:
                self.pieces[place] = replace(self.pieces[place], became=f"a phase of {readings[0].notation}")
            return
        for part, place in phases:
            self.pieces[place] = replace(self.pieces[place], became="talk", unsure="one phase makes no round")
            self._say(part, part.text)

    def _end_set(self) -> None:
        open_, self._open = self._open, None
        if open_ is None:
            return
        for part, _ in open_.inside:
            self._say(part, part.text)
        if open_.reading is None and not _is_whole(open_.called):
            for part, place in open_.parts:
                unsure = "counts, but a round has an inhale and an exhale"
                self.pieces[place] = replace(self.pieces[place], became="talk", unsure=unsure, ways=())
                self._say(part, part.text)
            return
        self._end_talk_before([*open_.parts, *open_.repeats])
        blocks = list(open_.reading.blocks) if open_.reading is not None else [self._spelled(open_)]
        for repeat, place in open_.repeats:
            last = blocks[-1]
            if isinstance(last, BreathSet):
                blocks[-1] = longer = _repeated(last, repeat)
                self.pieces[place] = replace(self.pieces[place], became=_told(longer, repeat))
        for block in blocks:
            self._add(block)

    def _end_talk_before(self, parts: Sequence[tuple[object, int]]) -> None:
        """End the talk that stands before a set; what the set is made of waits for the set."""
        own = {place for _, place in parts}
        waiting, self._waiting = self._waiting, [place for place in self._waiting if place not in own]
        self._end_talk()
        self._waiting += [place for place in waiting if place in own and place not in self._waiting]

    def _spelled(self, open_: _Open) -> BreathSet:
        first = open_.parts[0][1]
        chosen = self.choices.get(self.pieces[first].key, "")
        spelled = spelled_set(open_.called, bare=chosen == "bare")
        block = read_block(spelled.notation)
        assert isinstance(block, BreathSet)
        if spelled.falls and not spelled.ahead:
            names = (("set", "the cue takes a count"), ("bare", "the numbers alone"), ("talk", "leave it as talk"))
            ways = tuple(sorted(names, key=lambda way: way[0] != (chosen or "set")))
            unsure = "" if chosen else "counted down: does the cue take a count of its own?"
            self.pieces[first] = replace(self.pieces[first], unsure=unsure, ways=ways)
        for _, place in open_.parts:
            self.pieces[place] = replace(self.pieces[place], became=f"counting of {block_notation(block)}")
        self.cues.append(Counter({(kind, _bare_cue(text)): n for (kind, text), n in spelled.cues.items()}))
        length = _count_length(open_.times)
        return block.replace(style=CountStyle(cue="ahead" if spelled.ahead else "on-one"), count_length=length)

    def _add(self, block: Block) -> None:
        kind = {"breath": "set"}.get(block.kind, block.kind)
        number = 1 + sum(other.id.startswith(f"{kind}-") for other in self.blocks)
        bed = None if self._music else BlockBed(on=False)
        self.blocks.append(block.replace(id=f"{kind}-{number}", title=self._title or block.title, bed=bed))
        self._title = ""
        self._headings.clear()
        self._place(len(self.blocks) - 1)

    def _place(self, block: int | None) -> None:
        for place in self._waiting:
            self.pieces[place] = replace(self.pieces[place], block=block)
        self._waiting.clear()


def _counted_alone(block: Block) -> Block:
    return block.replace(count_from=None) if isinstance(block, BreathSet) else block


def _is_whole(called: Sequence[Called]) -> bool:
    """Whether every round that is called has an inhale and an exhale."""
    return any(one.kind is not None for one in called) and spelled_set(called).whole


def _bare_cue(text: str) -> str:
    return " ".join(text.split())[:80].strip()


def _count_length(times: Sequence[tuple[Fraction, int]]) -> Fraction | None:
    """Seconds a count, where the margin says when several lines of counting begin."""
    steps = [(after - at) / counts for (at, counts), (after, _) in pairwise(times) if after > at and counts > 1]
    steps = [step for step in steps if _COUNTS[0] <= step <= _COUNTS[1]]
    return Fraction(round(median(steps) * 100), 100) if steps else None


def _repeated(block: BreathSet, repeat: Repeat) -> BreathSet:
    """A set that goes on. Steps that were written by hand go on with the last of them."""
    table = block.pacing if isinstance(block.pacing, Table) else None
    last = table.steps_after[-1] if table is not None else None
    had = last.rounds if last is not None else block.rounds
    if repeat.rounds is not None:
        number = repeat.rounds + had if repeat.more else max(repeat.rounds, had if not repeat.alone else 0)
    else:
        assert repeat.seconds is not None
        one = block.replace(rounds=1, pacing=None, fade=(), pattern=last.pattern if last is not None else block.pattern)
        each = set_seconds(one, block.count_length or Fraction(1))
        number = (had if repeat.more else 0) + max(1, round(repeat.seconds / each))
    number = max(1, min(MAX_ROUNDS, number))
    fade = block.fade
    if repeat.alone and repeat.more and number > had:
        spoken = had + (block.rounds + sum(step.rounds for step in table.steps_after[:-1]) if table is not None else 0)
        silent = number - had
        fade = (FadeStep(level=Level.FULL, rounds=spoken), FadeStep(level=Level.SILENT, rounds=silent))
    elif repeat.alone:
        fade = (FadeStep(level=Level.SILENT),)
    if table is None or last is None:
        return block.replace(rounds=number, fade=fade)
    steps = (*table.steps_after[:-1], last.replace(rounds=number))
    return block.replace(pacing=table.replace(steps_after=steps), fade=fade)


def _told(block: BreathSet, repeat: Repeat) -> str:
    voice = ", without the voice" if repeat.alone else ""
    return f"rounds{voice}: {block_notation(block)}"
