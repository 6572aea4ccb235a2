"""What a meter turns out to be, in words: which detector, with which odds, and how it was told."""

from fenmist.measurand import Detector
from fenmist.methods.detectors import KINDS, Told
from fenmist.procedures.modulation.reduction import Fraction, Modulation
from fenmist.units.display import THIN, percent, plain

NAMES = {
    Detector.THERMAL: "averages power, as a thermal one does",
    Detector.AVERAGE: "averages volts, and its scale squares them",
    Detector.HOLD: "holds crests and leaks between them",
    Detector.PEAK: "shows the true peak",
}
"""What each kind does."""

SHORT = {
    Detector.THERMAL: "thermal", Detector.AVERAGE: "averaging", Detector.HOLD: "hold", Detector.PEAK: "true peak",
}  # fmt: skip
"""What each is called."""


RIVAL = {
    Detector.THERMAL: Detector.AVERAGE, Detector.AVERAGE: Detector.THERMAL, Detector.HOLD: Detector.PEAK,
    Detector.PEAK: Detector.HOLD,
}  # fmt: skip
"""What each is taken for most easily."""


def odds_said(told: Told) -> str:
    """ "averaging 99.8 %, thermal 0.2 %": all that count, the likeliest first."""
    ranked = sorted(told.odds.items(), key=lambda item: -item[1])
    named = ((SHORT[kind] if kind else "none of the four", odds) for kind, odds in ranked if odds >= 0.005)
    return ", ".join(f"{name} {_odds(value)}" for name, value in named)


def _odds(value: float) -> str:
    return f"more than 99{THIN}%" if value > 0.995 else percent(value)


def detector_said(told: Told) -> str:
    """What kind it is, as far as can be told."""
    kind = told.likeliest
    if not told.is_sure:
        return f"which detector it has can't be told yet: {odds_said(told)}"
    if kind is None:
        return "is none of the four kinds, or the PEP wasn't the same"
    return NAMES[kind] + decay_said(told)


def decay_said(told: Told) -> str:
    """ ", in 0.8 to 1.5 s", of a hold."""
    if told.likeliest is not Detector.HOLD or told.decay_s is None:
        return ""
    low, middle, high = told.decay_s
    return f", in about {plain(middle, 's', 2)} ({plain(low, 's', 2)} to {plain(high, 's', 2)})"


def told_by(some: tuple[Fraction, ...], told: Told) -> str:
    """The waveform that tells the likeliest kind from what it is taken for most easily, with what both would show."""
    first = max(KINDS, key=lambda kind: told.odds[kind])
    second = RIVAL[first]
    apart = [abs(a - b) for a, b in zip(told.predicted[first], told.predicted[second], strict=True)]
    place = max(range(len(some)), key=lambda n: apart[n])
    return (
        f"On {some[place].waveform.name} it shows {percent(some[place].fraction)} of the carrier; "
        f"{SHORT[first]} would be {percent(told.predicted[first][place])}, "
        f"{SHORT[second]} {percent(told.predicted[second][place])}."
    )


def best_told(result: Modulation) -> tuple[tuple[Fraction, ...], Told] | None:
    """The group that tells most; none where nothing was read that tells."""
    return result.told[0] if result.told else None
