"""What the core says of many small sessions, line for line, as it was when somebody last looked at it and agreed.

The texts next to this file are no truth: they say what was so. Where a change means them to differ, write them again
and read the difference as part of the change:

    NAFAS_KEEP=1 python -m pytest tests/kept
"""

import os
from collections.abc import Iterator
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

import pytest
from scenes import notations, scenes, typed_lines

from nafas.rehearsal.guide import Guide
from nafas.review.checks.finding import Subject
from nafas.review.checks.register import review
from nafas.score.hit_test import Word, chosen_at, edge_at, word_at
from nafas.score.layout import lay_out
from nafas.score.row import Row
from nafas.score.selection import Chosen, phase_stepped, row_stepped
from nafas.script import BreathSet, Session, read_block
from nafas.script.edits import round_edits
from nafas.script.edits.session_edits import change_block
from nafas.script.expansion import expand
from nafas.script.notation.block import block_notation
from nafas.script.notation.typed.interpret import interpret
from nafas.script.words.wording import format_wording, parse_wording
from nafas.suggest import detail_words, pacing_words
from nafas.suggest.length_fit import fit
from nafas.timing import Moment, compile_session, paced
from nafas.timing.arc import arc_of
from nafas.timing.preview import preview
from nafas.timing.sheet import sheet_text

SCENES = scenes()
WATCHES = {name: session for name, session in SCENES.items() if name.startswith("Watch")}
HERE = Path(__file__).parent


def timeline_of(session):
    return compile_session(session, paced())


def seconds(value) -> str:
    return f"{float(value):.3f}".rstrip("0").rstrip(".")


def moment_text(moment: Moment) -> str:
    said = f" {moment.text!r}" if moment.text else ""
    side = f" {moment.side.value}" if moment.side else ""
    where = f"{moment.round}.{moment.phase}.{moment.count}"
    return f"{seconds(moment.at)}+{seconds(moment.length)} {moment.kind.value} {where}{side}{said}"


def events() -> Iterator[str]:
    """Every moment, a line a round."""
    for name, session in WATCHES.items():
        yield f"# {name}, {session.language}"
        line: list[str] = []
        for moment in timeline_of(session).moments:
            if moment.kind.value in ("round", "block", "talk", "ease", "strokes") and line:
                yield " | ".join(line)
                line = []
            if not 3 < moment.round < 30:  # those between are like them
                line.append(moment_text(moment))
        yield " | ".join(line)


def sheets() -> Iterator[str]:
    for name, session in SCENES.items():
        timeline = timeline_of(session)
        yield f"# {name}"
        yield sheet_text(timeline).rstrip()
        arc = arc_of(timeline)
        quiet = "-".join(map(seconds, arc.silence))
        yield f"silence {quiet} talk {arc.talk_share:.3f} breaths {arc.breaths} strong {seconds(arc.strong)}"
        yield " ".join(
            f"{seconds(s.start)}:{s.guidance.value}{'' if s.breaths is None else '@' + seconds(s.breaths)}"
            for s in arc.spans
        )


def findings() -> Iterator[str]:
    for name, session in SCENES.items():
        result = review(Subject(timeline_of(session)))
        yield f"# {name}: looked at {len(result.looked)}, not at {len(result.waiting)}"
        for finding in result.findings:
            at = "" if finding.at is None else f" at {seconds(finding.at)}"
            yield f"{finding.check} {finding.severity.value}{at} [{finding.where}] {finding.text}"
            yield from (f"    {remedy.title}" for remedy in finding.remedies)


def words() -> Iterator[str]:
    """What the details say of each set, in words and in notation."""
    one = Fraction(1)
    for line in notations():
        block = read_block(line)
        yield f"# {block_notation(block)}"
        if isinstance(block, BreathSet):
            yield f"steps: {pacing_words.steps_words(block, one)}"
            less = pacing_words.usual_fade(block.fade)[-1].level.value
            yield f"fade: {pacing_words.fade_words(block, one)}; next {less}"
            yield f"ease: {detail_words.ease_words(block, one)}; {detail_words.steps_between(block, one)}"
            for phase in block.pattern.phases:
                lexicon = Session().lexicon
                said = [detail_words.parts_words(phase), detail_words.calls_words(phase, lexicon)]
                said += [f"usual {detail_words.usual_call(phase)}" if phase.kind.is_hold else ""]
                yield from (text for text in said if text)


def fits() -> Iterator[str]:
    for name, session in WATCHES.items():
        for target in (240, 605):
            found = fit(session, paced(), Fraction(target))
            yield f"# {name} to {target}: {found.summary}"
            for way in found.options:
                yield f"{way.kind} {way.exact} {seconds(way.length)} {way.strain:.4f} {way.title}. {way.consequence}"


def typed() -> Iterator[str]:
    for line in typed_lines():
        found = interpret(line)
        yield f"# {line}"
        for reading in found.readings:
            yield f"{reading.notation!r} {reading.note}"
        if found.fault is not None:
            yield f"{found.fault} -> {found.offers}"


