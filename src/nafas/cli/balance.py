"""The command `balance`: voice over bed, the counts against the bed's beats, and sets that begin on them."""

import argparse
import json
import math
from pathlib import Path
from typing import TYPE_CHECKING

from nafas.cli.shared import allow_force, allow_outside, opened, output
from nafas.errors import UsageError

if TYPE_CHECKING:
    from nafas.script import Session
    from nafas.sound.master.balance import Balance
    from nafas.sound.mix.bed_counts import BedCounts
    from nafas.timing import Timeline


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add `balance`."""
    balance = commands.add_parser("balance", help="voice over bed, and the counts against the bed's beats")
    balance.add_argument("session", type=Path)
    balance.add_argument(
        "--on-beats", action="store_true", help="start every set on a beat by lengthening the pauses before it"
    )
    balance.add_argument("-o", "--output", type=Path, metavar="FILE", help="where the session on beats is saved")
    allow_outside(balance)
    allow_force(balance)
    balance.add_argument("--json", action="store_true")
    balance.set_defaults(run=_balance)


def _balance(options: argparse.Namespace) -> int:
    from nafas.sound.master.balance import balance
    from nafas.sound.mix.bed_counts import bed_counts
    from nafas.sound.mix.mix import build_mix
    from nafas.voice import cast_session

    if options.on_beats != (options.output is not None):
        raise UsageError("--on-beats", "saves another session", "name its file too: --on-beats -o b.nafas")
    if options.output is not None:
        output(options.output, options, ".nafas")
    session = opened(options.session, options)
    cast = cast_session(session, options.session.parent)
    mix = build_mix(cast, options.session.parent)
    measured, beds = balance(mix), bed_counts(mix)
    lines = _lines(measured, beds, cast.timeline)
    if options.on_beats:
        lines.append(_save_on_beats(session, beds, options))
    elif any(each.counts.agreeing < 1 for each in beds):
        lines.append("nafas balance --on-beats -o b.nafas lets the sets begin on beats")
    print(json.dumps(_figures(measured, beds), indent=1) if options.json else "\n".join(lines))
    return 0


def _lines(measured: "Balance", beds: "list[BedCounts]", timeline: "Timeline") -> list[str]:
    from nafas.sound.mix.bed_counts import agreement_words
    from nafas.timing.clock import clock

    if measured.where is None or not math.isfinite(measured.overall):
        lines = ["voice over bed: nothing is spoken, or there is no bed under it"]
    else:
        moment = measured.where.moment
        lines = [
            f"voice over bed: {measured.overall:.1f} LU while it speaks",
            f"least, over a word's loudest 400 ms: {measured.worst:.1f} LU at {clock(moment.at)}, “{moment.text[:60]}” "
            f"({timeline.address(moment)})",
        ]
    for each in beds:
        beat = f"bed from {clock(each.begin)} at {60 / each.beat.seconds:.2f} bpm"
        lines.append(f"{beat}: {agreement_words(each.counts)}")
    return lines


def _save_on_beats(session: "Session", beds: "list[BedCounts]", options: argparse.Namespace) -> str:
    from nafas.script import save_session
    from nafas.script.edits.session_edits import rebase_assets
    from nafas.suggest.beat_snap import begin_on_beats
    from nafas.timing import compile_session
    from nafas.voice import session_narrator

    folder, longer = options.session.parent, 0.0
    left: list[str] = []
    for each in beds:
        narrator = session_narrator(session, folder)
        timeline = compile_session(session, narrator.spoken_length)
        # What was made longer before moves this bed's turn along with its sets.
        made = begin_on_beats(timeline, each.beat, each.begin + longer, each.end + longer)
        session, longer = made.session, longer + float(made.longer)
        left += made.left
    save_session(rebase_assets(session, folder, options.output.parent), options.output)
    stays = f"; these follow another set without a pause and are not changed: {', '.join(left)}" if left else ""
    return f"{options.output}: {longer:.2f} s longer{stays}"


def _figures(measured: "Balance", beds: "list[BedCounts]") -> dict[str, object]:
    def number(value: float) -> float | None:
        return round(value, 2) if math.isfinite(value) else None

    return {
        "voice_over_bed_lu": number(measured.overall),
        "worst_lu": number(measured.worst),
        "worst_at": None if measured.where is None else float(measured.where.moment.at),
        "beds": [
            {
                "begin": each.begin,
                "end": each.end,
                "bpm": 60 / each.beat.seconds,
                "agreeing": each.counts.agreeing,
                "worst_ms": 1000 * each.counts.worst,
            }
            for each in beds
        ],
    }
