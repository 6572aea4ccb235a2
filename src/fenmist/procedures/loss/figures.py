"""What runs along while a loss is read."""

import statistics

from fenmist.calibration.sent import level_said
from fenmist.calibration.series import series_at
from fenmist.judgement.entry_rules import reading_shown
from fenmist.procedures.loss.headline import into, said, through_said
from fenmist.procedures.loss.reduction import Losses
from fenmist.procedures.page import Figures, Gap, Gaps
from fenmist.procedures.words import scatter_and_drift
from fenmist.reading.event import Entry
from fenmist.units.display import THIN, frequency, rounded
from fenmist.waveform.series import Series


def series(result: Losses, point_id: str) -> tuple[Series, ...]:
    """What was read at a point against time, at the planned power."""
    return series_at(result.readings_at(point_id), result.job.point(point_id).target_w)


def figures(result: Losses, point_id: str) -> Figures:
    """The loss with U and what comes through, scatter and drift; dashes where there is none yet."""
    found = result.of(point_id)
    scatter, drift = scatter_and_drift(result.readings_at(point_id))
    name, none = "loss so far", Figures.NOTHING
    if found is None:
        return Figures(name, none, none, none, "U", scatter, drift)
    if len(found.each) > 1:
        scatter = f"{statistics.stdev(item.loss_db for item in found.each):.2g}{THIN}dB"
    return Figures(
        name, f"{rounded(found.loss_db, 3)}{THIN}dB" if found.is_seen else said(found),
        f"{through_said(found)} through", f"±{found.expanded_u_db:.2g}{THIN}dB",
        f"U, k = {found.k:.2f}", scatter, drift,
    )  # fmt: skip


def entry_text(_result: Losses, entry: Entry) -> str:
    """An entry as it is listed."""
    return reading_shown(entry.reading) if entry.reading else ""


def rounds(result: Losses, point_id: str) -> Gaps | None:
    """Round by round the ratio with the part and without it, and what came of it; none yet where nothing did."""
    found = result.of(point_id)
    if found is None:
        return None
    low, high = found.stated.interval
    where = f"at {frequency(found.point.frequency_hz)}, {level_said(found.point)}"
    rows = tuple(
        Gap(f"round {item.number}{', exchanged' if item.is_exchanged else ''}", item.direct_db, item.through_db)
        for item in found.each
    )
    return Gaps(
        where, "dB", ("direct", "through"), rows, found.loss_db, low, high, found.expanded_u_db, found.bound_db,
        f"{result.job.dut_part.label} loses {said(found)} {where}{into(found)}; a loss below "
        f"{found.expanded_u_db:.2g}{THIN}dB can't be seen.",
    )  # fmt: skip
