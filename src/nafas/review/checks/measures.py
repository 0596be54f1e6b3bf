"""What the sound checks need of a mix: its stems measured block by block, then its sum."""

import math
from collections.abc import Callable
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from nafas.parallel.shares import Tell, in_shares
from nafas.review.checks.finding import Measures
from nafas.sound.master.balance import over, speaking
from nafas.sound.master.mono_downmix import fold_loss
from nafas.sound.meters.loudness import SETTLED, LoudnessMeter, sliding
from nafas.sound.meters.measure import measure
from nafas.sound.mix.mix import STEMS, Mix

_BLOCK = 1 << 17
_PART_SECONDS = 30
_STEP = 0.02
_MOMENT = 20  # steps: 400 ms, what the ear takes for a moment (EBU Tech 3341, momentary loudness)
_BEFORE = 150  # steps: 3 s, what it has got used to (short-term loudness)
_STARTLES, _STILL = 10 ** (-8 / 10), 10 ** (-35 / 10)


def measure_mix(mix: Mix, progress: Callable[[float], None] = lambda done: None) -> Measures:
    """Measure a mix: its stems' K-weighted powers (ITU-R BS.1770-5) block by block, its loudness and true peak.

    Raises:
        Cancelled: when `progress` does.
    """
    voice, chimes, bed = _stem_powers(mix, lambda done: progress(0.6 * done))
    whole = measure(mix, lambda done: progress(0.6 + 0.4 * done))
    gain = mix.cast.timeline.session.master.loudness - whole.loudness
    speaks = speaking(voice)
    mean = float(voice[speaks].mean()) if speaks.any() else 0.0
    worst, worst_block = math.inf, None
    for name, begin, end in _stretches(mix):
        here = speaks[begin:end]
        if here.sum() >= _MOMENT:
            stands = over(voice[begin:end][here], bed[begin:end][here])
            if stands < worst:
                worst, worst_block = stands, name
    strikes = sliding(chimes, 0.4)
    loudest = float(np.max(strikes, initial=-math.inf))
    jump, jump_at = _largest_jump(chimes + bed, mean)
    return Measures(
        loudness=whole.loudness,
        true_peak=whole.true_peak + gain if math.isfinite(gain) else whole.true_peak,
        mono_loss=fold_loss(whole)[0],
        voice_over_bed=over(voice[speaks], bed[speaks]) if speaks.any() else math.nan,
        worst_over_bed=worst,
        worst_block=worst_block,
        jump=jump,
        jump_at=jump_at,
        voice=_lufs(mean) + gain if mean > 0 and math.isfinite(gain) else -math.inf,
        chimes_at=Fraction(int(np.argmax(strikes)), 50) if len(strikes) else None,
        chimes_over_voice=loudest - _lufs(mean) if mean > 0 and math.isfinite(loudest) else -math.inf,
    )


def _stem_powers(mix: Mix, progress: Callable[[float], None]) -> NDArray[np.float64]:
    """K-weighted powers of every 20 ms of voice, chimes and bed, shape (3, steps); parts of them side by side."""
    size, settled = round(_PART_SECONDS * mix.rate), round(SETTLED * mix.rate)

    def part(start: int, tell: Tell) -> list[NDArray[np.float64]]:
        meters = [LoudnessMeter(mix.rate) for _ in STEMS]
        before, end = min(start, settled), min(start + size, mix.length)
        for meter, stem in zip(meters, mix.stems(start - before, before)):
            meter.settle(stem)
        for at in range(start, end, _BLOCK):
            frames = min(_BLOCK, end - at)
            for meter, stem in zip(meters, mix.stems(at, frames)):
                meter.push(stem)
            tell(frames)
        return [meter.fine for meter in meters]

    parts = in_shares(part, range(0, mix.length, size), mix.length, progress, mix.forkable)
    return np.concatenate(parts, axis=1) if parts else np.zeros((len(STEMS), 0))


def _lufs(power: float) -> float:
    return -0.691 + 10 * math.log10(power) if power > 0 else -math.inf


def _stretches(mix: Mix) -> list[tuple[str, int, int]]:
    """Blocks in steps of the meter."""
    return [
        (timed.block.id, int(float(timed.start) / _STEP), int(float(timed.end) / _STEP))
        for timed in mix.cast.timeline.blocks
    ]


def _largest_jump(powers: NDArray[np.float64], voice: float) -> tuple[float, Fraction | None]:
    """LU by which any 400 ms of what is not the voice are over the 3 s before them, and when; -inf for none.

    What is softer than the voice by `_STARTLES` startles nobody, and whatever comes out of less than `_STILL` under the
    voice comes out of stillness. `voice` is its mean power; 0 for none.
    """
    if len(powers) < _BEFORE + _MOMENT or not powers.any():
        return -math.inf, None
    sums = np.concatenate([[0.0], np.cumsum(powers)])
    usual = (sums[_BEFORE:-_MOMENT] - sums[: -_BEFORE - _MOMENT]) / _BEFORE
    now = (sums[_BEFORE + _MOMENT :] - sums[_BEFORE:-_MOMENT]) / _MOMENT
    level = voice or float(np.quantile(powers, 0.9))
    rise = 10 * np.log10(np.maximum(now, 1e-12) / np.maximum(usual, level * _STILL + 1e-12))
    rise[now < level * _STARTLES] = -math.inf
    at = int(np.argmax(rise))
    return float(rise[at]), Fraction(at + _BEFORE, 50) if math.isfinite(rise[at]) else None
