"""Tasks of a series: its variants rendered, delivered or checked where they changed, several at once."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from typing import Any

from nafas.errors import Cancelled
from nafas.exchange.made_of import MadeOf
from nafas.files import file_digest
from nafas.ledger.entries import Kind, files_made_of, made_here
from nafas.parallel.processes import Ended, in_processes
from nafas.plain_text import pluralize
from nafas.series.compare import Checked, apart
from nafas.series.plan import Planned, Series, check_place, paths_of
from nafas.tasks import check, deliver, render
from nafas.tasks.delivery import STAGES, DeliveryRequest, for_purpose
from nafas.tasks.exit_codes import ExitCode
from nafas.tasks.progress import Note, of_whole, quiet
from nafas.tasks.report import short_line


@dataclass(frozen=True)
class SeriesRequest:
    """What is to be done with a series.

    Attributes:
        series, variants: as planned.
        folder: of the series, where its relative paths start.
        every: the variants that have not changed too.
        at_once: how many together; None: one a core.
    """

    series: Series
    variants: Sequence[Planned]
    folder: Path
    every: bool = False
    at_once: int | None = None

    @property
    def able(self) -> list[Planned]:
        """The variants that can be made."""
        return [each for each in self.variants if each.session is not None]


@dataclass(frozen=True)
class VariantMade:
    """A variant that was rendered or delivered.

    Attributes:
        files: that were written.
        line: of the master, for people.
        holds: whether its proofs do.
        warnings: why it is not in the ledger, if it is not.
    """

    files: tuple[Path, ...]
    line: str
    holds: bool
    warnings: tuple[str, ...] = ()


@dataclass(frozen=True)
class SeriesResult:
    """What became of the variants.

    Attributes:
        what: "rendered", "delivered" or "checked".
        names: of the variants that it was done on.
        ended: what became of each.
        kept: variants that are not changed.
        warnings: why variants cannot be made.
    """

    what: str
    names: Sequence[str]
    ended: Sequence[Ended]
    kept: int
    warnings: tuple[str, ...]

    @property
    def exit_code(self) -> ExitCode:
        if self.warnings or any(end.made is None for end in self.ended):
            return ExitCode.REFUSED
        if self.what == "checked":
            return ExitCode.FOUND if any(end.made.findings for end in self.ended) else ExitCode.DONE
        return ExitCode.DONE if all(end.made.holds for end in self.ended) else ExitCode.NOT_PROVEN

    @property
    def summary(self) -> str:
        """All of it in a line."""
        if self.what == "checked":
            message = pluralize(len(self.ended), "variant")
            return (
                f"{message} checked." if self.lines() else "Nothing must or should be changed, and the variants match."
            )
        ready = sum(end.made is not None for end in self.ended)
        return f"{ready} {self.what}, {self.kept} unchanged."

    def lines(self) -> list[str]:
        """A line for each variant; of a check first where they differ."""
        lines: list[str] = []
        if self.what == "checked":
            lines += apart([end.made for end in self.ended if end.made is not None])
        for name, end in zip(self.names, self.ended):
            if end.made is None:
                lines.append(f"{name}: not {self.what}. {end.why}")
            elif self.what == "checked":
                lines += [f"{name}: {severity}: {where}: {text}" for severity, _, where, text in end.made.findings]
                lines += [f"{name}: too long: {line}" for line in end.made.too_long]
            else:
                lines.append(". ".join([f"{name}: {end.made.line}", *end.made.warnings]))
        return lines


def render_series(request: SeriesRequest, note: Note = quiet) -> SeriesResult:
    """Render the variants that changed since they were rendered last. A file that Nafas did not make there is never
    replaced.

    Raises:
        NotPermitted: the series writes outside its own folder.
        InputError: the ledger cannot be read.
    """
    check_place(request.series, request.folder)
    todo, kept, made_of = [], 0, MadeOf()
    for each in request.able:
        assert each.session is not None
        out, *also = paths_of(request.series, each, request.folder)
        known = {} if request.every else files_made_of(made_of(each.session, request.folder), Kind.RENDER)
        if all(str(path.absolute()) in known and _stands(path, known[str(path.absolute())]) for path in (out, *also)):
            kept += 1
        else:
            out.parent.mkdir(parents=True, exist_ok=True)
            name = each.variant.name
            todo.append(render.RenderRequest(each.session, request.folder, out, also=tuple(also), variant=name))
    names = [one.out.stem for one in todo]
    return _each(_render_one, todo, names, "rendered", kept, request, note)


def deliver_series(
    request: SeriesRequest,
    into: Path,
    purpose: str,
    video: str | None = None,
    anyway: bool = False,
    note: Note = quiet,
) -> SeriesResult:
    """Deliver the variants that changed, each into a folder of its own name. What an earlier delivery left there is
    replaced; what anybody else put there is not.

    Args:
        request: of the series.
        into: the folder of those folders.
        purpose: a key of `delivery.PURPOSES`.
        video: the size of a guide video; None: as the purpose has it.
        anyway: even with findings that must be changed.
        note: called with a stage and 0.0 to 1.0; raises Cancelled to stop.

    Raises:
        InputError: there is no such purpose or size; the ledger or a sound cannot be read.
    """
    audio, texts, video = for_purpose(purpose, video)
    asked = " ".join([*sorted(audio), *sorted(texts), *([video] if video else [])])
    todo, kept, made_of = [], 0, MadeOf()
    for each in request.able:
        assert each.session is not None
        own = (into / each.variant.name).absolute()
        known = {} if request.every else files_made_of(made_of(each.session, request.folder), Kind.DELIVERY, asked)
        here = {path: digest for path, digest in known.items() if Path(path).parent == own}
        if here and all(_stands(Path(path), digest) for path, digest in here.items()):
            kept += 1
            continue
        one = DeliveryRequest(each.session, request.folder, own, audio, texts, anyway=anyway, video=video)
        todo.append(replace(one, replaces=made_here, asked=asked, variant=each.variant.name))
        one.check()
    names = [one.into.name for one in todo]
    return _each(_deliver_one, todo, names, "delivered", kept, request, note)


def check_series(request: SeriesRequest, note: Note = quiet) -> SeriesResult:
    """Check the variants that can be made, as they sound, and hold them against each other."""
    names = [each.variant.name for each in request.able]
    work = partial(_check_one, folder=request.folder)
    return _each(work, request.able, names, "checked", 0, request, note)


def _stands(path: Path, digest: str) -> bool:
    return file_digest(path) == digest


def _each(
    work: Callable[[Any, Note], Any],
    items: Sequence[Any],
    names: Sequence[str],
    what: str,
    kept: int,
    request: SeriesRequest,
    note: Note,
) -> SeriesResult:
    """Do it on every item; `note` hears of the share of all, and which is at what."""
    shares, cancelled = [0.0] * len(items), False

    def hear(number: int, stage: str, done: float) -> None:
        nonlocal cancelled
        shares[number] = max(shares[number], min(done, 0.99)) if stage else 1.0
        ready = sum(share == 1.0 for share in shares)
        now = f", {names[number]}: {stage}" if stage else ""
        try:
            note(f"{ready} of {len(items)} {what}{now}", sum(shares) / len(items))
        except Cancelled:
            cancelled = True

    ended = in_processes(work, items, request.at_once, hear, lambda: cancelled)
    warnings = tuple(f"{each.variant.name}: {each.trouble}" for each in request.variants if each.trouble)
    return SeriesResult(what, names, ended, kept, warnings)


# -- one variant, in whatever process


def _render_one(request: render.RenderRequest, note: Note) -> VariantMade:
    made = render.run(request, of_whole(note, render.STAGES))
    files = (made.mastered.path, *made.mastered.also)
    return VariantMade(files, short_line(made.mastered, made.proofs), made.holds, made.warnings)


def _deliver_one(request: DeliveryRequest, note: Note) -> VariantMade:
    made = deliver.run(request, of_whole(note, STAGES))
    return VariantMade(made.files, short_line(made.mastered, made.proofs), made.holds, made.warnings)


def _check_one(planned: Planned, note: Note, folder: Path) -> Checked:
    assert planned.session is not None
    made = check.run(check.CheckRequest(planned.session, folder), note)
    return Checked.of(planned.variant.name, made.review, made.subject)
