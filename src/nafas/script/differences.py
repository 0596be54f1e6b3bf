"""What differs between two sessions, in the script's own words: "Long exhale: rounds 8 → 10"."""

from enum import Enum
from fractions import Fraction
from typing import Any

from nafas.script.edits.session_edits import block_name
from nafas.script.model.assets import Asset
from nafas.script.model.blocks import Block
from nafas.script.model.exact import decimal_text
from nafas.script.model.pattern import Pattern
from nafas.script.model.phase import Model
from nafas.script.model.session import Session

_LABELS = {
    "count_length": "count",
    "count_from": "count taken from",
    "target_length": "target length",
    "sentence_pause": "pause between sentences",
    "paragraph_pause": "pause between paragraphs",
    "pause_after": "pause after",
    "slot": "fixed length",
    "under_voice": "LU under the voice",
    "take_book": "take book",
    "engine_voice": "voice of eSpeak",
    "model": "narrator's voice",
    "fills": "narrator reads lines without a take",
    "drop_hold": "final hold",
    "per_minute": "strokes a minute",
    "high_pass": "high-pass",
    "end_bell": "end bell",
    "voice_sound": "voice",
    "paragraphs": "words",
}
_UNITS = {
    "count_length": " s", "opening": " s", "closing": " s", "target_length": " s", "seconds": " s", "slot": " s",
    "sentence_pause": " s", "paragraph_pause": " s", "pause_after": " s", "ease": " s", "recovery": " s",
    "level": " dB", "lift": " dB", "swell": " dB", "loudness": " LUFS", "ceiling": " dBTP",
}  # fmt: skip
_INHERITED = {"count_length": "as the session's", "counting": "as the set's", "slot": "as long as it takes"}
_LONGEST = 60


def differences(old: Session, new: Session) -> list[str]:
    """What `new` has that `old` has not, and the other way round, one line each, in the order of the script.

    Blocks are the same where their id is; a block is called by its title.
    """
    lines = _changed(old, new, skipped=("blocks", "format"))
    before = {block.id: block for block in old.blocks}
    after = {block.id: block for block in new.blocks}
    lines += [f"removed: {_name(block)}" for block in old.blocks if block.id not in after]
    stay = [block.id for block in new.blocks if block.id in before]
    if stay != [block.id for block in old.blocks if block.id in after]:
        lines.append("blocks in another order")
    for block in new.blocks:
        was = before.get(block.id)
        if was is None:
            lines.append(f"added: {_name(block)}")
        elif type(was) is not type(block):
            lines.append(f"{_name(was)} → {_name(block)}")
        elif was != block:
            lines += [f"{_name(block)}: {line}" for line in _changed(was, block, skipped=("id",))]
    return lines


def _name(block: Block) -> str:
    return block_name(block) or "Talk"


def _changed(old: Model, new: Model, skipped: tuple[str, ...] = (), under: str = "") -> list[str]:
    """The fields that differ, parts within parts; `under` is what they are part of."""
    result = []
    for name in type(new).model_fields:
        was, now = getattr(old, name), getattr(new, name)
        if name in skipped or was == now:
            continue
        label = f"{under}{_LABELS.get(name, name.replace('_', ' '))}"
        if type(was) is type(now) and isinstance(now, Model) and not isinstance(now, Pattern | Asset):
            result += _changed(was, now, under=f"{label}, ")
        elif name == "paragraphs":
            result.append(f"{label} {_first_other(was, now)}")
        elif name == "pattern" and not under:
            result.append(f"{_said(was)} → {_said(now)}")
        else:
            unit, nothing = _UNITS.get(name, ""), _INHERITED.get(name, "none")
            result.append(f"{label} {_said(was, unit) or nothing} → {_said(now, unit) or nothing}")
    return result


def _first_other(old: tuple[str, ...], new: tuple[str, ...]) -> str:
    """The first paragraph that differs, from where it does."""
    for was, now in zip((*old, ""), (*new, "")):
        if was != now:
            same = next((n for n, (a, b) in enumerate(zip(was, now)) if a != b), min(len(was), len(now)))
            begin = max(0, was.rfind(" ", 0, max(0, same - 12)) + 1)
            lead = "…" * bool(begin)
            return f"“{lead}{_cut(was[begin:])}” → “{lead}{_cut(now[begin:])}”"
    return f"{len(old)} → {len(new)} paragraphs"


def _said(value: Any, unit: str = "") -> str:
    if value is None or value == ():
        return ""
    if isinstance(value, bool):
        return "on" if value else "off"
    if isinstance(value, Fraction):
        return decimal_text(value) + unit
    if isinstance(value, int | float):
        return f"{value:g}{unit}"
    if isinstance(value, Enum):
        return str(value.value)
    if isinstance(value, Asset):
        return _cut(value.path)
    if isinstance(value, Pattern):
        return _cut(str(value.model_dump()))
    if isinstance(value, Model):
        kind = getattr(value, "kind", None)
        return str(kind).replace("-", " ") if kind else "another"
    if isinstance(value, tuple):
        return f"{len(value)} of them" if len(value) > 1 else _said(value[0])
    return f"“{_cut(str(value))}”"


def _cut(text: str) -> str:
    return text if len(text) <= _LONGEST else text[: _LONGEST - 1].rstrip() + "…"
