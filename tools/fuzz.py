"""The faults of tests/faults, run for as long as wanted: python tools/fuzz.py [SECONDS] [SEED]. Prints what was tried.

Every reader is given mangled inputs: each must be read, or refused in one clear line, and none may take longer than
`LONGEST` seconds. Saves are killed at random moments next to it.
"""

import json
import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path

os.environ["NAFAS_STATE"] = os.environ["NAFAS_RECORDS"] = tempfile.mkdtemp()
sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

import numpy as np
import soundfile
from documents import docx_bytes, odt_bytes
from faults.mangling import mangled_bytes, mangled_json, mangled_line, refused_or_read
from faults.test_kills_and_races import SAVES, killed

from nafas.audio_files import AudioReader
from nafas.demo import FOLDER, SESSION
from nafas.exchange.cover import read_cover
from nafas.exchange.packed import pack, unpack
from nafas.ledger.entries import Kind, add, find, get
from nafas.ledger.store import ledger_path, opened
from nafas.log import divert_chatter
from nafas.script import Session, load_session, read_block, save_session
from nafas.script.edits.session_edits import change
from nafas.script.file import parse_session, session_text
from nafas.script.text.files import read_text_file
from nafas.script.text.own import is_written, read_written
from nafas.script.text.reading import read_script
from nafas.script.text.written import written_text
from nafas.series.plan import load_series
from nafas.series.words import read_words
from nafas.state.folder import state_folder
from nafas.state.recovery import find_recoverable, keep_for_recovery
from nafas.tables import Dialect, written
from nafas.timing import compile_session, paced
from nafas.voice import TakeBook
from nafas.voice.engines.voice_files import default_voice, read_voice
from nafas.voice.segmentation.labels import read_labels

LONGEST = 5.0
SCRIPT = """# Night

## One
Sit down. [pause 5]
- in 4
- out 6
Inhale, two, three. Exhale, two, three.
| 4-6 | x8 |
"""
SUBTITLES = b"1\n00:00:01,000 --> 00:00:04,000\nInhale, two, three.\n\n"


