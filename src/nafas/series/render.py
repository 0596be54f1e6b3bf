"""A series rendered: only the variants that changed since they were rendered last, by the ledger's sums."""

from collections.abc import Sequence
from pathlib import Path

from nafas.ledger.entries import made_before, version_of
from nafas.review.queue import Job
from nafas.series.plan import Planned, Series


def paths_of(series: Series, planned: Planned, folder: Path) -> list[Path]:
    """The files of a variant."""
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
        InputError: the ledger cannot be read, or the folder of the files cannot be made.
    """
    jobs, kept = [], []
    for each in variants:
        if each.session is None:
            continue
        paths = paths_of(series, each, folder)
        version, _ = version_of(each.session)
        if not every and all(made_before(version, path) for path in paths):
            kept.append(each)
        else:
            paths[0].parent.mkdir(parents=True, exist_ok=True)
            jobs.append(Job(each.session, folder, paths[0], tuple(paths[1:])))
    return jobs, kept
