"""A finished render in a few lines for people."""

import math
from collections import Counter

from nafas.plain_text import many
from nafas.review.produce import Production
from nafas.review.proof import Proof
from nafas.sound.master.mono_downmix import fold_loss
from nafas.timing.clock import clock
from nafas.voice.misfits import MisfitKind

_LOST, _LOST_AT_ONCE = 1.5, 6.0
"""LU lost on one loudspeaker that are told: on the whole, in the worst moment. One channel alone loses 3: no fault."""


def report(made: Production) -> str:
    """A finished render in a few lines for people."""
    master = made.mastered
    minutes, seconds = divmod(made.duration, 60)
    lines = [
        f"{master.path}: {int(minutes)}:{seconds:04.1f}, {master.measured.loudness:.1f} LUFS, "
        f"{master.measured.true_peak:.1f} dBTP, rendered at {made.real_time_factor:.0f} x real time"
    ]
    measured = master.measured
    if math.isfinite(measured.short_term_max):
        lines.append(
            f"loudness range {measured.range:.1f} LU, short-term at most {measured.short_term_max:.1f}, "
            f"momentary at most {measured.momentary_max:.1f} LUFS"
        )
    lost, worst, where = fold_loss(measured)
    if lost >= _LOST or worst >= _LOST_AT_ONCE:
        lines.append(
            f"folded down to mono it loses {lost:.1f} LU, most at {clock(where)}: {worst:.1f} LU; "
            "narrow the bed or the chime there"
        )
    lines += list(master.troubles)
    if master.also:
        lines.append("also: " + ", ".join(str(path) for path in master.also))
    if master.stems:
        lines.append("stems: " + ", ".join(str(path) for path in master.stems.values()))
    if master.limited < 0:
        lines.append(f"the limiter took up to {-master.limited:.1f} dB off peaks")
    for path, lower in made.eased.items():
        lines.append(f"{path.name}: single peaks were eased by up to {lower:.1f} dB, for its encoder raises them")
    if master.shortfall:
        lines.append(
            f"loudness misses its target of {master.target:g} LUFS by {master.shortfall:.1f} LU: lower the target"
        )
    stand_ins = made.cast.stand_in_lines
    if stand_ins:
        some = ", ".join(repr(line[:40]) for line in stand_ins[:6])
        more = f" and {len(stand_ins) - 6} more" if len(stand_ins) > 6 else ""
        told = many(len(stand_ins), "line is", "lines are")
        lines.append(f"{told} read by the narrator ({made.cast.narrator}): {some}{more}")
    lines += [f"the voice that was asked for is not here, another reads: {each}" for each in made.cast.voice_problems]
    if made.cast.waiting_lines:
        told = many(len(made.cast.waiting_lines), "line has no take and stays", "lines have no take and stay")
        lines.append(f"{told} unsaid: " + ", ".join(repr(line[:40]) for line in made.cast.waiting_lines[:6]))
    if made.cast.shortened:
        least = min(placement.clip.part for placement in made.cast.shortened)
        lines.append(f"{many(len(made.cast.shortened), 'time')} a word is shortened to fit, by up to {1 - least:.0%}")
    for each in made.proofs:
        lines += proof_lines(each)
    lines += _fit(made)
    return "\n".join(lines)


def proof_lines(proof: Proof) -> list[str]:
    """What a proof says, in lines for people: the verdict, what was found, and each fault."""
    verdict = "holds" if proof.holds else "does not hold"
    if not proof.matches:
        found = "there is no cue or chime to look for"
    else:
        heard = [
            f"{sum(match.found is not None for match in some)} of {len(some)} {name}"
            for some, name in ((proof.cues, "cues"), (proof.chimes, "chimes"))
            if some
        ]
        found = f"{' and '.join(heard)} found in the decoded file"
        if proof.worst is not None and proof.mean is not None:
            found += f", beat error worst {proof.worst:.2f}, mean {proof.mean:.2f} samples"
    return [f"proof of {proof.path.name} {verdict}: {found}", *_capped([f"  {fault}" for fault in proof.faults])]


def _fit(made: Production) -> list[str]:
    """What does not fit: each line once, at its worst, with how often."""
    misfits = made.cast.misfits
    if not misfits:
        return ["fit: every line fits its slot"]
    count = Counter(misfit.placement.moment.text for misfit in misfits)
    worst = {misfit.placement.moment.text: misfit for misfit in sorted(misfits, key=lambda misfit: misfit.over)}
    rows = [f"  {worst[text]}" + (f" (and {n - 1} more times)" if n > 1 else "") for text, n in count.most_common()]
    covering = sum(misfit.kind is MisfitKind.COVERS for misfit in misfits)
    longer = len(misfits) - covering
    said = (
        [f"{many(longer, 'time')} a line is longer than its slot; words that collide may not be found"]
        if longer
        else []
    )
    said += [f"{many(covering, 'time')} a line leaves no time for the words after it"] if covering else []
    return [f"fit: {'; '.join(said)}", *_capped(rows)]


def _capped(rows: list[str], most: int = 12) -> list[str]:
    return rows if len(rows) <= most else [*rows[:most], f"  and {len(rows) - most} more (all of them with --json)"]
