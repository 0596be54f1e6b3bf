"""The commands `deliver`, `pack` and `unpack`: a session handed over, or moved to another machine."""

import argparse
from pathlib import Path

from nafas.cli.shared import allow_force, allow_outside, on_all_cores, opened, output, progress_line, show


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add `deliver`, `pack` and `unpack`."""
    deliver = commands.add_parser("deliver", help="audio, captions, chapters and the other files, in one folder")
    deliver.add_argument("session", type=Path)
    deliver.add_argument("-o", "--output", type=Path, required=True, metavar="FOLDER")
    deliver.add_argument(
        "--for", dest="purpose", default="all", metavar="PURPOSE", help="podcast, video, app, class or all"
    )
    deliver.add_argument(
        "--as", dest="formats", action="append", metavar="ENDING", help="audio instead of the purpose's"
    )
    deliver.add_argument(
        "--with",
        dest="texts",
        action="append",
        metavar="WHAT",
        help="other files to include, instead of the usual ones",
    )
    deliver.add_argument(
        "--name", default="{title}", metavar="PATTERN", help="of the files: {title} {length} {language} {track} {date}"
    )
    deliver.add_argument("--video", metavar="SIZE", help="a guide video too: 1080p, 720p or square")
    deliver.add_argument("--fps", type=int, default=30, metavar="N", help="its frames a second: 25, 30 or 60")
    deliver.add_argument("--single-counts", action="store_true", help="a caption a count, not a phase")
    deliver.add_argument("--anyway", action="store_true", help="even with findings that must be changed")
    allow_outside(deliver)
    deliver.set_defaults(run=_deliver)
    pack = commands.add_parser("pack", help="one file with the script and all it uses")
    pack.add_argument("session", type=Path)
    pack.add_argument("-o", "--output", type=Path, required=True, metavar="FILE.nafas-packed")
    allow_outside(pack)
    allow_force(pack)
    pack.set_defaults(run=_pack)
    unpack = commands.add_parser("unpack", help="open a packed session into a new folder")
    unpack.add_argument("packed", type=Path)
    unpack.add_argument("-o", "--output", type=Path, required=True, metavar="FOLDER")
    unpack.set_defaults(run=_unpack)


def _deliver(options: argparse.Namespace) -> int:
    from nafas.tasks.deliver import run
    from nafas.tasks.delivery import DeliveryRequest, for_purpose

    audio, texts, video = for_purpose(options.purpose, options.video)
    if options.formats:
        audio = tuple(f".{ending.lstrip('.').lower()}" for ending in options.formats)
    request = DeliveryRequest(
        opened(options.session, options), options.session.parent, options.output, audio,
        tuple(options.texts or texts), options.name, not options.single_counts, options.anyway, video, options.fps,
    )  # fmt: skip
    with on_all_cores():
        return show(run(request, progress_line()))


def _pack(options: argparse.Namespace) -> int:
    from nafas.exchange.packed import ENDING
    from nafas.tasks.pack import PackRequest, run

    output(options.output, options, ENDING)
    session = opened(options.session, options)
    return show(run(PackRequest(session, options.session.parent, options.output), progress_line()))


def _unpack(options: argparse.Namespace) -> int:
    from nafas.tasks.pack import UnpackRequest, run

    return show(run(UnpackRequest(options.packed, options.output), progress_line()))
