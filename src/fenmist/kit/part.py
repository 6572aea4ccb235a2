"""Instruments and passive parts as data on one model; what differs between kinds is what they carry.

Stated performance says what a data sheet says ("±5 % of full scale"), not one number called accuracy: the kind of
term and what shares its error decide how it enters a budget. "Unknown" is a value, and it costs.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from fenmist.errors import UnknownIdError
from fenmist.kit.characterisation import Characterisation
from fenmist.kit.scale import Scale
from fenmist.measurand import Kind
from fenmist.uncertainty.influence import Distribution


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


class SpecKind(StrEnum):
    """What a stated limit is a share of."""

    OF_READING = "of reading"
    OF_RANGE = "of full scale"
    DB = "dB"
    ABSOLUTE = "absolute"
    UNKNOWN = "unknown"


class SharedWithin(StrEnum):
    """What shares one error."""

    INSTRUMENT = "instrument"
    RANGE = "range"
    POINT = "point"
    READING = "reading"


@dataclass(frozen=True)
class SpecTerm:
    """One stated limit, ± `value`: a fraction for shares, dB, or SI units of what it limits."""

    kind: SpecKind
    value: float
    unit: str = ""
    distribution: Distribution = Distribution.RECTANGULAR
    shared_within: SharedWithin = SharedWithin.INSTRUMENT
    basis: str = ""  # "data sheet", "common practice", ...


@dataclass(frozen=True)
class Property:
    """A number that describes a part, with what it is known to."""

    value: float  # SI
    unit: str
    spec: SpecTerm | None = None
    measured: bool = False


@dataclass(frozen=True)
class Port:
    """A connector: where it leads and what it bears."""

    id: str
    connector: str = ""
    frequency_min_hz: float | None = None
    frequency_max_hz: float | None = None
    power_limit_w: float | None = None  # continuous
    volts_limit_vpk: float | None = None


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
        return self.full_scale / self.scale.top if self.scale else 1.0


class Detector(StrEnum):
    """What the indicator makes of a varying envelope."""

    AVERAGE = "average"
    HOLD = "hold"
    PEAK = "peak"
    THERMAL = "thermal"
    RMS = "rms"


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

    def range(self, range_id: str) -> Range | None:
        """The range named, or none where the indicator has no ranges."""
        return next((item for item in self.ranges if item.id == range_id), None)


FEEDS = (PartKind.LEAD, PartKind.PROBE)
"""Kinds that can hang between a tee and a scope."""


@dataclass(frozen=True)
class CalibrationRecord:
    """What is known of a part's past: by whom it was compared, when, until when that is trusted."""

    on: str  # ISO date
    by: str
    due: str = ""  # ISO date
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

    def characterisation(self, quantity: str) -> Characterisation | None:
        """The newest characterisation of a quantity, or none."""
        return next((item for item in reversed(self.characterisations) if item.quantity == quantity), None)
