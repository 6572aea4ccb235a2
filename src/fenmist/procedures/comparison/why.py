"""Why the meter of a comparison errs: what was read, held against the shapes that errors take, in words.

The one more reading that tells the two likeliest apart is looked for between and beyond what was read, wherever the
bench and the meter can serve it.
"""

import math
import statistics
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import replace
from itertools import pairwise, product

import numpy as np

from fenmist.calibration.beside import once
from fenmist.calibration.expected import expected_si
from fenmist.calibration.job import PlanPoint
from fenmist.calibration.outcome import Stated
from fenmist.calibration.planning import free_names, range_for, why_not
from fenmist.findings.note import Note, Severity
from fenmist.frozen import dataclass
from fenmist.measurand import Kind
from fenmist.methods.indication import USUAL_DIRECTIVITY_DB
from fenmist.methods.modulated import stands
from fenmist.methods.why import FORMS, Fit, Places, Readings, Why, explained, readings
from fenmist.procedures.charts import stated_chart
from fenmist.procedures.comparison.reduction import PointResult, Result
from fenmist.procedures.page import FREQUENCY, LEVEL, Chart, Explained
from fenmist.uncertainty.estimate import Estimate
from fenmist.uncertainty.influence import FloatArray
from fenmist.units.display import frequency, percent, plain, rounded, with_uncertainty

FEWEST = 3
"""Readings from which a shape is looked for at all."""

CONSTANT = 0.05
"""Relative error from which one that is the same everywhere is spoken of (Fenmist's own, no source)."""

SHAPE_SPAN = 0.02
"""Relative change over the readings from which a shape is spoken of (Fenmist's own, no source)."""

TELLS = 2.0
"""Standard deviations by which a reading has to tell two shapes apart to be worth making."""

CURVE = 60
"""Places of a curve that is drawn."""

SHOWN = 4
"""Shapes that stand in the table."""


def usable(result: Result) -> list[tuple[int, PointResult]]:
    """Columns and results of a steady carrier that decided something."""
    return [
        (column, item)
        for column, item in enumerate(result.points)
        if item.is_reference and item.is_steady and not item.shows_nothing
    ]


def why_of(result: Result) -> Why | None:
    """Shapes held against what was read; none of too few readings."""
    return once(result, "why it errs", lambda: _made(result))


def _made(result: Result) -> Why | None:
    found = usable(result)
    if len(found) < FEWEST or result.log_ratio is None:
        return None
    return explained(_seen(result, found, result.log_ratio))


def _seen(result: Result, found: Sequence[tuple[int, PointResult]], log_ratio: Estimate) -> Readings:
    job = result.job
    columns = [column for column, _ in found]
    full = {item.id: item.full_scale for item in job.device_ranges}
    volts = any(
        job.channel(name).measurand.kind is Kind.VOLTAGE for _, item in found for name in job.references_of(item.point)
    )
    return readings(
        [item.point.frequency_hz for _, item in found], [item.reference_w for _, item in found],
        log_ratio.value[columns], log_ratio.covariance()[np.ix_(columns, columns)],
        ranges=[item.point.range_id for _, item in found],
        full_scale_w=[full.get(item.point.range_id, 0.0) for _, item in found], reads_volts=volts,
        **_reflected(result, found),
    )  # fmt: skip


def _reflected(result: Result, found: Sequence[tuple[int, PointResult]]) -> dict[str, FloatArray]:
    """Reflected over true power as a root at each result, and what the line's end and a coupler make of that alone."""
    job, by_point = result.job, {item.point.id: item for item in result.readings}
    shown, u = np.full(len(found), math.nan), np.full(len(found), math.inf)
    stated = job.dut_part.properties.get("directivity_db")
    leak = 10.0 ** (-(stated.value if stated is not None else USUAL_DIRECTIVITY_DB) / 20.0)
    for n, (_, item) in enumerate(found):
        taken = [
            one.reading.value
            for each in by_point[item.point.id].rounds
            for one in each.others
            if job.is_beside(one.entry.channel)
        ]
        if taken:
            channel = next(name for name in item.point.sequence if job.is_beside(name))
            expected = expected_si(job, item.point, channel) or 0.0
            ahead = max(item.reference_w, item.indicated_w)  # a reference that reads too little reflects nothing
            shown[n] = math.sqrt(max(statistics.fmean(taken), 0.0) / ahead)
            u[n] = math.hypot(math.sqrt(expected / item.point.target_w), leak)
    return {"reflected": shown, "u_reflected": u}


