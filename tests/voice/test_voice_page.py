"""The page on which voices are heard: what stands in it is read by another program and is sound."""

import base64
import io
import re

import soundfile

from nafas.cli.main import main
from nafas.languages import LIBRARY
from nafas.tasks.exit_codes import ExitCode


def test_every_language_has_its_voices_with_sound_on_the_page(folder):
    page = folder / "voices.html"
    assert main(["voices", "--page", str(page)]) == 0
    text = page.read_text()
    rows = re.findall(r"<tr><td>([^<]+)</td><td>([^<]+)</td>", text)
    assert len(rows) >= len(LIBRARY) and {"eSpeak"} <= {name for _, name in rows}
    sounds = [base64.b64decode(data) for data in re.findall(r"data:audio/flac;base64,([^\"]+)", text)]
    lengths = [soundfile.info(io.BytesIO(sound)).duration for sound in sounds]
    assert len(sounds) == 2 * len(rows) and all(3 < seconds < 20 for seconds in lengths)
    assert main(["voices", "--page", str(page)]) == ExitCode.REFUSED and page.read_text() == text
