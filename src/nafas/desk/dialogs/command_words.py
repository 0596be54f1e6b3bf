"""Commands found by what a person types: their own words, other words for the same, and small misspellings."""

import difflib
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu, QMenuBar

_LIKE = 0.75
"""How alike a misspelled word has to be (difflib's ratio; our own)."""
_OTHER_WORDS = {
    "Render": "export bounce mixdown write wav mp3 flac audio file make",
    "Deliver": "publish podcast hand over share video captions chapters release",
    "Save": "keep store",
    "Save as text": "script translate translator word plain",
    "Open a script": "import paste docx odt word text transcript",
    "Review a recording": "audit check listen inspect file judge",
    "Review": "check findings problems errors cautions safety",
    "Record line by line": "microphone take voice mic",
    "Perform the session": "prompter teleprompter microphone live record",
    "Import a recording or clips": "cut split takes voice files add",
    "Sound": "music bed background volume loudness mix chimes level duck",
    "Plan": "arc outline template start length time",
    "Score": "page script edit words",
    "Takes": "voice recordings clips",
    "Rehearse": "practise practice guide breathe along preview",
    "Ledger": "history versions renders log record",
    "Fit to a length": "duration time stretch shorten exact minutes",
    "Night colours": "dark theme mode black",
    "Type a breath": "add set pattern notation quick entry box",
    "Add natural breath": "rest pause silence break",
    "Add talk": "words sentence text speech",
    "Play a recording": "add chant prayer jingle bell clip sound effect sample audio insert",
    "Remove block": "delete erase",
    "Lock or unlock": "protect freeze fix",
    "Find": "search words",
    "Session details": "settings language voice narrator title",
    "Choose a take book": "voice recordings folder",
    "Cautions": "safety warning medical health",
    "Keys": "shortcuts keyboard",
    "Show as a list": "screen reader blind accessible read aloud text view",
    "Undo": "back revert",
    "Zoom in": "bigger larger",
    "Zoom out": "smaller",
    "Loop selection": "repeat cycle over and over",
    "Show the log folder": "errors bug report crash",
    "Ways to begin": "welcome start demo example",
    "Tour of six steps": "learn introduction first demo example guide help",
    "Handbook": "help manual documentation docs guide how",
    "Preferences": "settings options text size font zoom scale colours device language motion",
    "Left panel": "fold hide show sidebar running order",
    "Right panel": "fold hide show sidebar details",
}
"""Other words for a command, by its own; next to `Menus`, where a command is added."""


@dataclass(frozen=True)
class Command:
    """A command of the menus: its menu and its text for people, its keys, other words for it."""

    action: QAction
    menu: str
    text: str
    keys: str
    others: str = ""


def commands_of(bar: QMenuBar) -> list[Command]:
    """Every command of a menu bar, in order; what a menu fills in when it is shown is filled in."""
    found: list[Command] = []
    for top in bar.actions():
        menu = top.menu()
        if isinstance(menu, QMenu):
            found += _commands(menu, _plain(top.text()))
    return found


def _commands(menu: QMenu, path: str) -> Iterator[Command]:
    menu.aboutToShow.emit()
    for action in menu.actions():
        inner, text = action.menu(), _plain(action.text())
        if isinstance(inner, QMenu):
            yield from _commands(inner, f"{path} \N{SINGLE RIGHT-POINTING ANGLE QUOTATION MARK} {text}")
        elif not action.isSeparator():
            others = next((words for name, words in _OTHER_WORDS.items() if text == name), "")
            yield Command(action, path, text, action.shortcut().toString(), others)


def _plain(text: str) -> str:
    return text.replace("&&", "\0").replace("&", "").replace("\0", "&").rstrip("…")


def found_commands(typed: str, commands: Sequence[Command]) -> list[Command]:
    """The commands that all typed words fit, the best first; all of them for nothing typed."""
    wanted = re.findall(r"\w+", typed.lower())
    scored = [(sum(scores), number) for number, each in enumerate(commands) if all(scores := _scores(wanted, each))]
    return [commands[number] for _, number in sorted(scored, key=lambda one: (-one[0], one[1]))]


def _scores(wanted: Sequence[str], command: Command) -> list[float]:
    """How well each word fits a command; 0 for one that does not."""
    own, menu, others = (re.findall(r"\w+", each.lower()) for each in (command.text, command.menu, command.others))
    return [max(_fit(word, own, 4), _fit(word, others, 2), _fit(word, menu, 1)) for word in wanted]


def _fit(word: str, among: Sequence[str], weight: float) -> float:
    if word in among:
        return weight
    if any(each.startswith(word) for each in among):
        return 0.8 * weight
    alike = [each for each in among if each[0] == word[0]]  # misspelled words mostly begin as they should
    near = difflib.get_close_matches(word, alike, 1, _LIKE) if len(word) > 3 else []
    return 0.4 * weight if near else 0.0
