"""Files that hold a script, as one plain text: text and Markdown, DOCX, ODT, subtitles with their times."""

import io
import re
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from nafas.errors import InputError
from nafas.files import read_whole
from nafas.script.model.sentences import whole_letters
from nafas.script.model.session import MAX_TEXT
from nafas.tables import decoded

ENDINGS = (".txt", ".md", ".markdown", ".text", ".docx", ".odt", ".srt", ".vtt")
_LARGEST, _UNPACKED = 30_000_000, 200_000_000  # bytes
_WORD = "{http://schemas.openxmlformats.org/wordprocessingml/2006/main}%s"
_MARKS = {
    _WORD % "footnoteReference": "footnote",
    _WORD % "endnoteReference": "endnote",
    _WORD % "commentReference": "comment",
}
_ODT = "{urn:oasis:names:tc:opendocument:xmlns:%s:1.0}%s"
_ASIDE = (_ODT % ("office", "annotation"), _ODT % ("text", "note"))


def read_text_file(path: Path) -> str:
    """The text of a file: headings of a document are written `## heading`, rows of a table `| a | b |`, items of a
    list `- item`, footnotes and comments `[note: words]` after their paragraph, subtitles `[0:12.5 - 0:15.0] words`.

    Raises:
        InputError: it cannot be read, is of another kind, holds no text, or more than a session can.
    """
    data = read_whole(path, _LARGEST)
    if data.startswith(b"PK\x03\x04"):
        text = _packed(data, path)
    elif b"\0" in data[:4096] and not data.startswith((b"\xff\xfe", b"\xfe\xff")):
        raise InputError(str(path), "is no text", f"choose a text, or a document ({', '.join(ENDINGS)})")
    else:
        text = decoded(data)
        if path.suffix.lower() in (".srt", ".vtt"):
            text = _subtitles(text, path)
    text = whole_letters(text).replace("\r\n", "\n").replace("\r", "\n").lstrip("\ufeff")
    if len(text) > MAX_TEXT:
        raise InputError(str(path), f"holds {len(text):,} letters", f"keep a script within {MAX_TEXT:,}")
    if not text.strip():
        raise InputError(str(path), "holds no text", "choose another file")
    return text


