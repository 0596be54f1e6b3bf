"""`python -m nafas`, and the command `nafas`."""

import signal
import sys


def run() -> int:
    """Run the program. Ctrl-C at any moment, imports included, ends it with one line."""
    interrupted = False

    def interrupt(number: int, frame: object) -> None:
        nonlocal interrupted
        interrupted = True
        signal.signal(signal.SIGINT, signal.SIG_IGN)  # ending is under way: a second one must not break into that
        raise KeyboardInterrupt

    try:
        signal.signal(signal.SIGINT, interrupt)
        from nafas.cli import main

        return main(begin=_begin_log)
    except BaseException as error:
        if interrupted or isinstance(error, KeyboardInterrupt):
            print("nafas: stopped; nothing was left half done", file=sys.stderr)
            return 1
        raise
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)


def _begin_log() -> None:
    from nafas.log import begin_log, divert_chatter  # late: `nafas --version` needs neither

    begin_log()
    divert_chatter()


if __name__ == "__main__":
    sys.exit(run())
