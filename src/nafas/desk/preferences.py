"""What a person chose once, for every session and every start: in the desktop's own store of settings."""

import locale
from enum import StrEnum

from PySide6.QtCore import QByteArray, QSettings

from nafas.languages import LANGUAGES

TEXT_SIZES = (100, 110, 125, 150, 175, 200)
"""Per cent of the usual size of text, and of all that is drawn."""
LEAST_WIDTH, LEAST_HEIGHT = 900, 480
"""px of the window, before text is made larger."""


class Colours(StrEnum):
    """Whose colours the window has."""

    SYSTEM = "system"
    DAY = "day"
    NIGHT = "night"


def colours() -> Colours:
    """The colours that were chosen; the desktop's before that."""
    chosen = _store().value("night")
    if chosen is None:
        return Colours.SYSTEM
    return Colours.NIGHT if str(chosen).lower() == "true" else Colours.DAY


def choose_colours(chosen: Colours) -> None:
    if chosen is Colours.SYSTEM:
        _store().remove("night")
    else:
        _store().setValue("night", chosen is Colours.NIGHT)


def text_size() -> int:
    """One of `TEXT_SIZES`."""
    kept = str(_store().value("text size", 100))
    return int(kept) if kept.isdecimal() and int(kept) in TEXT_SIZES else 100


def fitting_sizes(width: int, height: int, in_use: int) -> list[int]:
    """The text sizes with which the window still fits a screen, and the one in use.

    Args:
        width, height: of the screen in px as they are now, scaled by the size in use.
        in_use: per cent.
    """
    return [
        size
        for size in TEXT_SIZES
        if size in (100, in_use) or (width * in_use / size >= LEAST_WIDTH and height * in_use / size >= LEAST_HEIGHT)
    ]


def choose_text_size(per_cent: int) -> None:
    """For the next start: Qt asks for its scale before the first window."""
    _store().setValue("text size", per_cent)


def output() -> str:
    """The device that plays, by its name; "" for the usual one."""
    return str(_store().value("output", ""))


def choose_output(name: str) -> None:
    """Play to a device from the next sound on, and the next time too."""
    _store().setValue("output", name)


def chosen_language() -> str:
    """The language in which new sessions begin, as it was chosen; "" for that of the system."""
    kept = str(_store().value("new language", ""))
    return kept if kept in LANGUAGES else ""


def choose_language(code: str) -> None:
    _store().setValue("new language", code)


def new_language() -> str:
    """The language in which a new session begins: as chosen, else the system's where it has words, else English."""
    system = (locale.getlocale()[0] or "").partition("_")[0]
    return chosen_language() or (system if system in LANGUAGES else "en")


def less_motion() -> bool:
    """Whether the guide's rows change at once."""
    return str(_store().value("less motion", "false")).lower() == "true"


def choose_less_motion(less: bool) -> None:
    _store().setValue("less motion", less)


def delivery_names(usual: str) -> str:
    """How the files of a delivery are called."""
    return str(_store().value("delivery names", usual))


def choose_delivery_names(names: str) -> None:
    _store().setValue("delivery names", names)


def tour_seen() -> bool:
    """Whether the tour has begun once."""
    return _store().contains("tour seen")


def note_tour_seen() -> None:
    _store().setValue("tour seen", True)


def layout(name: str) -> QByteArray:
    """What Qt kept of the size and place of a part of the window; empty before that."""
    kept = _store().value(f"layout/{name}")
    return kept if isinstance(kept, QByteArray) else QByteArray()


def keep_layout(name: str, state: QByteArray) -> None:
    _store().setValue(f"layout/{name}", state)


def _store() -> QSettings:
    return QSettings("nafas", "nafas")
