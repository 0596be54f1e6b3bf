"""Inputs made wrong by a seed: bytes flipped, cut, doubled and swapped, and JSON with values that do not belong.

Used for a few thousand inputs in the tests, and for as many as wanted by tools/fuzz.py.
"""

import json
import random
from collections.abc import Callable, Iterator
from copy import deepcopy
from typing import Any

from nafas.errors import InputError

_VALUES: list[Any] = [
    None, True, 0, -1, 1e308, -1e308, 10**30, "", "x" * 5000, "\x00", "\ud800", "é\u202e", [], {}, [[]], [1] * 500,
    {"kind": "talk"}, "1/0", "1e999", "NaN", "../../../etc/passwd", "/dev/zero", "4-6", "4-" * 300, "<img src='/x'>",
]  # fmt: skip
_WORDS = (
    "in out hold hold-full hold-empty x @ step ladder glide to fade full cues silent about at-least rest rapid bellows "
    "ease drop L R both nose mouth 4 0 1/2 1.5 999999 - , ; ( ) \" = + ~ ' / s min é \u0000 \ud800 ∞"
).split(" ")


def mangled_bytes(data: bytes, rng: random.Random) -> bytes:
    """A file with some of its bytes wrong."""
    out = bytearray(data)
    for _ in range(rng.choice((1, 1, 2, 5, 20))):
        kind, at = rng.randrange(6), rng.randrange(len(out) + 1)
        if kind == 0 and out:
            out[at % len(out)] = rng.randrange(256)
        elif kind == 1:
            del out[at:]
        elif kind == 2:
            out[at:at] = bytes(rng.randrange(256) for _ in range(rng.randrange(1, 40)))
        elif kind == 3:
            out[at:at] = out[max(0, at - 200) : at]
        elif kind == 4 and out:
            del out[at : at + rng.randrange(1, 200)]
        else:
            out[at : at + 4] = rng.choice((b"\xff" * 4, bytes(4), b"\x7f\xff\xff\xff", b"\x00\x00\x00\x80"))
    return bytes(out)


def mangled_json(raw: Any, rng: random.Random) -> str:
    """A JSON text with some of its values replaced, keys renamed, and numbers written as no program would."""
    tree = json.loads(json.dumps(raw))
    for _ in range(rng.choice((1, 1, 2, 4))):
        places = list(_places(tree))
        holder, key = rng.choice(places)
        kind = rng.randrange(5)
        if kind == 0 and isinstance(holder, dict):
            holder[rng.choice(("", "kind", "extra", "id"))] = holder.pop(key)
        elif kind == 1:
            holder[key] = [deepcopy(holder[key]) for _ in range(rng.choice((0, 2, 50)))]
        else:
            holder[key] = deepcopy(rng.choice(_VALUES))
    text = json.dumps(tree)
    if rng.random() < 0.1:
        text = text.replace("1", rng.choice(("1e99999999999999999999", "Infinity", "9" * 5000, "-0", "1e-400")), 1)
    return text


def mangled_line(rng: random.Random) -> str:
    """A line of words that look like notation."""
    return " ".join(rng.choice(_WORDS) for _ in range(rng.randrange(1, 25)))


def _places(tree: Any) -> Iterator[tuple[Any, Any]]:
    for key, value in list(tree.items()) if isinstance(tree, dict) else list(enumerate(tree)):
        yield tree, key
        if isinstance(value, dict | list):
            yield from _places(value)


def refused_or_read(read: Callable[[], object]) -> bool:
    """Read something; True where it was taken, False where it was refused in one clear line. Any other error is one of
    the program, and goes on."""
    try:
        read()
    except InputError as error:
        line = str(error)
        assert line and "\n" not in line and "Traceback" not in line and error.remedy
        return False
    return True
