"""What runs along while a match is read, and its picture: ring and spot."""

import statistics

from fenmist.calibration.job import Job
from fenmist.calibration.sent import level_said
from fenmist.calibration.series import series_at
from fenmist.judgement.entry_rules import reading_shown
from fenmist.procedures.page import Figures, Rings, Spot
from fenmist.procedures.reflection.findings import end_of
from fenmist.procedures.reflection.headline import expected_said, shown_said, swr_of, window_said
from fenmist.procedures.reflection.reduction import Matches, MatchPoint, OtherMeter, round_reflection
from fenmist.reading.event import Entry
from fenmist.units.display import frequency
from fenmist.waveform.series import Series


def series(result: Matches, point_id: str) -> tuple[Series, ...]:
    """The watts that were read at a point against time."""
    return series_at(result.readings_at(point_id), None)


def figures(result: Matches, point_id: str) -> Figures:
    """SWR as shown, what the end is, the window, scatter; dashes where there is none yet."""
    found, none, name = result.of(point_id), Figures.NOTHING, "SWR shown"
    if found is None:
        return Figures(name, none, none, none, "U of ρ", none, none)
    each = [round_reflection(result.job, found.point, one, found.kind) for one in result.readings_at(point_id).rounds]
    scatter = f"ρ {statistics.stdev(each):.2g}" if len(each) > 1 else none
    half = (found.interval[1] - found.interval[0]) / 2.0
    return Figures(
        name, shown_said(found), "" if found.tuned else window_said(found.window), f"±{half:.2g}",
        f"U of ρ, k = {found.k:.2f}", scatter, none, "" if found.tuned else "its window with that end",
    )  # fmt: skip


def entry_text(_result: Matches, entry: Entry) -> str:
    """An entry as it is listed."""
    return reading_shown(entry.reading) if entry.reading else ""


def ring_and_spot(result: Matches, point_id: str) -> Rings | None:
    """The ring of a meter's reading and the spot of the end, the other ends beside it; none where nothing was read."""
    found = result.of(point_id)
    if found is None or found.tuned:
        return None
    job = result.job
    beside = [
        item
        for item in result.points
        if item is not found
        and (item.point.frequency_hz, item.point.target_w) == (found.point.frequency_hz, found.point.target_w)
    ]
    end = end_of(job, found)
    low, high = found.ring
    agrees = found.decision.zone.startswith("inside")
    means = f"it shows SWR {shown_said(found)}: the truth lies {'below ' if low <= 0.0 else 'from '}"
    means += swr_of(high) if low <= 0.0 else f"{swr_of(low)} to {swr_of(high)}"
    return Rings(
        f"at {frequency(found.point.frequency_hz)}, {level_said(found.point)}", low, found.shown, high,
        tuple(_spot(end_of(job, item), item, item is found) for item in (*beside, found)), found.has_phase,
        found.window, ((high, f"SWR {swr_of(high)}"), *(((low, swr_of(low)),) if low > 0.0 else ())),
        (
            f"ring: {means}",
            f"spot: {end}, SWR {expected_said(found)}",
            f"bar: what it may show with that, {window_said(found.window)}",
            *(f"dotted: what {_name(job, found, item)} says of the same place, {window_said(item.carried)}" for item
              in found.others),
        ),
        agrees, f"Ring and spot {'touch' if agrees else 'stand apart'}: {means}; {end} is {expected_said(found)}.",
        found.others[0].carried if found.others else None,
    )  # fmt: skip


def _name(job: Job, found: MatchPoint, other: OtherMeter) -> str:
    return job.part(job.hookup(found.point.hookup).element(other.element).part).label


def _spot(name: str, item: MatchPoint, is_here: bool) -> Spot:
    return Spot(name, item.gamma.real, item.gamma.imag, 2.0 * item.u_axes[0], 2.0 * item.u_axes[1], is_here)
