"""The words that open a phase and its parts: which they are, and which of them may take longer than a count."""

from nafas.script.expansion import Round
from nafas.script.model.phase import Movement, Part
from nafas.script.running_calls import RunningCall
from nafas.script.words.lexicon import Lexicon
from nafas.timing.bodies.manner import Manner


def opening_words(index: int, one: Round, manner: Manner) -> str:
    """The words that open a round's phase at a place: its cue, in full where the round is, with its way and movement.
    That it is only thought of is said once, at the very beginning."""
    phase, style = one.phases[index], manner.style
    mind = manner.mind and one.number == 1 and index == 0
    words = manner.lexicon.cue(phase, one.long and style.long_forms, mind, one.long and style.ways)
    return _with_movement(words, phase.movement, one)


def may_run_over(index: int, one: Round, manner: Manner) -> bool:
    """Whether the opening words may cover more than a count."""
    phase, style = one.phases[index], manner.style
    if not one.level.speaks:
        return False
    if names_movement(phase.movement, one):
        return True
    way = style.ways and phase.cue is None and (phase.route is not None or phase.fill is not None)
    mind = manner.mind and one.number == 1 and index == 0
    return one.long and (style.long_forms or phase.long_cue is not None or way or mind)


def names_movement(movement: Movement | None, one: Round) -> bool:
    """Whether a movement is named in a round: the first of its step, or every one."""
    return movement is not None and (movement.always or one.long)


def part_words(part: Part, one: Round, otherwise: str = "") -> str:
    """What is said at a part's beginning: its word, or what is said `otherwise`, and its movement."""
    return _with_movement(part.word or otherwise, part.movement, one)


def joined(opening: str, part: str) -> str:
    """An opening and the words of the first part in one breath: "inhale, belly", with its pause."""
    return f"{opening}, {part}" if opening and part else opening or part


def texts_to_time(index: int, one: Round, manner: Manner) -> list[str]:
    """Everything said in a phase that may take longer than a count; how long it takes decides what it covers."""
    phase = one.phases[index]
    calls = [call_words(call, manner.lexicon) for call in one.calls if call.phase == index]
    if not one.level.speaks:
        return calls
    opening = opening_words(index, one, manner)
    longer = may_run_over(index, one, manner)
    texts = [*calls, opening] if longer else calls
    for number, part in enumerate(phase.parts):
        otherwise = manner.lexicon.cue(phase) if number and not phase.smooth else ""
        if names_movement(part.movement, one):
            texts += [part_words(part, one), part_words(part, one, otherwise)]
        if number == 0:
            texts.append(joined(opening, part_words(part, one)))
    return [text for text in texts if text]


def call_words(call: RunningCall, lexicon: Lexicon) -> str:
    """What a running call says. Raises ValueError where the language has no words for it."""
    key = "more_counts" if call.key == "left" else call.key
    return call.phrase or lexicon.say(key).format(n=lexicon.count(call.number))


def _with_movement(words: str, movement: Movement | None, one: Round) -> str:
    if movement is None or not names_movement(movement, one):
        return words
    return joined(words, movement.words)
