"""What `./demo` runs: render the demo session to out/, say what was made, then open the window on it."""

import os
import sys
from pathlib import Path

from nafas.demo import SESSION
from nafas.errors import InputError
from nafas.log import begin_log, divert_chatter
from nafas.parallel.shares import forking
from nafas.script import load_session
from nafas.tasks.render import RenderRequest, anything, produce


def main(arguments: list[str]) -> int:
    out = Path.cwd() / "out"
    try:
        out.mkdir(exist_ok=True)
        session = load_session(SESSION)
        print(f"Rendering {session.title!r} ...", flush=True)
        with forking():
            made = produce(
                RenderRequest(session, SESSION.parent, out / "between-crossings.flac", out / "stems", replaces=anything)
            )
    except (InputError, OSError) as error:
        print(f"nafas: {error}", file=sys.stderr)
        return 1
    print("\n".join(made.lines()))
    if "--no-window" in arguments:
        return 0
    if not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY") or os.environ.get("QT_QPA_PLATFORM")):
        print("There is no display here, so the window stays closed. On a desktop: ./demo")
        return 0
    from nafas.desk.app import open_window

    # The demo itself stays as shipped: edits go to a session of one's own.
    return open_window(SESSION, as_copy=True)


if __name__ == "__main__":
    begin_log()
    divert_chatter()
    sys.exit(main(sys.argv[1:]))
