"""A page of simple HTML on paper: an A4 PDF, written whole or not at all."""

import re
import tempfile
from collections.abc import Mapping
from pathlib import Path

from PySide6.QtCore import QMarginsF, QSizeF, QUrl
from PySide6.QtGui import QImage, QPageLayout, QPageSize, QPdfWriter, QTextDocument

from nafas.drawing.theme import FAMILY, paper_font
from nafas.errors import InputError
from nafas.files import write_whole

STYLE = f"""
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


def print_page(
    html: str, title: str, path: Path, images: Mapping[str, QImage] | None = None, language: str = "en"
) -> None:
    """Write a page as an A4 PDF, whole or not at all.

    Args:
        html: the page.
        title: of the document.
        path: of the file.
        images: by the names that the page calls them.
        language: of its words, for those who have it read aloud.

    Raises:
        InputError: it cannot be written.
    """
    with tempfile.TemporaryDirectory() as folder:
        made = Path(folder) / "sheet.pdf"
        writer = QPdfWriter(str(made))
        writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
        writer.setPageMargins(QMarginsF(20, 18, 20, 18), QPageLayout.Unit.Millimeter)
        writer.setTitle(title)
        document = QTextDocument()
        document.setDefaultFont(paper_font(11))
        document.documentLayout().setPaintDevice(writer)
        document.setPageSize(QSizeF(writer.width(), writer.height()))
        for name, image in (images or {}).items():
            document.addResource(QTextDocument.ResourceType.ImageResource, QUrl(name), image)
        document.setHtml(html)
        document.print_(writer)
        del writer
        try:
            data = made.read_bytes()
        except OSError as error:
            raise InputError(str(path), f"cannot be printed ({error.strerror})", "free some space") from None
    write_whole(path, _in_language(data, language))


def _in_language(data: bytes, language: str) -> bytes:
    """A PDF with its language in its catalogue, which Qt leaves out: an update is added at the end of the file, as ISO
    32000-1, 7.5.6 has it."""
    catalogue = re.search(rb"(\d+) 0 obj\s*<<(\s*/Type /Catalog.*?)>>\s*endobj", data, re.DOTALL)
    trailer = re.search(rb"trailer\s*<<(.*?)>>\s*startxref\s*(\d+)", data, re.DOTALL)
    if catalogue is None or trailer is None:
        return data
    at, number = len(data), catalogue[1]
    entries = b"\n".join([data, number + b" 0 obj\n<<" + catalogue[2] + f"/Lang ({language})\n>>\nendobj\n".encode()])
    table = b"xref\n" + number + b" 1\n%010d 00000 n \n" % (at + 1)
    ends = b"trailer\n<<" + trailer[1] + b"/Prev " + trailer[2] + b"\n>>\nstartxref\n%d\n%%%%EOF\n" % len(entries)
    return entries + table + ends
