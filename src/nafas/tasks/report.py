"""Lines for people: a master in one, what a proof says, what does not fit."""

from collections import Counter
from collections.abc import Sequence

from nafas.plain_text import pluralize
from nafas.review.proof import Proof
from nafas.sound.master.render import Mastered
from nafas.voice.casting import Cast
from nafas.voice.misfits import MisfitKind


def short_line(master: Mastered, proofs: Sequence[Proof]) -> str:
    """A master in one line: length, loudness, true peak, what of the first proof's cues was found, and the verdict."""
    minutes, seconds = divmod(round(master.frames / master.rate), 60)
    parts = [f"{minutes}:{seconds:02}", f"{master.measured.loudness:.1f} LUFS", f"{master.measured.true_peak:.1f} dBTP"]
    if proofs and proofs[0].cues:
        cues = proofs[0].cues
        parts.append(f"{sum(match.found is not None for match in cues)} of {len(cues)} cues found")
    if proofs:
        parts.append("proof holds" if all(proof.holds for proof in proofs) else "THE PROOF DOES NOT HOLD")
    return ", ".join(parts)


def proof_lines(proof: Proof) -> list[str]:
    """What a proof says, in lines for people: the verdict, what was found, and each fault."""
    verdict = "holds" if proof.holds else "does not hold"
    if not proof.matches:
        found_ = "there is no cue or chime to look for"
    else:
        heard = [
            f"{sum(match.found is not None for match in some)} of {len(some)} {name}"
            for some, name in ((proof.cues, "cues"), (proof.chimes, "chimes"))
            if some
        ]
        found_ = f"{' and '.join(heard)} found in the decoded file"
        if proof.worst is not None and proof.mean is not None:
            found_ += f", beat error worst {proof.worst:.2f}, mean {proof.mean:.2f} samples"
    faults = _capped([f"  {fault}" for fault in proof.faults])
    remedy = [f"  to do: {proof.remedy}"] if proof.remedy else []
    return [f"proof of {proof.path.name} {verdict}: {found_}", *faults, *remedy]


def fit_lines(cast: Cast) -> list[str]:
    """What does not fit: each line once, at its worst, with how often."""
    misfits = cast.misfits
    if not misfits:
        return ["fit: every line fits its slot"]
    count = Counter(misfit.placement.moment.text for misfit in misfits)
    worst = {misfit.placement.moment.text: misfit for misfit in sorted(misfits, key=lambda misfit: misfit.over)}
    rows = [f"  {worst[text]}" + (f" (and {n - 1} more times)" if n > 1 else "") for text, n in count.most_common()]
    covering = sum(misfit.kind is MisfitKind.COVERS for misfit in misfits)
    longer = len(misfits) - covering
    said = (
        [f"{pluralize(longer, 'time')} a line is longer than its slot; words that collide may not be found"]
        if longer
        else []
    )
    said += [f"{pluralize(covering, 'time')} a line leaves no time for the next words"] if covering else []
    return [f"fit: {'; '.join(said)}", *_capped(rows)]


def _capped(rows: list[str], most: int = 12) -> list[str]:
    return rows if len(rows) <= most else [*rows[:most], f"  and {len(rows) - most} more (all of them with --json)"]
