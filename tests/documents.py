"""Word processors' files, made for the tests by others' writers where there is one."""

import io
import zipfile
from xml.sax.saxutils import escape


def docx_bytes(text: str) -> bytes:
    """A DOCX by python-docx: `# ` is its title, `## ` a heading, `- ` a list item, `| a | b |` a row, `^` a comment."""
    from docx import Document

    document = Document()
    rows: list[list[str]] = []
    for line in [*text.split("\n"), ""]:
        if line.startswith("|"):
            rows.append([cell.strip() for cell in line.strip("|").split("|")])
            continue
        if rows:
            table = document.add_table(len(rows), len(rows[0]))
            for row, cells in zip(table.rows, rows):
                for cell, words in zip(row.cells, cells):
                    cell.text = words
            rows = []
        if line.startswith("# "):
            document.add_heading(line[2:], 0)
        elif line.startswith("## "):
            document.add_heading(line[3:], 1)
        elif line.startswith("- "):
            document.add_paragraph(line[2:], style="List Bullet")
        elif line.strip():
            words, _, aside = line.partition("^")
            paragraph = document.add_paragraph(words)
            if aside:
                document.add_comment(paragraph.runs, aside, "A reader")
    out = io.BytesIO()
    document.save(out)
    return out.getvalue()


def odt_bytes(text: str) -> bytes:
    """An ODT with the same marks (`^` is a footnote), its elements as OpenDocument 1.3 names them (OASIS, part 3,
    sections 5, 6 and 9)."""
    body = ""
    for line in text.split("\n"):
        words = escape(line.lstrip("#- ")).replace("  ", "<text:s text:c='2'/>")
        if line.startswith("# "):
            body += f"<text:p text:style-name='Title'>{words}</text:p>"
        elif line.startswith("## "):
            body += f"<text:h text:outline-level='1'>{words}</text:h>"
        elif line.startswith("- "):
            body += f"<text:list><text:list-item><text:p>{words}</text:p></text:list-item></text:list>"
        elif line.startswith("|"):
            cells = "".join(
                f"<table:table-cell><text:p>{escape(cell.strip())}</text:p></table:table-cell>"
                for cell in line.strip("|").split("|")
            )
            body += f"<table:table><table:table-row>{cells}</table:table-row></table:table>"
        elif line.strip():
            words, _, aside = words.partition("^")
            note = f"<text:note><text:note-citation>1</text:note-citation><text:note-body><text:p>{aside}</text:p>"
            note = f"{note}</text:note-body></text:note>" if aside else ""
            body += f"<text:p>{words[:4]}{note}{words[4:]}</text:p>"
    spaces = ("office", "text", "table", "style")
    names = " ".join(f"xmlns:{name}='urn:oasis:names:tc:opendocument:xmlns:{name}:1.0'" for name in spaces)
    content = f"<office:body><office:text>{body}</office:text></office:body>"
    content = f"<office:document-content {names}>{content}</office:document-content>"
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as packed:
        packed.writestr("mimetype", "application/vnd.oasis.opendocument.text")
        packed.writestr("content.xml", content)
    return out.getvalue()
