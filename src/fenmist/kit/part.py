"""Instruments and passive parts as data on one model; what differs between kinds is what they carry.

Stated performance says what a data sheet says ("±5 % of full scale"), not one number called accuracy: the kind of
term and what shares its error decide how it enters a budget. "Unknown" is a value, and it costs.
"""

from collections.abc import Mapping
from dataclasses import field
from enum import StrEnum
from functools import cached_property

import numpy as np

from fenmist.errors import OutOfRangeError, UnknownIdError
from fenmist.frozen import dataclass
from fenmist.kit.characterisation import Characterisation
from fenmist.kit.scale import Scale
from fenmist.measurand import Detector, Kind
from fenmist.rf.circuit import BranchKind
from fenmist.uncertainty.influence import Distribution, FloatArray, standard_u_from_limit
from fenmist.units.moment import Day


class PartKind(StrEnum):
    """What a part is to the bench."""

    TRANSMITTER = "transmitter"
    INLINE_METER = "in-line wattmeter"
    JUMPER = "jumper"
    TEE = "tee"
    LEAD = "scope lead"
    PROBE = "divider probe"
    OSCILLOSCOPE = "oscilloscope"
    LOAD = "dummy load"
    GENERATOR = "signal generator"
    SWR_METER = "SWR meter"
    HOME_BUILT = "home-built meter"
    AMMETER = "thermocouple ammeter"
    CABLE = "cable"
    ADAPTER = "adapter"
    ATTENUATOR = "attenuator"
    TAP = "tap"
    COUPLER = "coupler"
    TUNER = "tuner"
    DIVIDER = "voltage divider"
    POWER_METER = "terminating power meter"
    VOLTMETER = "RF voltmeter"
    ANALYSER = "network analyser"
    MISMATCH = "mismatch load"


SOURCES = (PartKind.TRANSMITTER, PartKind.GENERATOR, PartKind.ANALYSER)
"""Kinds that a line begins with."""


class SpecKind(StrEnum):
    """What a stated limit is a share of."""

    OF_READING = "of reading"
    OF_RANGE = "of full scale"
    DB = "dB"
    ABSOLUTE = "absolute"
    DIGITS = "digits"
    UNKNOWN = "unknown"


UNKNOWN_SHARE = 0.25
"""± part of the reading that an instrument of unknown performance is taken to be off: a transmitter's own meter is
often ±10 % or worse, and a half of the truth is met outside a span (common practice, no source)."""


class SharedWithin(StrEnum):
    """What shares one error."""

    INSTRUMENT = "instrument"
    RANGE = "range"
    POINT = "point"
    READING = "reading"


@dataclass(frozen=True)
class SpecTerm:
    """One stated limit, ± `value`: a fraction for shares, dB, digits, or SI units of what it limits."""

    kind: SpecKind
    value: float
    unit: str = ""
    distribution: Distribution = Distribution.RECTANGULAR
    shared_within: SharedWithin = SharedWithin.INSTRUMENT
    basis: str = ""  # "data sheet", "common practice", ...


def limit_at(
    term: SpecTerm,
    value: FloatArray,
    full_scale: FloatArray | None = None,
    digit: FloatArray | None = None,
    per_decade_db: float = 20.0,
) -> tuple[FloatArray, bool]:
    """± limit of one term at values, in their unit: the one place that knows what each kind is a share of.

    Parameters
    ----------
    value : FloatArray
        What was shown or is stated, any shape.
    full_scale, digit : FloatArray, optional
        Of the range it was shown on, and of its last digit; the same shape.
    per_decade_db : float
        20 for volts, amperes and ohms, 10 for watts.

    Returns
    -------
    FloatArray, bool
        The limit, >= 0, and whether the term could be evaluated: else an unknown accuracy stands for it.
    """
    size = np.abs(value)
    if term.kind in (SpecKind.OF_READING, SpecKind.UNKNOWN):
        return term.value * size, True
    if term.kind is SpecKind.DB:
        return size * (10.0 ** (term.value / per_decade_db) - 1.0), True
    if term.kind is SpecKind.ABSOLUTE:
        return np.full_like(size, term.value), True
    of = full_scale if term.kind is SpecKind.OF_RANGE else digit
    return (UNKNOWN_SHARE * size, False) if of is None else (term.value * of, True)


def limit_u(term: SpecTerm, value: float) -> float:
    """Standard uncertainty that a stated limit means at a value that has neither range nor last digit."""
    limit, _ = limit_at(term, np.array(value))
    return float(standard_u_from_limit(limit, term.distribution))


