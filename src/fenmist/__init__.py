"""Fenmist: calibration and cross-checking of RF wattmeters."""

import os

__version__ = "0.1.0"

# Before NumPy is imported: a second thread of its algebra spins on for as long as a key takes, and matrices are small.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
