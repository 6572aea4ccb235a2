"""The load's heat during a run: how long the carrier has been on, how warm that made the load, when to rest."""

import math

from fenmist.calibration.gather import load_of
from fenmist.calibration.job import Job
from fenmist.calibration.keydown import Carrier
from fenmist.frozen import dataclass
from fenmist.hookup.heat import HeatModel, heat_model
from fenmist.reading.event import Slot

USUAL_KEY_DOWN_S = 30.0
"""Taken for a point where none was read yet (Fenmist's own, no source)."""

WARM, HOT = 0.8, 1.0
"""Rise at which resting is advised, and at which the rating is reached."""


@dataclass(frozen=True)
class Warmth:
    """An estimate, said as one."""

    on: bool
    on_for_s: float  # of the present key-down; 0 while off
    rise: float  # part of what the rating allows
    left_s: float  # at the present or the next point's power; infinite where it may stay on
    rest_s: float  # before the next point, so that it fits; 0 where none is needed
    power_w: float

    @property
    def text(self) -> str:
        """One line for the run."""
        clock = f"{'on' if self.on else 'off'}{' ' + duration(self.on_for_s) if self.on else ''}"
        left = "" if not self.on or math.isinf(self.left_s) else f" · {duration(self.left_s)} left"
        return f"{clock} · load about {100 * self.rise:.0f}\u2009% of its rise{left}"

    @property
    def advice(self) -> str:
        """What to do, or nothing."""
        if self.on and self.rise >= HOT:
            return "Carrier off: the load has reached its rating."
        if self.on and (self.rise >= WARM or self.left_s < 15.0):
            return f"Carrier off soon: about {duration(self.left_s)} until the load's rating."
        if not self.on and math.isinf(self.rest_s):
            return "This level is beyond the load's rating, even for one reading."
        if not self.on and self.rest_s >= 1.0:
            return f"Let the load rest for {duration(self.rest_s)} before the next point."
        return ""

    @property
    def severity(self) -> str:
        """Which role it is drawn in: "stop", "doubt" or nothing."""
        return "stop" if self.on and self.rise >= HOT else "doubt" if self.advice else ""


def duration(seconds: float) -> str:
    """Minutes and seconds, as a clock shows them."""
    whole = max(round(seconds), 0)
    return f"{whole // 60}:{whole % 60:02d}"


def warmth(job: Job, carrier: Carrier, now_s: float, slot: Slot | None) -> Warmth | None:
    """The load's warmth at a moment; none where the load has no rating."""
    load = load_of(job)
    model = heat_model(load) if load is not None else None
    if model is None:
        return None
    rise = model.rise_at(carrier.until(now_s), now_s)
    target = job.point(slot.point).target_w if slot is not None and job.has_point(slot.point) else 0.0
    power = carrier.power_w if carrier.is_on else target
    on_for = now_s - carrier.on_since_s if carrier.on_since_s is not None else 0.0
    rest = 0.0 if carrier.is_on or power <= 0 else _rest(model, rise, power, carrier)
    return Warmth(carrier.is_on, on_for, rise, model.seconds_left(rise, power), rest, power)


def _rest(model: HeatModel, rise: float, power_w: float, carrier: Carrier) -> float:
    lengths = [item.end_s - item.start_s for item in carrier.keyings if item.power_w > 0]
    usual = sorted(lengths)[len(lengths) // 2] if lengths else USUAL_KEY_DOWN_S
    return model.rest_before(rise, power_w, min(max(usual, 5.0), 600.0))
