"""Natural voices, read by Piper (VITS: Kim, Kong, Son, ICML 2021) on ONNX Runtime. Offline, on the processor alone.

Such a model draws noise as it speaks, for its durations and its sound. Here the noise is handed to it, drawn from the
words and the number of the reading: the same line always sounds the same, and readings of it still differ.
"""

import hashlib
import json
import re
import threading
from functools import lru_cache
from typing import TYPE_CHECKING, Any

import numpy as np

from nafas.errors import InputError
from nafas.voice.clip import Samples
from nafas.voice.engines.voice_files import VoiceFile

if TYPE_CHECKING:
    from onnxruntime import InferenceSession
    from piper import PiperVoice

READINGS = 9
"""Readings of a line that may be asked for."""
_SOUND, _DURATIONS = 0.5, 0.6
"""How much the noise moves sound and durations; evener than the models' usual 0.667 and 0.8."""
_AT_ONE = 207.0
"""Words a minute of the installed voice at its own pace (measured on the demo's talk, pauses left out)."""
_FULL_STOP, _COMMA = 1.0, 0.35
"""Seconds after a sentence, and at a comma, that belong to the pace of talk (common practice, no source)."""
_SLOWEST, _FASTEST = 1.6, 0.7
_PAUSES = {",": _COMMA, ";": 0.5, ":": 0.5, "\N{EN DASH}": 0.45, "\N{EM DASH}": 0.45, "\N{HORIZONTAL ELLIPSIS}": 0.6}
_CLAUSE = re.compile(r"(?<=[,;:\u2013\u2014\u2026])\s+")
_MOST_TEXT = 2000


class Piper:
    """One natural voice."""

    def __init__(self, voice: VoiceFile) -> None:
        self.voice = voice

    @property
    def name(self) -> str:
        return f"piper-1-{self.voice.sha256[:16]}"

    @property
    def readings(self) -> int:
        return READINGS

    def read(self, text: str, voice: str, pace: int, reading: int = 0) -> tuple[Samples, int]:
        """See `Engine.read`. `voice` is not asked for: a model has one."""
        if len(text) > _MOST_TEXT:
            raise InputError(text[:40] + "…", f"a line of {len(text)} characters", f"keep it under {_MOST_TEXT}")
        speaker = _loaded(self.voice)
        slow = length_scale(pace)
        rate: int = speaker.config.sample_rate
        pieces: list[Samples] = []
        for clause in clauses(text):
            for phonemes in speaker.phonemize(clause):
                ids = speaker.phonemes_to_ids(phonemes) if phonemes else []
                if ids:
                    pieces.append(_spoken(speaker.session, ids, slow, _seed(text, clause, reading)))
            pause = _PAUSES.get(clause[-1:], 0.0) * min(1.0, slow)
            if pause and pieces:
                pieces.append(np.zeros(round(pause * rate), np.float32))
        joined = np.concatenate([*pieces, np.zeros(0, np.float32)])
        steps = np.round(np.clip(joined, -1, 32767 / 32768) * 32768) / 32768
        return steps.astype(np.float32), rate


def length_scale(pace: int, at_one: float = _AT_ONE) -> float:
    """How much slower than its own pace a voice reads, so that talk comes to `pace` words a minute with its pauses.

    Its own pace is `at_one` words a minute, pauses left out.

    Reckoned for a sentence of nine words with a comma in every second one; kept where such voices stay natural.
    """
    seconds = 9 * 60 / pace - _FULL_STOP - _COMMA / 2
    return min(_SLOWEST, max(_FASTEST, seconds / (9 * 60 / at_one)))


def clauses(text: str) -> list[str]:
    """A line in pieces at its commas, colons and dashes, where both sides are three words or more."""
    parts: list[str] = []
    for piece in _CLAUSE.split(text):
        if parts and (len(piece.split()) < 3 or len(parts[-1].split()) < 3):
            parts[-1] = f"{parts[-1]} {piece}"
        else:
            parts.append(piece)
    return parts


