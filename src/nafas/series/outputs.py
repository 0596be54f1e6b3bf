"""What a series is written to next to its recordings: words for a translator, one call sheet, the summary page."""

from collections.abc import Mapping, Sequence
from pathlib import Path

from nafas.files import write_whole
from nafas.script.model.session import Session
from nafas.series.plan import Planned, Series
from nafas.series.status import series_page, statuses
from nafas.series.words import no_longer_said, read_words, words_catalogue, words_table
from nafas.tables import dialect_of, written
from nafas.timing.compile import compile_session, paced
from nafas.voice.call_sheet import as_csv, call_sheet


def write_words(
    session: Session,
    path: Path,
    language: str = "",
    done: Mapping[str, str] | None = None,
    fresh: bool = False,
) -> int:
    """All that a session says for a translator: PO where the name ends so, else a table, CSV or XLSX; one that stands
    there keeps its separator and its encoding.

    Args:
        session: of the series.
        path: of the file.
        language: of the translation, for PO.
        done: what is translated already. What of it is no longer said is kept at the end, marked as such.
        fresh: what stands there is replaced; else it is brought up to date, and no translation in it is lost.

    Returns:
        how many translations are no longer said.

    Raises:
        InputError: it cannot be written.
    """
    timeline, there = compile_session(session, paced()), path.exists() and not fresh
    done = {**(read_words(path) if there else {}), **(done or {})}
    if path.suffix.lower() == ".po":
        write_whole(path, words_catalogue(timeline, language, done, path if there else None).encode())
    else:
        write_whole(path, written(words_table(timeline, done), dialect_of(path)))
    return len(no_longer_said(timeline, done))


def write_call_sheet(variants: Sequence[Planned], path: Path) -> None:
    """One call sheet for every variant that can be made, as CSV. Raises InputError."""
    timelines = [compile_session(each.session, paced()) for each in variants if each.session is not None]
    write_whole(path, as_csv(call_sheet(timelines)).encode())


def write_page(series: Series, variants: Sequence[Planned], folder: Path, path: Path) -> None:
    """The summary page of a series whose relative paths start in `folder`. Raises InputError."""
    page = series_page(series, statuses(series, variants, folder), path.absolute().parent)
    write_whole(path, page.encode())
