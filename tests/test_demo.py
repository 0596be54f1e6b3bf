"""The demo as ./demo runs it, heard by measurement."""

import json
import shutil
import subprocess
import sys
from itertools import pairwise
from pathlib import Path

import numpy as np
import pyloudnorm
import pytest
import soundfile

from nafas.demo import FOLDER, SESSION
from nafas.script import BreathSet, load_session

ROOT = Path(__file__).parents[1]


@pytest.fixture(scope="module")
def out(tmp_path_factory):
    """Rendered by the program itself, without a window, in a folder of its own."""
    folder = tmp_path_factory.mktemp("demo")
    command = [sys.executable, "-m", "nafas.demo", "--no-window"]
    done = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=True)
    return folder / "out", done.stdout


def test_it_prints_what_it_made_and_the_proof(out):
    assert "between-crossings.flac" in out[1] and "flac holds: 191 of 191 cues" in out[1]
    found, _, of = (
        next(line for line in out[1].splitlines() if line.startswith("proof")).split("holds: ")[1].split()[:3]
    )
    assert found == of
    assert "every line fits" in out[1] and "not found" not in out[1]


def test_the_master_is_loud_as_promised_and_long_as_written(out):
    samples, rate = soundfile.read(out[0] / "between-crossings.flac")
    assert 340 < len(samples) / rate < 370
    assert pyloudnorm.Meter(rate, filter_class="DeMan").integrated_loudness(samples) == pytest.approx(-16, abs=0.05)
    assert np.abs(samples).max() <= 10 ** (-1 / 20)
    assert np.abs(samples[:100]).max() < 1e-3 and np.abs(samples[-100:]).max() < 1e-3  # it fades in and out


def test_the_bed_lies_under_the_voice_where_it_speaks(out):
    """10 to 18 LU under the voice (common practice, no source), by power in the two stems."""
    voice, bed = (
        soundfile.read(out[0] / "stems" / f"{name}.wav", dtype="float32")[0][:, 0] for name in ("voice", "bed")
    )
    frames = voice[: len(voice) // 4800 * 4800].reshape(-1, 4800)
    speaking = (frames**2).mean(axis=1) > 10 ** (-35 / 10)
    under = (bed[: frames.size].reshape(frames.shape)[speaking] ** 2).mean()
    assert 9 < 10 * np.log10((frames[speaking] ** 2).mean() / under) < 20


def test_the_words_promise_the_rounds_that_are_given():
    words = {3: "three", 4: "four", 5: "five", 6: "six", 7: "seven", 8: "eight"}
    blocks = load_session(SESSION).blocks
    for before, block in pairwise(blocks):
        if isinstance(block, BreathSet):
            said = " ".join(before.paragraphs).lower()
            assert f"{words[block.rounds]} rounds" in said
            for phase in block.pattern.phases:
                assert {2: "two", 4: "four", 6: "six", 8: "eight"}[phase.counts] in said


def test_the_cautions_come_before_any_breath_set():
    blocks = load_session(SESSION).blocks
    first = next(i for i, block in enumerate(blocks) if isinstance(block, BreathSet))
    said = " ".join(p for block in blocks[:first] for p in block.paragraphs).lower()
    for caution in (
        "light-headed",
        "breathe naturally",
        "never force",
        "machine",
        "medical care",
        "clinician",
        "pregnant",
    ):
        assert caution in said


def test_every_shipped_take_is_used_or_a_count_or_cue():
    index = json.loads((FOLDER / "takes" / "takes.json").read_text())
    files = {take["file"] for take in index["takes"]}
    assert files == {path.name for path in (FOLDER / "takes").glob("*.flac")}
    spoken = {s.text for block in load_session(SESSION).blocks for p in getattr(block, "lines", ()) for s in p}
    talk = {take["text"] for take in index["takes"] if take["file"].startswith("talk")}
    assert talk == spoken


def test_the_scripts_say_how_they_are_used():
    for arguments in (["--windows"], ["x", "y"]):
        done = subprocess.run(["bash", str(ROOT / "demo"), *arguments], capture_output=True, text=True, check=False)
        assert done.returncode == 2 and "--no-window" in done.stderr
    assert shutil.which("bash")
    told = subprocess.run(
        [sys.executable, str(ROOT / "tools" / "qt_libraries.py"), "--packages"],
        capture_output=True,
        text=True,
        check=True,
    )
    assert "libegl1" in told.stdout.split() and "libportaudio2" in told.stdout.split()