def _packed(data: bytes, path: Path) -> str:
    """A document in a zip file: DOCX or ODT, by what is in it."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            if sum(part.file_size for part in packed.infolist()) > _UNPACKED:
                raise InputError(str(path), "unpacks to more than 200 MB", "save it as plain text")
            names = set(packed.namelist())
            read: Callable[[zipfile.ZipFile, bytes], Iterator[str]]
            if "word/document.xml" in names:
                read = _docx
            elif "content.xml" in names:
                read = _odt
            else:
                raise InputError(str(path), "is no document with text", "save it as DOCX, ODT or plain text")
            return "\n".join(read(packed, data))
    except InputError:
        raise
    except Exception as error:  # what the readers of a broken zip or XML raise is not one family
        problem = f"cannot be read ({type(error).__name__}: {str(error)[:80]})"
        raise InputError(str(path), problem, "save it again in a word processor, or as plain text") from None


def _docx(packed: zipfile.ZipFile, data: bytes) -> Iterator[str]:
    from docx import Document
    from docx.table import Table

    notes = _docx_notes(packed)
    for part in Document(io.BytesIO(data)).iter_inner_content():
        if isinstance(part, Table):
            for row in part.rows:
                cells: list[Any] = []
                for cell in row.cells:  # a merged cell comes once for each place it covers
                    if not cells or cell._tc is not cells[-1]._tc:
                        cells.append(cell)
                yield _row(" ".join(cell.text.split()) for cell in cells)
            yield ""
            yield from _docx_asides(part._tbl, notes)
            continue
        style = (part.style.name or "") if part.style is not None else ""
        yield from _paragraph(part.text, _level(style), style.startswith("List") or _is_listed(part))
        yield from _docx_asides(part._p, notes)


def _docx_asides(element: Any, notes: dict[tuple[Any, Any], str]) -> Iterator[str]:
    return (_note(notes.get((mark.tag, mark.get(_WORD % "id")), "")) for mark in element.iter(*_MARKS))


def _docx_notes(packed: zipfile.ZipFile) -> dict[tuple[Any, Any], str]:
    """The words of every footnote, endnote and comment, by the mark that stands for it in the text."""
    from lxml import etree

    parser = etree.XMLParser(resolve_entities=False, no_network=True)
    notes = {}
    for mark, kind in _MARKS.items():
        name = f"word/{kind}s.xml"
        root = etree.fromstring(packed.read(name), parser) if name in packed.namelist() else ()
        for each in root:
            paragraphs = ("".join(part.text or "" for part in p.iter(_WORD % "t")) for p in each.iter(_WORD % "p"))
            notes[mark, each.get(_WORD % "id")] = " ".join(paragraphs)
    return notes


def _note(words: str) -> str:
    """Words that do not belong to what is said, as a note in the script; "" for none."""
    words = " ".join(words.replace("[", "(").replace("]", ")").split())
    return f"[note: {words}]\n" if words else ""


def _is_listed(paragraph: Any) -> bool:
    properties = paragraph._p.pPr
    return properties is not None and properties.numPr is not None


def _level(style: str) -> int:
    """1 for a title, 2 and more for headings, 0 for text."""
    number = re.fullmatch(r"heading (\d)", style, re.IGNORECASE)
    return 1 if style.lower() == "title" else int(number.group(1)) + 1 if number else 0


def _odt(packed: zipfile.ZipFile, data: bytes) -> Iterator[str]:
    from lxml import etree

    parser = etree.XMLParser(resolve_entities=False, no_network=True)
    root = etree.fromstring(packed.read("content.xml"), parser)
    named = {
        style.get(_ODT % ("style", "name")): style.get(_ODT % ("style", "parent-style-name"))
        for style in root.iter(_ODT % ("style", "style"))
    }
    waiting: list[str] = []
    for part in root.iter(*(_ODT % name for name in (("text", "p"), ("text", "h"), ("table", "table-row")))):
        above = {parent.tag for parent in part.iterancestors()}
        if above & {_ODT % ("table", "table-row"), *_ASIDE}:
            continue
        if part.tag == _ODT % ("table", "table-row"):
            yield _row(" ".join(_odt_text(cell).split()) for cell in part)
            waiting += _odt_asides(part)  # a table is not divided
            continue
        yield from waiting
        style = part.get(_ODT % ("text", "style-name")) or ""
        title = "Title" in (style, named.get(style))
        level = int(part.get(_ODT % ("text", "outline-level")) or 1) + 1 if part.tag.endswith("}h") else int(title)
        yield from _paragraph(_odt_text(part), level, _ODT % ("text", "list-item") in above)
        waiting = _odt_asides(part)
    yield from waiting


def _odt_asides(part: Any) -> list[str]:
    return [_note(" ".join(_odt_text(p) for p in each.iter(_ODT % ("text", "p")))) for each in part.iter(*_ASIDE)]


def _odt_text(part: Any) -> str:
    """The letters of an element, with the spaces and breaks that ODT writes as elements, but for notes."""
    if part.tag in _ASIDE:
        return ""
    space = {"s": " " * min(100, int(part.get(_ODT % ("text", "c")) or 1)), "tab": "\t", "line-break": "\n"}
    words = space.get(str(part.tag).rpartition("}")[2], "") + (part.text or "")
    return words + "".join(_odt_text(child) + (child.tail or "") for child in part)


def _paragraph(text: str, level: int, listed: bool) -> Iterator[str]:
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if level:
        yield f"{'#' * min(6, level)} {' '.join(lines)}" if lines else ""
    for line in () if level else lines:
        yield f"- {line}" if listed else line
    if not listed:
        yield ""


def _row(cells: Iterator[str]) -> str:
    return f"| {' | '.join(cells)} |"


def _subtitles(text: str, path: Path) -> str:
    import pysubs2

    try:
        subtitles = pysubs2.SSAFile.from_string(text, format_=path.suffix.lower().lstrip("."))
    except Exception as error:  # whatever a broken file makes its reader raise
        raise InputError(str(path), f"holds no subtitles ({str(error)[:80]})", "choose an SRT or VTT file") from None
    return "\n".join(
        f"[{_clock(each.start)} - {_clock(each.end)}] {' '.join(each.plaintext.split())}"
        for each in sorted(subtitles, key=lambda each: each.start)
        if each.plaintext.strip()
    )


def _clock(milliseconds: int) -> str:
    minutes, rest = divmod(milliseconds, 60_000)
    return f"{minutes}:{rest // 1000:02}.{rest % 1000:03}"
