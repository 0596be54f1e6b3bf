"""The manual page, from the same parser that `--help` is printed by."""

import argparse
import textwrap
from collections.abc import Iterator, Mapping
from datetime import date

from nafas import __version__

_FEW = 6  # values that are named where one stands for an option


def man_page(parser: argparse.ArgumentParser, day: date, exit_codes: Mapping[int, str]) -> str:
    """The page in the man macros of roff (man(7)).

    Args:
        parser: of the whole command.
        day: that stands at its foot.
        exit_codes: what each means.
    """
    lines = [
        f'.TH NAFAS 1 "{day.isoformat()}" "Nafas {__version__}" "User Commands"',
        ".SH NAME", _plain(f"nafas - {(parser.description or '').rstrip('.').lower()}"),
        ".SH SYNOPSIS", ".B nafas", r"[\fIoptions\fR] \fICOMMAND\fR ...",
        ".SH OPTIONS", *_options(parser),
        ".SH COMMANDS", *_commands(parser, "nafas"),
        ".SH EXIT STATUS",
    ]  # fmt: skip
    for code, message in exit_codes.items():
        lines += [".TP", f".B {code}", _plain(message)]
    lines += [
        ".SH FILES", ".TP", ".I *.nafas", "a session; its schema is printed by", ".BR \"nafas schema\" .",
        ".TP", ".I *.nafas-packed", "a session with all it uses in one file",
        ".TP", ".I *.nafas-series", "a table of variants of one session",
        ".SH CAUTIONS",
        "Breathing practice can hurt. Nafas measures and checks recordings; it gives no medical advice and does not "
        "replace licensed care.",
    ]  # fmt: skip
    return "\n".join(wrapped for line in lines for wrapped in _wrapped(line)) + "\n"


def _wrapped(line: str) -> list[str]:
    """A line of text in lines that no reader of the source has to scroll; requests stay whole."""
    if line.startswith("."):
        return [line.rstrip()]
    lines = textwrap.wrap(line, 78, break_long_words=False, break_on_hyphens=False)
    return [rf"\&{each}" if each[:1] in (".", "'") else each for each in lines]


def _commands(parser: argparse.ArgumentParser, above: str) -> Iterator[str]:
    for group in _groups(parser):
        message = {each.dest: each.help or "" for each in group._choices_actions}
        for name, command in group.choices.items():
            yield f'.SS "{_plain(f"{above} {name}")}"'
            yield _plain(_sentence(message.get(name, "")))
            if not list(_groups(command)):
                yield ".PP"
                yield rf"\fB{_plain(f'{above} {name}')}\fR {_usage(command)}"
            yield from _options(command)
            yield from _commands(command, f"{above} {name}")


def _groups(parser: argparse.ArgumentParser) -> "Iterator[argparse._SubParsersAction[argparse.ArgumentParser]]":
    for action in parser._actions:
        if isinstance(action, argparse._SubParsersAction):
            yield action


def _usage(parser: argparse.ArgumentParser) -> str:
    parts = []
    for action in _shown(parser):
        if action.option_strings:
            word = rf"\fB{_plain(action.option_strings[0])}\fR"
            value = "" if action.nargs == 0 else rf" \fI{_plain(_value(action))}\fR"
            parts.append(f"{word}{value}" if action.required else f"[{word}{value}]")
        else:
            value = rf"\fI{_plain(_value(action))}\fR"
            parts.append({"?": f"[{value}]", "*": f"[{value} ...]", "+": f"{value} ..."}.get(str(action.nargs), value))
    return " ".join(parts)


def _options(parser: argparse.ArgumentParser) -> Iterator[str]:
    for action in _shown(parser):
        if not action.help:
            continue
        value = "" if action.nargs == 0 or not action.option_strings else rf" \fI{_plain(_value(action))}\fR"
        names = (
            ", ".join(rf"\fB{_plain(name)}\fR" for name in action.option_strings) or rf"\fI{_plain(_value(action))}\fR"
        )
        yield ".TP"
        yield f"{names}{value}"
        yield _plain(_sentence(action.help.replace("%%", "%")))


def _shown(parser: argparse.ArgumentParser) -> Iterator[argparse.Action]:
    for action in parser._actions:
        if not isinstance(action, argparse._SubParsersAction | argparse._HelpAction):
            yield action


def _value(action: argparse.Action) -> str:
    if isinstance(action.metavar, str):
        return action.metavar
    few = list(action.choices or ())
    return "{" + ",".join(map(str, few)) + "}" if 0 < len(few) <= _FEW else action.dest.upper()


def _sentence(text: str) -> str:
    text = " ".join(text.split())
    return f"{text[:1].upper()}{text[1:]}." if text and text[-1] not in ".!?" else text[:1].upper() + text[1:]


def _plain(text: str) -> str:
    """Text that roff takes as it stands: a minus that can be copied, no line that begins with a request."""
    text = text.replace("\\", r"\e").replace("-", r"\-").replace('"', r"\(dq")
    return rf"\&{text}" if text[:1] in (".", "'") else text
