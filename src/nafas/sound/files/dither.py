"""TPDF dither: what makes rounding to 16 bits a steady hiss instead of a distortion that follows the signal.

After S. Lipshitz, R. Wannamaker and J. Vanderkooy, "Quantization and dither: a theoretical survey", J. Audio Eng. Soc.
40 (1992) 355-375: noise of triangular density, two steps wide, from two even draws, makes mean and power of the error
independent of the signal.
"""

import numpy as np
from numpy.typing import NDArray

FULL_SCALE = 2**15


class Dither:
    """Rounds a stream to 16 bits. The same stream in any blocks gives the same samples: the draws follow the places.

    Args:
        channels: each has draws of its own.
        seed: of the draws.
    """

    def __init__(self, channels: int, seed: int = 16) -> None:
        self._draws = [np.random.Generator(np.random.PCG64(s)) for s in np.random.SeedSequence(seed).spawn(channels)]

    def __call__(self, block: NDArray[np.float32]) -> NDArray[np.int16]:
        """Samples of shape (channels, n), full scale 1.0, as 16-bit steps."""
        out = np.empty(block.shape, np.int16)
        for channel, draw in enumerate(self._draws):
            noise = draw.random((block.shape[1], 2), dtype=np.float32)
            steps = block[channel] * np.float32(FULL_SCALE) + (noise[:, 0] - noise[:, 1])
            out[channel] = np.clip(np.rint(steps), -FULL_SCALE, FULL_SCALE - 1)
        return out