def main(seconds: float, seed: int) -> int:
    rng, folder = random.Random(seed), Path(tempfile.mkdtemp())
    session, index = json.loads(SESSION.read_bytes()), json.loads((FOLDER / "takes" / "takes.json").read_text())
    noise = (np.random.default_rng(1).standard_normal((24_000, 2)) * 0.1).astype(np.float32)
    sounds = {}
    for kind, subtype in (("WAV", None), ("FLAC", None), ("AIFF", None), ("MP3", None), ("OGG", None), ("OGG", "OPUS")):
        soundfile.write(folder / "s", noise, 48_000, format=kind, subtype=subtype)
        sounds[subtype or kind] = (folder / "s").read_bytes()

    def read_session() -> None:
        found = parse_session(mangled_json(session, rng).encode("utf-8", "surrogatepass"), "x.nafas")
        assert parse_session(session_text(found), "again") == found

    def read_book() -> None:
        (folder / "takes.json").write_bytes(mangled_json(index, rng).encode("utf-8", "surrogatepass"))
        TakeBook(folder)

    def read_label_file() -> None:
        (folder / "l.txt").write_bytes(mangled_bytes(b"0.5\t1.25\tone\n1.5\t2.0\ttwo\n", rng))
        read_labels(folder / "l.txt")

    def read_sound() -> None:
        (folder / "x").write_bytes(mangled_bytes(rng.choice(list(sounds.values())), rng))
        reader = AudioReader(folder / "x")
        for at in (0, reader.frames // 2):
            reader.read(at, 48_000)

    tiny = change(load_session(SESSION), blocks=(read_block("1-1", "a"),), bed=None, voice={}, target_length=None)
    packed = pack(compile_session(tiny, paced()), folder, folder / "whole.nafas-packed").read_bytes()
    series = {"format": 1, "session": "a.nafas", "audio": [".flac"], "variants": [{"name": "one", "rounds": {"a": 2}}]}
    rows = [["words", "translation"], ["Sit, here", "Siéntate"], ["two\nlines", "dos"]]
    tables = [written(rows, Dialect(separator=mark)) for mark in ",;\t"] + [written(rows, Dialect("xlsx"))]
    catalogue = b'msgid ""\nmsgstr ""\n\n#, fuzzy\nmsgid "sit"\nmsgstr "siente"\n\n#~ msgid "go"\n#~ msgstr "ve"\n'
    voice = default_voice("en")
    settings = {} if voice is None else json.loads(voice.config.read_bytes())
    keep_for_recovery(tiny, None, folder, "kept")
    recovery = json.loads((state_folder() / "recovery" / "kept.json").read_text()) | {"process": "1-1-00000000"}
    add(Kind.NOTE, tiny, (), "a note")
    with opened() as ledger_file:
        ledger_file.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    ledger = ledger_path().read_bytes()
    picture = b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR\0\0\0\x10\0\0\0\x10\x08\2\0\0\0" + bytes(40)

    def put(name: str, data: bytes) -> Path:
        (folder / name).write_bytes(data)
        return folder / name

    def read_packed() -> None:
        shutil.rmtree(folder / "out", ignore_errors=True)
        unpack(put("p.nafas-packed", mangled_bytes(packed, rng)), folder / "out")

    def read_series() -> None:
        load_series(put("m.nafas-series", mangled_json(series, rng).encode("utf-8", "surrogatepass")))

    def read_voice_file() -> None:
        put("v.onnx", b"model")
        put("v.onnx.json", mangled_json(settings, rng).encode("utf-8", "surrogatepass"))
        read_voice(folder / "v.onnx", "v")

    def read_recovery() -> None:
        (state_folder() / "recovery").mkdir(exist_ok=True)
        text = mangled_json(recovery, rng).encode("utf-8", "surrogatepass")
        (state_folder() / "recovery" / "x.json").write_bytes(text)
        find_recoverable()
        for path in (state_folder() / "recovery").iterdir():
            path.unlink()

    def read_ledger() -> None:
        for ending in ("-wal", "-shm"):
            ledger_path().with_name(f"ledger.sqlite3{ending}").unlink(missing_ok=True)
        ledger_path().write_bytes(mangled_bytes(ledger, rng))
        for entry in find():
            get(entry.id)

    own = written_text(load_session(SESSION)).encode()
    scripts = [("a.docx", docx_bytes(SCRIPT)), ("a.odt", odt_bytes(SCRIPT)), ("a.srt", SUBTITLES), ("a.txt", own)]

    def read_a_script() -> object:
        name, data = rng.choice(scripts)
        text = read_text_file(put(name, mangled_bytes(data, rng)))
        return read_written(text) if is_written(text) else read_script(text)

    readers: dict[str, Callable[[], object]] = {
        "packed session": read_packed,
        "series": read_series,
        "table": lambda: read_words(put("t.csv", mangled_bytes(rng.choice(tables), rng))),
        "catalogue": lambda: read_words(put("t.po", mangled_bytes(catalogue, rng))),
        "voice": read_voice_file,
        "recovery": read_recovery,
        "ledger": read_ledger,
        "cover": lambda: read_cover(put("c.png", mangled_bytes(picture, rng))),
        "session": read_session,
        "bytes of a session": lambda: parse_session(mangled_bytes(SESSION.read_bytes(), rng), "x.nafas"),
        "line": lambda: read_block(mangled_line(rng)),
        "clipboard": lambda: read_script("\n".join(mangled_line(rng) for _ in range(rng.randrange(12)))),
        "script": read_a_script,
        "take book": read_book,
        "labels": read_label_file,
        "sound": read_sound,
    }
    tried: Counter[str] = Counter()
    slowest, kills, until = 0.0, 0, time.monotonic() + seconds
    save_session(Session(title="version 0"), folder / "a.nafas")
    while time.monotonic() < until:
        for _ in range(400):
            name = rng.choice(list(readers))
            began = time.monotonic()
            tried[f"{name}, {'taken' if refused_or_read(readers[name]) else 'refused'}"] += 1
            slowest = max(slowest, time.monotonic() - began)
            assert slowest < LONGEST, (name, slowest)
        killed(SAVES, rng.random() * 0.2, folder / "a.nafas")
        assert load_session(folder / "a.nafas").title.startswith("version ")
        kills += 1
    print(f"seed {seed}: {tried.total():,} inputs, slowest {slowest:.2f} s, {kills} kills while saving")
    for name, many in sorted(tried.items()):
        print(f"  {name:<32} {many:>8,}")
    return 0


if __name__ == "__main__":
    divert_chatter()
    try:
        sys.exit(main(float(sys.argv[1]) if len(sys.argv) > 1 else 60, int(sys.argv[2]) if len(sys.argv) > 2 else 1))
    except subprocess.SubprocessError as error:
        sys.exit(str(error))
