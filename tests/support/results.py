"""Results with every number chosen, so that what is made of them can be compared with literals."""

from dataclasses import replace

from fenmist.calibration.decision import Decision, Verdict, Zone
from fenmist.calibration.job import PlanPoint
from fenmist.procedures.comparison.reduction import PointResult, Result
from fenmist.reading.event import AS_FOUND
from studies.builders import job

ACCEPTED = Decision(Zone.INSIDE_WITHIN, Verdict.ACCEPT, 0.97, 0.03, 10.0 / 1.2)


def point_result(**changes) -> PointResult:
    """50 W read as 49 W (−2 %, −0.0877 dB) at 7.125 MHz; keys of the plan's point begin with `at_`.

    `expanded_u_w` sets the interval around the error.
    """
    point = PlanPoint("p1", "line", 7.125e6, 50.0, "200", ("scope", "meter"))
    point = replace(point, **{key[3:]: value for key, value in changes.items() if key.startswith("at_")})
    made = PointResult(
        point=point, rounds=3, reference_w=50.0, reference_u_w=1.1, net_w=49.8, indicated_w=49.0, error_w=-1.0,
        u_error_w=0.6, error_interval_w=(-2.2, 0.2), k=2.0, dof=float("inf"), ratio=0.98,
        ratio_interval=(0.956, 1.004), tolerance_w=10.0, decision=ACCEPTED, engine="linear", is_reference=True,
    )  # fmt: skip
    u = changes.pop("expanded_u_w", None)
    made = replace(made, **{key: value for key, value in changes.items() if not key.startswith("at_")})
    return made if u is None else replace(made, error_interval_w=(made.error_w - u, made.error_w + u))


def results(*points: PointResult, phase: str = AS_FOUND) -> Result:
    """A result over these points, of a job that plans them."""
    made = job()
    made = replace(made, plan=tuple(dict.fromkeys(item.point for item in points)))
    return Result(made, phase, {}, (), points)
