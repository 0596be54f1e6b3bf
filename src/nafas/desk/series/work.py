"""The long work on a series, as it is done behind the window: its variants rendered, delivered or checked."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from nafas.desk.work.background import Note
from nafas.plain_text import many
from nafas.series.check import Checking, check_lines, check_one
from nafas.series.plan import Planned, Series
from nafas.series.render import Wanted, deliver_one, handings_of, jobs_of, made_lines, render_one
from nafas.series.spread import Ended, spread

STAGES = ("checking", "rendering", "delivering")


@dataclass(frozen=True)
class Worked:
    """What came of it: a line in a few words, and more lines."""

    words: str
    lines: tuple[str, ...]


def rendering(series: Series, variants: Sequence[Planned], folder: Path) -> Callable[[Note], Worked]:
    """Renders the variants that changed."""

    def work(note: Note) -> Worked:
        jobs, kept = jobs_of(series, variants, folder)
        ended = _spread(render_one, jobs, "rendering", note)
        return _made("rendered", [job.out.stem for job in jobs], ended, len(kept))

    return work


def delivering(variants: Sequence[Planned], folder: Path, into: Path, wanted: Wanted) -> Callable[[Note], Worked]:
    """Delivers the variants that changed, each into a folder of its own."""

    def work(note: Note) -> Worked:
        tasks, kept = handings_of(variants, folder, into, wanted)
        ended = _spread(deliver_one, tasks, "delivering", note)
        return _made("delivered", [task.planned.variant.name for task in tasks], ended, len(kept))

    return work


def checking(variants: Sequence[Planned], folder: Path) -> Callable[[Note], Worked]:
    """Puts the variants that can be made to the review, and holds them against each other."""
    able = [each for each in variants if each.session is not None]

    def work(note: Note) -> Worked:
        ended = _spread(check_one, [Checking(each, folder) for each in able], "checking", note)
        lines = tuple(check_lines([each.variant.name for each in able], ended))
        whole = "Nothing must or should be changed, and they are alike."
        return Worked(f"{many(len(able), 'variant')} checked." if lines else whole, lines)

    return work


def _made(what: str, names: Sequence[str], ended: Sequence[Ended], kept: int) -> Worked:
    ready = sum(end.made is not None for end in ended)
    return Worked(f"{ready} {what}, {kept} stand as they are.", tuple(made_lines(what, names, ended)))


def _spread(work: Any, items: Sequence[Any], stage: str, note: Note) -> list[Ended]:
    """Do it on every item, several at once; the bar shows the share of all."""
    shares = [0.0] * len(items)

    def told(place: int, part: str, done: float) -> None:
        shares[place] = 1.0 if not part else max(shares[place], min(done, 0.99))
        ready = sum(share == 1.0 for share in shares)
        if not note.stopped():
            note(f"{stage} {ready} of {len(items)}", sum(shares) / len(items))

    return spread(work, items, None, told, note.stopped)
