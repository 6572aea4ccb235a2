"""From a job to constants: power by references at each point, what a detector gave there, and a law through both.

The power is worked out as that of a source, with everything that its references share. A law is fitted for each arm
and band with what each point is known to by itself; what all of them share (the reference's gain) moves all powers
alike and is added to the constants afterwards. Page: docs/method/constants.md.
"""

import math
import statistics
from collections.abc import Iterator, Mapping
from dataclasses import replace
from functools import cached_property
from types import MappingProxyType

import numpy as np

from fenmist.calibration.beside import once
from fenmist.calibration.decision import decide
from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.outcome import Stated
from fenmist.calibration.rounds import PointReadings
from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.measurand import Kind
from fenmist.methods.constants import ConstantsAnswer, checked_against, fitted, moved_by_gain
from fenmist.procedures.constants.asked import in_use, is_together, law_of
from fenmist.procedures.output.reduction import OfPower, OutputPoint
from fenmist.procedures.output.reduction import reduce as reduce_power
from fenmist.procedures.page import Voices
from fenmist.reading.event import AS_FOUND
from fenmist.uncertainty.influence import FloatArray
from fenmist.units.display import frequency

LEAST_U = 1e-6
"""Relative standard uncertainty below which no power and no volts are known."""


@dataclass(frozen=True)
class Detected:
    """What a detector gave at a point."""

    point: PlanPoint
    arm: str  # "forward"
    volts: float  # or counts
    u_volts: float  # standard, of reading it and of its scatter
    power: OutputPoint


@dataclass(frozen=True, eq=False)
class Fitted:
    """The constants of one arm in one band."""

    arm: str
    band: str  # "7.1 MHz", or "all"
    read: tuple[Detected, ...]
    answer: ConstantsAnswer
    u_shared: float  # relative standard uncertainty that all its powers share

    @property
    def name(self) -> str:
        """Arm and band."""
        return f"{self.arm}, {self.band}"

    def off(self, point_id: str) -> float:
        """What the constants say there over what the reference said, less one."""
        place = next(n for n, item in enumerate(self.read) if item.point.id == point_id)
        return float(self.answer.residuals[place])


