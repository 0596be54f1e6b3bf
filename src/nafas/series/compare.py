"""The variants of a series held against each other: where they differ that should be alike."""

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from nafas.review.checks.finding import Severity, Subject
from nafas.review.checks.register import Review
from nafas.voice.misfits import Misfit

VOICE_APART, LOUDNESS_APART = 2.0, 0.5
"""LU by which voices, and LUFS by which loudnesses, of one series may lie apart (common practice, no source)."""


@dataclass(frozen=True)
class Checked:
    """What the review says of a variant.

    Attributes:
        name, title: of it.
        loudness: LUFS it asks for.
        voice: LUFS of its voice while it speaks; -inf without one.
        findings: (severity, check, place, words) of what must and should be changed.
        too_long: each line that does not fit its count, and where it is worst, in words.
        cautioned: whether the review finds no caution missing.
    """

    name: str
    title: str
    loudness: float
    voice: float
    findings: tuple[tuple[str, str, str, str], ...]
    too_long: tuple[str, ...]
    cautioned: bool

    @classmethod
    def of(cls, name: str, review: Review, subject: Subject) -> "Checked":
        """What of a variant's review its series needs to know."""
        session, measures = subject.session, subject.measures
        grave = [*review.of(Severity.MUST), *review.of(Severity.SHOULD)]
        worst: dict[str, Misfit] = {}
        for misfit in subject.cast.misfits if subject.cast is not None else ():
            text = misfit.placement.moment.text
            if text not in worst or misfit.over > worst[text].over:
                worst[text] = misfit
        return cls(
            name,
            session.title,
            session.master.loudness,
            measures.voice if measures is not None else float("-inf"),
            tuple((each.severity.value, each.check, each.where, each.text) for each in grave),
            tuple(map(str, worst.values())),
            not any(each.check.startswith("cautions-") for each in grave),
        )


def apart(variants: Sequence[Checked]) -> list[str]:
    """Where the variants of a series differ that should be alike, in lines for people."""
    message = []
    loud = sorted({each.loudness for each in variants})
    if loud and loud[-1] - loud[0] > LOUDNESS_APART:
        message.append(f"They are not equally loud: {_named(variants, lambda each: each.loudness)} LUFS")
    spoken = [each for each in variants if each.voice > -70]
    voices = [each.voice for each in spoken]
    if voices and max(voices) - min(voices) > VOICE_APART:
        low, high = min(spoken, key=lambda e: e.voice), max(spoken, key=lambda e: e.voice)
        message.append(
            f"Their voices are not equally loud: {high.name} {high.voice:.1f} LUFS, {low.name} {low.voice:.1f} LUFS"
        )
    titles = Counter(each.title for each in variants)
    message += [f"{number} variants are called “{title}”" for title, number in titles.items() if number > 1]
    bare = [each.name for each in variants if not each.cautioned]
    if bare and len(bare) < len(variants):
        message.append(f"Cautions are missing in {', '.join(bare[:6])}" + (" and more" if len(bare) > 6 else ""))
    return message


def _named(variants: Sequence[Checked], of: Callable[[Checked], float]) -> str:
    values = Counter(of(each) for each in variants)
    return ", ".join(f"{value:g} ({number})" for value, number in sorted(values.items()))
