"""The counts of a mix while one of its beds sounds, against that bed's beats."""

from dataclasses import dataclass

from nafas.sound.beat.beat_grid import CountsAgainstBeats, PlayingBeatGrid, beat_offsets
from nafas.sound.bed.file_bed import RecordedBed
from nafas.sound.bed.track import BedRegion
from nafas.sound.mix.mix import Mix
from nafas.timing.clock import clock


@dataclass(frozen=True, eq=False)
class BedCounts:
    """One bed with a beat: from and to in seconds of the session, its beat as it plays, and the counts over it."""

    begin: float
    end: float
    beat: PlayingBeatGrid
    counts: CountsAgainstBeats


def region_end(mix: Mix, region: BedRegion) -> int:
    """The sample at which a bed's turn ends."""
    assert mix.bed is not None
    return min((each.begin for each in mix.bed.turns if each.begin > region.begin), default=mix.length)


def counted_in(mix: Mix, region: BedRegion) -> list[float]:
    """Seconds of the counts while a bed sounds, said aloud or not."""
    end = region_end(mix, region)
    timeline = mix.cast.timeline
    return [float(m.at) for m in timeline.counted if region.begin <= m.sample(mix.rate) < end]


def bed_counts(mix: Mix) -> list[BedCounts]:
    """Every bed that has a beat, in order."""
    result = []
    for region in mix.bed.turns if mix.bed is not None else ():
        if isinstance(region.sound, RecordedBed) and region.sound.beat is not None:
            counts = beat_offsets(counted_in(mix, region), region.sound.beat, region.offset / mix.rate)
            span = (region.begin / mix.rate, region_end(mix, region) / mix.rate)
            result.append(BedCounts(*span, region.sound.beat, counts))
    return result


def agreement_words(counts: CountsAgainstBeats) -> str:
    """How counts and beats agree, in a sentence or two."""
    if not len(counts.at):
        return "Nothing is counted over this bed."
    if counts.agreeing == 1:
        return f"Every count is on a beat, within {max(1.0, 1000 * counts.worst):.0f} ms."
    number = int(abs(counts.off).argmax())
    return (
        f"{counts.agreeing:.0%} of the counts are heard with a beat; the worst, at {clock(float(counts.at[number]))}, "
        f"is {1000 * abs(counts.off[number]):.0f} ms off. Sets with a count length of their own keep to it."
    )
