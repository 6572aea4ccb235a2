"""What runs along while steps are read, and their picture: stems over the ladder."""

from fenmist.calibration.series import series_at
from fenmist.judgement.entry_rules import reading_shown
from fenmist.procedures.page import Figures, Stem, Stems
from fenmist.procedures.steps.findings import ladders
from fenmist.procedures.steps.headline import departure_said, step_name
from fenmist.procedures.steps.reduction import Steps
from fenmist.procedures.words import scatter_and_drift
from fenmist.reading.event import Entry
from fenmist.units.display import THIN, frequency, rounded
from fenmist.waveform.series import Series


def series(result: Steps, point_id: str) -> tuple[Series, ...]:
    """What was read at a point against time, at the planned power."""
    return series_at(result.readings_at(point_id), result.job.point(point_id).target_w)


def figures(result: Steps, point_id: str) -> Figures:
    """The departure with U, and that of the step alone; dashes where there is none yet."""
    found, none, name = result.of(point_id), Figures.NOTHING, "departure so far"
    scatter, drift = scatter_and_drift(result.readings_at(point_id))
    if found is None or found.is_reference:
        return Figures(name, "reference step" if found else none, none, none, "U", scatter, drift)
    alone = result.single_step_db(found)
    second = "" if alone is None else f"this step alone {rounded(alone, 2, plus=True)}{THIN}dB"
    return Figures(
        name, f"{rounded(found.departure_db, 2, plus=True)}{THIN}dB", second,
        f"±{found.expanded_u_db:.2g}{THIN}dB", f"U, k = {found.k:.2f}", scatter, drift,
    )  # fmt: skip


def entry_text(_result: Steps, entry: Entry) -> str:
    """An entry as it is listed."""
    return reading_shown(entry.reading) if entry.reading else ""


def stems(result: Steps, point_id: str) -> Stems | None:
    """The departures of all steps at a point's frequency; none where nothing could be held against another."""
    found = result.of(point_id)
    if found is None:
        return None
    ladder = next(item for item in ladders(result) if any(step.point.id == point_id for step in item.steps))
    made = tuple(
        Stem(
            step_name(item.point), item.nominal_db, item.departure_db, *item.stated.interval,
            item.point.id == point_id,
        )
        for item in ladder.steps
    )  # fmt: skip
    parts = []
    if ladder.floor_db is not None:
        parts.append(f"from {rounded(ladder.floor_db, 1)}{THIN}dB down it leaves its law")
    if ladder.ceiling_db is not None:
        parts.append(f"from {rounded(ladder.ceiling_db, 1, plus=True)}{THIN}dB up it leaves its law")
    worst = max(ladder.steps, key=lambda item: abs(item.departure_db))
    said = f"{step_name(worst.point)} departs most: {departure_said(worst)}{''.join(f'; {part}' for part in parts)}."
    return Stems(
        f"at {frequency(found.point.frequency_hz)}", "dB", made, found.tolerance_db, ladder.floor_db,
        ladder.ceiling_db, said,
    )  # fmt: skip
