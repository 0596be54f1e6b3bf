"""A description to publish a session with: what it is, its chapters, its cautions, and whom to credit."""

from collections.abc import Sequence

from nafas.exchange.chapters import Chapter, plain_lines
from nafas.languages import handed
from nafas.script.edits.session_edits import block_name
from nafas.script.model.assets import assets_of
from nafas.script.model.beds import FileBed
from nafas.script.model.blocks import BreathSet, Strokes
from nafas.script.notation.block import notation_for_readers
from nafas.script.words.cautions import caution_words, cautions_for
from nafas.timing.clock import clock
from nafas.voice.casting import Cast
from nafas.voice.engines.voice_files import voice_files


def caution_text(cast: Cast) -> str:
    """The usual cautions for what the session does: they stand in what is published, whatever it says."""
    keys = {"every", *(key for block in cast.timeline.session.blocks for key in cautions_for(block))}
    return " ".join(caution_words(tuple(keys), cast.timeline.session.language))


def description_of(cast: Cast, chapters: Sequence[Chapter]) -> str:
    """Plain text to copy."""
    session = cast.timeline.session
    work = [block for block in session.blocks if isinstance(block, BreathSet | Strokes)]
    words = handed(session.language)
    lines = [session.title, "", words["about"].format(length=clock(cast.timeline.length))]
    if session.tags.comment and session.tags.comment not in caution_text(cast):
        lines += ["", session.tags.comment]
    if work:
        lines += ["", words["breathed"]]
        for block in work:
            name, notation = block_name(block, session.language), notation_for_readers(block, session.language)
            lines.append(f"- {name}: {notation}" if notation and name != notation else f"- {name}")
    if chapters:
        lines += ["", words["chapters"], plain_lines(chapters).rstrip()]
    lines += ["", words["note"], caution_text(cast), "", *credits_of(cast)]
    return "\n".join(lines).rstrip() + "\n"


def credits_of(cast: Cast) -> list[str]:
    """Who speaks and what sounds, as far as it is known; what has to be filled in by hand says so."""
    session = cast.timeline.session
    words = handed(session.language)
    lines = [words["credits"]]
    if any(not placement.clip.stand_in for placement in cast.placements):
        lines.append("- " + words["voice"].format(name=session.tags.artist or words["speaker"]))
    if cast.stand_in_lines:
        known = {voice.name: voice.licence for voice in voice_files()}
        for name in cast.narrators:
            lines.append("- " + words["synthetic"].format(name=name))
            if name in known:
                lines[-1] += " " + words["licence"].format(licence=known[name] or words["unstated"])
    beds = [session.bed, *(block.bed.change for block in session.blocks if block.bed is not None)]
    files = sorted({asset.path for bed in beds if isinstance(bed, FileBed) for asset in assets_of(bed)})
    lines += ["- " + words["sound"].format(file=path.rsplit("/", 1)[-1]) for path in files]
    played = dict.fromkeys((each.name, each.by) for block in session.blocks for each in block.recordings)
    for name, by in played:  # in brackets stands what is still to be filled in
        sound = words["sound"].format(file=name)
        lines.append(f"- {sound.partition(' (')[0]}, {by}." if by else f"- {sound}")
    made = dict.fromkeys(
        words[bed.kind.replace("-", "_")] for bed in beds if bed is not None and not isinstance(bed, FileBed)
    )
    for each in made:
        lines.append("- " + words["made"].format(what=each[:1].upper() + each[1:]))
    return lines
