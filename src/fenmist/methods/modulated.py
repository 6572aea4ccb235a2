"""What an instrument shows of a modulated carrier's PEP: by its detector, with how well the waveform is known.

A thermal detector shows the mean, one that averages volts the square of their mean, a scope's crest the PEP. A reading
over its share is the PEP: the power of a steady carrier at the same setting, so instruments of every kind can be held
against each other. The shares of one waveform move together as its shape does. Page: docs/method/modulated.md.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import cached_property, lru_cache
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from fenmist.frozen import dataclass
from fenmist.kit.part import Indicator
from fenmist.measurand import Detector, Statistic
from fenmist.uncertainty.influence import (
    Distribution,
    FloatArray,
    Influence,
    each_value,
    influence,
    standard_u_from_limit,
)
from fenmist.units.display import percent
from fenmist.waveform.harmonics import RESPONDS_OF_FORM, Responds

if TYPE_CHECKING:  # most jobs send a steady carrier: how others move comes with the first of them
    from fenmist.waveform.movement import Movement
    from fenmist.waveform.shapes import Waveform

UNKNOWN = "unknown"
"""Stands for a modulation of which nothing is known."""

TIMES_KNOWN_TO = 0.2
"""Share by which a hold's stated times may be off (Fenmist's own, no source)."""


@dataclass(frozen=True)
class Share:
    """What is shown of PEP, of a waveform as it is said to be; and by how much that may be off, as limits."""

    value: float
    off: float = 0.0  # by the waveform's shape; signed: upwards where its setting is higher than said
    own: float = 0.0  # by the instrument's times


WHOLE = Share(1.0)
"""Of a steady carrier, and of what shows crests."""

WAVEFORM = "waveform"
"""Name of the influence that holds how well a waveform's shape is known, and end of that of a hold's times."""


@dataclass(frozen=True, eq=False)
class Shares:
    """What one channel shows of PEP at n points; arrays have shape (n,)."""

    waveforms: tuple[str, ...]
    each: tuple[Share | None, ...]

    @cached_property
    def known(self) -> NDArray[np.bool_]:
        """Where anybody knows."""
        return np.array([item is not None for item in self.each])

    @cached_property
    def _columns(self) -> tuple[FloatArray, FloatArray, FloatArray]:
        rows = [(item.value, item.off, item.own) if item else (1.0, 0.0, 0.0) for item in self.each]
        value, off, own = np.array(rows, float).T
        return value, off, own

    def of(self, x: Mapping[str, FloatArray], own: str) -> FloatArray:
        """At the values of the influences, arrays (..., n); `own` begins the names of the instrument's."""
        value, off, of_times = self._columns
        if WAVEFORM in x and np.any(off):
            value = value + off * x[WAVEFORM]
        if f"{own}.{WAVEFORM}" in x:
            value = value + of_times * x[f"{own}.{WAVEFORM}"]
        return value

    def influences(self, own: str, label: str, part: str) -> tuple[Influence, ...]:
        """How well the waveform is known, one for all channels and for all points that have it; and a hold's times."""
        _, off, of_times = self._columns
        n, found = len(self.each), []
        u = standard_u_from_limit(1.0, Distribution.RECTANGULAR)
        if np.any(off):
            found.append(
                influence(
                    WAVEFORM, "waveform, its shape", 0.0, u, points=n, distribution=Distribution.RECTANGULAR,
                    sharing=each_value(self.waveforms), basis="as it is said to be, or as usual",
                )
            )  # fmt: skip
        if np.any(of_times):
            found.append(
                influence(
                    f"{own}.{WAVEFORM}", f"{label}, times of its hold", 0.0, u, points=n, source_id=part,
                    distribution=Distribution.RECTANGULAR, basis=f"each within {percent(TIMES_KNOWN_TO)}",
                )
            )  # fmt: skip
        return tuple(found)


def of_carriers(n: int) -> Shares:
    """Of n points at which a steady carrier is sent."""
    return Shares(("",) * n, (WHOLE,) * n)


def check(waveform: str) -> None:
    """Raises UnreadableError, OutOfRangeError where a text is no waveform."""
    if waveform not in ("", UNKNOWN):
        from fenmist.waveform.named import around

        around(waveform)


@lru_cache(maxsize=1024)
def stands(waveform: str) -> bool:
    """Whether the envelope of a waveform as it is typed stands still: then every meter shows all of it."""
    if waveform in ("", UNKNOWN):
        return not waveform
    from fenmist.waveform.named import waveform_from_text

    return waveform_from_text(waveform).period_s == 0.0


