"""How near the proof places sounds: by level over the bed, and through each codec; and what it takes.

Times are exact in the session used here, so every error is the proof's own: the distance of the place found from the
sample the sound was put on.
"""

from collections.abc import Callable
from pathlib import Path

import numpy as np

Show = Callable[..., None]


def accuracy(folder: Path, show: Show) -> None:
    """Errors of words and chimes, with the bed louder step by step, and through codecs."""
    from nafas.demo import FOLDER, SESSION
    from nafas.review.proof.matcher import SURE, find, mono, template
    from nafas.review.proof.sought import sought
    from nafas.script import load_session
    from nafas.sound import build_mix
    from nafas.timing import compile_session
    from nafas.voice import cast_timeline, session_narrator

    session = load_session(SESSION)
    narrator = session_narrator(session, FOLDER)
    cast = cast_timeline(compile_session(session, narrator.spoken_length), narrator)
    mix = build_mix(cast, FOLDER)
    stems = mix.stems(0, mix.length)
    words, bed = mono(stems.voice), mono(stems.bed)
    wanted = [each for each in sought(cast, ()) if each.moment.kind.value != "talk"]

    def over(extra: float) -> tuple[float, list[int], float]:
        heard = words + bed * np.float32(10 ** (extra / 20))
        lates, spread, ratios = [], [], []
        for each in wanted:
            (place,) = find(heard, [(each.start, template(each, 48_000))], 1.0)
            part = slice(each.start, each.end)
            ratios.append(10 * np.log10((words[part] ** 2).sum() / ((heard - words)[part] ** 2).sum()))
            if place is not None and place.sure >= SURE:
                lates.append(abs(place.late))
                spread.append(place.spread)
        return float(np.median(ratios)), lates, float(np.median(spread)) if spread else 0.0

    for extra in (0, 10, 20, 25, 30, 35, 40):
        level, lates, spread = over(extra)
        exact = sum(late == 0 for late in lates)
        told = f"{exact} of {len(wanted)} exact, worst {max(lates, default=0)}"
        show(f"proof: words {level:+.0f} dB over their bed", told, f"spread {spread:.3f} samples")


def codecs(folder: Path, show: Show) -> None:
    """Errors through each format, and how far levels move in it."""
    from nafas.demo import FOLDER, SESSION
    from nafas.script import load_session
    from nafas.tasks.render import RenderRequest, produce

    names = [folder / f"p{ending}" for ending in (".flac", ".wav", ".mp3", ".ogg", ".opus")]
    made = produce(RenderRequest(load_session(SESSION), FOLDER, names[0], also=tuple(names[1:])))
    first = made.proofs[0]
    for proof in made.proofs:
        moved = max(abs((a.found or 0) - (b.found or 0)) for a, b in zip(proof.matches, first.matches))
        away = proof.measured.loudness - first.measured.loudness
        show(
            f"proof through {proof.path.suffix[1:]}",
            f"holds {proof.holds}, {len(proof.missing)} lost, {moved} samples away",
            f"{away:+.2f} LU",
        )


def voices(folder: Path, show: Show) -> None:
    """Words with nothing behind them, in many voices: what codecs leave next to them, and what they do to peaks."""
    from nafas.script import Session, read_block
    from nafas.tasks.render import RenderRequest, produce

    read = [
        (voice, pace) for voice in ("en", "en-us", "en+m5", "en+f3", "en-gb-scotland") for pace in range(87, 220, 21)
    ]
    names = [folder / f"v{ending}" for ending in (".wav", ".mp3", ".ogg", ".opus")]
    accused, eased = [], []
    for voice, pace in read:
        session = Session(
            opening=1, closing=1, bed=None, end_bell=False, blocks=(read_block("3-4 x2", "a"),),
            voice={"engine_voice": voice, "pace": pace}, master={"mono": pace % 2 == 0},
        )  # fmt: skip
        made = produce(RenderRequest(session, folder, names[0], also=tuple(names[1:]), anyway=True))
        accused += [proof.path.suffix for proof in made.proofs if not proof.holds]
        eased += [(path.suffix, by) for path, by in made.eased.items()]
    show(
        f"proof of words with nothing behind them, {len(read)} voices and paces, each in four formats",
        f"{len(accused)} files accused {sorted(set(accused))}",
        f"{len(eased)} eased, by up to {max((by for _, by in eased), default=0):.1f} dB",
    )
