"""Fenmist: calibration and cross-checking of RF wattmeters."""

__version__ = "0.1.0"
