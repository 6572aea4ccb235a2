"""What a needle or a display can be read to, where it stands."""

import math

from fenmist.kit.part import Range
from fenmist.reading.event import Reading

QUARTER_DIVISION = 0.25
"""Part of the local division to which a needle is read (common practice, no source)."""


def reading_limit(reading: Reading, used_range: Range | None, part_of_division: float) -> float:
    """± limit of a reading in its unit: part of the local division under a needle, else half the last digit."""
    if used_range is None or used_range.scale is None:
        return reading.digit / 2.0
    printed = reading.value / used_range.factor
    return part_of_division * used_range.scale.division_at(printed) * used_range.factor


def reading_u(reading: Reading, used_range: Range | None, part_of_division: float) -> float:
    """Standard uncertainty of reading it once, in its unit (rectangular)."""
    return reading_limit(reading, used_range, part_of_division) / math.sqrt(3.0)
