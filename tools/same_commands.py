"""Whether two checkouts do the same: sixty commands are run on the demo with each, and their words and files compared.

    python tools/same_commands.py OTHER_CHECKOUT            # this checkout against the other
    python tools/same_commands.py OTHER_CHECKOUT --show     # with the first lines that differ

What is compared: exit code, standard output, standard error without its lines of progress, and the SHA-256 of every
file that a command wrote. Times, speeds, process numbers and the temporary folder are left out of the words.
"""

import argparse
import difflib
import hashlib
import os
import re
import shutil
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

COMMANDS = """
--version
--help
new "4-2-8 x6 @ 1s" -o new.nafas --title Berth
new "4-2-8 x6 @ 1s" -o new.nafas
new "box 4 for 5 min" -o box.nafas --force
new "four of nothing" -o bad.nafas
new "4-6 x4" -o short.nafas
timeline demo.nafas
timeline demo.nafas --json
timeline short.nafas --rate 0
timeline missing.nafas
library
library "Alternate sides" -o sides.nafas
library "No such thing" -o none.nafas
fit demo.nafas 12:00
fit demo.nafas 12:00 --json
fit demo.nafas 8:00 --take 1 -o fitted.nafas
fit demo.nafas 8:00 --take 99 -o fitted2.nafas
fit short.nafas nonsense
sheet demo.nafas
callsheet demo.nafas
callsheet demo.nafas --csv
takes check takes --for demo.nafas
takes beats takes
takes beats takes --json
takes import reading.wav --for short.nafas -o cut
takes import reading.wav --for short.nafas -o cut2 --json
takes import takes --for demo.nafas -o takes
voices
say "exhale" --word --voice espeak -o exhale.wav
say "Breathe in, and rest." --voice espeak -o talk.wav --pace 95
bed drone.wav --count 1.2
bed drone.wav --json
balance demo.nafas
balance demo.nafas --json
render short.nafas -o short.flac -o short.mp3 -o short.ogg --stems stems
render short.nafas -o short.wav --json --bits 16 --target streaming
render short.nafas -o mono.wav --target spoken-mono --no-proof
render short.nafas -o short.nafas
render short.nafas -o short.xyz
render short.nafas -o loud.wav --rate 1234
render short.nafas sides.nafas -o . --as opus
prove short.flac --for short.nafas --page proof.html
prove short.flac --for short.nafas --json
prove short.flac --for sides.nafas
check demo.nafas
check short.nafas --json
check sides.nafas --no-sound
audit short.flac --for short.nafas --labels labels.txt --pdf audit.pdf
audit short.flac --json
audit short.flac --session made/made.nafas
deliver demo.nafas -o handed --for podcast
deliver short.nafas -o class --for class --anyway
deliver short.nafas -o video --anyway --video square --fps 25 --as flac --with srt
deliver demo.nafas -o handed --for podcast
pack demo.nafas -o demo.nafas-packed
unpack demo.nafas-packed -o unpacked
series plan all.nafas-series
series words all.nafas-series -o words.csv
series words all.nafas-series -o words.po --language es
series callsheet all.nafas-series -o lines.csv
series check all.nafas-series
series sessions all.nafas-series -o variants
series render all.nafas-series
series render all.nafas-series
series deliver all.nafas-series -o series-out --for class --anyway
series page all.nafas-series -o page.html
ledger list
ledger show 1
ledger compare 1 2
ledger open 1 -o was.nafas
ledger which short.flac
ledger published 1 "the crew's player"
ledger note 1 "read again"
ledger export -o all.json
schema
"""
_SERIES = """{"format": 1, "title": "Crossings", "session": "short.nafas", "audio": [".flac"], "into": "made",
"variants": [{"name": "short"}, {"name": "slow", "count_length": "6/5"}, {"name": "long", "length": "120"}]}"""
_UNSTEADY = (
    (re.compile(r"(?m)\r[^\r\n]*|^(\x1b\[K)?(\w+ +\d+% *)?\n"), ""),
    (re.compile(r"took [\d:]+,"), "took N,"),
    (re.compile(r"[\d.]+ x real time"), "N x real time"),
    (re.compile(r'"(real_time_factor|proof_seconds|peak_memory_mb)": [\d.]+'), r'"\1": N'),
    (re.compile(r"\d{4}-\d\d-\d\d[ T]?\d\d[:-]\d\d(:\d\d)?"), "DATE"),
    (re.compile(r'"(at|when|made|id)": "[^"]*"'), r'"\1": N'),
)
_DATED = (".pdf", ".po", ".nafas-packed", ".mp4", ".json", ".html")
"""Files whose bytes say when they were made: only that they are there is compared, or their words."""