def rows() -> Iterator[str]:
    """Where everything stands on the page, and what the guide shows in the middle of each row."""

    def row_text(row: Row) -> str:
        stops = [(round(a, 2), round(b, 2)) for a, b in row.stops]
        pause = "" if row.pause is None else f" pause {seconds(row.pause)}"
        return (
            f"{row.kind} y{row.y}+{row.height} r{row.round} o{row.opening_lines}{pause} {stops or ''} {row.lines or ''}"
        )

    for name, session in WATCHES.items():
        timeline = timeline_of(session)
        layout = lay_out(timeline, None, 740, lambda text, width: [text[:60]])
        guide = Guide(timeline, layout)
        yield f"# {name}: {layout.width} wide, {layout.height} high, {layout.scale:.3f} a second"
        for row in layout.rows:
            yield row_text(row)
        for row, after in pairwise(layout.rows):
            now = guide.at((row.begin + after.begin) / 2)
            count = now.count.text if now.count else ""
            shown = (
                now.row.y if now.row else None,
                now.phase_words,
                count,
                now.rounds_left,
                round(now.seconds_left, 2),
            )
            yield f"{row.begin:.2f} x{layout.x_of(row, row.begin + 1.5):.1f} {shown}"


def clicks() -> Iterator[str]:
    """What lies under points of the page: what a click chooses, edges that are dragged, words that are typed over."""

    def at(layout, row, x, y):
        word = word_at(layout, row, x, y, 740)
        chosen = chosen_at(layout, row, x)
        found = [f"{chosen.round}.{chosen.phase}", edge_at(layout, row, x, y)]
        found.append(word if not isinstance(word, Word) else (word.target, word.text, tuple(map(int, word.area))))
        return " ".join(str(each) for each in found if each)

    for name, session in list(WATCHES.items())[:3]:
        layout = lay_out(timeline_of(session), None, 740, lambda text, width: [text[:60]])
        seen: set[tuple[int, str]] = set()
        yield f"# {name}"
        for row in layout.rows:
            if (row.block.index, row.kind) not in seen:  # the first of a kind in each block
                seen.add((row.block.index, row.kind))
                for y in (1, 3, 20, 40, 50, 62, 80):
                    if y < row.height:
                        line = [at(layout, row, x, row.y + y) for x in range(70, layout.width, 37)]
                        yield f"{row.block.index} {row.kind} +{y}: " + " | ".join(dict.fromkeys(line))
            after = row_stepped(layout, chosen_at(layout, row, 80), row, 1)
            yield f"then {after} {phase_stepped(Chosen(row.block.index, row.round, 1), row, 1)}"


def previews() -> Iterator[str]:
    """What is shown of a set before it is added, and wording as it is typed."""
    for line in notations():
        shown = preview(read_block(line), Session())
        yield f"# {line}: {shown}"
    for text in ("exhale: let go", "Hold full: stay\n\nlast: one more", "nothing", "a: b", "exhale let go", "left:"):
        try:
            yield f"{text!r}: {format_wording(parse_wording(text))!r}"
        except ValueError as error:
            yield f"{text!r}: {error}"


def edits() -> Iterator[str]:
    """What edits on the page make of each set, or why they are refused."""
    acts = {
        "more rounds": lambda s: round_edits.with_more_rounds(s, 0, 2),
        "fewer rounds": lambda s: round_edits.with_more_rounds(s, 0, -1),
        "counts": lambda s: round_edits.with_counts(s, 0, 1, 1, 7),
        "last counts": lambda s: round_edits.with_counts(s, 0, 2, 2, 1),
        "cue": lambda s: round_edits.with_cue(s, 0, 1, 1, "lift"),
        "phase": lambda s: round_edits.with_phase(s, 0, 1, 2, counts=9),
        "rounds 400": lambda s: change_block(s, 0, rounds=400),
    }
    for line in notations():
        session = Session(blocks=(read_block(line),))
        yield f"# {line}"
        for name, act in acts.items():
            try:
                done = act(session)
            except (ValueError, IndexError, TypeError) as error:
                yield f"{name}: {' '.join(str(error).split('[type')[0].split())}"
                continue
            block = done.blocks[0]
            count = len(expand(block, done.count_length_of(block))) if isinstance(block, BreathSet) else 0
            yield f"{name}: {block_notation(block)} ({count})"


@pytest.mark.parametrize("make", [events, sheets, findings, words, fits, typed, rows, clicks, previews, edits])
def test_is_as_it_was(make):
    path = HERE / f"{make.__name__}.txt"
    now = "\n".join(make()) + "\n"
    if os.environ.get("NAFAS_KEEP"):
        path.write_text(now, encoding="utf-8")
    assert now.splitlines() == path.read_text(encoding="utf-8").splitlines()