# the next reading


@dataclass(frozen=True)
class Deciding:
    """The point where one reading tells the two likeliest shapes apart."""

    point: PlanPoint
    is_planned: bool


def deciding(result: Result) -> Deciding | None:
    """Where one reading decides: planned and not yet read, or to be planned; none where none does, or needs to."""
    return once(result, "deciding", lambda: _deciding(result))


def _deciding(result: Result) -> Deciding | None:
    why, job = why_of(result), result.job
    if why is None or not why.explains:
        return None
    if why.named is not None and why.is_alone and not why.named.has_figure:
        return None  # one gain needs no further proof
    example = usable(result)[0][1].point
    planned = [item for item in job.plan if stands(item.waveform)]
    unread = [item for item in planned if not item.blocked and result.of(item.id) is None]
    to_read = [item for item in unread if item.hookup == example.hookup]
    fresh = (
        []
        if job.legs
        else [  # of several hook-ups in turn nobody plugs one for a single reading
            replace(example, id="", frequency_hz=f, target_w=level, range_id=range_for(job.device_ranges, level))
            for f, level in _places(planned)
        ]
    )
    for points, is_planned in ((to_read, True), (fresh, False)):
        for point in _telling(why, result, points):
            if is_planned or not why_not(job, point):
                return Deciding(point if is_planned else replace(point, id=next(free_names(job))), is_planned)
    return None


def _telling(why: Why, result: Result, points: Sequence[PlanPoint]) -> Iterator[PlanPoint]:
    """Those that tell the two likeliest apart, the best first."""
    known = [item for item in points if item.range_id in why.fits[0].seen.range_names]
    if not known:
        return
    full = {item.id: item.full_scale for item in result.job.device_ranges}
    ranges = [item.range_id for item in known]
    at = _at(why.fits[0].seen, [(item.frequency_hz, item.target_w) for item in known], ranges, full)
    apart = why.apart(at, ranges)
    yield from (known[n] for n in np.argsort(-apart, kind="stable") if apart[n] >= TELLS)


def _places(planned: Sequence[PlanPoint]) -> list[tuple[float, float]]:
    """Frequencies and levels between and beyond those planned, that aren't planned."""
    there = {(item.frequency_hz, item.target_w) for item in planned}
    frequencies = sorted({item.frequency_hz for item in planned})
    levels = sorted({item.target_w for item in planned})
    more = _between(frequencies, 1.5 * frequencies[-1]), _between(levels)  # no more power than is planned
    return [place for place in product((*frequencies, *more[0]), (*levels, *more[1])) if place not in there]


def _between(values: Sequence[float], *beyond: float) -> list[float]:
    """Values between neighbours and below all, to two figures."""
    made = (values[0] / 2.0, values[0] / 1.4, *(math.sqrt(a * b) for a, b in pairwise(values)), *beyond)
    return sorted({float(f"{value:.1e}") for value in made} - set(values))


def _at(
    seen: Readings, places: Sequence[tuple[float, float]], ranges: Sequence[str], full: Mapping[str, float]
) -> Places:
    f, level = (np.array(column, float) for column in zip(*places, strict=True))
    scales = np.array([full.get(used, 0.0) or seen.places.top_w for used in ranges])
    return Places(f, level, scales, seen.places.top_hz, seen.places.top_w)


