"""The call sheet as a file: a PDF to read from, a CSV table, or plain text."""

from collections.abc import Mapping, Sequence
from html import escape
from pathlib import Path

from nafas.drawing.paper.print_page import STYLE, print_page
from nafas.files import write_whole
from nafas.voice.call_sheet import HEADS, Line, LineKind, as_csv, as_text
from nafas.voice.takebook.book import TakeBook


def write_call_sheet(lines: Sequence[Line], books: Mapping[str, TakeBook | None], title: str, path: Path) -> Path:
    """Write it in the kind that its name says (PDF where it says none), whole or not at all; `books` as `as_csv`.

    Returns:
        the file written.

    Raises:
        InputError: it cannot be written.
    """
    suffix = path.suffix.lower()
    if suffix == ".csv":
        write_whole(path, as_csv(lines, books).encode())
    elif suffix == ".txt":
        write_whole(path, as_text(lines).encode())
    else:
        path = path if suffix == ".pdf" else path.with_name(f"{path.name}.pdf")
        print_page(call_sheet_html(lines, title), f"Call sheet, {title}", path)
    return path


def call_sheet_html(lines: Sequence[Line], title: str) -> str:
    """The call sheet as a page of simple HTML: grouped, in large type, with boxes to tick."""
    parts: list[str] = []
    for kind in LineKind:
        of_kind = [line for line in lines if line.kind is kind]
        if not of_kind:
            continue
        times = {line.wanted for line in of_kind}
        often = f", {max(times)} times each" if max(times) > 1 else ", once each"
        parts.append(f'<tr><td colspan="3"><br><span class="block">{HEADS[kind]}</span>{often}</td></tr>')
        for line in of_kind:
            room = "" if line.room is None else f"within {line.room:.2f} s"
            boxes = "\N{BALLOT BOX} " * line.wanted
            parts.append(
                f'<tr><td class="read">{escape(line.text)}</td><td class="time" align="right">{room}</td>'
                f'<td class="read" align="right">{boxes}</td></tr>'
            )
    style = STYLE + ".read { font-size: 15pt; } "
    return (
        f"<html><head><style>{style}</style></head><body><h1>{escape(title or 'Untitled session')}</h1>"
        f'<p class="about">Call sheet: {len(lines)} lines. Leave a pause after each; after a slip, say it again.</p>'
        f'<table width="100%">{"".join(parts)}</table></body></html>'
    )
