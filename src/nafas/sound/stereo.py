"""What two channels of sound are, everywhere in this room."""

import numpy as np
from numpy.typing import NDArray

Stereo = NDArray[np.float32]
"""Shape (2, n): left and right, full scale 1.0."""
