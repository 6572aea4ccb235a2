"""The sentences of a job about constants: how well a law follows the meter, and what is still to be read."""

import numpy as np

from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.outcome import Stated
from fenmist.calibration.series import series_at
from fenmist.judgement.entry_rules import reading_shown
from fenmist.judgement.headline import nothing_in_hand, other_u, remaining
from fenmist.procedures.constants.reduction import Constants, Fitted
from fenmist.procedures.page import Figures
from fenmist.procedures.words import scatter_and_drift
from fenmist.reading.event import AS_FOUND, Entry
from fenmist.units.display import (
    by_uncertainty,
    count_of,
    frequency,
    opening,
    percent,
    plain,
    rounded,
    uncertainty,
    with_uncertainty,
)
from fenmist.waveform.series import Series


def rounded_constants(fit: Fitted) -> tuple[str, ...]:
    """With as many figures as they need."""
    return tuple(f"{value:.{fit.answer.digits}g}" for value in fit.answer.coefficients)


def constants_said(fit: Fitted) -> str:
    """ "a = 1.021 ± 0.031, b = 0.10 ± 0.02, c = 0": each with its U, k = 2."""
    answer = fit.answer
    return ", ".join(
        f"{name} = {with_uncertainty(float(value), 2.0 * float(u), '') if np.isfinite(u) and u > 0 else f'{value:.6g}'}"
        for name, value, u in zip(answer.law.names, answer.coefficients, answer.standard_u, strict=True)
    )


def readings_headline(job: Job, result: Constants, point: PlanPoint | None) -> str:
    """The running answer at the present point."""
    if point is None or not job.to_read:
        return nothing_in_hand(job, result, point is not None)
    power = result.power_at(point.id)
    if power is None:
        names = " and ".join(dict.fromkeys(job.part_read(name).label for name in point.sequence))
        return f"Read {names}: the power appears once both are entered."
    fit = result.fit_of(point.id)
    here = f"At {frequency(point.frequency_hz)} the detector stands for {plain(power[1], 'W', 3)}"
    if fit is None:
        return f"{here}; constants follow from more levels."
    return f"{here}, by its constants so far {percent(fit.off(point.id), plus=True)} off."


def results_headline(job: Job, result: Constants, phase: str = AS_FOUND) -> str:
    """The answer of the job."""
    name = opening(job.dut_part.label) if phase == AS_FOUND else f"As left, {job.dut_part.label}"
    ending = "" if result.complete else f" {remaining(result)}"
    if not result.fits:
        missing = result.missing_fits
        return f"{name} has no constants yet: {missing[0]}" if missing else (
            f"{count_of(result.missing_readings, 'reading is', 'readings are').capitalize()} missing before there are "
            "constants." if result.readings else "Points must be planned before there are constants."
        )  # fmt: skip
    worst = max(result.fits, key=_farthest)
    place = int(np.argmax(np.abs(worst.answer.residuals)))
    where = f"{plain(float(worst.answer.watts[place]), 'W', 3)}, {worst.name}"
    enough = (
        "" if all(fit.answer.enough_points for fit in result.fits) else " There are too few readings to trust them."
    )
    return (
        f"{name} follows a {worst.answer.law.id} law to {percent(_farthest(worst))}, at worst at "
        f"{where}; {worst.answer.digits} figures are needed.{enough}{ending}"
    )


def _farthest(fit: Fitted) -> float:
    return float(np.max(np.abs(fit.answer.residuals)))


def short_headline(result: Constants) -> str:
    """The answer in a few words, for lists."""
    if not result.fits:
        return "no constants yet"
    worst = max(result.fits, key=_farthest)
    return f"{count_of(len(result.fits), 'set', 'sets')} of constants, within {percent(_farthest(worst))}"


def what_if_sentence(_job: Job, before: Stated, after: Stated) -> str:
    """What another uncertainty would make of U."""
    return f"What if: {other_u(before.expanded_u, after.expanded_u, before.unit)}. None of this is kept."


# what runs along


def series(result: Constants, point_id: str) -> tuple[Series, ...]:
    """What was read at a point against time."""
    power = result.power_at(point_id)
    return series_at(result.readings_at(point_id), power[1] if power else None)


def figures(result: Constants, point_id: str) -> Figures:
    """The power with its U, and what the constants so far are off; dashes where there is none yet."""
    found, fit = result.power.of(point_id), result.fit_of(point_id)
    scatter, drift = scatter_and_drift(result.readings_at(point_id))
    name, none = "power", Figures.NOTHING
    if found is None:
        return Figures(name, none, none, none, "U", scatter, drift, "constants off")
    off = none if fit is None else percent(fit.off(point_id), plus=True)
    return Figures(
        name, by_uncertainty(found.power_w, found.expanded_u_w, "W"), off,
        f"±{uncertainty(found.expanded_u_w, 'W')}", f"U, k = {rounded(found.k, 2)}", scatter, drift, "constants off",
    )  # fmt: skip


def entry_text(result: Constants, entry: Entry) -> str:
    """The power that a reference's entry leads to, once there is one."""
    found = result.power.of(entry.slot.point)
    each = {item.channel: item.power_w for item in found.references} if found else {}
    if entry.channel in each:
        return f"{plain(each[entry.channel], 'W', 3)} at the meter"
    return reading_shown(entry.reading) if entry.reading else ""
