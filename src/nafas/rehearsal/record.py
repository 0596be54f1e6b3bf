"""The record of rehearsals, in the ledger: when a session was breathed, how it went, and how it felt."""

import contextlib
from collections.abc import Sequence
from typing import Annotated

from pydantic import Field, ValidationError

from nafas.ledger.entries import Kind, add, find
from nafas.plain_text import pluralize
from nafas.rehearsal.breathing import BreathingSummary
from nafas.script.model.phase import Model
from nafas.script.model.session import Session

_Words = Annotated[str, Field(max_length=300)]


class Rehearsal(Model):
    """One rehearsal.

    Attributes:
        when: ISO 8601, with its zone.
        title: of the session; the ledger knows which version it was.
        begin, end: seconds of the session that were breathed.
        before, after: how it felt, in the breather's words; "" where nothing was said.
        note: more words.
        marks: that were set.
        breaths, lag, spread, drift, given_up, released: of breathing along (see `BreathingSummary`), the last two as
            numbers; None where it was not breathed along.
    """

    when: Annotated[str, Field(max_length=40)]
    title: Annotated[str, Field(max_length=120)] = ""
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


def add_rehearsal(rehearsal: Rehearsal, session: Session) -> None:
    """Add to the ledger; it is on the disk when this returns. Raises InputError; the ledger is then as it was."""
    add(Kind.REHEARSAL, session, words=rehearsal.note, data=rehearsal.model_dump(exclude={"note", "title"}))


def rehearsals(title: str) -> list[Rehearsal]:
    """The rehearsals on record of a session by its title, oldest first. Raises InputError where it cannot be read."""
    kept = []
    for entry in find(kind=Kind.REHEARSAL, title=title)[::-1]:
        with contextlib.suppress(ValidationError):
            kept.append(Rehearsal.model_validate({**entry.data, "title": entry.title, "note": entry.words}))
    return kept


def over_time(kept: Sequence[Rehearsal]) -> str:
    """Whether it gets easier: the first rehearsal that was breathed along against the last, in words; "" for fewer."""
    breathed = [each for each in kept if each.breaths and each.lag is not None and each.spread is not None]
    if len(breathed) < 2:
        return ""
    first, last = breathed[0], breathed[-1]
    assert first.lag is not None and last.lag is not None and first.spread is not None and last.spread is not None
    text = [
        f"beginnings {1000 * first.lag:+.0f} ms, then {1000 * last.lag:+.0f} ms off the guide",
        f"their spread {1000 * first.spread:.0f}, then {1000 * last.spread:.0f} ms",
        f"holds released early: {first.released or 0}, then {last.released or 0}",
        f"rounds given up: {first.given_up or 0}, then {last.given_up or 0}",
    ]
    return f"Over {pluralize(len(breathed), 'rehearsal')}: {'; '.join(text)}."