@dataclass(frozen=True)
class Property:
    """A number that describes a part, with what it is known to."""

    value: float  # SI
    unit: str
    spec: SpecTerm | None = None
    measured: bool = False

    @property
    def u(self) -> float:
        """Standard uncertainty from the stated limit; 0 where none is stated."""
        return 0.0 if self.spec is None else limit_u(self.spec, self.value)


@dataclass(frozen=True)
class Port:
    """A connector: where it leads and what it bears."""

    id: str
    connector: str = ""
    frequency_min_hz: float | None = None
    frequency_max_hz: float | None = None
    power_limit_w: float | None = None  # continuous
    volts_limit_vpk: float | None = None
    side: bool = False  # off the line: what is read hangs here
    pair: str = ""  # ports of one pair are the two ends of one way through, where a part has several

    @property
    def hangs(self) -> bool:
        """True for a side port; older records know a tee's by its name."""
        return self.side or self.id == "side"


@dataclass(frozen=True)
class Component:
    """One piece inside a part: a resistor of a tap or a pad, a stray capacitance, a winding."""

    id: str  # "R1"
    kind: BranchKind
    nodes: tuple[str, ...]  # port ids, inner names, or "0" for ground
    nominal: float  # Ω, F, H or turns
    measured: float | None = None  # the same; counts where it is known
    tolerance: SpecTerm | None = None  # of the nominal value
    u_measured: float = 0.0  # standard uncertainty of the measured value
    power_limit_w: float | None = None  # of the whole stack
    pieces: str = ""  # "3 × 820 Ω in series"

    @property
    def value(self) -> float:
        """As measured where it was, else nominal."""
        return self.nominal if self.measured is None else self.measured

    @property
    def u(self) -> float:
        """Standard uncertainty of that value."""
        if self.measured is not None:
            return self.u_measured
        return 0.0 if self.tolerance is None else limit_u(self.tolerance, self.nominal)


@dataclass(frozen=True)
class Position:
    """One position of a switch, and the properties that hold there instead of the part's own."""

    label: str  # "10 dB"
    properties: Mapping[str, Property] = field(default_factory=dict)


@dataclass(frozen=True)
class Switch:
    """A switch or knob that changes what a part does to the line."""

    id: str
    positions: tuple[Position, ...]

    def position(self, label: str) -> Position:
        """The position of that name, the first where nothing was set."""
        return next((item for item in self.positions if item.label == label), self.positions[0])


BYPASSED = "bypassed"
"""Position of a tuner's switch in which it does nothing."""


@dataclass(frozen=True)
class Range:
    """One range of an indicator; several may share a scale."""

    id: str
    full_scale: float  # in `unit`
    unit: str
    scale: Scale | None = None
    spec: tuple[SpecTerm, ...] = ()
    pointer_offset_db: float = 0.0

    @property
    def factor(self) -> float:
        """What the printed figures are multiplied by on this range; 1 without a scale."""
        return self.full_scale / self.scale.top if self.scale and self.scale.top else 1.0


_LONGEST = {
    "detector_s": 100.0, "decay_s": 100.0, "needle_s": 100.0, "damping": 10.0, "friction": 0.5, "digits_s": 100.0,
}  # fmt: skip
"""Beyond which a time, a damping, a friction is a slip of typing (Fenmist's own)."""


@dataclass(frozen=True)
class Times:
    """How quickly a detector and what shows it follow, s; none where it isn't known."""

    detector_s: float | None = None  # constant of averaging, of a hold's charging; a peak's window
    decay_s: float | None = None  # of a hold
    needle_s: float | None = None  # a needle's period, undamped
    damping: float | None = None  # of the needle; 1 is critical
    friction: float | None = None  # of the needle, as a share of full deflection
    digits_s: float | None = None  # over which digits are averaged

    def __post_init__(self) -> None:
        """Raises OutOfRangeError where a number is none that a meter has."""
        for name, most in _LONGEST.items():
            value = getattr(self, name)
            if value is not None and not (0.0 < value <= most or (name == "friction" and value == 0.0)):
                raise OutOfRangeError(
                    f"{name.removesuffix('_s').capitalize()} of {value:g} makes no sense.",
                    f"It lies above 0, up to {most:g}{' s' if name.endswith('_s') else ''}.",
                )

    @property
    def of_hold_known(self) -> bool:
        """Whether what a hold shows can be worked out."""
        return self.detector_s is not None and self.decay_s is not None


