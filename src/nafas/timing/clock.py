"""Lengths and places as people read them: 5:55, 1:02:03, 0:07.5."""

import re
from fractions import Fraction

from nafas.script.model.exact import parse_seconds
from nafas.script.model.session import MAX_SESSION


def clock(seconds: Fraction | float, tenths: bool = False) -> str:
    """m:ss, or h:mm:ss from an hour on; rounded to whole seconds, or to tenths."""
    sign = "−" if seconds < 0 else ""
    size = abs(Fraction(seconds))
    units = int(size * 10 + Fraction(1, 2)) if tenths else int(size + Fraction(1, 2)) * 10
    whole, tenth = divmod(units, 10)
    minutes, second = divmod(whole, 60)
    hours, minute = divmod(minutes, 60)
    text = f"{hours}:{minute:02}:{second:02}" if hours else f"{minute}:{second:02}"
    return sign + (f"{text}.{tenth}" if tenths else text)


def tick_step(length: float, most: int) -> int:
    """Whole seconds between the marks of a time axis, so that no more than about `most` stand on it."""
    return next((step for step in (10, 15, 30, 60, 120, 300, 600, 900, 1800) if length / step <= most), 3600)


MINUTES = 60
_UNITED = re.compile(
    r"(?:(\d+(?:\.\d+)?)\s*(?:h|hr|hrs|hours?))?\s*(?:(\d+(?:\.\d+)?)\s*(?:m|min|mins|minutes?))?\s*"
    r"(?:(\d+(?:\.\d+)?)\s*(?:s|sec|secs|seconds?))?"
)
_CLOCK = re.compile(r"(?:(\d+):)?(\d+):(\d\d?(?:\.\d+)?)")


def parse_length(text: str) -> Fraction:
    """Exact seconds of a session's length as a person writes one: as `parse_clock`, but a bare number up to `MINUTES`
    is minutes.

    Raises:
        ValueError: it is no length, or none that a session can have.
    """
    bare = re.fullmatch(r"\s*\d{1,2}(?:[.,]\d+)?\s*", text)
    seconds = parse_clock(text)
    if bare is not None and seconds <= MINUTES:
        seconds *= 60
    if not 0 < seconds <= MAX_SESSION:
        raise ValueError("a session lasts up to 4 hours; write minutes and seconds such as 12:00")
    return seconds


def parse_clock(text: str) -> Fraction:
    """Exact seconds from "12:00", "1:02:03", "90", "90.5", or with units: "12 min", "1,5 min", "1 h 30 min", "90 s".

    Raises:
        ValueError: with what to write instead.
    """
    text = text.strip()
    if (united := _UNITED.fullmatch(text.lower().replace(",", "."))) is not None and any(united.groups()):
        return sum((parse_seconds(n) * unit for n, unit in zip(united.groups(), (3600, 60, 1)) if n), Fraction(0))
    match = _CLOCK.fullmatch(text)
    if match is None:
        try:
            return parse_seconds(text.removesuffix("s").strip())
        except ValueError:
            raise ValueError(f"{text[:20]!r} is no length; write minutes and seconds such as 12:00") from None
    hours, minutes, seconds = match.groups()
    return parse_seconds(seconds) + 60 * int(minutes) + 3600 * int(hours or 0)
