"""A steady sine's volts, by how they were taken."""

import math

RMS_PER_UNIT = {"Vrms": 1.0, "Vpk": 1.0 / math.sqrt(2.0), "Vpp": 1.0 / (2.0 * math.sqrt(2.0))}
"""Vrms of a sine per volt of each form; plain V is no form."""


def rms_from_volts(volts: float, form: str) -> float:
    """Vrms of a sine from volts of the form Vpp, Vpk or Vrms.

    >>> round(rms_from_volts(102.0, "Vpp"), 2)
    36.06
    """
    return volts * RMS_PER_UNIT[form]
