"""Nafas: script, time, mix and prove guided breathing recordings."""

import os

__version__ = "0.2.0"

# The arrays are short and `parallel` shares out the work: threads of BLAS only wait for each other. On a busy machine a
# meter took ten times its processor time. NumPy reads this when it is imported, so it is set before that.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
