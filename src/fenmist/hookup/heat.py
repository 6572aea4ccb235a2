"""How warm a load is, from when and how hard it was keyed: an estimate that assumes the worst.

First-order model: the rise above the surroundings, as a part θ of what the rating allows, follows
dθ/dt = (q − θ)/τ. A load that bears P_rated for t_rated from cold has q = (P/P_rated)/(1 − exp(−t_rated/τ)). A load
whose cooling isn't stated is taken to cool slowly, τ = 3·t_rated: that counts every earlier key-down in full (Fenmist's
own, no source; the rating "full power for a few minutes, then cool" is common practice). It knows nothing of wind,
oil, fans or a hot day; a hand near the load knows more. Page: docs/method/heat.md.
"""

import math
from collections.abc import Iterable
from typing import NamedTuple

from fenmist.frozen import dataclass
from fenmist.kit.part import Part

SLOW_COOLING = 3.0
"""Cooling time constant over rated time where none is stated."""

ROUNDING = 1e-9
"""Rise that is none: the rated power for the rated time from cold just fits."""

HIGHEST_RISE = 4.0
"""Rise that a carrier forgotten on is held at: the estimate says "far too hot", not more."""


@dataclass(frozen=True)
class Keying:
    """Carrier on: from, until (seconds since the epoch) and with what power into the load."""

    start_s: float
    end_s: float
    power_w: float


@dataclass(frozen=True)
class HeatModel:
    """What a load bears."""

    rated_w: float  # > 0
    rated_s: float  # how long it bears that from cold; infinite for ever
    cooling_s: float  # time constant τ, > 0

    def drive(self, power_w: float) -> float:
        """Final rise q at a power kept on for ever; 1 is what the rating allows."""
        share = 1.0 if math.isinf(self.rated_s) else -math.expm1(-self.rated_s / self.cooling_s)
        return power_w / self.rated_w / share

    def after(self, rise: float, power_w: float, seconds: float) -> float:
        """Rise after so many seconds at a power (0 W: cooling)."""
        final = self.drive(power_w)
        return min(final + (rise - final) * math.exp(-max(seconds, 0.0) / self.cooling_s), HIGHEST_RISE)

    def seconds_left(self, rise: float, power_w: float) -> float:
        """How long a power may stay on before the rating is reached; infinite where it never is, 0 where it was."""
        final = self.drive(power_w)
        if rise >= 1.0:
            return 0.0
        return math.inf if final <= 1.0 else self.cooling_s * math.log((final - rise) / (final - 1.0))

    def rest_before(self, rise: float, power_w: float, seconds: float) -> float:
        """How long to rest so that a key-down of that power and length stays within the rating; infinite if never."""
        final = self.drive(power_w)
        decay = math.exp(-seconds / self.cooling_s)
        most = (1.0 - final * (1.0 - decay)) / decay  # rise from which it just fits
        if rise <= most + ROUNDING:
            return 0.0
        return math.inf if most <= 0.0 else self.cooling_s * math.log(rise / most)

    def rise_at(self, keyings: Iterable[Keying], now_s: float) -> float:
        """Rise at a moment from all earlier key-downs, cold before the first."""
        begun = [item for item in keyings if item.start_s < now_s]
        last = self._through(
            item if item.end_s <= now_s else Keying(item.start_s, now_s, item.power_w) for item in begun
        )
        return self.after(last.rise, 0.0, now_s - last.at_s)

    def highest_rise(self, keyings: Iterable[Keying]) -> float:
        """The highest rise at the end of any key-down, cold before the first; 0 without any."""
        return self._through(keyings).highest

    def _through(self, keyings: Iterable[Keying]) -> "_Through":
        """The rise after these key-downs. A run adds one to many: it goes on from where it was asked last."""
        given = tuple(sorted(keyings, key=lambda item: item.start_s))
        known = _LATEST.get(self, _COLD)
        if given[: len(known.keyings)] != known.keyings:
            known = _COLD
        later = given[len(known.keyings) :]
        if not later:
            return known
        for keying in later[:-1]:
            known = self._after(known, keying)
        if len(_LATEST) >= _MOST:
            _LATEST.clear()
        _LATEST[self] = known._replace(keyings=given[:-1])  # the last may still be under way
        return self._after(known, later[-1])

    def _after(self, known: "_Through", keying: Keying) -> "_Through":
        begun = max(keying.start_s, known.at_s)
        rise = self.after(self.after(known.rise, 0.0, begun - known.at_s), keying.power_w, keying.end_s - begun)
        return known._replace(rise=rise, at_s=max(keying.end_s, known.at_s), highest=max(rise, known.highest))


class _Through(NamedTuple):
    """How warm key-downs left a load."""

    keyings: tuple[Keying, ...]  # in time
    rise: float
    at_s: float  # when the last of them ended
    highest: float  # at the end of any


_COLD = _Through((), 0.0, -math.inf, 0.0)

_LATEST: dict[HeatModel, _Through] = {}
_MOST = 8
"""Loads that are remembered: a job has one, a plan's schedule a few."""


def heat_model(load: Part) -> HeatModel | None:
    """What a load's data say of its heat, or none where it has no rating."""
    rated_w = load.ports[0].power_limit_w if load.ports else None
    if not rated_w:
        return None
    rated = load.properties.get("rated_time_s")
    rated_s = rated.value if rated and rated.value > 0 else math.inf
    stated = load.properties.get("cooling_s")
    slow = SLOW_COOLING * rated_s if math.isfinite(rated_s) else 900.0
    return HeatModel(rated_w, rated_s, stated.value if stated and stated.value > 0 else slow)
