"""The options that make Nafas at home on a desktop and in a shell."""

import argparse
from collections.abc import Iterable, Mapping


def add_options(parser: argparse.ArgumentParser) -> None:
    """Add `--install-desktop`, `--uninstall-desktop`, `--man` and `--completion`."""
    one = parser.add_mutually_exclusive_group()
    for name, help_ in (
        ("install-desktop", "add Nafas to your menu, with icons, file types, manual page and completion"),
        ("uninstall-desktop", "remove it"),
        ("man", "print the manual page"),
    ):
        one.add_argument(f"--{name}", dest="desktop", action="store_const", const=(name,), help=help_)
    one.add_argument(
        "--completion",
        dest="desktop",
        metavar="SHELL",
        type=_completion,
        help="print the completion of bash, zsh or fish",
    )


def _completion(shell: str) -> tuple[str, str]:
    return ("completion", shell)


def _name_values(parser: argparse.ArgumentParser) -> None:
    """Give options whose values are read late the values that there are, for completion and the manual page."""
    from nafas.drawing.guide.sizes import SIZES
    from nafas.languages import LANGUAGES
    from nafas.ledger.entries import Kind
    from nafas.sound.files.formats import ENDINGS
    from nafas.tasks.delivery import AUDIO, PURPOSES, TEXTS

    values: dict[str, Iterable[str]] = {
        "--with": TEXTS, "--video": SIZES, "--language": LANGUAGES,
        "--as": [ending[1:] for ending in {*ENDINGS, *AUDIO}],
        "--kind": [kind.value for kind in Kind if kind is not Kind.OTHER],
    }  # fmt: skip
    for action in parser._actions:
        if isinstance(action, argparse._SubParsersAction):
            for command in action.choices.values():
                _name_values(command)
        elif action.dest == "purpose":
            action.choices = list(PURPOSES)
        elif action.choices is None:
            named: list[str] = next((list(values[name]) for name in action.option_strings if name in values), [])
            action.choices = sorted(named) or None


def run(parser: argparse.ArgumentParser, exit_codes: Mapping[int, str], options: argparse.Namespace) -> int:
    """Do what was asked for. Raises InputError."""
    from nafas.integration.completion import completion
    from nafas.integration.install import command_path, data_folder, install, uninstall
    from nafas.integration.man_page import man_page

    _name_values(parser)
    what, *more = options.desktop
    if what == "install-desktop":
        for path in install(parser, exit_codes, data_folder(), command_path()):
            print(path)
    elif what == "uninstall-desktop":
        gone = uninstall(data_folder())
        print("\n".join(map(str, gone)) or "Nothing was installed there.")
    elif what == "man":
        from datetime import UTC, datetime

        print(man_page(parser, datetime.now(UTC).date(), exit_codes), end="")
    else:
        print(completion(parser, more[0]), end="")
    return 0
