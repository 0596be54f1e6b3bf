"""Made-up music that is hard to tap to: syncopated, swung, half-time, without drums, with pads over it, played by hand.

Everything is drawn from a seed, so a list of seeds is a collection. `piece` gives mono sound and its true beats.
"""

import numpy as np

RATE = 22_050
STYLES = (
    "four", "backbeat", "half-time", "syncopated", "bossa", "swing", "shuffle", "waltz", "plucked", "arpeggio", "bass",
    "soft pulse",
)  # fmt: skip


def _decay(seconds, tau, attack=0.002):
    u = np.arange(int(seconds * RATE)) / RATE
    return u, np.exp(-u / tau) * np.minimum(1, u / attack)


def _kick(rng):
    u, d = _decay(0.3, 0.09)
    return np.sin(2 * np.pi * (52 * u + 9 * (1 - np.exp(-u / 0.03)))) * d


def _snare(rng):
    u, d = _decay(0.22, 0.06)
    return 0.6 * rng.standard_normal(len(u)) * d + 0.5 * np.sin(2 * np.pi * 190 * u) * d


def _hat(rng):
    u, d = _decay(0.07, 0.018)
    return np.diff(rng.standard_normal(len(u) + 1)) * d * 0.5


def _pluck(rng, pitch, tau=0.35, attack=0.004):
    u, d = _decay(1.2, tau, attack)
    f = 440 * 2 ** ((pitch - 69) / 12)
    return sum(np.sin(2 * np.pi * f * k * u + k) * d ** (0.6 + 0.4 * k) / k**1.2 for k in range(1, 6))


def _pad(rng, seconds):
    out = np.zeros(int(seconds * RATE))
    for start in np.arange(0, seconds, 5.3):
        begin = int(start * RATE)
        t = np.arange(min(7 * RATE, len(out) - begin)) / RATE
        shape = np.clip(t / 1.5, 0, 1) * np.clip((7 - t) / 2, 0, 1) * (1 + 0.3 * np.sin(2 * np.pi * 0.31 * (t + start)))
        for pitch in 48 + rng.integers(0, 6) + np.array([0, 7, 12, 16]):
            f = 440 * 2 ** ((pitch - 69) / 12) * (1 + 0.002 * rng.standard_normal())
            out[begin : begin + len(t)] += shape * np.sin(2 * np.pi * f * t + rng.uniform(0, 6))
    return out / 4


