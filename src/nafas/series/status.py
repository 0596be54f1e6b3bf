"""Where every variant of a series stands: rendered as it is now, changed since, or not rendered yet; and all of it as
one page to look at."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from html import escape
from os.path import relpath
from pathlib import Path
from typing import Any
from urllib.parse import quote

from nafas.errors import InputError
from nafas.exchange.made_of import MadeOf
from nafas.ledger.entries import newest_at
from nafas.series.plan import Planned, Series, paths_of
from nafas.timing.clock import clock

_STYLE = """
body { font: 15px/1.5 sans-serif; color: #2b2722; background: #faf7f1; margin: 32px auto; max-width: 1080px; }
h1 { font-size: 22px; margin: 0 0 4px; } .muted { color: #6d655a; } .fault { color: #9d2f1f; }
table { border-collapse: collapse; width: 100%; margin-top: 18px; }
th { text-align: left; color: #6d655a; font-weight: 600; } th, td { padding: 5px 12px 5px 0; vertical-align: top;
border-bottom: 1px solid #e3dac8; } td.n { font-variant-numeric: tabular-nums; white-space: nowrap; }
"""


_NUMBERS = (3, 4)
"""Columns of numbers."""


class VariantState(StrEnum):
    """How a variant's files stand to what it is now."""

    CURRENT = "as it is now"
    CHANGED = "changed since"
    ABSENT = "not rendered"
    IMPOSSIBLE = "cannot be made"


@dataclass(frozen=True)
class VariantStatus:
    """A variant and its files.

    Attributes:
        planned: it.
        stands: how its files stand.
        files: of it that are there.
        made: what the ledger knows of the first of them (`newest_at`); None for nothing.
    """

    planned: Planned
    stands: VariantState
    files: tuple[Path, ...]
    made: dict[str, Any] | None


def statuses(series: Series, variants: Sequence[Planned], folder: Path) -> list[VariantStatus]:
    """Where each variant stands, by the ledger and by what is there.

    Raises:
        InputError: the ledger cannot be read.
    """
    made_of = MadeOf()
    return [_standing(series, each, folder, made_of) for each in variants]


def _standing(series: Series, planned: Planned, folder: Path, made_of: MadeOf) -> VariantStatus:
    if planned.session is None:
        return VariantStatus(planned, VariantState.IMPOSSIBLE, (), None)
    paths = paths_of(series, planned, folder)
    files = tuple(path for path in paths if path.is_file())
    made = newest_at(paths[0]) if paths[0] in files else None
    try:
        now = made_of(planned.session, folder)
    except InputError:  # a take or a sound is missing: whatever is there is of another time
        now = None
    if made is None or len(files) < len(paths):
        return VariantStatus(planned, VariantState.ABSENT, files, made)
    return VariantStatus(planned, VariantState.CURRENT if made["made_of"] == now else VariantState.CHANGED, files, made)


def series_page(series: Series, statuses: Sequence[VariantStatus], root: Path) -> str:
    """A summary page, in HTML; its links lead to the files from the folder `next to`."""
    title = series.title or Path(series.session).stem
    ready = sum(each.stands is VariantState.CURRENT for each in statuses)
    whole = sum((float(each.planned.length or 0) for each in statuses), 0.0)
    head = f"{len(statuses)} variants, {clock(whole)} in all; {ready} rendered as they are now"
    heads = ("Variant", "Title", "Language", "Length", "Loudness", "Proof", "Files", "To know")
    rows = "".join(_row(each, root) for each in statuses)
    columns = "".join(f"<th>{name}</th>" for name in heads)
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{escape(title)}: series</title>'
        f'<style>{_STYLE}</style></head><body><h1>{escape(title)}</h1><p class="muted">{head}.</p>'
        f"<table><tr>{columns}</tr>{rows}</table></body></html>\n"
    )


def _row(status: VariantStatus, root: Path) -> str:
    planned, made = status.planned, status.made
    session = planned.session
    length = "" if planned.length is None else clock(planned.length)
    loud = "" if made is None or made["loudness"] is None else f"{made['loudness']:.1f} LUFS"
    proof = None if made is None else made["proof"]
    held = {None: "", 0: '<span class="fault">does not hold</span>', 1: "holds"}[proof]
    links = "<br>".join(_link(path, root) for path in status.files)
    state = "" if status.stands is VariantState.CURRENT else status.stands.value
    text = [state, planned.trouble, *planned.notes]
    cells = [
        escape(planned.variant.name), escape(session.title if session is not None else ""),
        session.language if session is not None else "", length, loud, held, links,
        "<br>".join(escape(each) for each in text if each),
    ]  # fmt: skip
    kinds = ('<td class="n">' if column in _NUMBERS else "<td>" for column in range(len(cells)))
    return f"<tr>{''.join(f'{kind}{each}</td>' for kind, each in zip(kinds, cells))}</tr>"


def _link(path: Path, root: Path) -> str:
    size = path.stat().st_size / 1e6
    return f'<a href="{quote(relpath(path, root))}">{escape(path.name)}</a> ({size:.1f} MB)'
