"""The calls of a set, in notation: `announce round 5 left 3 2 half minute phrases "I let go" "I am here" once`."""

from nafas.script.model.phase import PhaseKind
from nafas.script.model.round_calls import RoundCalls
from nafas.script.notation.tokens import Reader

_KINDS = {kind.value: kind for kind in PhaseKind}
_EXAMPLE = 'write round, round 5, left 3 2, half, minute or phrases "I let go" "I am here"'


def read_calls(reader: Reader) -> dict[str, object]:
    """The fields of a RoundCalls that are written after `announce`.

    Raises:
        NotationError: nothing follows, or one thing is written twice.
    """
    said: dict[str, object] = {}
    while (token := reader.take("word", "round", "left", "half", "minute", "phrases")) is not None:
        word = token.value.lower()
        if word == "round":
            fields: dict[str, object] = {
                "every": reader.whole("every so many rounds", 1, 100) if reader.peek("number") else 1
            }
        elif word == "left":
            left = [reader.whole("rounds left", 2, 99)]
            while reader.peek("number"):
                left.append(reader.whole("rounds left", 2, 99))
            fields = {"left": tuple(left)}
        elif word == "phrases":
            fields = _phrases(reader)
        else:
            fields = {word: True}
        if fields.keys() & said.keys():
            raise reader.fail("this is said twice", "keep one", token.begin)
        said |= fields
    if not said:
        raise reader.fail("what is called is missing", _EXAMPLE)
    return said


def _phrases(reader: Reader) -> dict[str, object]:
    phrases = [reader.quote("the phrase")]
    while reader.peek("quote"):
        phrases.append(reader.quote("the phrase"))
    fields: dict[str, object] = {"phrases": tuple(phrases)}
    if reader.take("word", "once"):
        fields["once"] = True
    if reader.take("word", "on"):
        token = reader.take("word", *_KINDS)
        if token is None:
            raise reader.fail("the phase is missing", f"write on and one of {', '.join(_KINDS)}")
        fields["phrases_in"] = _KINDS[token.value.lower()]
    return fields


def write_calls(calls: RoundCalls) -> str:
    """Calls as notation; "" where there are none."""
    words: list[str] = []
    if calls.every:
        words.append("round" if calls.every == 1 else f"round {calls.every}")
    if calls.left:
        words.append(f"left {' '.join(map(str, calls.left))}")
    words += ["half"] * calls.half + ["minute"] * calls.minute
    if calls.phrases:
        words += ["phrases", *(f'"{phrase}"' for phrase in calls.phrases), *["once"] * calls.once]
        words += [f"on {calls.phrases_in.value}"] * (calls.phrases_in is not PhaseKind.EXHALE)
    return " ".join(words)