def piece(seed, style=None, seconds=70.0):
    """A piece: mono sound at `RATE`, its beats in seconds, its style and tempo."""
    rng = np.random.default_rng(seed)
    style = style or STYLES[seed % len(STYLES)]
    bpm = float(rng.uniform(62, 148)) if style not in ("half-time", "soft pulse") else float(rng.uniform(62, 96))
    period, first = 60 / bpm, float(rng.uniform(0.1, 2.5))
    count = int((seconds - first - 1) / period)
    k = np.arange(count)
    by_hand = float(rng.choice([0, 0, 0.004, 0.009]))  # seconds off the beat, as people play
    drift = float(rng.choice([0, 0, 0, 0.012]))  # part of the tempo by which it comes and goes over half a minute
    beats = first + period * (k + drift * 30 / (2 * np.pi * period) * np.sin(2 * np.pi * k * period / 30))
    sound = np.zeros(int(seconds * RATE))
    per_bar = 3 if style == "waltz" else 4
    swing = {"swing": 0.64, "shuffle": 0.667}.get(style, 0.5)

    def put(what, at, level):
        begin = int((at + by_hand * rng.standard_normal()) * RATE)
        n = min(len(what), len(sound) - begin)
        if begin >= 0 and n > 0:
            sound[begin : begin + n] += level * (1 + 0.15 * rng.standard_normal()) * what[:n]

    def at(beat):
        """The time of a place in beats, off-beats swung."""
        whole = int(np.floor(beat))
        part = beat - whole
        part = part / 0.5 * swing if part <= 0.5 else swing + (part - 0.5) / 0.5 * (1 - swing)
        low = beats[min(whole, count - 1)]
        return low + part * (beats[min(whole + 1, count - 1)] - low if whole + 1 < count else period)

    scale = np.array([0, 2, 3, 5, 7, 10, 12]) + 57
    riff = rng.choice([0, 0.5, 0.75, 1, 1.5, 1.75, 2, 2.5, 3, 3.25, 3.5], size=5, replace=False)
    for bar in range(count // per_bar):
        b = bar * per_bar
        quiet = bar < 2 or rng.random() < 0.06  # an intro, and breaks
        if style == "four" and not quiet:
            for n in range(4):
                put(_kick(rng), at(b + n), 0.7)
                put(_hat(rng), at(b + n + 0.5), 0.35)
        elif style in ("backbeat", "swing", "shuffle") and not quiet:
            for n, level in ((0, 0.7), (2, 0.55), (2.5, 0.4 * (rng.random() < 0.5))):
                put(_kick(rng), at(b + n), level)
            for n in (1, 3):
                put(_snare(rng), at(b + n), 0.5)
            for n in range(8):
                put(_hat(rng), at(b + n / 2), 0.25)
        elif style == "half-time" and not quiet:
            put(_kick(rng), at(b), 0.7)
            put(_kick(rng), at(b + 1.5 * (rng.random() < 0.5)), 0.4)
            put(_snare(rng), at(b + 2), 0.5)
            for n in range(8):
                put(_hat(rng), at(b + n / 2), 0.2)
        elif style in ("syncopated", "bossa") and not quiet:
            for n in (0, 1.5, 3) if style == "syncopated" else (0, 1.5, 2, 3.5):
                put(_kick(rng), at(b + n), 0.6)
            for n in (1, 3) if style == "syncopated" else (0, 1.5, 3):
                put(_snare(rng), at(b + n), 0.3)
            for n in range(8):
                put(_hat(rng), at(b + n / 2), 0.2)
        elif style == "waltz":
            put(_pluck(rng, 45), at(b), 0.6)
            for n in (1, 2):
                put(_pluck(rng, 60 + rng.integers(0, 5)), at(b + n), 0.3)
        elif style == "plucked":
            for n in sorted({0.0, *riff}):
                put(_pluck(rng, rng.choice(scale)), at(b + n), 0.4)
        elif style == "arpeggio":
            for n in range(8):
                put(_pluck(rng, scale[(3 * n + bar) % 7], attack=0.01), at(b + n / 2), 0.3 + 0.15 * (n % 2 == 0))
        elif style == "bass":
            for n in (0, 1, 2, 3):
                put(_pluck(rng, 33 + rng.integers(0, 8), 0.5, 0.012), at(b + n), 0.6)
            put(_hat(rng), at(b + 1), 0.1)
            put(_hat(rng), at(b + 3), 0.1)
        elif style == "soft pulse":
            for n in range(4):
                put(_pluck(rng, 57 + 7 * (n % 2), 0.5, 0.03), at(b + n), 0.5)
    sound = sound / (np.abs(sound).max() + 1e-9) + rng.uniform(0.05, 0.35) * _pad(rng, seconds)
    sound += 0.003 * rng.standard_normal(len(sound))
    return (0.4 * sound).astype(np.float32), beats, style, bpm


def without_a_beat(seed, seconds=60.0):
    """Ambient: pads, slow swells of noise, sparse bells at no regular time, rubato phrases."""
    rng = np.random.default_rng(1000 + seed)
    sound = 0.5 * _pad(rng, seconds)
    t = np.arange(len(sound)) / RATE
    sound += 0.05 * rng.standard_normal(len(t)) * (1 + np.sin(2 * np.pi * t / rng.uniform(7, 19)))
    place = 0.0
    while place < seconds - 2:
        place += float(rng.gamma(4, 0.5)) if seed % 2 else float(rng.uniform(0.5, 4))
        bell = _pluck(rng, 60 + rng.integers(0, 24), 0.5)
        begin = int(place * RATE)
        n = min(len(bell), len(sound) - begin)
        if n > 0:
            sound[begin : begin + n] += 0.3 * bell[:n]
    return (0.4 * sound).astype(np.float32)
