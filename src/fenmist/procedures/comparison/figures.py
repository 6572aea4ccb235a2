"""What runs along in a comparison: the error so far, and what an entry or a later reading stands for."""

from collections.abc import Callable

from fenmist.calibration.series import series_at
from fenmist.errors import FenmistError
from fenmist.judgement.entry_rules import reading_shown
from fenmist.procedures.comparison.reduction import Result
from fenmist.procedures.comparison.surface import LookedUp, stands_for, would_show
from fenmist.procedures.page import Figures
from fenmist.procedures.words import scatter_and_drift
from fenmist.reading.event import Entry
from fenmist.units.display import decimals_for, plain, rounded, with_uncertainty, with_unit
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS
from fenmist.waveform.series import Series


def series(result: Result, point_id: str) -> tuple[Series, ...]:
    """What was read at a point against time."""
    found = result.of(point_id)
    return series_at(result.readings_at(point_id), found.reference_w if found else None)


def figures(result: Result, point_id: str) -> Figures:
    """Error in W and in dB with U, scatter and drift; dashes where there is none yet."""
    found = result.of(point_id)
    scatter, drift = scatter_and_drift(result.readings_at(point_id))
    name, none = "error so far", Figures.NOTHING
    if found is None:
        return Figures(name, none, none, none, "U", scatter, drift)
    decimals = max(0, decimals_for(found.expanded_u_w))
    return Figures(
        name, with_unit(rounded(found.error_w, decimals, plus=True), "W"),
        with_unit(rounded(found.error_db, 2, plus=True), "dB"),
        with_unit(f"±{rounded(found.expanded_u_w, decimals)}", "W"), f"U, k = {rounded(found.k, 2)}", scatter, drift,
    )  # fmt: skip


def entry_text(result: Result, entry: Entry) -> str:
    """The power that a reference's entry leads to, once there is one."""
    found = result.of(entry.slot.point)
    if found is not None:
        return f"{plain(found.reference_w, 'W', 3)} incident"
    return reading_shown(entry.reading) if entry.reading else ""


def looked_up_text(result: Result, text: str) -> str:
    """The answer to “40 W at 14 MHz”, a reading: the power it stands for, or what is wrong with the question."""
    return _looked_up(result, text, stands_for)


def would_show_text(result: Result, text: str) -> str:
    """The answer to “50 W at 21 MHz”, a power: what the meter shows of it, or what is wrong with the question."""
    return _looked_up(result, text, would_show)


def _looked_up(result: Result, text: str, of: Callable[[Result, float, float], LookedUp]) -> str:
    value, _, at = text.partition(" at ")
    try:
        watts = value_from_text(value, UNITS["W"], "power", "40 W at 14 MHz")
        hertz = value_from_text(at, UNITS["MHz"], "frequency", "40 W at 14 MHz")
        if watts <= 0:
            return "A power above 0, such as 40 W at 14 MHz."
        found = of(result, watts, hertz)
    except FenmistError as error:
        return str(error)
    low, high = found.interval_w
    shown = with_uncertainty(found.value_w, (high - low) / 2.0, "W")
    by = f"range {found.range_id}, " if found.range_id else ""
    return f"{shown}, {by}{found.found.way}"
