"""Kymaton: what every listener of a live stream will really hear."""

import os

__version__ = "0.1.0"

# Before NumPy is loaded: our systems of equations are small, and threads that share one wait for each other longer than
# they compute, most of all on a computer that is busy streaming.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
