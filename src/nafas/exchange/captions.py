"""Captions of all that is said, as SubRip and WebVTT.

A caption has at most two lines of 42 letters and is read at no more than 17 letters a second; it stands for at least a
second, and longer where there is room (usual house rules of broadcasters; common practice, no source).
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from nafas.score.spoken_lines import figures_of
from nafas.timing.timeline import EventKind
from nafas.voice.casting import Cast
from nafas.voice.placement import Placement

LINE, LINES, READ = 42, 2, 17.0
"""Letters of a line, lines of a caption, and letters that are read in a second."""
_LEAST, _GAP = 1.0, 0.08
"""Seconds a caption stands at least where there is room, and between two."""
_COUNTED = (EventKind.COUNT, EventKind.CUE, EventKind.CALL, EventKind.STROKE)


@dataclass(frozen=True)
class Caption:
    """Seconds from and to, and the words, a line each."""

    start: float
    end: float
    text: str

    @property
    def letters_a_second(self) -> float:
        return len(self.text.replace("\n", " ")) / max(1e-6, self.end - self.start)


def captions_of(cast: Cast, grouped: bool = True) -> list[Caption]:
    """All that is said, in order of time; none overlaps the next.

    Args:
        cast: of the session.
        grouped: the counts of a phase are one caption ("inhale 2 3 4"); else each is one of its own.
    """
    rate = cast.rate
    captions: list[Caption] = []
    group: list[Placement] = []

    def close() -> None:
        if group:
            words = " ".join(_short(cast, placement) for placement in group)
            captions.append(Caption(max(0.0, group[0].start / rate), group[-1].said / rate, words))
            group.clear()

    for placement in sorted(cast.placements, key=lambda each: each.start):
        moment = placement.moment
        if moment.kind not in _COUNTED:
            close()
            captions += _talk(placement, rate)
        elif not grouped:
            captions.append(Caption(max(0.0, placement.start / rate), placement.said / rate, moment.text))
        else:
            last = group[-1].moment if group else None
            same = last is not None and (last.block, last.round, last.phase) == (
                moment.block,
                moment.round,
                moment.phase,
            )
            if not same or len(" ".join(_short(cast, each) for each in [*group, placement])) > LINE:
                close()
            group.append(placement)
    close()
    return _apart(captions)


def _short(cast: Cast, placement: Placement) -> str:
    """A word of a group: numbers as figures."""
    said = placement.moment
    return figures_of(cast.timeline.speaking_at(said).language).get(said.text, said.text)


def _talk(placement: Placement, rate: int) -> list[Caption]:
    """A sentence in captions, each with its share of the time by its letters."""
    parts = _wrapped(placement.moment.text)
    begin, end = max(0.0, placement.start / rate), placement.said / rate
    letters = sum(map(len, parts))
    captions, at = [], begin
    for part in parts:
        until = at + (end - begin) * len(part) / max(1, letters)
        captions.append(Caption(at, until, part))
        at = until
    return captions


def _wrapped(text: str) -> list[str]:
    """Text in captions of whole lines; a word longer than a line is cut."""
    lines: list[str] = []
    for word in text.split():
        while len(word) > LINE:
            lines.append(word[:LINE])
            word = word[LINE:]
        if lines and len(lines[-1]) + 1 + len(word) <= LINE:
            lines[-1] += f" {word}"
        else:
            lines.append(word)
    if len(lines) > 1 and len(lines) <= LINES:
        lines = _balanced(" ".join(lines)) or lines
    return ["\n".join(lines[at : at + LINES]) for at in range(0, len(lines), LINES)]


def _balanced(text: str) -> list[str] | None:
    """Two lines as equal as words allow; None where one would be too long."""
    spaces = [index for index, letter in enumerate(text) if letter == " "]
    fits = [index for index in spaces if index <= LINE and len(text) - index - 1 <= LINE]
    if not fits:
        return None
    middle = min(fits, key=lambda index: abs(index - len(text) / 2))
    return [text[:middle], text[middle + 1 :]]


def _apart(captions: Sequence[Caption]) -> list[Caption]:
    """Each long enough to be read as far as the next one lets it, and over before that begins."""
    result = []
    for index, caption in enumerate(captions):
        wanted = caption.start + max(_LEAST, len(caption.text) / READ, caption.end - caption.start)
        after = captions[index + 1].start if index + 1 < len(captions) else wanted
        latest = max(caption.start + 0.04, after - (_GAP if after - caption.end > 2 * _GAP else 0.0))
        result.append(replace(caption, end=min(wanted, latest)))
    return result


_SIGNS = {
    "vtt": (("&", "&amp;"), ("<", "&lt;"), (">", "&gt;")),  # WebVTT, 4.2.2: cue text
    "srt": (
        ("<", "\N{SINGLE LEFT-POINTING ANGLE QUOTATION MARK}"),
        (">", "\N{SINGLE RIGHT-POINTING ANGLE QUOTATION MARK}"),
    ),
}
"""Signs that players take for markup, and what stands in their place. SubRip has no way to escape them."""


def written(captions: Sequence[Caption], kind: str) -> str:
    """As a file: "srt" or "vtt"."""
    import pysubs2

    subtitles = pysubs2.SSAFile()
    for caption in captions:
        start, end = round(1000 * caption.start), round(1000 * caption.end)
        text = caption.text
        for sign, shown in _SIGNS[kind]:
            text = text.replace(sign, shown)
        subtitles.append(pysubs2.SSAEvent(start=start, end=end, text=escaped(text)))
    made: str = subtitles.to_string(kind)
    return made


def escaped(text: str) -> str:
    """A caption's words where signs of Advanced SubStation Alpha would be taken for commands."""
    return text.replace("\\", "/").replace("{", "(").replace("}", ")").replace("\n", "\\N")


def transcript(cast: Cast) -> str:
    """All that is said, a paragraph a block and a line a round, with the time at which each begins."""
    from nafas.script.edits.session_edits import block_name
    from nafas.timing.clock import clock

    lines = [cast.timeline.session.title, ""]
    for timed in cast.timeline.blocks:
        placements = cast.of_block(timed.block.id)
        if not placements:
            continue
        lines += [f"[{clock(timed.start)}] {block_name(timed.block, cast.timeline.session.language)}".rstrip()]
        rounds: dict[int, list[str]] = {}
        for placement in placements:
            rounds.setdefault(placement.moment.round, []).append(placement.moment.text)
        lines += [" ".join(words) for _, words in sorted(rounds.items())]
        lines.append("")
    return "\n".join(lines).rstrip() + "\n"