@dataclass(frozen=True, eq=False)
class Constants(OfPower):
    """All points that could be worked out, and the constants that follow from them."""

    @property
    def stated(self) -> tuple[Stated, ...]:
        """What a meter with these constants would be off at each point that they were found from."""
        return once(self, "stated", lambda: tuple(self._stated()))

    def voices(self, point_id: str) -> Voices | None:
        """How the references of a point agree."""
        return self.power.voices(point_id)

    @cached_property
    def read_there(self) -> tuple[Detected, ...]:
        """What was read at each point whose power is known, in the plan's order."""
        found = (self._detected(item) for item in self.power.points)
        return tuple(item for item in found if item is not None)

    @cached_property
    def fits(self) -> tuple[Fitted, ...]:
        """Constants for each arm and band with readings enough, in the plan's order."""
        return tuple(fit for _, fit in self._tried if isinstance(fit, Fitted))

    @cached_property
    def missing_fits(self) -> tuple[str, ...]:
        """Why an arm and band have no constants yet."""
        return tuple(f"{name}: {fit}" for name, fit in self._tried if isinstance(fit, str))

    @cached_property
    def _tried(self) -> tuple[tuple[str, "Fitted | str"], ...]:
        groups: dict[tuple[str, str], list[Detected]] = {}
        for item in self.read_there:
            band = "all frequencies" if is_together(self.job) else frequency(item.point.frequency_hz)
            groups.setdefault((item.arm, band), []).append(item)
        return tuple((f"{arm}, {band}", self._fitted(arm, band, some)) for (arm, band), some in groups.items())

    def fit_of(self, point_id: str) -> Fitted | None:
        """The constants that a point's reading went into; none yet."""
        return next((fit for fit in self.fits if any(item.point.id == point_id for item in fit.read)), None)

    def _detected(self, power: OutputPoint) -> Detected | None:
        found = self.readings_at(power.point.id)
        taken = _detector_readings(self.job, found)
        if not taken or not power.is_reference:
            return None
        values = [value for value, _ in taken]
        mean = statistics.fmean(values)
        scatter = statistics.stdev(values) / math.sqrt(len(values)) if len(values) > 1 else 0.0
        reading = max(u for _, u in taken)
        arm = self.job.channel(_detector_channel(self.job, power.point)).indicator
        return Detected(power.point, arm, mean, math.hypot(scatter, reading), power)

    def _fitted(self, arm: str, band: str, read: list[Detected]) -> "Fitted | str":
        watts = np.array([item.power.power_w for item in read])
        own, shared = self._own_and_shared(read)
        u_volts = np.array([item.u_volts for item in read])
        step = self.job.dut_part.properties.get("step_v")
        counts = self.job.dut_part.indicator(arm).unit == ""
        try:
            answer = fitted(
                np.array([item.volts for item in read]), watts, law_of(self.job), own * watts,
                u_volts if np.any(u_volts > 0.0) else None, 1.0 if counts else step.value if step else 0.0,
            )  # fmt: skip
        except OutOfRangeError as error:
            return error.headline
        in_firmware = in_use(self.job)
        answer = moved_by_gain(answer, shared)
        if in_firmware:
            answer = replace(answer, checked=checked_against(answer, np.array(in_firmware)))
        return Fitted(arm, band, tuple(read), answer, shared)

    def _own_and_shared(self, read: list[Detected]) -> tuple[FloatArray, float]:
        """Relative standard uncertainty of each power by itself, shape (n,), and what all of them share."""
        power = self.power.quantities["power"]
        places = {item.point.id: n for n, item in enumerate(self.power.points)}
        at = [places[item.point.id] for item in read]
        relative = power.covariance()[np.ix_(at, at)] / np.outer(power.value[at], power.value[at])
        shared = max(float(relative.min()), 0.0) if len(at) > 1 else 0.0
        return np.sqrt(np.maximum(np.diag(relative) - shared, LEAST_U**2)), math.sqrt(shared)

    def _stated(self) -> Iterator[Stated]:
        tolerances = self.job.tolerance_w(
            [item.point for item in self.read_there], np.array([item.power.power_w for item in self.read_there]),
            np.zeros(len(self.read_there)),
        ) if self.read_there else np.zeros(0)  # fmt: skip
        for item, tolerance in zip(self.read_there, tolerances.tolist(), strict=True):
            fit = self.fit_of(item.point.id)
            if fit is None:
                continue
            power, off = item.power, fit.off(item.point.id)
            error, u, expanded = off * power.power_w, power.u_w, power.expanded_u_w
            decision = decide(error, u, expanded, tolerance, self.job.rule, fit.answer.enough_points, None)
            share = expanded / power.power_w
            yield Stated(
                item.point, error, (error - expanded, error + expanded), u, power.k, "W", tolerance, decision,
                power.engine, fit.answer.enough_points, off, (off - share, off + share), tolerance / power.power_w,
                power.drift_limit,
            )  # fmt: skip


def _detector_channel(job: Job, point: PlanPoint) -> str:
    return next(name for name in point.sequence if job.channel(name).measurand.kind is Kind.DETECTED)


def _detector_readings(job: Job, found: PointReadings) -> list[tuple[float, float]]:
    """What a detector gave in each round, with what reading it once is known to, standard."""
    taken = [
        item.reading
        for one in found.rounds
        for item in one.others
        if job.channel(item.entry.channel).measurand.kind is Kind.DETECTED
    ]
    return [(item.value, item.u if item.u is not None else item.digit / math.sqrt(12.0)) for item in taken]


def predict(job: Job) -> tuple[Stated, ...]:
    """What the power would be known to at each point of a job that is read as expected: constants hold no better."""
    power = reduce_power(job)
    watts = np.array([item.power_w for item in power.points])
    tolerances = job.tolerance_w([item.point for item in power.points], watts, np.zeros(watts.size))
    return tuple(
        replace(
            item.stated, value=0.0, tolerance=float(tolerance), share=0.0,
            share_interval=(-item.expanded_u_w / item.power_w, item.expanded_u_w / item.power_w),
            share_tolerance=float(tolerance) / item.power_w,
        )
        for item, tolerance in zip(power.points, tolerances, strict=True)
    )  # fmt: skip


def reduce(
    job: Job, phase: str = AS_FOUND, known: Mapping[str, float] = MappingProxyType({}), former: Constants | None = None
) -> Constants:
    """Work a job out as far as its readings reach; see `output.reduction.reduce`."""
    power = reduce_power(job, phase, known, former.power if former is not None else None)
    return Constants(job, phase, known, power.readings, power)