@dataclass(frozen=True)
class Indicator:
    """Something that shows a number: a dial's needle, a display, a trace."""

    id: str
    label: str
    quantity: Kind
    unit: str  # implied in its field: "W", "Vpp", ...
    ranges: tuple[Range, ...] = ()
    detector: Detector = Detector.AVERAGE
    spec: tuple[SpecTerm, ...] = ()
    can_be_negative: bool = False
    times: Times = Times()

    @property
    def stated(self) -> tuple[SpecTerm, ...]:
        """Its stated performance: that of its ranges, else its own."""
        return self.ranges[0].spec if self.ranges and self.ranges[0].spec else self.spec

    def range(self, range_id: str) -> Range | None:
        """The range named, or none where the indicator has no ranges."""
        return next((item for item in self.ranges if item.id == range_id), None)


FEEDS = (PartKind.LEAD, PartKind.PROBE)
"""Kinds that can hang between a tee and a scope."""


@dataclass(frozen=True)
class CalibrationRecord:
    """What is known of a part's past: by whom it was compared, when, until when that is trusted."""

    on: Day
    by: str
    due: Day = ""
    reference: str = ""  # certificate number


@dataclass(frozen=True)
class Part:
    """An instrument or a passive part."""

    id: str
    kind: PartKind
    label: str
    serial: str = ""
    ports: tuple[Port, ...] = ()
    indicators: tuple[Indicator, ...] = ()
    properties: Mapping[str, Property] = field(default_factory=dict)
    characterisations: tuple[Characterisation, ...] = ()
    history: tuple[CalibrationRecord, ...] = ()
    settings: Mapping[str, str] = field(default_factory=dict)
    remarks: str = ""
    retired: bool = False  # no longer offered; what used it keeps it
    components: tuple[Component, ...] = ()
    switches: tuple[Switch, ...] = ()

    def port(self, port_id: str) -> Port:
        """The port named; raises UnknownIdError."""
        for item in self.ports:
            if item.id == port_id:
                return item
        raise UnknownIdError(f"{self.label} has no port “{port_id}”.", "Look at the hook-up.")

    def indicator(self, indicator_id: str) -> Indicator:
        """The indicator named; raises UnknownIdError."""
        for item in self.indicators:
            if item.id == indicator_id:
                return item
        raise UnknownIdError(f"{self.label} has no indicator “{indicator_id}”.", "Look at its entry in the kit.")

    def characterisation(self, quantity: str, setting: str = "") -> Characterisation | None:
        """The newest characterisation of a quantity in a setting, or none."""
        fitting = (c for c in reversed(self.characterisations) if c.quantity == quantity and c.setting == setting)
        return next(fitting, None)

    @property
    def side_ports(self) -> tuple[Port, ...]:
        """Ports off the line."""
        return tuple(port for port in self.ports if port.hangs)

    @property
    def ends(self) -> tuple[str, ...]:
        """The first way through: one port for what ends a line, two for what it passes."""
        first = next((port for port in self.ports if not port.hangs), self.ports[0])
        onward = self.onward(first.id)
        return (first.id, onward) if onward else (first.id,)

    def onward(self, port_id: str) -> str | None:
        """The other end of the way through that begins at a port; none at an end or a side port."""
        return self._onward[self.port(port_id).id]

    @cached_property
    def _onward(self) -> dict[str, str | None]:
        pairs: dict[str, list[str]] = {}
        for port in self.ports:
            if not port.hangs:
                pairs.setdefault(port.pair, []).append(port.id)
        made: dict[str, str | None] = {port.id: None for port in self.ports}
        for ends in pairs.values():
            if len(ends) == 2:
                made.update(zip(ends, reversed(ends), strict=True))
        return made

    def tunes(self, settings: Mapping[str, str]) -> bool:
        """Whether it is a tuner at work: what it shows in front is its own, whatever ends the line."""
        at_rest = (item.position(settings.get(item.id, "")).label == BYPASSED for item in self.switches)
        return self.kind is PartKind.TUNER and not any(at_rest)

    def at(self, settings: Mapping[str, str]) -> Mapping[str, Property]:
        """The part's properties with its switches so set."""
        found = dict(self.properties)
        for switch in self.switches:
            found.update(switch.position(settings.get(switch.id, "")).properties)
        return found