def _would_show(fit: Fit, result: Result, point: PlanPoint) -> tuple[float, float]:
    """What the meter would show at a point if it were of that shape, W, with U."""
    full = {item.id: item.full_scale for item in result.job.device_ranges}
    at = _at(fit.seen, [(point.frequency_hz, point.target_w)], [point.range_id], full)
    shown = point.target_w * math.exp(float(fit.log_ratio(at, [point.range_id])[0]))
    u = math.hypot(float(fit.u_log_ratio(at, [point.range_id])[0]), fit.seen.u_read)
    return shown, 2.0 * shown * u


# in words


def _percent(log: float, u: float) -> str:
    """A change with its U, from logarithms."""
    change, expanded = 100.0 * math.expm1(log), 200.0 * math.exp(log) * u
    return with_uncertainty(change, expanded, "%", plus=True)


def _gain(fit: Fit) -> str:
    factors = np.exp(fit.gains)
    u = factors * np.sqrt(np.diag(fit.covariance)[: fit.gains.size])
    said = [f"× {with_uncertainty(float(g), 2.0 * float(each), '')}" for g, each in zip(factors, u, strict=True)]
    if not fit.by_range:
        return said[0]
    return ", ".join(f"{name}\u202fW {text}" for name, text in zip(fit.seen.range_names, said, strict=True))


def _at_top(fit: Fit) -> str:
    return f"{_percent(fit.figure, fit.u_figure)} at {frequency(fit.seen.places.top_hz)}"


def _corner(fit: Fit) -> str:
    return with_uncertainty(fit.figure, 2.0 * fit.u_figure, "Hz")


def _knee(fit: Fit) -> str:
    return plain(fit.seen.places.top_w * fit.figure**2, "W", 2)


def _zero(fit: Fit) -> str:
    return f"{with_uncertainty(100.0 * fit.figure, 200.0 * fit.u_figure, '%', plus=True)} of full scale"


@dataclass(frozen=True)
class _Words:
    """A shape in words: its name, its figure, and the sentence that says it."""

    name: str
    figure: Callable[[Fit], str]
    says: str  # with the figure in its place


_WORDS: Mapping[str, _Words] = {
    "right": _Words("right, as far as can be seen", lambda _: "—", "It is right, as far as this reference can tell."),
    "gain": _Words("one gain", _gain, "One gain explains its errors: {}."),
    "ranges": _Words("a gain of each range", _gain, "Each range has a gain of its own: {}."),
    "volts": _Words(
        "volts taken wrongly", lambda fit: FORMS[fit.shape.factor], "It is right, and volts were taken wrongly: {}."
    ),
    "zero": _Words("zero", _zero, "Its zero is off by {}."),
    "coupler": _Words(
        "corner of the coupler", _corner, "It falls off to the low end as a coupler below its corner does: {}."
    ),
    "arm": _Words(
        "corner of the current arm", _corner,
        "It falls off to the low end as a coupler does when its current arm alone has a corner: {}.",
    ),
    "square": _Words("square of the frequency", _at_top, "Its error goes as the square of the frequency: {}."),
    "root": _Words("square root of the frequency", _at_top, "Its error goes as the square root of the frequency: {}."),
    "diode": _Words("diode", _knee, "It reads low at little power as a diode does, a square law below {}."),
    "scale": _Words(
        "law of the scale", lambda fit: f"{1.0 + fit.figure:.3f}", "Its scale has another law: it goes as P to the {}."
    ),
}  # fmt: skip
"""By shape."""


def _words(fit: Fit) -> _Words:
    return _WORDS["ranges" if fit.by_range and fit.shape.id == "gain" else fit.shape.id]


def _name(fit: Fit) -> str:
    name = _words(fit).name
    return f"{name}, each range its gain" if fit.by_range and fit.shape.id != "gain" else name


def _says(fit: Fit) -> str:
    words = _words(fit)
    return words.says.format(words.figure(fit))


def explained_page(result: Result) -> Explained | None:
    """The shapes as a table with a sentence above, and the reading that would decide; none of too few readings."""
    why = why_of(result)
    if why is None or not why.fits:
        return None
    found = deciding(result)
    by_name: dict[str, Fit] = {}
    for fit in why.fits:
        by_name.setdefault(_name(fit), fit)
    rows = tuple(_row(fit, result, found) for fit in list(by_name.values())[:SHOWN])
    point = found.point if found is not None and not found.is_planned else None
    return Explained(_headline(why), rows, point, _offer(why, result, found), _chart(why, result))


