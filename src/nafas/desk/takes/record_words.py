"""What the recording dialog says: the cue for the reader, and where in the call sheet one is."""

from enum import StrEnum

from nafas.voice.recording.booth import Booth


class Stage(StrEnum):
    READY = "ready"
    COUNTING = "counting"
    LISTENING = "listening"
    KEPT = "kept"


def cue_words(stage: Stage, left: int) -> str:
    """What the reader is to do now; `left`: beats until the microphone listens."""
    return {
        Stage.READY: "Press Space to record",
        Stage.COUNTING: "  ".join(str(n) for n in range(left, 0, -1)),
        Stage.LISTENING: "Say it now",
        Stage.KEPT: "Kept",
    }[stage]


def place_words(booth: Booth, number: int) -> str:
    """Which line this is, what there is of it, and how much is still to be done."""
    line = booth.lines[number]
    have = len(booth.takes(line))
    takes = f"{have} of {line.wanted} takes" if have < line.wanted > 1 else "recorded" if have else "not recorded yet"
    return f"Line {number + 1} of {len(booth.lines)}, {takes}. {_wanting(len(booth.wanting()))}"


def _wanting(count: int) -> str:
    if not count:
        return "Every line has enough takes."
    return f"{count} line{'s' * (count > 1)} still want{'s' * (count == 1)} takes."
