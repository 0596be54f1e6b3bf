"""`python -m nafas`, and the command `nafas`."""

import sys

from nafas import interruption


def run() -> int:
    """Run the program. Ctrl-C at any moment, imports included, ends it with one line."""
    try:
        interruption.watch()
        from nafas.cli.main import main

        return main(begin=_begin_log)
    except BaseException as error:
        if interruption.happened() and not isinstance(error, SystemExit):
            print("nafas: stopped; no unfinished file was left", file=sys.stderr)
            return 130
        raise
    finally:
        interruption.ignore()


def _begin_log() -> None:
    from nafas.log import begin_log, divert_chatter  # late: `nafas --version` needs neither

    begin_log()
    divert_chatter()


if __name__ == "__main__":
    sys.exit(run())
