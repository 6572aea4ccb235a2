"""What a meter shows on modulation, as a page: a row for each waveform; cards, tables for other programs."""

from fenmist.calibration.job import Job, Rule
from fenmist.calibration.outcome import Stated
from fenmist.measurand import Detector
from fenmist.procedures.cards import card_of
from fenmist.procedures.charts import ends_chart
from fenmist.procedures.modulation.findings import SHORT, best_told, detector_said, odds_said, told_by
from fenmist.procedures.modulation.headline import fraction_said, results_headline
from fenmist.procedures.modulation.make import CLAIM, PEP_HELD, USUAL
from fenmist.procedures.modulation.reduction import OF_MEAN, OF_PEP, Fraction, Modulation
from fenmist.procedures.page import BENCH, FREQUENCY, LID, Card, Cell, Chart, ResultPage
from fenmist.procedures.procedure import Seen
from fenmist.reading.event import AS_FOUND, AS_LEFT
from fenmist.units.display import THIN, frequency, percent, plain

HEADINGS = ("frequency", "PEP", "waveform", "shows", "of the carrier ± U", "thermal", "averaging", "factor", "verdict")
"""Columns of the table."""

_ACCEPTED = {Rule.SIMPLE: "it is off by no more, whatever U is", Rule.GUARDED: "what it is off by and U are no more"}
_CLAIMS = {OF_PEP: "PEP", OF_MEAN: "mean power"}


def method_in_words(job: Job) -> str:
    """The method with its version."""
    sent = ", ".join(leg.id for leg in job.legs)
    return f"{job.bench.label}: the same PEP as {sent}, version {job.method.version}"


def page(seen: Seen[Modulation]) -> ResultPage:
    """The page of the phase in hand."""
    job, result = seen.job, seen.in_hand
    settings = {**USUAL, **job.method.parameters}
    claimed = _CLAIMS.get(settings[CLAIM])
    agreed = f"±{percent(job.tolerance.value)}, {job.rule}: accepted where {_ACCEPTED[job.rule]}"
    held = f"seen by {_others(job)}" if _others(job) else f"taken as the same within ±{settings[PEP_HELD]:g}{THIN}dB"
    return ResultPage(
        results_headline(job, result, result.phase), HEADINGS, tuple(_row(item) for item in result.points),
        (
            ("quantity", "power shown at each waveform over that shown on a steady carrier of the same PEP, per cent"),
            ("method", method_in_words(job)),
            ("PEP", f"peak envelope power (ITU Radio Regulations 1.157), {held}"),
            ("decision rule", agreed if claimed else "it claims nothing of modulation"),
        ),
        tuple(_statements(result)),
    )  # fmt: skip


def _others(job: Job) -> str:
    names = (job.part_read(item.id).label for item in job.channels if not job.is_device(item.id))
    return " and ".join(dict.fromkeys(names))


def _statements(result: Modulation) -> list[str]:
    best = best_told(result)
    if best is None:
        return []
    some, told = best
    said = [
        f"Detector: {detector_said(told)}. Odds: {odds_said(told)}, all four and none of them as likely before.",
        told_by(some, told),
    ]
    if told.likeliest in (Detector.AVERAGE, Detector.THERMAL):
        said.append(
            "The factor makes PEP of what it shows on that waveform alone. To read a power use a steady carrier at the "
            "same setting."
        )
    return said


def _row(item: Fraction) -> tuple[str, ...]:
    exact = item.waveform.exact
    thermal, averaging = (percent(value) for value in (exact.mean, exact.mean_volts**2)) if exact else ("—", "—")
    verdict = "—" if item.decision is None else str(item.decision.verdict)
    return (
        frequency(item.point.frequency_hz), plain(item.point.target_w, "W"), item.point.leg,
        plain(item.shown_w, "W", 4), fraction_said(item), thermal, averaging, f"{1.0 / item.fraction:.3g}", verdict,
    )  # fmt: skip


def chart(
    job: Job, result: Modulation, left: Modulation | None = None, over: str = FREQUENCY, _curves: bool = False
) -> Chart:
    """What the fractions are off by over frequency or level: a series for each waveform."""
    return ends_chart(job, result, left, over, quantity="shown beyond what it should")


def cards(seen: Seen[Modulation], number: str) -> tuple[Card, ...]:
    """Both sizes: what to multiply by at each waveform."""
    result = seen.final
    found = {item.point.id: item for item in result.points}

    def cell(item: Stated) -> str:
        return f"×{1.0 / found[item.point.id].fraction:.3g}"

    worst = max((item.expanded_u / item.fraction for item in result.points), default=0.0)
    foot = f"PEP is what it shows times this, on that waveform alone; ± at most {percent(worst)} (95 %)"
    return tuple(
        card_of(seen.job, result.stated, size, number, "PEP", foot, cell, lambda item: item.point.leg)
        for size in (LID, BENCH)
    )


COLUMNS = (
    "phase", "frequency / Hz", "PEP / W", "waveform", "rounds", "shown / W", "shown on the carrier / W", "fraction",
    "U(fraction)", "k", "claimed fraction", "off / %", "may be off / %", "zone", "verdict",
    "probability that the verdict is wrong", *(f"{name} would show" for name in SHORT.values()),
    *(f"odds of {name}" for name in (*SHORT.values(), "none of them")),
)  # fmt: skip


def table(seen: Seen[Modulation]) -> list[list[Cell]]:
    """Headings and rows, as found and then as left."""
    phases = [(AS_FOUND, seen.found)] + ([(AS_LEFT, seen.left)] if seen.left is not None else [])
    return [[*COLUMNS], *(_cells(phase, result, item) for phase, result in phases for item in result.points)]


def _cells(phase: str, result: Modulation, item: Fraction) -> list[Cell]:
    decision = item.decision
    told = next(((some.index(item), told) for some, told in result.told if item in some), None)
    predicted: list[Cell] = [""] * len(SHORT) if told is None else [told[1].predicted[kind][told[0]] for kind in SHORT]
    odds: list[Cell] = [""] * (len(SHORT) + 1) if told is None else [told[1].odds[kind] for kind in (*SHORT, None)]
    return [
        phase, item.point.frequency_hz, item.point.target_w, item.point.leg, item.rounds, item.shown_w, item.carrier_w,
        item.fraction, item.expanded_u, item.k, "" if item.claimed is None else item.claimed, 100.0 * item.off,
        100.0 * item.tolerance if decision else "", str(decision.zone) if decision else "",
        str(decision.verdict) if decision else "",
        "" if decision is None or decision.risk is None else decision.risk, *predicted, *odds,
    ]  # fmt: skip
