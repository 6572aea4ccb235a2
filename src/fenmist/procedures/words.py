"""What rooms say alike of their references, for paper."""

import math
import statistics
from collections.abc import Callable, Iterable, Iterator, Sequence

from fenmist.calibration.consensus import ReferenceResult
from fenmist.calibration.job import Job
from fenmist.calibration.references import VERSION
from fenmist.calibration.rounds import PointReadings
from fenmist.calibration.sent import statistic_at
from fenmist.judgement.agreement_rules import Compared
from fenmist.judgement.entry_rules import at_point
from fenmist.procedures.page import Cell, Figures
from fenmist.units.display import percent, with_uncertainty


def method_in_words(job: Job) -> str:
    """The method with its version; one that was recorded under another version than worked it out says so."""
    recorded = job.method.version
    worked = "" if recorded == VERSION else f", worked out by version {VERSION}"
    names = list(dict.fromkeys(job.part_read(name).label for name in job.order if job.is_reference(name)))
    used = f"{', '.join(names)} as {'the reference' if len(names) == 1 else 'references'}"
    if len(names) > 1:
        decides = f"{job.part_read(job.reference).label} decides" if job.reference else "their consensus decides"
        used = f"{used}, {decides}"
    return f"{job.bench.label}: {used}, version {recorded}{worked}"


def each_reference(job: Job, points: Iterable[tuple[Compared, float, float]]) -> Iterator[str]:
    """What each of several references says at a point, and what they say together, as power and U in W."""
    for point, power_w, expanded_u_w in points:
        if len(point.references) < 2:
            continue
        said = ", ".join(
            f"{job.part_read(item.channel).label} {_with_u(item)} (weight {percent(item.weight)})"
            for item in point.references
        )
        together = with_uncertainty(power_w, expanded_u_w, "W")
        yield f"A{at_point(point.point)[1:]}: {said}; reference {together}."


def verdict_said(verdict: str, point: Compared, decides: bool) -> str:
    """A verdict, with why nothing is decided where nothing is."""
    if decides:
        return verdict
    disagree = any(item.is_reference for item in point.references)
    return f"{verdict} ({'references disagree' if disagree else 'no reference'})"


def _with_u(item: ReferenceResult) -> str:
    low, high = item.interval_w
    return with_uncertainty(item.power_w, (high - low) / 2.0, "W")


def further_columns(job: Job, points: Sequence[Compared]) -> tuple[list[str], Callable[[Compared], list[Cell]]]:
    """Headings of what is sent and of what each of several references says, PEP in W, and the cells of a point.

    Nothing of references where one is alone.
    """
    read = [item.channel for point in points if len(point.references) > 1 for item in point.references]
    channels = tuple(dict.fromkeys(read))
    names = [job.part_read(channel).label for channel in channels]
    headings = [
        "waveform",
        "statistic",
        *(f"{name}, {what}" for name in names for what in ("power / W", "U / W", "weight")),
    ]

    def cells(point: Compared) -> list[Cell]:
        said = {item.channel: item for item in point.references}
        row: list[Cell] = [point.point.waveform or "carrier", str(statistic_at(job, point.point))]
        for channel in channels:
            item = said.get(channel)
            row += ["", "", ""] if item is None else [item.power_w, (item.interval_w[1] - item.interval_w[0]) / 2.0,
                                                      item.weight]  # fmt: skip
        return row

    return headings, cells


def scatter_and_drift(found: PointReadings) -> tuple[str, str]:
    """How far the rounds of a point scatter, and how far the references moved over them, as they develop."""
    if not found.rounds:
        return Figures.NOTHING, Figures.NOTHING
    logs = [one.log_ratio if one.duts else one.log_reference for one in found.rounds]
    scatter = percent(statistics.stdev(logs)) if len(logs) > 1 else Figures.NOTHING
    changes = []
    for name in found.rounds[0].by_channel:
        taken = [item for one in found.rounds for item in one.by_channel[name]]
        if len(taken) > 1:
            changes.append(taken[-1].log_power - taken[0].log_power)
    return scatter, percent(math.expm1(max(changes, key=abs)), plus=True) if changes else Figures.NOTHING
