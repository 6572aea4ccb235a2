"""What a number is a value of: kind, statistic, plane and reference impedance.

A bare "power in watts" is a modelling error: an in-line forward scale shows incident power at its output
plane, volts across a load give net power. Comparing one with the other is wrong by 1/(1 − |Γ|²).
"""

from enum import StrEnum

from fenmist.frozen import dataclass


class Kind(StrEnum):
    """Which quantity."""

    INCIDENT = "incident power"
    REFLECTED = "reflected power"
    NET = "net power"
    VOLTAGE = "voltage"
    RATIO = "ratio"
    CURRENT = "current"
    SWR = "SWR"
    REFLECTION = "reflection coefficient"  # its size, ρ
    RETURN_LOSS = "return loss"
    SUPPLY_VOLTAGE = "supply voltage"  # DC into a source
    SUPPLY_CURRENT = "supply current"
    DETECTED = "detector's output"  # of a home-built meter: no power before its constants are known


SUPPLY = (Kind.SUPPLY_VOLTAGE, Kind.SUPPLY_CURRENT)
"""What goes into a source as DC: no power on the line follows from it, only a bound of it."""


OF_MATCH = (Kind.REFLECTED, Kind.SWR, Kind.REFLECTION, Kind.RETURN_LOSS)
"""What tells of a match: none of it is a power that goes to the load."""


class Statistic(StrEnum):
    """Over which time: the carrier alone, the mean, or the peak envelope (ITU Radio Regulations 1.157-1.159)."""

    CARRIER = "carrier"
    MEAN = "mean"
    PEP = "PEP"
    MEAN_VOLTS = "mean of volts, squared"  # no power at all, but what a diode that averages shows


class Detector(StrEnum):
    """What an indicator makes of a varying envelope."""

    AVERAGE = "average"  # of the volts, squared by the scale
    HOLD = "hold"
    PEAK = "peak"
    THERMAL = "thermal"
    RMS = "rms"
    TRACE = "trace"  # how it is read off decides


@dataclass(frozen=True)
class PlaneRef:
    """A connector of an element in a hook-up, where power can be stated."""

    hookup: str
    element: str
    port: str


@dataclass(frozen=True)
class Measurand:
    """The full name of a quantity."""

    kind: Kind
    statistic: Statistic
    plane: PlaneRef
    z0_ohm: float = 50.0
