"""An entry of the ledger in words: in a line of the table, and at length."""

from datetime import UTC, datetime
from pathlib import Path

from nafas.errors import InputError
from nafas.ledger.entries import Entry, before_it, changed_since
from nafas.plain_text import pluralize, short_path

_MOST_FILES = 12


def when(entry: Entry) -> str:
    """Day and time, as the clock stood where it was made; the year where it is not this one."""
    try:
        moment = datetime.fromisoformat(entry.moment)
        year = "" if moment.year == datetime.now(UTC).astimezone().year else " %Y"
        return moment.strftime(f"%d %b{year}, %H:%M")
    except ValueError:
        return entry.moment


def in_a_line(entry: Entry) -> list[str]:
    """When, what, session, and what came of it."""
    about = f" of {entry.about}" if entry.about is not None else ""
    variant = f" ({entry.data['variant']})" if entry.data.get("variant") else ""
    return [when(entry), f"{entry.kind.value}{about}", f"{entry.title}{variant}", _came(entry)]


def _came(entry: Entry) -> str:
    if entry.words:
        return entry.words
    text = []
    if entry.files:
        only = len(entry.files) == 1
        text.append(Path(entry.files[0]["path"]).name if only else pluralize(len(entry.files), "file"))
    loud = next((file["loudness"] for file in entry.files if file["loudness"] is not None), None)
    if loud is not None:
        text.append(f"{loud:.1f} LUFS".replace("-", "\N{MINUS SIGN}"))
    proofs = [file["proof"] for file in entry.files if file["proof"] is not None]
    if proofs:
        text.append("proof holds" if all(proofs) else "A PROOF DOES NOT HOLD")
    felt = [str(entry.data.get(key) or "") for key in ("before", "after")]
    if any(felt):
        text.append(f"felt {felt[0] or 'not said'}, then {felt[1] or 'not said'}")
    return ", ".join(text)


def about_entry(entry: Entry) -> str:
    """All that is known of it, a paragraph each."""
    parts = [f"{entry.title}\n{when(entry)}"]
    if entry.words:
        parts.append(entry.words)
    try:
        before = before_it(entry) if entry.version else None
        if before is not None:
            lines = changed_since(before, entry)
            text = "\n".join(f"• {line}" for line in lines) or "• nothing"
            parts.append(f"Changed since {when(before)} ({before.id}):\n{text}")
    except InputError as error:
        parts.append(str(error))
    files = []
    for file in entry.files[:_MOST_FILES]:
        loud = "" if file["loudness"] is None else f", {file['loudness']:.1f} LUFS".replace("-", "\N{MINUS SIGN}")
        held = {None: "", 1: ", proof holds", 0: ", proof does not hold"}[file["proof"]]
        files.append(f"{Path(file['path']).name}{loud}{held}")
    if len(entry.files) > _MOST_FILES:
        files.append(f"and {pluralize(len(entry.files) - _MOST_FILES, 'more file', 'more files')}")
    if files:
        parts.append(f"{short_path(Path(entry.files[0]['path']).parent)}\n" + "\n".join(files))
    for key, head in (("let_stand", "Delivered anyway, with:"), ("set_aside", "Ignored:")):
        findings = entry.data.get(key, [])
        if findings:
            parts.append(f"{head}\n" + "\n".join(f"• {each}" for each in findings[:6]))
    felt = [str(entry.data.get(key) or "") for key in ("before", "after")]
    if any(felt):
        parts.append(f"Felt {felt[0] or 'not said'} before, {felt[1] or 'not said'} after.")
    return "\n\n".join(parts)
