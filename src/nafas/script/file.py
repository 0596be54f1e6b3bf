"""The session file: one UTF-8 JSON text, `*.nafas`, read with care and written whole or not at all."""

import contextlib
import json
from collections.abc import Callable
from decimal import Decimal
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from nafas.errors import InputError
from nafas.files import digest_of, read_whole, sweep_parts, write_whole
from nafas.script.faults import shown, words_of
from nafas.script.model.session import FORMAT, MAX_BLOCKS, Session

MAX_FILE_BYTES = 16_000_000
"""Bytes of a session file, read or written; 2,000 blocks with all the words they may have are under 10 MB."""


def _from_format_1(raw: dict[str, Any]) -> dict[str, Any]:
    """Format 2 added pacing, fade, strokes, wording, locks and bounds of rests; all that format 1 says is still so."""
    return {**raw, "format": 2}


# Format n to n + 1.
MIGRATIONS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {1: _from_format_1}


def load_session(path: Path) -> Session:
    """Read a session file.

    Raises:
        InputError: naming the file, the place in it and what to write instead.
    """
    return load_with_digest(path)[0]


def load_with_digest(path: Path) -> tuple[Session, str]:
    """A session file, and the sum of its bytes (SHA-256): what `save_session` may expect there. Raises InputError."""
    data = read_whole(path, MAX_FILE_BYTES)
    return parse_session(data, str(path)), digest_of(data)


def parse_session(data: bytes | str, name: str) -> Session:
    """Read a session from the bytes of a file; `name` is how errors call it. Raises InputError."""
    try:
        text = data.decode("utf-8-sig") if isinstance(data, bytes) else data
        raw = json.loads(text, parse_float=Decimal, parse_constant=_no_constant)
    except UnicodeDecodeError as error:
        raise InputError(f"{name}: byte {error.start}", "not UTF-8 text", "choose a *.nafas session file") from None
    except json.JSONDecodeError as error:
        where = f"{name}: line {error.lineno}, column {error.colno}"
        raise InputError(
            where, f"not JSON ({error.msg.lower()})", "fix the text there or choose another file"
        ) from None
    except (ValueError, ArithmeticError, RecursionError) as error:
        why = "a number beyond all bounds" if isinstance(error, ArithmeticError) else str(error)[:200]
        raise InputError(name, f"not a session ({why})", "choose a *.nafas session file") from None
    if not isinstance(raw, dict):
        raise InputError(name, "holds no session", "a session file is one JSON object with a format number")
    blocks = raw.get("blocks")
    if isinstance(blocks, list) and len(blocks) > MAX_BLOCKS:  # said before each of a million is looked at
        problem = f"holds {len(blocks):,} blocks; a session has at most {MAX_BLOCKS:,}"
        raise InputError(f"{name}: blocks", problem, "make several sessions of it")
    try:
        return Session.model_validate(_migrated(raw, name))
    except ValidationError as error:
        raise _first_fault(error, name, raw) from None


def _no_constant(word: str) -> Any:
    raise ValueError(f"{word} is no number")


def _migrated(raw: dict[str, Any], name: str) -> dict[str, Any]:
    data = raw.get("format")
    if not isinstance(data, int) or isinstance(data, bool) or data < 1:
        raise InputError(f"{name}: format", f"{shown(data)} is no format number", f'write "format": {FORMAT}')
    if data > FORMAT:
        raise InputError(
            f"{name}: format",
            f"{data} was written by a newer Nafas (this one reads {FORMAT})",
            "update Nafas to open it",
        )
    while data < FORMAT:
        raw = MIGRATIONS[data](raw)
        data += 1
    return raw


def _first_fault(error: ValidationError, name: str, raw: dict[str, Any]) -> InputError:
    faults = error.errors(include_url=False)
    fault = faults[0]
    index = _place(fault["loc"])
    block = _block_title(fault["loc"], raw)
    where = f"{name}: {index}{block}" if index else name
    more = f" (and {len(faults) - 1} more)" if len(faults) > 1 else ""
    if fault["type"] in ("union_tag_invalid", "union_tag_not_found"):
        what = "bed" if fault["loc"][-1] in ("bed", "change") else "block"
        offered = str(fault.get("ctx", {}).get("expected_tags", "")).replace("'", '"')
        return InputError(f"{where} kind", f"unknown kind of {what}{more}", f"write one of {offered}")
    problem, remedy = words_of(fault)
    return InputError(where, problem + more, remedy)


def _place(location: tuple[int | str, ...]) -> str:
    """("blocks", 2, "breath", "rounds") as blocks[2] rounds; the union's own tag is left out."""
    words: list[str] = []
    for before, part in zip((None, *location), location):
        if isinstance(part, int):
            words[-1] += f"[{part}]"
        elif not isinstance(before, int) or part not in ("talk", "rest", "breath", "strokes"):
            words.append(part)
    return " ".join(words)


def _block_title(location: tuple[int | str, ...], raw: dict[str, Any]) -> str:
    if len(location) > 1 and location[0] == "blocks" and isinstance(location[1], int):
        with contextlib.suppress(LookupError, AttributeError, TypeError):
            block = raw["blocks"][location[1]]
            return f' ("{str(block.get("title") or block["id"])[:60]}")'
    return ""


def session_text(session: Session) -> str:
    """The session as the file's text. Fields at their default are written too: the file stands by itself."""
    data = session.model_dump(mode="json")
    return json.dumps(data, ensure_ascii=False, indent=1) + "\n"


def save_session(session: Session, path: Path, expected: str | None = None) -> str:
    """Write a session file whole or not at all, see `write_whole`.

    Args:
        expected: the sum the file must still have, "" for none there; None: whatever stands there is replaced.

    Returns:
        the sum of what was written.

    Raises:
        FileChanged: another program has written the file; nothing is overwritten.
        InputError: the place cannot be written, or the session could not be opened again; the old file is intact.
    """
    data = session_text(session).encode()
    if len(data) > MAX_FILE_BYTES:
        size, most = (f"{n / 1e6:.0f} MB" for n in (len(data), MAX_FILE_BYTES))
        raise InputError(str(path), f"would be {size}, and a session file holds {most}", "make two sessions of it")
    sweep_parts(path.parent)
    write_whole(path, data, expected)
    return digest_of(data)


def schema() -> dict[str, Any]:
    """The published JSON Schema (2020-12) of the session file."""
    schema_ = Session.model_json_schema(mode="validation")
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema_}
