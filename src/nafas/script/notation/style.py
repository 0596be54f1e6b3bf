"""How a set is counted aloud, in notation: `say long ahead 2 carrier "sea" last`."""

from nafas.script.model.blocks import CountStyle
from nafas.script.model.phase import Counting
from nafas.script.notation.tokens import Reader

_FLAGS: dict[str, dict[str, object]] = {
    "long": {"long_forms": True},
    "last": {"announce_last": True},
    "alone": {"cue": "none"},
    "bare": {"ways": False},
    **{counting.value: {"counting": counting.value} for counting in Counting},
}
_EXAMPLE = 'write long, last, alone, bare, down, silent, tick, ahead 2, ahead 2 first 4 or carrier "sea"'


def read_style(reader: Reader) -> dict[str, object]:
    """The fields of a CountStyle that are written after `say`.

    Raises:
        NotationError: nothing follows, or one thing is written twice.
    """
    said: dict[str, object] = {}
    while True:
        token = reader.take("word", *_FLAGS, "ahead", "carrier")
        if token is None:
            if not said:
                raise reader.fail("how it is said is missing", _EXAMPLE)
            return said
        word = token.value.lower()
        if word == "ahead":
            fields: dict[str, object] = {"cue": "ahead", "cue_room": reader.whole("cue room", 1, 8)}
            if reader.take("word", "first"):
                fields["first_room"] = reader.whole("the first round's cue room", 1, 12)
        elif word == "carrier":
            fields = {"carrier": reader.quote("the carrier word")}
        else:
            fields = _FLAGS[word]
            if word == "last" and reader.peek("number"):
                fields = {**fields, "last_ahead": reader.whole("counts before the last round", 1, 30)}
        if fields.keys() & said.keys():
            raise reader.fail("this is said twice", "keep one", token.begin)
        said |= fields


def write_style(style: CountStyle) -> str:
    """A style as notation, as far as it is not the usual one; "" where it is."""
    usual, words = CountStyle(), []
    if style.cue == "ahead":
        first = "" if style.first_room is None else f" first {style.first_room}"
        words.append(f"ahead {style.cue_room}{first}")
    elif style.cue == "none":
        words.append("alone")
    if style.counting is not usual.counting:
        words.append(style.counting.value)
    if style.carrier is not None:
        words.append(f'carrier "{style.carrier}"')
    words += ["long"] * style.long_forms + [_last(style)] * style.announce_last + ["bare"] * (not style.ways)
    return " ".join(words)


def _last(style: CountStyle) -> str:
    return "last" if style.last_ahead == 1 else f"last {style.last_ahead}"
