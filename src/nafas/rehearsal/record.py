"""The record of rehearsals: when a session was breathed, how it went, and how it felt. Entries are only ever added."""

import json
import os
from collections.abc import Sequence
from pathlib import Path
from typing import Annotated

from pydantic import Field, ValidationError

from nafas.errors import InputError
from nafas.files import one_writer, read_whole, reason
from nafas.plain_text import many
from nafas.rehearsal.breathing import BreathingSummary
from nafas.script.model.phase import Model

_NAME = "rehearsals.jsonl"
_MOST_BYTES = 64_000_000
_Words = Annotated[str, Field(max_length=300)]


class Rehearsal(Model):
    """One rehearsal.

    Attributes:
        when: ISO 8601, with its zone.
        title, session: of the session, and the sum of its text (SHA-256): which version it was.
        begin, end: seconds of the session that were breathed.
        before, after: how it felt, in the breather's words; "" where nothing was said.
        note: more words.
        marks: that were set.
        breaths, lag, spread, drift, given_up, released: of breathing along (see `BreathingSummary`), the last two as
            numbers; None where it was not breathed along.
    """

    when: Annotated[str, Field(max_length=40)]
    title: Annotated[str, Field(max_length=120)] = ""
    session: Annotated[str, Field(max_length=64)] = ""
    begin: float = 0.0
    end: float = 0.0
    before: _Words = ""
    after: _Words = ""
    note: Annotated[str, Field(max_length=2000)] = ""
    marks: int = 0
    breaths: int | None = None
    lag: float | None = None
    spread: float | None = None
    drift: float | None = None
    given_up: int | None = None
    released: int | None = None


def with_breathing(rehearsal: Rehearsal, summary: BreathingSummary) -> Rehearsal:
    """The rehearsal with how it was breathed along."""
    return rehearsal.model_copy(
        update={
            "breaths": summary.breathed,
            "lag": summary.lag,
            "spread": summary.spread,
            "drift": summary.drift,
            "given_up": len(summary.given_up),
            "released": len(summary.released),
        }
    )


def record_folder() -> Path:
    """Where records are kept: `NAFAS_RECORDS`, or the platform's place for data."""
    chosen = os.environ.get("NAFAS_RECORDS")
    if chosen:
        return Path(chosen)
    import platformdirs

    return platformdirs.user_data_path("nafas")


def add_rehearsal(rehearsal: Rehearsal) -> None:
    """Add to the record; it is on the disk when this returns. Raises InputError; the record is then as it was."""
    folder = record_folder()
    line = (rehearsal.model_dump_json() + "\n").encode()
    path = folder / _NAME
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with one_writer(folder), path.open("ab") as file:
            before = file.tell()
            try:
                file.write(line)
                file.flush()
                os.fsync(file.fileno())
            except OSError:
                file.truncate(before)
                raise
    except OSError as error:
        raise InputError(str(path), f"cannot be written ({reason(error)})", "free some space, or allow it") from None


def rehearsals(title: str | None = None) -> list[Rehearsal]:
    """The rehearsals on record, oldest first, of a session by its title, or all. Lines that are broken are passed over.
    Raises InputError where the record is there and cannot be read."""
    path = record_folder() / _NAME
    if not path.exists():
        return []
    found = []
    for line in read_whole(path, _MOST_BYTES).splitlines():
        try:
            made = Rehearsal.model_validate(json.loads(line))
        except (ValidationError, ValueError, RecursionError):
            continue
        if title is None or made.title == title:
            found.append(made)
    return found


def over_time(found: Sequence[Rehearsal]) -> str:
    """Whether it gets easier: the first rehearsal that was breathed along against the last, in words; "" for fewer."""
    breathed = [each for each in found if each.breaths and each.lag is not None and each.spread is not None]
    if len(breathed) < 2:
        return ""
    first, last = breathed[0], breathed[-1]
    assert first.lag is not None and last.lag is not None and first.spread is not None and last.spread is not None
    told = [
        f"beginnings {1000 * first.lag:+.0f} ms, then {1000 * last.lag:+.0f} ms beside the guide",
        f"their spread {1000 * first.spread:.0f}, then {1000 * last.spread:.0f} ms",
        f"holds released early: {first.released or 0}, then {last.released or 0}",
        f"rounds given up: {first.given_up or 0}, then {last.given_up or 0}",
    ]
    return f"Over {many(len(breathed), 'rehearsal')}: {'; '.join(told)}."
