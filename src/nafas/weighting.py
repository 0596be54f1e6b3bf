"""The K-weighting filter of ITU-R BS.1770-4: how the ear weighs what is heard, for levels that are to sound alike."""

import math

import numpy as np
from numpy.typing import NDArray


def k_weighting(rate: int) -> NDArray[np.float64]:
    """The K-weighting filter as second-order sections, shape (2, 6).

    BS.1770 tabulates coefficients for 48 kHz alone. These come from the analogue filters behind that table, by
    bilinear transform, and give the table's values at 48 kHz to 1e-8 (parameters: B. De Man, "Evaluation of
    implementations of the EBU R128 loudness measurement", AES 145, 2018).
    """
    gain, q, centre = 3.999843853973347, 0.7071752369554196, 1681.974450955533
    k = math.tan(math.pi * centre / rate)
    high = 10 ** (gain / 20)
    band = high**0.4996667741545416
    a0 = 1 + k / q + k * k
    shelf = [
        (high + band * k / q + k * k) / a0,
        2 * (k * k - high) / a0,
        (high - band * k / q + k * k) / a0,
        1.0,
        2 * (k * k - 1) / a0,
        (1 - k / q + k * k) / a0,
    ]
    q, centre = 0.5003270373238773, 38.13547087602444
    k = math.tan(math.pi * centre / rate)
    a0 = 1 + k / q + k * k
    highpass = [1.0, -2.0, 1.0, 1.0, 2 * (k * k - 1) / a0, (1 - k / q + k * k) / a0]
    return np.array([shelf, highpass])


def k_power(frequencies: NDArray[np.float64], rate: int) -> NDArray[np.float64]:
    """What the filter makes of the power at each frequency in Hz, as a factor."""
    delays = np.exp(-2j * np.pi * np.outer(frequencies / rate, np.arange(3)))
    sections = [(delays @ section[:3]) / (delays @ section[3:]) for section in k_weighting(rate)]
    power: NDArray[np.float64] = np.abs(sections[0] * sections[1]) ** 2
    return power
