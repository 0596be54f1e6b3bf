"""The session sheet on paper: a PDF a person can read a session aloud from."""

from html import escape
from pathlib import Path

from nafas.drawing.paper.print_page import STYLE, print_page
from nafas.languages import handed
from nafas.script.words.cautions import CAUTIONS, caution_words, cautions_for
from nafas.timing import Timeline
from nafas.timing.clock import clock
from nafas.timing.sheet import sheet

_CLASS = {"block": "block", "talk": "talk", "about": "fact", "rounds": "rounds", "words": "words"}


def sheet_html(timeline: Timeline) -> str:
    """The sheet as a page of simple HTML."""
    session, words = timeline.session, handed(timeline.session.language)
    rows = []
    for line in sheet(timeline):
        time = clock(line.at) if line.at is not None else ""
        gap = '<tr><td colspan="2">&nbsp;</td></tr>' if line.kind == "block" else ""
        cells = f'<td class="time" align="right">{time}</td><td class="{_CLASS[line.kind]}">{escape(line.text)}</td>'
        rows.append(f"{gap}<tr>{cells}</tr>")
    asked = {key for block in session.blocks for key in cautions_for(block)}
    keys = tuple(key for key in CAUTIONS if key == "every" or key in asked)
    cautions = " ".join(map(escape, caution_words(keys, session.language)))
    return (
        f"<html><head><style>{STYLE}</style></head><body><h1>{escape(session.title or words['untitled'])}</h1>"
        f'<p class="about">{words["long"].format(length=clock(timeline.length))} {escape(words["keep"])} {cautions}</p>'
        f'<table width="100%">{"".join(rows)}</table></body></html>'
    )


def print_sheet(timeline: Timeline, path: Path) -> None:
    """Write the sheet as an A4 PDF, whole or not at all. Raises InputError."""
    print_page(sheet_html(timeline), timeline.session.title, path, language=timeline.session.language)