def _seed(*words: object) -> int:
    return int.from_bytes(hashlib.sha256("\0".join(map(str, words)).encode()).digest()[:8])


def _spoken(session: "InferenceSession", ids: list[int], slow: float, seed: int) -> Samples:
    draw = np.random.default_rng(seed)
    feeds: dict[str, Any] = {
        "input": np.array([ids], np.int64),
        "input_lengths": np.array([len(ids)], np.int64),
        "scales": np.array([_SOUND, slow, _DURATIONS], np.float32),
    }
    asked = {input_.name: input_.shape for input_ in session.get_inputs()}
    if "sid" in asked:  # of several speakers the first
        feeds["sid"] = np.array([0], np.int64)
    # Enough for the longest that so many sounds can last; the model cuts it to what it needs.
    frames = round(40 * slow * len(ids)) + 200
    for name in sorted(asked):
        if name.startswith(_NOISE):
            size = (1, 2, len(ids)) if "dp" in name else (1, 192, frames)
            feeds[name] = draw.standard_normal(size, dtype=np.float32)
    spoken: Samples = session.run(None, feeds)[0].squeeze().astype(np.float32)
    return spoken


_NOISE = "nafas_noise"
_lock = threading.Lock()


def _loaded(voice: VoiceFile) -> "PiperVoice":
    """The voice, loaded once (0.6 s); the last two stay. Raises InputError."""
    with _lock:
        return _load(voice)


@lru_cache(maxsize=2)
def _load(voice: VoiceFile) -> "PiperVoice":
    try:
        import onnxruntime
        from piper import PiperVoice
        from piper.config import PiperConfig

        options = onnxruntime.SessionOptions()
        options.log_severity_level = 3
        # More costs half a second at the start and reads no quicker (measured).
        options.graph_optimization_level = onnxruntime.GraphOptimizationLevel.ORT_ENABLE_BASIC
        # Two lines at once are read quicker than one line by two threads, and the window keeps its core.
        options.intra_op_num_threads = 1
        model = _with_noise_handed_in(voice)
        session = onnxruntime.InferenceSession(model, sess_options=options, providers=["CPUExecutionProvider"])
        config = PiperConfig.from_dict(json.loads(voice.config.read_text(encoding="utf-8")))
        return PiperVoice(session=session, config=config)
    except InputError:
        raise
    except Exception as error:  # whatever a foreign model makes these libraries raise
        problem = f"cannot be loaded ({type(error).__name__}: {str(error)[:120]})"
        raise InputError(str(voice.model), problem, "choose another voice, or add its files again") from error


def _with_noise_handed_in(voice: VoiceFile) -> bytes:
    """The model with each of its draws of noise replaced by an input, cut to the shape the draw would have had."""
    import onnx
    from onnx import TensorProto, helper

    model = onnx.load(str(voice.model), load_external_data=False)
    graph = model.graph
    if any(tensor.data_location == TensorProto.EXTERNAL for tensor in graph.initializer):
        raise InputError(str(voice.model), "keeps its data in other files", "take a model of one file")
    nodes: list[Any] = []
    for node in graph.node:
        if node.op_type != "RandomNormalLike":
            nodes.append(node)
            continue
        name = f"{_NOISE}_{node.name.strip('/').replace('/', '_')}"
        graph.input.append(helper.make_tensor_value_info(name, TensorProto.FLOAT, [None, None, None]))
        nodes.append(helper.make_node("Shape", [node.input[0]], [f"{name}_shape"]))
        nodes.append(helper.make_node("Slice", [name, f"{_NOISE}_from", f"{name}_shape"], [node.output[0]]))
    graph.initializer.append(helper.make_tensor(f"{_NOISE}_from", TensorProto.INT64, [3], [0, 0, 0]))
    del graph.node[:]
    graph.node.extend(nodes)
    patched: bytes = model.SerializeToString()
    return patched
