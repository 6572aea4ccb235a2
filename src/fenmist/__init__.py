"""Fenmist: calibration and cross-checking of RF wattmeters."""

import os

__version__ = "0.1.0"

# Before NumPy is imported: a second thread of its algebra spins on for as long as a key takes, and matrices are small.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

# The C library takes memory above 128 KB from the system, and gives it back, array by array until it saw a larger piece
# given back: taking pages anew took longer than working out what is in them. Nothing is ever written into this piece.
_ = bytes((32 << 20) - (1 << 16))
del _
