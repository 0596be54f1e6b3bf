"""Keys by what they give and, where a layout gives something else, by their place."""

from PySide6.QtGui import QKeyEvent

_FIRST_DIGIT = 10
"""Scan code of the key of 1 on Linux (X11 and Wayland; evdev's code and 8)."""


def digit_key(event: QKeyEvent) -> str:
    """The digit that a key of the upper row has on most layouts, "" for other keys."""
    place = event.nativeScanCode() - _FIRST_DIGIT
    return "1234567890"[place] if 0 <= place < 10 else ""


def typed_sign(event: QKeyEvent) -> str:
    """A digit, "+" or "-" as it is typed, with Shift or without; on layouts with their digits on Shift, as in French,
    the digit of the key's place. "" for all else."""
    text = event.text()
    if text in ("+", "-") or text.isdecimal():
        return text
    return digit_key(event) if text.strip() else ""
