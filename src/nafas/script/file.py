"""The session file: one UTF-8 JSON text, `*.nafas`, read with care and written whole or not at all."""

import contextlib
import json
import os
import tempfile
from collections.abc import Callable
from decimal import Decimal
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from nafas.errors import InputError
from nafas.script.session import FORMAT, Session

MAX_FILE_BYTES = 8_000_000  # a 400-block session of long talk is under 2 MB; more is some other file


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
    try:
        if path.stat().st_size > MAX_FILE_BYTES:
            raise InputError(str(path), "too large for a session file", "choose a *.nafas file")
        data = path.read_bytes()
    except OSError as error:
        raise InputError(
            str(path), f"cannot be read ({error.strerror})", "check the name and its permissions"
        ) from None
    return parse_session(data, str(path))


def parse_session(data: bytes | str, name: str) -> Session:
    """Read a session from the bytes of a file; `name` is how errors call it. Raises InputError."""
    try:
        text = data.decode("utf-8-sig") if isinstance(data, bytes) else data
        raw = json.loads(text, parse_float=Decimal, parse_constant=_no_constant)
    except UnicodeDecodeError as error:
        raise InputError(f"{name}: byte {error.start}", "not UTF-8 text", "choose a *.nafas session file") from None
    except json.JSONDecodeError as error:
        place = f"{name}: line {error.lineno}, column {error.colno}"
        raise InputError(
            place, f"not JSON ({error.msg.lower()})", "mend the text there or choose another file"
        ) from None
    except (ValueError, RecursionError) as error:
        raise InputError(name, f"not a session ({error})", "choose a *.nafas session file") from None
    if not isinstance(raw, dict):
        raise InputError(name, "holds no session", "a session file is one JSON object with a format number")
    try:
        return Session.model_validate(_migrated(raw, name))
    except ValidationError as error:
        raise _first_fault(error, name, raw) from None


def _no_constant(word: str) -> Any:
    raise ValueError(f"{word} is no number")


def _migrated(raw: dict[str, Any], name: str) -> dict[str, Any]:
    found = raw.get("format")
    if not isinstance(found, int) or isinstance(found, bool) or found < 1:
        raise InputError(f"{name}: format", f"{_shown(found)} is no format number", f'write "format": {FORMAT}')
    if found > FORMAT:
        raise InputError(
            f"{name}: format",
            f"{found} was written by a newer Nafas (this one reads {FORMAT})",
            "update Nafas to open it",
        )
    while found < FORMAT:
        raw = MIGRATIONS[found](raw)
        found += 1
    return raw


def _shown(value: Any) -> str:
    if value is None:
        return "nothing"
    text = str(value) if isinstance(value, Decimal) else repr(value)
    return text if len(text) <= 40 else text[:37] + "..."


def _first_fault(error: ValidationError, name: str, raw: dict[str, Any]) -> InputError:
    faults = error.errors(include_url=False)
    fault = faults[0]
    place = _place(fault["loc"])
    block = _block_title(fault["loc"], raw)
    where = f"{name}: {place}{block}" if place else name
    kind, context, given = fault["type"], fault.get("ctx", {}), _shown(fault.get("input"))
    more = f" (and {len(faults) - 1} more)" if len(faults) > 1 else ""
    if kind == "extra_forbidden":
        return InputError(where, f"unknown key{more}", "remove it or check its spelling")
    if kind == "missing":
        return InputError(where, f"missing{more}", "add it")
    if kind in ("union_tag_invalid", "union_tag_not_found"):
        what = "bed" if fault["loc"][-1] in ("bed", "change") else "block"
        offered = str(context.get("expected_tags", "")).replace("'", '"')
        return InputError(f"{where} kind", f"unknown kind of {what}{more}", f"write one of {offered}")
    bounds = {"ge": "at least", "gt": "more than", "le": "at most", "lt": "less than"}
    for key, words in bounds.items():
        if key in context:
            return InputError(where, f"{given} is not allowed{more}", f"write {words} {context[key]}")
    if kind == "value_error":
        problem, _, remedy = str(context.get("error", fault["msg"])).partition("; ")
        return InputError(where, problem + more, remedy or "change it")
    problem = fault["msg"][0].lower() + fault["msg"][1:]
    return InputError(where, f"{given} does not fit{more}", problem)


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


def save_session(session: Session, path: Path) -> None:
    """Write a session file whole: a temporary file beside it, flushed to disk, then renamed over.

    Killed at any moment, either the old file or the new one stands under the name.

    Raises:
        InputError: the place cannot be written; the old file is intact.
    """
    write_whole(path, session_text(session).encode())


def write_whole(path: Path, data: bytes) -> None:
    """Write bytes to `path` whole or not at all. Raises InputError; the old file is then intact."""
    path = path.resolve() if path.is_symlink() else path  # a link stays a link
    temporary = ""
    try:
        handle, temporary = tempfile.mkstemp(prefix=f".{path.name[:60]}.", suffix=".part", dir=path.parent)
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        mode = path.stat().st_mode & 0o777 if path.exists() else 0o666 & ~_umask()
        Path(temporary).chmod(mode)
        Path(temporary).replace(path)
        _sync_folder(path.parent)
    except OSError as error:
        if temporary:
            with contextlib.suppress(OSError):
                Path(temporary).unlink()
        raise InputError(
            str(path), f"cannot be written ({error.strerror})", "choose another place or free some space"
        ) from None


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask


def _sync_folder(folder: Path) -> None:
    with contextlib.suppress(OSError):  # some file systems cannot; the rename itself is done
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def schema() -> dict[str, Any]:
    """The published JSON Schema (2020-12) of the session file."""
    found = Session.model_json_schema(mode="validation")
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **found}