def _prepare(checkout: Path, folder: Path) -> None:
    import numpy as np
    import soundfile

    demo = checkout / "src/nafas/demo"
    shutil.copytree(demo / "takes", folder / "takes")
    shutil.copy(demo / "night-ferry.nafas", folder / "demo.nafas")
    (folder / "all.nafas-series").write_text(_SERIES)
    (folder / "made").mkdir()
    seconds = np.arange(48_000 * 20) / 48_000
    soundfile.write(folder / "drone.wav", 0.1 * np.sin(440 * seconds) * (1 + 0.5 * np.sin(6 * seconds)), 48_000)
    words = sorted((demo / "takes").glob("*-a.flac"))
    gap = np.zeros(24_000)
    rate = soundfile.info(words[0]).samplerate
    parts = [part for word in words for part in (soundfile.read(word)[0], gap)]
    soundfile.write(folder / "reading.wav", np.concatenate(parts), rate)


def run_all(checkout: Path) -> dict[str, tuple[int, str, dict[str, str]]]:
    """Exit code, words and new files of each command, by its text."""
    with tempfile.TemporaryDirectory(prefix="same-") as name:
        folder = Path(name) / "work"
        folder.mkdir()
        _prepare(checkout, folder)
        kinds = ("CACHE", "STATE", "LIBRARY", "RECORDS")
        own = {f"NAFAS_{kind}": str(Path(name) / kind.lower()) for kind in kinds}
        environment = {**os.environ, **own, "PYTHONPATH": str(checkout / "src"), "QT_QPA_PLATFORM": "offscreen"}
        environment["PYTHONHASHSEED"] = "0"
        known: dict[str, str] = _files(folder)
        results = {}
        for line in COMMANDS.strip().splitlines():
            command = f"{sys.executable} -m nafas {line}"
            ended = subprocess.run(command, shell=True, cwd=folder, env=environment, capture_output=True, text=True)
            words = (ended.stdout + "\n--\n" + ended.stderr).replace(name, "TMP")
            for pattern, steady in _UNSTEADY:
                words = pattern.sub(steady, words)
            now = _files(folder)
            results[line if line not in results else f"{line} (again)"] = (
                ended.returncode, words, {path: digest for path, digest in now.items() if known.get(path) != digest}
            )  # fmt: skip
            known = now
        return results


def _files(folder: Path) -> dict[str, str]:
    found = {}
    for path in sorted(folder.rglob("*")):
        if path.is_file():
            dated = path.suffix in _DATED
            found[str(path.relative_to(folder))] = "" if dated else hashlib.sha256(path.read_bytes()).hexdigest()
    return found


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("other", type=Path)
    parser.add_argument("--show", action="store_true")
    options = parser.parse_args()
    here = Path(__file__).resolve().parents[1]
    with ThreadPoolExecutor(2) as pool:
        before, after = pool.map(run_all, (options.other.resolve(), here))
    differ = 0
    for line in before:
        old, new = before[line], after[line]
        parts = [name for name, a, b in zip(("exit code", "words", "files"), old, new) if a != b]
        if not parts:
            continue
        differ += 1
        print(f"{line}: {', '.join(parts)} differ ({old[0]} -> {new[0]})")
        if options.show:
            rows = difflib.unified_diff(old[1].splitlines(), new[1].splitlines(), lineterm="", n=0)
            print("\n".join(f"    {row[:200]}" for row in list(rows)[2:20]))
            changed = {path for path in {*old[2], *new[2]} if old[2].get(path) != new[2].get(path)}
            print("".join(f"    file {path}\n" for path in sorted(changed)), end="")
    print(f"{len(before) - differ} of {len(before)} commands do the same")
    return 1 if differ else 0


if __name__ == "__main__":
    sys.exit(main())
