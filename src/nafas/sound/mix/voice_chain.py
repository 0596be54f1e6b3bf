"""What is done to the voice on its way into the mix: high-pass, compression, softer hissing, a little room.

Takes stay as they are. Nothing here moves a beat: the filters are run both ways, so that they have no delay, and the
compressor, the gate of the hissing band and the room (all pedalboard's) keep what comes first where it is.
"""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from nafas.filters import butterworth, k_energy
from nafas.script.model.session import VoiceSound
from nafas.voice.clip import Clip
from nafas.voice.level import SPEECH_LEVEL, tame_peaks
from nafas.voice.spool import Spooled, spool

Samples = NDArray[np.float32]

_HISS = 4800.0  # Hz over which speech hisses
_HISS_SHARE = 9.0  # dB under speech over which that band stands out
_MOST_RATIO = 4.0
_TAIL = 0.7  # seconds that the room rings
_WET = 0.11


def sounded(clip: Clip, how: VoiceSound, rate: int) -> Samples | Spooled:
    """A clip as it goes into the mix: shape (n,), or (2, n) and longer by the room's tail where there is a room."""
    return _sounded(clip, how, rate) if how.works else clip.kept


@lru_cache(maxsize=1024)
def _sounded(clip: Clip, how: VoiceSound, rate: int) -> Samples | Spooled:
    return spool.hold(through(clip.samples, how, rate))


def through(samples: Samples, how: VoiceSound, rate: int) -> Samples:
    """Mono speech at `SPEECH_LEVEL` after the chain, as loud as before; as it is where the chain does nothing."""
    if not how.works or not len(samples):
        return samples
    import pedalboard

    shaped = np.asarray(samples, np.float64)
    if how.high_pass:
        # Twelve decibels an octave: six each way.
        shaped = butterworth(shaped, rate, 1, above=how.high_pass)
    if how.soften:
        # What lies high is taken apart, turned down where it is loud, and put back: never by more than was asked.
        high = butterworth(shaped, rate, 2, above=_HISS)
        gate = pedalboard.Compressor(threshold_db=SPEECH_LEVEL - _HISS_SHARE, ratio=20, attack_ms=1, release_ms=40)
        turned = gate(np.ascontiguousarray(high[None], np.float32), rate)[0]
        least = 10 ** (-how.soften / 20)
        shaped = shaped - high + least * high + (1 - least) * turned
    mono = np.ascontiguousarray(shaped[None], np.float32)
    if how.compress:
        ratio = 1 + (_MOST_RATIO - 1) * how.compress
        mono = pedalboard.Compressor(threshold_db=SPEECH_LEVEL - 6, ratio=ratio, attack_ms=6, release_ms=120)(
            mono, rate
        )
    mono = tame_peaks(_as_loud(samples, mono, rate)[0], rate)[None]
    if not how.room:
        return np.ascontiguousarray(mono[0])
    both = np.repeat(np.pad(mono, ((0, 0), (0, round(_TAIL * rate)))), 2, axis=0)
    # Its dry sound comes out twice as strong as the level says.
    room = pedalboard.Reverb(room_size=0.22, damping=0.6, wet_level=_WET * how.room, dry_level=0.5, width=0.8)
    made: Samples = np.asarray(room(np.ascontiguousarray(both), rate, reset=True), np.float32)
    made = _as_loud(samples, made, rate)
    fade = round(0.1 * rate)
    made[:, -fade:] *= np.linspace(1, 0, fade, dtype=np.float32)
    return made


def _as_loud(before: Samples, after: Samples, rate: int) -> Samples:
    """Sound of shape (channels, n) with the K-weighted energy (ITU-R BS.1770) that the speech had before, in the mean
    over its channels; silence as it is."""
    was, now = (k_energy(each, rate) for each in (before, after))
    return (after * np.sqrt(was * len(after) / now)).astype(np.float32) if now > 0 else after
