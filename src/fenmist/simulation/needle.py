"""One meter in time: a detector's capacitor, then a coil with a spring, a mass, a brake and some friction.

Steps of Kirchhoff's and Newton's laws for a single meter that goes on from where it stood; `movements.py` does the same
for a batch from rest. Everything is in parts of full deflection.
"""

import math
from collections import deque

from fenmist.frozen import dataclass
from fenmist.simulation.envelopes import Envelope

AVERAGING, THERMAL, HOLD, PEAK = "averaging", "thermal", "hold", "peak"
"""Kinds of detector."""

MODULATED_STEP_S = 1.0 / 8000.0
"""Of an envelope that changes."""

_SETTLED = 30.0
"""Time constants after which nothing of the beginning is left (e⁻³⁰)."""


@dataclass(frozen=True)
class TrueMovement:
    """What is true of it."""

    detector: str = AVERAGING
    charge_s: float = 0.02
    decay_s: float = 1.0  # of a hold
    window_s: float = 3.0  # of a true peak
    period_s: float = 0.6  # of the coil and its spring, undamped
    damping: float = 0.8  # 1 is critical
    friction: float = 0.0  # of the bearing, as a part of full deflection


class Needle:
    """Where it stands, and how that goes on."""

    def __init__(self, true: TrueMovement) -> None:
        self.true = true
        self.angle, self._speed, self._volts = 0.0, 0.0, 0.0
        self._crests: deque[tuple[float, float]] = deque()

    def steady(self, drive: float, begin_s: float, seconds: float) -> float:
        """A steady drive from a time on for so long; where the needle stands then."""
        true = self.true
        lets_go = {HOLD: true.decay_s, PEAK: true.window_s}.get(true.detector, 0.0)
        slowest = max(true.charge_s, true.period_s * (1.0 + true.damping), lets_go if drive < self._volts else 0.0)
        if seconds > _SETTLED * slowest:
            self._crests.clear()
            self._volts, self._speed = drive**2 if true.detector == THERMAL else drive, 0.0
            off = self._volts - self.angle
            if abs(off) > true.friction:
                self.angle = self._volts - math.copysign(true.friction, off)
            return self.angle
        step = min(true.charge_s / 4.0, true.period_s / 60.0)
        return self.run(lambda _: 1.0, drive, begin_s, seconds, step)

    def run(
        self, envelope: Envelope, drive: float, begin_s: float, seconds: float, step_s: float = MODULATED_STEP_S
    ) -> float:
        """An envelope, `drive` at its crest, from a time on for so long; where the needle stands then."""
        true, steps = self.true, max(math.ceil(seconds / step_s), 1)
        h = seconds / steps
        charged, leaked = 1.0 - math.exp(-h / true.charge_s), 1.0 - math.exp(-h / true.decay_s)
        stiff = (2.0 * math.pi / true.period_s) ** 2
        brake, friction, kind = 2.0 * true.damping * math.sqrt(stiff), true.friction, true.detector
        volts, angle, speed = self._volts, self.angle, self._speed
        for number in range(1, steps + 1):
            fed = drive * envelope(begin_s + number * h)
            if kind == THERMAL:
                volts += charged * (fed * fed - volts)
            elif kind == AVERAGING:
                volts += charged * (fed - volts)
            elif kind == HOLD:
                volts += charged * (fed - volts) if fed > volts else -leaked * volts
            else:
                volts = self._crest(fed, begin_s + number * h)
            force = volts - angle
            if friction and abs(speed) < friction:
                force = 0.0 if abs(force) <= friction else force - math.copysign(friction, force)
                speed = 0.0 if force == 0.0 else speed
            elif friction:
                force -= math.copysign(friction, speed)
            speed += h * (stiff * force - brake * speed)
            angle += h * speed
        self._volts, self.angle, self._speed = volts, angle, speed
        return angle

    def _crest(self, fed: float, now_s: float) -> float:
        """The highest within the window."""
        crests = self._crests
        while crests and crests[-1][1] <= fed:
            crests.pop()
        crests.append((now_s, fed))
        while crests[0][0] < now_s - self.true.window_s:
            crests.popleft()
        return crests[0][1]
