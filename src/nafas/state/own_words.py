"""Cautions in a producer's own words: which sentences they have said cover which topics, for the sessions to come."""

from collections.abc import Collection

from nafas.state.folder import read_names, write_names

_NAME = "own-cautions.json"
_MOST = 200


def _plain(sentence: str) -> str:
    return " ".join(sentence.casefold().split()).rstrip(".!?…।")


def _row(topic: str, said: Collection[str]) -> str:
    return "\t".join([topic, *sorted(set(map(_plain, said)))])


def is_confirmed(topic: str, said: Collection[str]) -> bool:
    """Whether among these sentences are all of some that were confirmed to cover a topic."""
    there = set(map(_plain, said))
    rows = (row.split("\t") for row in read_names(_NAME))
    return any(row[0] == topic and len(row) > 1 and set(row[1:]) <= there for row in rows)


def confirm(topics: Collection[str], said: Collection[str]) -> None:
    """Keep that these sentences cover some topics; the newest 200 are kept."""
    if said:
        new = [_row(topic, said) for topic in topics]
        write_names(_NAME, [*(row for row in read_names(_NAME) if row not in new), *new][-_MOST:])


def forget(topics: Collection[str], said: Collection[str]) -> None:
    """Forget what these sentences were confirmed to cover."""
    there = set(map(_plain, said))
    kept = (
        row for row in read_names(_NAME) if row.split("\t")[0] not in topics or not set(row.split("\t")[1:]) <= there
    )
    write_names(_NAME, list(kept))
