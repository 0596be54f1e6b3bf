"""One typed line read as a block: a breath set, strokes, or natural breath."""

import re
from fractions import Fraction

from pydantic import ValidationError

from nafas.script.faults import first_fault
from nafas.script.model.blocks import Block, BreathSet, Rest, Strokes
from nafas.script.model.exact import decimal_text
from nafas.script.model.phase import Counting
from nafas.script.notation.set import parse_set
from nafas.script.notation.tokens import NotationError, Reader
from nafas.script.notation.writing import format_set

_FORMS = ("rapid", "bellows")


def read_block(text: str, block_id: str = "set-1") -> Block:
    """Read a line of notation as a block with an id of its own.

    Raises:
        NotationError: with the character at fault and what was expected.
    """
    reader = Reader(text)
    if reader.peek("word", *_FORMS):
        return _strokes(reader, block_id)
    if reader.take("word", "rest"):
        seconds = reader.exact("seconds", Fraction(1), Fraction(3600), "rest 30s")
        reader.take("word", "s", "sec", "seconds")
        _end(reader)
        return Rest(id=block_id, seconds=seconds)
    try:
        return BreathSet.model_validate({"id": block_id, "rounds": 1, **parse_set(text).fields()})
    except ValidationError as error:
        raise NotationError(text, 0, *first_fault(error)) from None


def _strokes(reader: Reader, block_id: str) -> Strokes:
    form = reader.take("word", *_FORMS)
    assert form is not None
    said: dict[str, object] = {"id": block_id, "form": form.value.lower()}
    said["strokes"] = reader.whole("strokes", 1, 600)
    while not reader.done:
        if reader.take("mark", "@"):
            said["per_minute"] = _per_minute(reader, 240)
        elif reader.take("word", "every"):
            said["every"] = reader.whole("every how many strokes", 0, 100)
        elif reader.take("word", "down"):
            said["counting"] = "down"
        elif reader.take("word", "quiet"):
            said["ticks"] = False
        elif reader.take("word", "arms"):
            said["arms"] = True
        elif reader.take("word", "count-in"):
            said["count_in"] = reader.whole("counts before the first stroke", 0, 8)
        elif reader.take("word", "demo"):
            said["demonstration"] = reader.whole("slow strokes", 0, 30)
            if reader.take("mark", "@"):
                said["demonstration_per_minute"] = _per_minute(reader, 60)
        elif reader.take("word", "rest"):
            said["recovery"] = reader.exact("recovery", Fraction(0), Fraction(600), "rest 45s")
            reader.take("word", "s", "sec", "seconds")
        else:
            raise reader.fail(
                "this is not understood", "write @ 60/min, every 10, down, quiet, arms, count-in 3, demo 5 or rest 45s"
            )
    try:
        return Strokes.model_validate(said)
    except ValidationError as error:
        raise NotationError(reader.text, 0, *first_fault(error)) from None


def _per_minute(reader: Reader, high: int) -> Fraction:
    rate = reader.exact("strokes a minute", Fraction(4), Fraction(high), "@ 60/min")
    if reader.take("mark", "/") and not reader.take("word", "min", "minute"):
        raise reader.fail("a minute is expected", "write strokes a minute as 60/min")
    return rate


def _end(reader: Reader) -> None:
    if not reader.done:
        raise reader.fail("this is not understood", "end the line here")


def block_notation(block: Block) -> str:
    """A block as one line of notation; `read_block` reads it back. Talk has none: ""."""
    if isinstance(block, BreathSet):
        return format_set(
            block.pattern, block.rounds, block.count_length, block.count_from, block.pacing, block.drop_hold,
            block.fade, block.ease, block.style, block.calls,
        )  # fmt: skip
    if isinstance(block, Rest):
        return f"rest {decimal_text(block.seconds)}s"
    if not isinstance(block, Strokes):
        return ""
    words = [block.form, str(block.strokes), f"@ {decimal_text(block.per_minute)}/min", f"every {block.every}"]
    words += ["down"] * (block.counting is Counting.DOWN) + ["quiet"] * (not block.ticks) + ["arms"] * block.arms
    words += [f"count-in {block.count_in}"] if block.count_in else []
    if block.demonstration:
        words.append(f"demo {block.demonstration} @ {decimal_text(block.demonstration_per_minute)}/min")
    return " ".join([*words, f"rest {decimal_text(block.recovery)}s"])


def notation_for_readers(block: Block, language: str) -> str:
    """Its notation as it may stand in what listeners get in a language: "" where it has English words in another."""
    notation = block_notation(block)
    return notation if language == "en" or not re.search(r"[^\W\d_]{2,}", notation) else ""
