"""All that a session says by its own script in other words: a translation, line by line."""

from collections.abc import Callable, Mapping
from typing import TypeVar

from nafas.script.edits.session_edits import change, with_blocks
from nafas.script.model.blocks import Block, BreathSet, Spoken, Strokes
from nafas.script.model.pattern import Pattern
from nafas.script.model.phase import Model, Phase
from nafas.script.model.sentences import Sentence, with_pauses, written
from nafas.script.model.session import Session

_Put = Callable[[str], str]
_M = TypeVar("_M", bound=Model)


def reworded(session: Session, words: Mapping[str, str]) -> tuple[Session, list[str]]:
    """The session in other words, and those of its words that have no translation. Blocks with a language of their own
    stay as they are.

    Raises:
        ValueError: a translation is longer than a session allows.
    """
    missing: dict[str, None] = {}

    def put(text: str) -> str:
        if text and text not in words:
            missing[text] = None
        return words.get(text, text)

    blocks = [block if block.language else reworded_block(block, put) for block in session.blocks]
    return change(with_blocks(session, blocks), title=put(session.title)[:120]), list(missing)


def reworded_block(block: Block, put: _Put) -> Block:
    """A block whose every sentence, title and cue is what `put` makes of it."""
    fields: dict[str, object] = {}
    if block.title:
        fields["title"] = put(block.title)[:120]
    if isinstance(block, Spoken):
        paragraphs = [
            written(Sentence(put(sentence.text), sentence.pause) for sentence in paragraph) for paragraph in block.lines
        ]
        if block.lead and paragraphs:
            paragraphs[0] = f"{Sentence('', block.lead)} {paragraphs[0]}".strip()
        fields["paragraphs"] = tuple(paragraphs)
    elif isinstance(block, BreathSet):
        fields["pattern"] = _pattern(block.pattern, put)
        fields["prepare"] = block.prepare and _pattern(block.prepare, put)
        fields["ease_words"] = " | ".join(_short(part, put) for part in block.ease_words.split("|")).strip()
        fields["calls"] = block.calls.replace(phrases=tuple(map(put, block.calls.phrases)))
        if block.style.carrier:
            fields["style"] = block.style.model_copy(update={"carrier": put(block.style.carrier)})
    elif isinstance(block, Strokes):
        fields["recovery_words"] = _short(block.recovery_words, put)
    return block.replace(**fields)


def _short(words: str, put: _Put) -> str:
    return written(Sentence(each.text and put(each.text), each.pause) for each in with_pauses(words))


def _pattern(pattern: Pattern, put: _Put) -> Pattern:
    return pattern.model_copy(update={"phases": tuple(_phase(phase, put) for phase in pattern.phases)})


def _phase(phase: Phase, put: _Put) -> Phase:
    def movement(owner: _M) -> _M:
        moves = getattr(owner, "movement", None)
        if moves is None:
            return owner
        return owner.model_copy(update={"movement": moves.model_copy(update={"words": put(moves.words)})})

    own = {name: put(text) for name in ("cue", "long_cue") if (text := getattr(phase, name)) is not None}
    parts = tuple(movement(part.model_copy(update={"word": part.word and put(part.word)})) for part in phase.parts)
    calls = tuple(call.model_copy(update={"text": call.text and put(call.text)}) for call in phase.calls)
    return movement(phase.model_copy(update={**own, "parts": parts, "calls": calls}))
