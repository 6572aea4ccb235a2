"""From a load's impedance as typed to what a characterisation and a method take."""

import numpy as np

from fenmist.kit.characterisation import Characterisation, LoadState, load_state
from fenmist.rf.reflection import resistance_from_magnitude
from fenmist.units.impedance import Known, TypedImpedance, impedance_from_text

IMPEDANCE = "impedance_ohm"
"""Name of the quantity in a characterisation."""

HOT_IMPEDANCE = "impedance_hot_ohm"
"""The same, measured after minutes of carrier."""


def resolved(typed: TypedImpedance, z0_ohm: float = 50.0) -> complex:
    """R + j|X| where it follows, else the magnitude as a real number; raises where SWR and |Z| contradict."""
    if typed.known is not Known.MAGNITUDE_SWR or typed.swr is None:
        return typed.ohm
    magnitude = typed.ohm.real
    resistance = float(resistance_from_magnitude(magnitude, typed.swr, z0_ohm))
    return complex(resistance, float(np.sqrt(max(magnitude**2 - resistance**2, 0.0))))


def load_state_from_text(text: str, u_relative: float) -> LoadState:
    """A load's state at one frequency from what was typed; raises UnreadableError, OutOfRangeError."""
    table = table_from_rows([(1.0, text)], u_relative)
    return load_state(table, np.array([1.0]), 50.0)


def table_from_rows(
    rows: list[tuple[float, str]], u_relative: float, source: str = "", measured_on: str = "", quantity: str = IMPEDANCE
) -> Characterisation:
    """A characterisation from frequencies in Hz and typed impedances, put in rising order.

    Raises
    ------
    UnreadableError, OutOfRangeError
        Where a text can't be read, or a frequency stands twice.
    """
    ordered = sorted(rows)
    typed = [impedance_from_text(text) for _, text in ordered]
    values = [resolved(item) for item in typed]
    return Characterisation(
        quantity, quantity, tuple(f for f, _ in ordered),
        tuple(value.real for value in values), tuple(value.imag for value in values),
        tuple(item.known for item in typed), u_relative, tuple(item.raw for item in typed), source, measured_on,
    )  # fmt: skip
