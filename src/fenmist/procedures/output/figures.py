"""What runs along while a source's power is read."""

from fenmist.calibration.series import series_at
from fenmist.judgement.entry_rules import reading_shown
from fenmist.procedures.output.reduction import Output
from fenmist.procedures.page import Figures
from fenmist.procedures.words import scatter_and_drift
from fenmist.reading.event import Entry
from fenmist.units.display import by_uncertainty, plain, rounded, uncertainty, with_unit
from fenmist.units.level import dbm_from_watts
from fenmist.waveform.series import Series


def series(result: Output, point_id: str) -> tuple[Series, ...]:
    """What was read at a point against time."""
    found = result.of(point_id)
    return series_at(result.readings_at(point_id), found.power_w if found else None)


def figures(result: Output, point_id: str) -> Figures:
    """Power in W and in dBm with U, scatter and drift; dashes where there is none yet."""
    found = result.of(point_id)
    scatter, drift = scatter_and_drift(result.readings_at(point_id))
    name, none = "power so far", Figures.NOTHING
    if found is None:
        return Figures(name, none, none, none, "U", scatter, drift)
    return Figures(
        name, by_uncertainty(found.power_w, found.expanded_u_w, "W"),
        with_unit(rounded(float(dbm_from_watts(found.power_w)), 2), "dBm"),
        f"±{uncertainty(found.expanded_u_w, 'W')}", f"U, k = {rounded(found.k, 2)}", scatter, drift,
    )  # fmt: skip


def entry_text(result: Output, entry: Entry) -> str:
    """The power that an instrument's entry leads to, once there is one."""
    found = result.of(entry.slot.point)
    each = {item.channel: item.power_w for item in found.references} if found else {}
    if entry.channel in each:
        return f"{plain(each[entry.channel], 'W', 3)} at the output"
    return reading_shown(entry.reading) if entry.reading else ""
