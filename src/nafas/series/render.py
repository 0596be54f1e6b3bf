"""A series rendered and delivered: only the variants that changed since last time, by sums; several at once."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from nafas.exchange.made_of import MadeOf
from nafas.exchange.records import record_delivery, record_render
from nafas.files import sum_on_disk
from nafas.ledger.entries import Kind, files_made_of, made_here
from nafas.review.produce import produce
from nafas.review.queue import STAGES, Job
from nafas.series.plan import Planned, Series
from nafas.series.spread import Ended, Note

if TYPE_CHECKING:
    from nafas.exchange.deliver import More


_HANDING = {
    "looking": (0.0, 0.15), "casting": (0.15, 0.15), "measuring": (0.15, 0.25), "writing": (0.25, 0.45),
    "proving": (0.45, 0.6), "AAC": (0.6, 0.65), "packing": (0.65, 0.66), "paper": (0.66, 0.68), "video": (0.68, 1.0),
}  # fmt: skip
"""From and to: the share of a delivery that each of its stages takes, about."""


@dataclass(frozen=True)
class Rendered:
    """A variant that was rendered or delivered.

    Attributes:
        files: that were written.
        seconds, loudness, true_peak: of the master.
        holds: whether its proofs do.
        untold: why it could not be put into the ledger; "" where it was.
    """

    files: tuple[Path, ...]
    seconds: float
    loudness: float
    true_peak: float
    holds: bool
    untold: str = ""

    @property
    def words(self) -> str:
        """In a line, for people."""
        minutes, seconds = divmod(round(self.seconds), 60)
        proof = "proof holds" if self.holds else "THE PROOF DOES NOT HOLD"
        told = f"{minutes}:{seconds:02}, {self.loudness:.1f} LUFS, {self.true_peak:.1f} dBTP, {proof}"
        return f"{told}. {self.untold}" if self.untold else told


def paths_of(series: Series, planned: Planned, folder: Path) -> list[Path]:
    """The files of a variant as it is rendered."""
    return [folder / series.into / f"{planned.variant.name}{ending}" for ending in series.audio]


def jobs_of(
    series: Series, variants: Sequence[Planned], folder: Path, every: bool = False
) -> tuple[list[Job], list[Planned]]:
    """What is to be rendered, and the variants that stand as they are.

    Args:
        series, variants: as planned.
        folder: of the series.
        every: those that have not changed too.

    Raises:
        InputError: the ledger or a sound cannot be read, or the folder of the files cannot be made.
    """
    jobs, kept, made_of = [], [], MadeOf()
    for each in variants:
        if each.session is None:
            continue
        paths = paths_of(series, each, folder)
        stand = {} if every else files_made_of(made_of(each.session, folder), Kind.RENDER)
        if all(str(path.absolute()) in stand and sum_on_disk(path) == stand[str(path.absolute())] for path in paths):
            kept.append(each)
        else:
            paths[0].parent.mkdir(parents=True, exist_ok=True)
            jobs.append(Job(each.session, folder, paths[0], tuple(paths[1:])))
    return jobs, kept


def render_one(job: Job, note: Note) -> Rendered:
    """Render a variant and put it into the ledger, in whatever process.

    Args:
        job: it.
        note: called with a stage and 0.0 to 1.0 of the whole.

    Raises:
        InputError: as `produce`; and what `note` raises.
    """
    made = produce(job.session, job.folder, job.out, progress=_of_whole(note, STAGES), also=job.also)
    measured = made.mastered.measured
    untold = record_render(job.session, made, job.folder)
    files = (made.mastered.path, *made.mastered.also)
    return Rendered(files, made.duration, measured.loudness, measured.true_peak, made.holds, untold)


def _of_whole(note: Note, shares: Mapping[str, tuple[float, float]]) -> Note:
    """What notes a stage's own progress as that of the whole."""

    def told(stage: str, done: float) -> None:
        low, high = shares.get(stage, (0.0, 1.0))
        note(stage, low + (high - low) * done)

    return told


@dataclass(frozen=True)
class Wanted:
    """What of every variant is to be delivered.

    Attributes:
        audio, texts: as `deliver` takes them.
        video: the size of a guide video, or None.
        more: makes what `deliver` is to be given for drawings; a function of a module, called where the work is done.
        anyway: with findings that must be mended.
    """

    audio: tuple[str, ...]
    texts: tuple[str, ...]
    video: str | None = None
    more: "Callable[[Note], More] | None" = None
    anyway: bool = False

    @property
    def asked(self) -> str:
        """By which the ledger knows a delivery of the same."""
        return " ".join([*sorted(self.audio), *sorted(self.texts), *([self.video] if self.video else [])])


@dataclass(frozen=True)
class Handing:
    """A variant that is to be delivered.

    Attributes:
        planned: it.
        folder: of the series.
        into: the folder of its files.
        wanted: what of it.
    """

    planned: Planned
    folder: Path
    into: Path
    wanted: Wanted


def handings_of(
    variants: Sequence[Planned], folder: Path, into: Path, wanted: Wanted, every: bool = False
) -> tuple[list[Handing], list[Planned]]:
    """What is to be delivered, each variant into a folder of its own name, and the variants that stand as they are.

    Raises:
        InputError: the ledger or a sound cannot be read.
    """
    found, kept, made_of = [], [], MadeOf()
    for each in variants:
        if each.session is None:
            continue
        own = (into / each.variant.name).absolute()
        stand = {} if every else files_made_of(made_of(each.session, folder), Kind.DELIVERY, wanted.asked)
        here = {path: total for path, total in stand.items() if Path(path).parent == own}
        if here and all(sum_on_disk(Path(path)) == total for path, total in here.items()):
            kept.append(each)
        else:
            found.append(Handing(each, folder, own, wanted))
    return found, kept


def deliver_one(task: Handing, note: Note) -> Rendered:
    """Deliver a variant and put it into the ledger, in whatever process. What an earlier delivery left in its folder is
    replaced; what anybody else put there is not.

    Args:
        task: it.
        note: called with a stage and 0.0 to 1.0 of the whole.

    Raises:
        InputError: as `deliver`; and what `note` raises.
    """
    note = _of_whole(note, _HANDING)
    from nafas.exchange.deliver import deliver

    session, wanted = task.planned.session, task.wanted
    assert session is not None
    made = deliver(
        session, task.folder, task.into, wanted.audio, wanted.texts, anyway=wanted.anyway, replaces=made_here,
        more=None if wanted.more is None else wanted.more(note), progress=note,
    )  # fmt: skip
    measured = made.mastered.measured
    untold = record_delivery(session, made, task.folder, wanted.asked)
    holds = all(proof.holds for proof in made.proofs)
    seconds = made.mastered.frames / made.mastered.rate
    return Rendered(made.files, seconds, measured.loudness, measured.true_peak, holds, untold)


def made_lines(what: str, names: Sequence[str], ended: Sequence[Ended]) -> list[str]:
    """What became of each variant, a line each for people; `what` is "rendered" or "delivered"."""
    return [
        f"{name}: {end.made.words}" if end.made is not None else f"{name}: not {what}. {end.why}"
        for name, end in zip(names, ended)
    ]
