"""What is said of a home-built meter: which of its arms have a detector, and in what their output is read."""

from dataclasses import replace

from fenmist.kit.part import Indicator, Part
from fenmist.kit.sheet import Fact, Field
from fenmist.measurand import Detector, Kind

ONE, BOTH = "forward alone", "forward and reflected"
VOLTS, COUNTS = "volts", "counts"

_UNITS = {VOLTS: "V", COUNTS: ""}


def detectors(part: Part) -> tuple[Indicator, ...]:
    """What shows a detector's output, forward first."""
    return tuple(item for item in part.indicators if item.quantity is Kind.DETECTED)


def detector(name: str, unit: str = "V") -> Indicator:
    """An arm's detector: DC volts, or counts of a converter."""
    return Indicator(name, f"{name} detector", Kind.DETECTED, unit, (), Detector.PEAK)


def arms() -> Fact:
    """Which arms have a detector."""

    def shown(part: Part) -> str:
        return BOTH if len(detectors(part)) > 1 else ONE

    def taken(part: Part, text: str) -> Part:
        unit = next((item.unit for item in detectors(part)), "V")
        names = ("forward", "reflected") if text == BOTH else ("forward",)
        known = {item.id: item for item in detectors(part)}
        others = tuple(item for item in part.indicators if item.quantity is not Kind.DETECTED)
        return replace(part, indicators=(*others, *(known.get(name, detector(name, unit)) for name in names)))

    return Fact(Field("arms", "its detectors", choices=(ONE, BOTH)), shown, taken)


def detector_unit() -> Fact:
    """In what their output is read."""

    def shown(part: Part) -> str:
        return COUNTS if any(item.unit == "" for item in detectors(part)) else VOLTS

    def taken(part: Part, text: str) -> Part:
        unit = _UNITS[text or VOLTS]
        return replace(part, indicators=tuple(
            replace(item, unit=unit) if item.quantity is Kind.DETECTED else item for item in part.indicators
        ))  # fmt: skip

    return Fact(Field("shows", "they are read in", choices=(VOLTS, COUNTS)), shown, taken)
