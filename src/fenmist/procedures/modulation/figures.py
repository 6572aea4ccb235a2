"""What runs along while waveforms are read, and their picture: what is shown against what each detector would show."""

from fenmist.calibration.series import series_at
from fenmist.judgement.entry_rules import reading_shown
from fenmist.procedures.modulation.findings import SHORT, detector_said, odds_said
from fenmist.procedures.modulation.headline import fraction_said
from fenmist.procedures.modulation.reduction import Modulation
from fenmist.procedures.page import Figures, Mark, Marked, Marks
from fenmist.procedures.words import scatter_and_drift
from fenmist.reading.event import Entry
from fenmist.units.display import THIN, frequency, plain
from fenmist.waveform.series import Series


def series(result: Modulation, point_id: str) -> tuple[Series, ...]:
    """What was read at a point against time, at the planned power."""
    return series_at(result.readings_at(point_id), result.job.point(point_id).target_w)


def figures(result: Modulation, point_id: str) -> Figures:
    """The fraction with U, and the odds so far; dashes where there is none yet."""
    found, none, name = result.of(point_id), Figures.NOTHING, "of the carrier so far"
    rounds = result.readings_at(point_id)
    scatter, drift = scatter_and_drift(rounds) if rounds.rounds and rounds.rounds[0].references else (none, none)
    if found is None:
        return Figures(name, none, none, none, "U", scatter, drift)
    odds = next((odds_said(told) for some, told in result.told if found in some), "")
    return Figures(
        name, f"{100.0 * found.fraction:.1f}{THIN}%", odds.partition(",")[0], f"±{100.0 * found.expanded_u:.1f}{THIN}%",
        f"U, k = {found.k:.2f}", scatter, drift, "likeliest",
    )  # fmt: skip


def entry_text(_result: Modulation, entry: Entry) -> str:
    """An entry as it is listed."""
    return reading_shown(entry.reading) if entry.reading else ""


def marks(result: Modulation, point_id: str) -> Marks | None:
    """What was shown at all waveforms of a point's frequency and level; none where nothing could be worked out."""
    for some, told in result.told:
        if all(item.point.id != point_id for item in some):
            continue
        rows = tuple(
            Marked(
                item.point.leg, item.fraction, *item.interval,
                tuple(Mark(SHORT[kind], values[n]) for kind, values in told.predicted.items()),
                item.point.id == point_id,
            )
            for n, item in enumerate(some)
        )  # fmt: skip
        point = some[0].point
        worst = min(some, key=lambda item: item.fraction)
        said = f"{result.job.dut_part.label} {detector_said(told)}; on {worst.waveform.name} {fraction_said(worst)}."
        where = f"at {frequency(point.frequency_hz)}, {plain(point.target_w, 'W')} PEP"
        return Marks(where, rows, SHORT[told.likeliest] if told.is_sure and told.likeliest else "", said)
    return None