def _chart(why: Why, result: Result) -> Chart:
    """What was read, over what the likeliest shape is over, with its curve at each level or frequency."""
    fit = why.fits[0]
    many = len({item.point.frequency_hz for item in result.points}) > 1
    over = LEVEL if fit.shape.over == LEVEL or not many else FREQUENCY
    full = {item.id: item.full_scale for item in result.job.device_ranges}

    def between(some: Sequence[Stated]) -> tuple[tuple[float, float], ...]:
        places = [(item.point.frequency_hz, item.point.target_w) for item in some]
        along = np.array(places)
        if len(places) < 2 or len({item.point.range_id for item in some}) > 1:
            return ()
        steps = [np.geomspace(side.min(), side.max(), CURVE) for side in along.T]
        used = [some[0].point.range_id] * CURVE
        at = _at(fit.seen, list(zip(*steps, strict=True)), used, full)
        values = 100.0 * np.expm1(fit.log_ratio(at, used))
        return tuple(zip((steps[1] if over == LEVEL else steps[0] / 1e6).tolist(), values.tolist(), strict=True))

    return stated_chart(result.job, result, None, over, between)


def _row(fit: Fit, result: Result, found: Deciding | None) -> tuple[str, ...]:
    shown = with_uncertainty(*_would_show(fit, result, found.point), "W") if found is not None else "—"
    weight = percent(fit.weight) if fit.weight >= 1e-3 else "below 0.1\u202f%"
    return _name(fit), _words(fit).figure(fit), weight, percent(fit.missed), shown


def _headline(why: Why) -> str:
    named = why.named
    if not why.explains:
        return "None of the shapes that errors take explains these: look at single readings first."
    if named is None and len(why.likely) < 2:
        return f"Why it errs isn't sure yet: {_name(why.fits[0])} is the likeliest."
    if named is None:
        return f"Why it errs can't be told yet: {_or(why.likely)}."
    return _says(named) if why.is_alone else f"{_says(named)} It may be the {_name(why.rival)} as well."


def _or(fits: Sequence[Fit]) -> str:
    names = list(dict.fromkeys(_name(fit) for fit in fits))
    return " or ".join((", ".join(names[:-1]), names[-1])) if len(names) > 1 else "".join(names)


def _offer(why: Why, result: Result, found: Deciding | None) -> str:
    if not why.explains:
        return ""
    first, second = why.fits[0], why.rival
    if found is None:
        return "" if why.named else "No one reading that this bench can make tells more."
    point = found.point
    by_first, by_second = (_would_show(fit, result, point)[0] for fit in (first, second))
    return (
        f"{'A planned' if found.is_planned else 'One more'} reading "
        f"{'proves it' if why.named and why.is_alone else 'decides'}: {plain(point.target_w, 'W')} at "
        f"{frequency(point.frequency_hz)} would show {plain(by_first, 'W', 2)} ({_name(first)}) or "
        f"{plain(by_second, 'W', 2)} ({_name(second)})."
    )


# notes


def why_notes(result: Result) -> Iterator[Note]:
    """Why it errs, where that can be told; what it may be where it can't."""
    why = why_of(result)
    if why is None or not why.fits:
        return
    named = why.named
    if named is None and why.explains:
        yield from _open(why, result)
    elif named is None:
        return
    elif named.kind == "gain" and not named.by_range:
        yield from _constant(named, result)
    elif named.kind != "right" and named.span >= SHAPE_SPAN:
        yield _shaped(why, named, result)


