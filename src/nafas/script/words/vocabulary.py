"""Which words a block needs that its language may not have, so that they are missed when written and not when heard."""

from nafas.script.model.blocks import Block, BreathSet, Strokes
from nafas.script.model.pacing import Table
from nafas.script.model.pattern import Pattern
from nafas.script.words.lexicon import Lexicon


def check_words(block: Block, lexicon: Lexicon) -> None:
    """Raises ValueError, naming the first words that a block needs and its language does not have here."""
    if lexicon.find("left") is not None:
        return  # a language with one phrase has them all
    if isinstance(block, Strokes):
        for key in ("stroke", *(("arms_up", "arms_down") if block.arms else ())):
            if block.demonstration:
                lexicon.say(key)
    if not isinstance(block, BreathSet):
        return
    if block.style.announce_last:
        lexicon.say("last")
    for name, key in (("every", "round"), ("left", "more_counts"), ("half", "half"), ("minute", "minute")):
        if getattr(block.calls, name):
            lexicon.say(key)
    if block.mind:
        lexicon.say("mind")
    if block.prepare is not None:
        lexicon.say("normal_in")
        lexicon.say("normal_out")
    patterns = [block.pattern]
    if isinstance(block.pacing, Table):
        patterns += [step.pattern for step in block.pacing.steps_after]
    for pattern in patterns:
        _pattern(pattern, lexicon)


def _pattern(pattern: Pattern, lexicon: Lexicon) -> None:
    for phase in pattern.sounding:
        lexicon.cue(phase)
        for call in phase.calls:
            if call.text is None:
                if call.at == "left":
                    lexicon.left(call.units, phase.seconds is not None, phase.counting is not None)
                elif call.at != "in":
                    lexicon.say(call.at)
