"""The session sheet on paper: a PDF a person can read a session aloud from."""

from html import escape
from pathlib import Path

from PySide6.QtCore import QMarginsF, QSizeF
from PySide6.QtGui import QPageLayout, QPageSize, QPdfWriter, QTextDocument

from nafas.desk.theme import FAMILY, font
from nafas.errors import InputError
from nafas.script.cautions import CAUTIONS, caution_words, cautions_for
from nafas.script.file import write_whole
from nafas.timing import Timeline
from nafas.timing.clock import clock
from nafas.timing.sheet import sheet

_STYLE = f"""
body {{ font-family: {FAMILY}; color: black; }}
h1 {{ font-size: 20pt; font-weight: 600; margin-bottom: 0; }}
p.about {{ color: #444; font-size: 10pt; }}
td {{ padding: 2px 0 2px 0; vertical-align: top; }}
td.time {{ color: #444; font-size: 9.5pt; padding-right: 14px; }}
.block {{ font-size: 13pt; font-weight: 600; }}
.talk {{ font-size: 13pt; }}
.fact, .rounds {{ font-size: 10pt; color: #333; }}
.words {{ font-size: 11.5pt; }}
"""
_CLASS = {"block": "block", "talk": "talk", "about": "fact", "rounds": "rounds", "words": "words"}


def sheet_html(timeline: Timeline) -> str:
    """The sheet as a page of simple HTML."""
    session = timeline.session
    rows = []
    for line in sheet(timeline):
        time = clock(line.at) if line.at is not None else ""
        gap = '<tr><td colspan="2">&nbsp;</td></tr>' if line.kind == "block" else ""
        cells = f'<td class="time" align="right">{time}</td><td class="{_CLASS[line.kind]}">{escape(line.text)}</td>'
        rows.append(f"{gap}<tr>{cells}</tr>")
    asked = {key for block in session.blocks for key in cautions_for(block)}
    keys = tuple(key for key in CAUTIONS if key == "every" or key in asked)
    cautions = " ".join(map(escape, caution_words(keys)))
    return (
        f"<html><head><style>{_STYLE}</style></head><body><h1>{escape(session.title or 'Untitled session')}</h1>"
        f'<p class="about">{clock(timeline.length)} long. Cautions to keep in mind: {cautions}</p>'
        f'<table width="100%">{"".join(rows)}</table></body></html>'
    )


def print_sheet(timeline: Timeline, path: Path) -> None:
    """Write the sheet as an A4 PDF, whole or not at all. Raises InputError."""
    import tempfile

    with tempfile.TemporaryDirectory() as folder:
        made = Path(folder) / "sheet.pdf"
        writer = QPdfWriter(str(made))
        writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
        writer.setPageMargins(QMarginsF(20, 18, 20, 18), QPageLayout.Unit.Millimeter)
        writer.setTitle(timeline.session.title)
        document = QTextDocument()
        document.setDefaultFont(font(11))
        document.documentLayout().setPaintDevice(writer)
        document.setPageSize(QSizeF(writer.width(), writer.height()))
        document.setHtml(sheet_html(timeline))
        document.print_(writer)
        del writer
        try:
            data = made.read_bytes()
        except OSError as error:
            raise InputError(str(path), f"cannot be printed ({error.strerror})", "free some space") from None
    write_whole(path, data)
