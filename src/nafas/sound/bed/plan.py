"""Which bed sounds when in a session, how loud, and where in itself it begins."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from nafas.errors import InputError
from nafas.script.model.beds import BlockBed, Ducking, FileBed, GeneratedBed, NightSea
from nafas.sound.bed.asset_file import checked_path
from nafas.sound.bed.ducking import SILENT, LevelLine, level_line, plan_ducking, plan_holding, plan_steps, plan_swell
from nafas.sound.bed.night_sea import night_sea
from nafas.sound.bed.track import BedRegion, BedSound, BedTrack
from nafas.timing.breath import breath_points
from nafas.timing.timeline import Timeline, to_sample

if TYPE_CHECKING:
    from nafas.script.model.beds import Bed

_LEAST = 20  # fades are at least a twentieth of a second


def bed_sound(choice: "Bed", rate: int, folder: Path) -> BedSound:
    """The bed a session chooses, at a rate; `folder` is where its file's path starts. Raises InputError."""
    choice = _plain(choice)
    if isinstance(choice, NightSea):
        return night_sea(choice, rate)
    if isinstance(choice, GeneratedBed):
        from nafas.sound.bed.generated import generated_bed

        return generated_bed(choice, rate)
    from nafas.sound.bed.file_bed import recorded_bed

    return recorded_bed(checked_path(choice.file, folder), choice, rate)


def _plain(choice: "Bed") -> "Bed":
    """A bed without its levels: its sound is the same at every one of them, and made once."""
    return choice.model_copy(update={"under_voice": 0.0, "lift": 0.0, "swell": 0.0})


def plan_beds(
    timeline: Timeline,
    spans: list[tuple[int, int]],
    rate: int,
    length: int,
    folder: Path,
    lost: Callable[[str], object] | None = None,
) -> BedTrack | None:
    """The beds of a session, which is `length` samples long; None where it has none.

    Args:
        spans: first and last samples of what the beds make room for, sorted.
        rate: samples a second.
        folder: where relative paths start.
        lost: called for a bed whose file cannot be used; there is none in its place then.

    Raises:
        InputError: a bed's file cannot be used, and `lost` is None.
    """
    session = timeline.session
    changes: list[tuple[int, Bed | None]] = [(0, session.bed)]
    for block in timeline.blocks:
        if block.block.bed is not None and block.block.bed.change is not None:
            changes.append((to_sample(block.start, rate), block.block.bed.change))
    if all(bed is None for _, bed in changes):
        return None
    steps = _block_levels(timeline, rate)
    breath = breath_points(timeline) if any(bed is not None and bed.swell for _, bed in changes) else []
    turns = []
    sounds: dict[Bed, BedSound] = {}  # however often beds change, each is in memory once
    for begin, bed in changes:
        if bed is None:
            turns.append(BedRegion(None, level_line([(0, SILENT)]), begin))
            continue
        down = -bed.under_voice
        level = plan_ducking(spans, rate, down, down + bed.lift, session.ducking)
        if steps is not None:
            level = level.plus(steps)
        if bed.swell:
            level = level.plus(plan_swell(breath, rate, bed.swell))
        try:
            sound = sounds.get(_plain(bed)) or _session_sound(bed, rate, folder, timeline, begin)
            if not getattr(bed, "follows", False):  # it depends on where it begins
                sounds[_plain(bed)] = sound
        except InputError as error:
            if lost is None:
                raise
            lost(f"The bed cannot be used and is silent: {error}")
            turns.append(BedRegion(None, level_line([(0, SILENT)]), begin))
            continue
        offset = bed_offset(sound, bed, timeline, begin, rate)
        held = _holding(sound, offset, spans, rate, session.ducking)
        turns.append(BedRegion(sound, level if held is None else level.plus(held), begin, offset))
    if all(turn.sound is None for turn in turns):
        return None
    return BedTrack(
        turns=turns,
        over=_crossfades([turn.begin for turn in turns], length, round(session.ducking.crossfade * rate / 2)),
        fade_in=max(to_sample(session.opening, rate), rate // _LEAST),
        fade_out=max(to_sample(session.closing, rate), rate // _LEAST),
        length=length,
    )


def _session_sound(bed: "Bed", rate: int, folder: Path, timeline: Timeline, begin: int) -> BedSound:
    """The sound of a bed in a session, from a sample of it on."""
    if not isinstance(bed, FileBed) or not bed.follows:
        return bed_sound(bed, rate, folder)
    from nafas.sound.bed.file_bed import recorded_bed
    from nafas.sound.bed.following import following_bed

    levels_aside = {"under_voice": 0.0, "lift": 0.0, "swell": 0.0}
    own = recorded_bed(checked_path(bed.file, folder), bed.model_copy(update={**levels_aside, "pace": 1.0}), rate)
    return following_bed(own, bed, timeline, begin / rate)


def _holding(
    sound: BedSound, offset: int, spans: list[tuple[int, int]], rate: int, ducking: Ducking
) -> LevelLine | None:
    """How a bed's louder stretches are held down under the voice; beds made by rule are even."""
    over = getattr(sound, "over_average", None)
    return None if over is None else plan_holding(spans, rate, lambda places: over(places + offset), ducking)


def _block_levels(timeline: Timeline, rate: int) -> LevelLine | None:
    """How much louder the bed is in each block; None where no block says anything of it."""
    plain = BlockBed()
    said = [block.block.bed or plain for block in timeline.blocks]
    levels = [bed.level if bed.on else SILENT for bed in said]
    if not any(levels):
        return None
    last = to_sample(timeline.blocks[-1].end, rate)
    places = [to_sample(block.start, rate) for block in timeline.blocks]
    # What the first block does holds for the opening before it; the closing goes on as the last block does.
    steps = [(0, levels[0]), *list(zip(places, levels))[1:], (last, levels[-1])]
    return plan_steps(steps, rate, timeline.session.ducking.crossfade)


def _crossfades(begins: list[int], length: int, half: int) -> tuple[int, ...]:
    """Half a crossfade at every change, shorter where changes stand close, so that no two of them overlap."""
    bounds = [0, *begins[1:], length]
    return tuple(
        max(1, min(half, (bounds[n] - bounds[n - 1]) // 2, (bounds[n + 1] - bounds[n]) // 2))
        for n in range(1, len(begins))
    )


def bed_offset(sound: BedSound, bed: "Bed", timeline: Timeline, begin: int, rate: int) -> int:
    """The bed's sample at the session's first, so that a bar of it begins on the first count from `begin` on; 0 for a
    bed without a beat."""
    beat = getattr(sound, "beat", None)
    if not isinstance(bed, FileBed) or beat is None or not bed.on_counts:
        return 0
    first = next((moment.at for moment in timeline.counted if moment.sample(rate) >= begin), None)
    return 0 if first is None else round(beat.offset(float(first)) * rate)