def _constant(fit: Fit, result: Result) -> Iterator[Note]:
    """One factor everywhere: gain, wrong scale, wrong load, wrong form of volts."""
    found = [item for _, item in usable(result)]
    log = float(fit.gains[0]) if fit.gains.size else math.log(fit.shape.factor)
    widest = max(item.expanded_u_ratio / item.ratio for item in found)
    if len(found) <= FEWEST or abs(log) < max(CONSTANT, widest):
        return
    near = next((name for value, name in FORMS.items() if abs(math.log(value) - log) < 0.1), "")
    maybe = f" It is near {near}." if near and fit.seen.reads_volts else ""
    factor = math.exp(log)
    yield Note(
        "errors.constant", Severity.WATCH, "job",
        f"The meter reads {factor:.3g} times the reference at all {len(found)} points.",
        f"It misses a reading left out by {percent(fit.missed)}: one gain, not a frequency response.{maybe}",
        "Check scale and range, the reference's own settings and the load's value; then the meter's trimmer.",
        {"factor": factor, "missed": fit.missed},
    )  # fmt: skip


@dataclass(frozen=True)
class _Shaped:
    """A rule: its code, why errors go like that, and what to do."""

    code: str
    because: str
    remedy: str


_SHAPED: Mapping[str, _Shaped] = {
    "gain": _Shaped(
        "errors.ranges",
        "Ranges have gains of their own.", "Adjust each range, or give a factor for each.",
    ),
    "zero": _Shaped(
        "errors.zero",
        "What is shown without power stays at every level: much of little, little of much.",
        "Check the mechanical zero, and the electrical one with the carrier off.",
    ),
    "coupler": _Shaped(
        "errors.corner",
        "A coupler's transformer falls off below its corner as 1/(1 + (f_L/f)²): a half at the corner.",
        "State a lowest frequency, or a factor for each frequency.",
    ),
    "arm": _Shaped(
        "errors.corner",
        "Where one arm alone falls off, forward power falls less, and reflected power is shown that isn't there.",
        "State a lowest frequency; its SWR means nothing there.",
    ),
    "square": _Shaped(
        "errors.square",
        "A lead longer than stated, stray capacitance or the meter's own detector goes as f²; cable loss as √f.",
        "Measure the lead, or put a probe at the tee; what is left is the meter's.",
    ),
    "root": _Shaped(
        "errors.root",
        "That is how a cable's loss goes: a jumper between meter and reference that loses more than stated.",
        "Measure the jumper's loss at the highest frequency and state it.",
    ),
    "diode": _Shaped(
        "errors.diode",
        "A diode follows a square law at little power, and further up a straight one less its threshold.",
        "Use a lower range there, or a curve over level instead of one factor.",
    ),
    "scale": _Shaped(
        "errors.scale",
        "The needle follows another law than its scale was drawn for.",
        "Another scale, or a curve over level; one gain can't mend it.",
    ),
}  # fmt: skip
"""By shape."""


def _shaped(why: Why, fit: Fit, result: Result) -> Note:
    rule = _SHAPED[fit.shape.id]
    evidence: dict[str, float | str] = {
        "figure": float(fit.values[-1]), "weight": fit.weight, "missed": fit.missed
    }  # fmt: skip
    found = deciding(result)
    return Note(
        rule.code, Severity.WATCH, "job", _headline(why),
        f"{rule.because} It foretells a reading left out to {percent(fit.missed)}.",
        f"{rule.remedy} {_offer(why, result, found)}" if found is not None else rule.remedy, evidence,
    )  # fmt: skip


def _open(why: Why, result: Result) -> Iterator[Note]:
    """More than one shape explains what was read, and none of them is next to nothing."""
    if len(why.likely) < 2 or any(fit.kind == "right" for fit in why.likely):
        return
    if max(fit.span for fit in why.likely) < CONSTANT:
        return
    yield Note(
        "errors.open", Severity.GOOD_TO_KNOW, "job", f"Its errors may come from {_or(why.likely)}.",
        "Each explains what was read about as well: "
        + ", ".join(f"{_name(fit)} {percent(fit.weight)}" for fit in why.likely) + ".",
        _offer(why, result, deciding(result)), {fit.shape.id: rounded(fit.weight, 2) for fit in why.likely},
    )  # fmt: skip
