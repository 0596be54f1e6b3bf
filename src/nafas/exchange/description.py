"""A description to publish a session with: what it is, its chapters, its cautions, and whom to credit."""

from collections.abc import Sequence

from nafas.exchange.chapters import Chapter, plain_lines
from nafas.script.edits.session_edits import block_name
from nafas.script.model.assets import assets_of
from nafas.script.model.beds import FileBed
from nafas.script.model.blocks import BreathSet, Strokes
from nafas.script.notation.block import block_notation
from nafas.script.words.cautions import caution_words, cautions_for
from nafas.timing.clock import clock
from nafas.voice.casting import Cast
from nafas.voice.engines.voice_files import voice_files

_MADE = {
    "night-sea": "the sea at night over a drone", "sea": "the sea", "rain": "the rain", "drone": "the drone",
    "bowls": "the bowls", "pad": "the chords",
}  # fmt: skip


def caution_text(cast: Cast) -> str:
    """The usual cautions for what the session does, in English: they stand in what is published, whatever it says."""
    keys = {"every", *(key for block in cast.timeline.session.blocks for key in cautions_for(block))}
    return " ".join(caution_words(tuple(keys)))


def description_of(cast: Cast, chapters: Sequence[Chapter]) -> str:
    """Plain text to copy."""
    session = cast.timeline.session
    work = [block for block in session.blocks if isinstance(block, BreathSet | Strokes)]
    lines = [session.title, "", f"A guided breathing recording of {clock(cast.timeline.length)}."]
    if session.tags.comment and session.tags.comment not in caution_text(cast):
        lines += ["", session.tags.comment]
    if work:
        lines += ["", "What is breathed:"]
        for block in work:
            name, notation = block_name(block), block_notation(block)
            lines.append(f"- {name}: {notation}" if name and name != notation else f"- {notation}")
    if chapters:
        lines += ["", "Chapters:", plain_lines(chapters).rstrip()]
    lines += ["", "Please note:", caution_text(cast), "", *credits_of(cast)]
    return "\n".join(lines).rstrip() + "\n"


def credits_of(cast: Cast) -> list[str]:
    """Who speaks and what sounds, as far as it is known; what has to be filled in by hand says so."""
    session = cast.timeline.session
    lines = ["Credits:"]
    if any(not placement.clip.stand_in for placement in cast.placements):
        speaker = session.tags.artist or "(the speaker's name)"
        lines.append(f"- Voice: {speaker}.")
    if cast.stand_in_lines:
        lines.append(f"- Read by {cast.narrator}, a synthetic voice{_licence(cast.narrator)}.")
    beds = [session.bed, *(block.bed.change for block in session.blocks if block.bed is not None)]
    files = sorted({asset.path for bed in beds if isinstance(bed, FileBed) for asset in assets_of(bed)})
    lines += [f"- Sound: {path.rsplit('/', 1)[-1]} (its maker and licence)." for path in files]
    made = dict.fromkeys(_MADE[bed.kind] for bed in beds if bed is not None and not isinstance(bed, FileBed))
    if made:
        lines.append(f"- {' and '.join(made).capitalize()}: made by rule by Nafas, nobody's recording.")
    return lines


def _licence(narrator: str) -> str:
    voice = next((voice for voice in voice_files() if voice.name == narrator), None)
    return "" if voice is None else f"; licence of the voice: {voice.licence or '(not stated by its files)'}"
