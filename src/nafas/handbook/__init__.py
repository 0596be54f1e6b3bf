"""The handbook: one page of Markdown for each thing one does, shipped with the program, searched without a network."""

import re
from dataclasses import dataclass
from functools import cache
from pathlib import Path

PAGES = (
    "tour", "notation", "scripts", "takes", "sound", "rehearse", "review", "deliver", "proof", "ledger", "series",
    "commands", "desktop", "reliability", "words",
)  # fmt: skip
"""The pages by the names of their files, in the order of the work."""
_FOLDER = Path(__file__).parent
_PICTURE = re.compile(r"!?\[[^\]]*\]\([^)]*\.png\)[,.]?\n?")


@dataclass(frozen=True)
class Place:
    """Where words stand.

    Attributes:
        page, heading: the page's name and the heading they stand under.
        line: the text around them, without marks.
    """

    page: str
    heading: str
    line: str


@cache
def page(name: str) -> str:
    """One of `PAGES` in Markdown, without its pictures: they are no part of the installed program."""
    text = _PICTURE.sub("", (_FOLDER / f"{name}.md").read_text("utf-8"))
    return re.sub(r"^Pictures:.*$", "", text, flags=re.MULTILINE)


def title(name: str) -> str:
    """What a page is about: its heading up to what is said of keys and commands."""
    return re.split(r"[:(]", _plain(page(name).partition("\n")[0]))[0].strip()


def search(words: str) -> list[Place]:
    """The chapters with all of these words, in any case, those first that are about them, each with the paragraph that
    has most of them. [] for no words."""
    wanted = words.casefold().split()

    def held(text: str) -> int:
        return sum(word in text.casefold() for word in wanted)

    places = []
    for name in PAGES if wanted else ():
        for chapter in re.split(r"^(?=#)", page(name), flags=re.MULTILINE):
            parts = [_plain(part) for part in _paragraphs(chapter)]
            if parts and held(" ".join(parts)) == len(wanted):
                best = max(parts, key=held)
                places.append(Place(name, parts[0], _around(best, next(w for w in wanted if w in best.casefold()))))
    return sorted(places, key=lambda place: held(place.heading) < len(wanted))


def _paragraphs(text: str) -> list[str]:
    """Headings, paragraphs, items of lists and rows of tables, each on one line."""
    parts = re.split(r"\n\s*\n|\n(?=\s*(?:[-*]|\d+\.|\||#)\s*)", text)
    return [" ".join(part.split()) for part in parts if part.strip(" \n|-:")]


def _plain(part: str) -> str:
    """Without the marks of Markdown."""
    part = re.sub(r"\[([^\]]*)\]\([^)]*\)", r"\1", part)
    return re.sub(r"[*`#]+", "", part.replace("|", " ")).strip()


def _around(plain: str, word: str, most: int = 140) -> str:
    """A part of a long text with the word in it."""
    at = max(0, plain.casefold().find(word) - 40)
    cut = plain[at : at + most]
    return ("…" if at else "") + cut + ("…" if at + most < len(plain) else "")