def share_of(waveform: str, indicator: Indicator, form: str = "") -> Share | None:
    """The part of PEP that an indicator shows, or none where nobody knows.

    Parameters
    ----------
    waveform : str
        As it is typed; "" is a steady carrier.
    form : str
        How volts were read off a trace: "Vpp", "Vpk", "Vrms", "fit".

    >>> from fenmist.measurand import Kind
    >>> needle = Indicator("forward", "forward", Kind.INCIDENT, "W")
    >>> round(share_of("two-tone", needle).value, 4)
    0.4053
    """
    if stands(waveform):
        return WHOLE
    statistic = _statistic(indicator, form)
    if waveform == UNKNOWN or statistic is None:
        return None
    if indicator.detector is Detector.HOLD:
        from fenmist.methods.movements import movement_of

        return _held(waveform, movement_of(indicator)) if indicator.times.of_hold_known else None
    return _shares(waveform)[statistic]


def claimed_share(waveform: str, indicator: Indicator, form: str = "") -> Share | None:
    """The same of a perfect one of its kind: a hold claims PEP, whatever its times make of it."""
    claims = indicator.detector is Detector.HOLD and waveform != UNKNOWN
    return WHOLE if claims else share_of(waveform, indicator, form)


def claimed_statistic(waveform: str, indicator: Indicator | None = None, form: str = "") -> Statistic:
    """What a perfect one of its kind shows of a waveform; PEP where nothing shows it, or a sine is fitted to it."""
    if stands(waveform):
        return Statistic.CARRIER
    return Statistic.PEP if indicator is None else _statistic(indicator, form) or Statistic.PEP


def _statistic(indicator: Indicator, form: str) -> Statistic | None:
    detector = indicator.detector
    if detector is Detector.TRACE:
        return _OF_READING[RESPONDS_OF_FORM.get(form, Responds.RMS)]
    return _OF_DETECTOR[detector]


_OF_READING = {
    Responds.PEAK: Statistic.PEP, Responds.PEAK_TO_PEAK: Statistic.PEP, Responds.RMS: Statistic.MEAN,
    Responds.FUNDAMENTAL: None,
}  # fmt: skip

_OF_DETECTOR = {
    Detector.THERMAL: Statistic.MEAN, Detector.RMS: Statistic.MEAN, Detector.AVERAGE: Statistic.MEAN_VOLTS,
    Detector.HOLD: Statistic.PEP, Detector.PEAK: Statistic.PEP,
}  # fmt: skip


def mean_share(waveform: str) -> Share:
    """Mean power over PEP of a waveform that is known."""
    return WHOLE if stands(waveform) else _shares(waveform)[Statistic.MEAN]


@lru_cache(maxsize=256)
def _shares(waveform: str) -> dict[Statistic, Share]:
    from fenmist.waveform.named import around
    from fenmist.waveform.shapes import moments_of

    moments = [moments_of(item) for item in around(waveform)]
    return {
        Statistic.PEP: WHOLE,
        Statistic.MEAN: _share([item.mean for item in moments]),
        Statistic.MEAN_VOLTS: _share([item.mean_volts**2 for item in moments]),
    }


def _share(values: Sequence[float]) -> Share:
    """Of the middle, the lower and the upper setting: its change by the further of both."""
    middle, *ends = values
    if not ends:
        return Share(middle)
    low, high = ends[0] - middle, ends[1] - middle
    return Share(middle, high if abs(high) >= abs(low) else -low)


@lru_cache(maxsize=256)
def _held(waveform: str, movement: "Movement") -> Share:
    from fenmist.waveform.movement import shown
    from fenmist.waveform.named import around

    def reading(item: "Waveform", faster: float = 1.0, longer: float = 1.0) -> float:
        changed = replace(movement, time_s=movement.time_s / faster, decay_s=movement.decay_s * longer)
        return shown(changed, item).reading

    share, more = _share([reading(item) for item in around(waveform)]), 1.0 + TIMES_KNOWN_TO
    middle = around(waveform)[0]
    own = [
        abs(reading(middle, *by) - share.value)
        for by in ((more, 1.0), (1.0 / more, 1.0), (1.0, more), (1.0, 1.0 / more))
    ]
    return replace(share, own=math.hypot(max(own[:2]), max(own[2:])))
