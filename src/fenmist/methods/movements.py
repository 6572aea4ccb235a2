"""The movement of an indicator: what its sheet says of its times, the usual ones where it doesn't."""

from dataclasses import replace

from fenmist.kit.part import Indicator
from fenmist.measurand import Detector
from fenmist.waveform.movement import USUAL, Digits, Movement, Needle

_KIND = {
    Detector.THERMAL: "thermal", Detector.RMS: "thermal", Detector.AVERAGE: "averaging", Detector.HOLD: "hold",
    Detector.PEAK: "peak", Detector.TRACE: "peak",
}  # fmt: skip


def movement_of(indicator: Indicator) -> Movement:
    """Its detector with its times.

    >>> from fenmist.kit.part import Times
    >>> from fenmist.measurand import Kind
    >>> movement_of(Indicator("f", "f", Kind.INCIDENT, "W", times=Times(needle_s=0.8))).display
    Needle(period_s=0.8, damping=0.7, stiction=0.0)
    """
    usual, times = USUAL[_KIND[indicator.detector]], indicator.times
    display: Needle | Digits = usual.display
    if times.digits_s is not None:
        display = Digits(times.digits_s)
    elif any(item is not None for item in (times.needle_s, times.damping, times.friction)):
        before = display if isinstance(display, Needle) else Needle()
        display = Needle(
            _or(times.needle_s, before.period_s), _or(times.damping, before.damping),
            _or(times.friction, before.stiction),
        )  # fmt: skip
    return replace(
        usual, detector=indicator.detector, time_s=_or(times.detector_s, usual.time_s), display=display,
        decay_s=_or(times.decay_s, usual.decay_s),
    )  # fmt: skip


def kind_of(indicator: Indicator) -> str:
    """Which of the usual four it is, by its detector."""
    return _KIND[indicator.detector]


def _or(value: float | None, usual: float) -> float:
    return usual if value is None else value
