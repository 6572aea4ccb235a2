"""Texts of the run, from the job: what stands beside an entry, former rounds, the running error."""

from typing import TYPE_CHECKING

from fenmist.calibration.job import PlanPoint
from fenmist.findings import keys
from fenmist.judgement.entry_rules import reading_shown
from fenmist.reading.dial import reading_limit
from fenmist.reading.event import Entry, Slot
from fenmist.session.view import View
from fenmist.units.display import (
    THIN,
    frequency,
    percent,
    plain,
    signed,
    with_uncertainty,
)
from fenmist.waveform.harmonics import Responds
from fenmist.waveform.series import Series

if TYPE_CHECKING:
    from fenmist.session.captures import OpenedCapture


def entry_text(view: View, entry: Entry | None) -> str:
    """What an entry comes to: what it can be read to, or why it is open and how it is taken."""
    if entry is None:
        return ""
    if entry.reading is None:
        return f"open · {keys.TAKE} takes {entry.likeliest_text}" if entry.likeliest_text else "open"
    point = view.job.point(entry.slot.point)
    if view.job.is_device(entry.channel) or view.job.is_beside(entry.channel):
        used = view.job.indicator(entry.channel).range(entry.range_id) or view.job.range_of(point, entry.channel)
        limit = reading_limit(entry.reading, used, view.job.part_of_division)
        shown, unit = reading_shown(entry.reading), entry.reading.unit
        typed = shown.replace(THIN, "").replace(" ", "").removesuffix(unit)
        prefix = "" if typed == entry.raw_text.strip() else f"{shown} "
        return f"{prefix}±{plain(limit, unit, 2)}"
    if entry.attached:
        return f"{entry.attached_name}, {reading_shown(entry.reading)}"
    return str(view.procedure.entry_text(view.at_once, entry))


def origin_text(entry: Entry | None) -> str:
    """Where an entry came from: of one read over a wire its address and every reply, as they came."""
    if entry is None:
        return ""
    if not entry.replies:
        return entry.origin
    replies = ", ".join(reply.strip() for reply in entry.replies)
    return f"{entry.origin}, {entry.address}: {replies}"


def rounds_text(view: View, point: PlanPoint, present: int) -> str:
    """The other rounds of a point in one line."""
    texts = []
    for number in range(1, max(point.repeats, present) + 1):
        shown = []
        for position in range(len(point.sequence)):
            event = view.standing.get(Slot(point.id, number, position, view.phase))
            if event is not None and event.entry is not None:
                shown.append(reading_shown(event.entry.reading) if event.entry.reading else "open")
        if shown and number != present:
            texts.append(f"round {number}: {' / '.join(shown)}")
    return " · ".join(texts)


def series_text(series: Series, name: str, limit_w: float | None) -> str:
    """What a series of readings says in one line."""
    text = (
        f"{name}: {plain(series.lowest_w, 'W', 3)} to {plain(series.highest_w, 'W', 3)}, "
        f"mean {plain(series.mean_w, 'W', 3)} over {plain(series.span_s, 's', 3)}"
    )
    if limit_w is None:
        return text
    return f"{text}; above {plain(limit_w, 'W')} for {plain(series.seconds_above(limit_w), 's', 3)}"


def trace_facts(opened: "OpenedCapture") -> list[tuple[str, str]]:
    """What a capture's channel says, by name."""
    trace = opened.trace
    if trace is None:
        return []
    fit = trace.fit
    u = 2.0 * trace.u_amplitude_v / 2.0**0.5
    highest = max(trace.harmonics, key=lambda item: item.ratio, default=None)
    facts = [
        ("fitted rms", with_uncertainty(fit.rms_v, u, "V")),
        ("true rms", plain(trace.rms_v, "V")),
        ("Vpp / 2√2", f"{plain(trace.peak_to_peak_v / 8.0**0.5, 'V')} ({percent(trace.peak_excess, plus=True)})"),
        ("frequency", frequency(fit.frequency_hz)),
        ("noise", percent(trace.noise_ratio)),
        ("record", f"{fit.samples} samples, {fit.periods:.1f} periods"),
    ]
    if highest is not None:
        level = signed(f"{highest.level_dbc:.0f}")
        facts.insert(4, ("harmonics", f"at most {level} dBc (order {highest.order})"))
        crests, needle = (trace.effects[way] for way in (Responds.PEAK_TO_PEAK, Responds.AVERAGE))
        facts.insert(5, ("they move", f"Vpp {effect_text(*crests)}, a needle {effect_text(*needle)}"))
    return facts


def effect_text(low: float, high: float) -> str:
    """A change of power as people say it: ±, only up, or none."""
    if high - low < 1e-6:
        return "nothing" if abs(high) < 1e-6 else percent(high, plus=True)
    return (
        f"±{percent((high - low) / 2.0)}" if abs(high + low) < 1e-9 else f"{percent(low)} to {percent(high, plus=True)}"
    )
