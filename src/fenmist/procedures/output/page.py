"""What a source gives, as a page: a row for each point, cards, tables for other programs."""

from collections.abc import Iterator

from fenmist.calibration.job import Job
from fenmist.calibration.outcome import Stated
from fenmist.calibration.sent import carrier_said, level_said, sent_statements
from fenmist.procedures.cards import card_of
from fenmist.procedures.charts import stated_chart
from fenmist.procedures.output.headline import claim_said, results_headline
from fenmist.procedures.output.reduction import Output, OutputPoint
from fenmist.procedures.page import BENCH, FREQUENCY, LID, Card, Cell, Chart, ResultPage
from fenmist.procedures.procedure import Seen
from fenmist.procedures.words import each_reference, further_columns, method_in_words, verdict_said
from fenmist.reading.event import AS_FOUND, AS_LEFT
from fenmist.units.display import frequency, level_with_uncertainty, percent, plain, with_uncertainty
from fenmist.units.level import dbm_from_watts

HEADINGS = ("frequency", "set", "power ± U", "level ± U", "U", "claims", "claim less power ± U", "verdict")
"""Columns of the table."""


def page(seen: Seen[Output]) -> ResultPage:
    """The page of the phase in hand."""
    job, result = seen.job, seen.in_hand
    sent = carrier_said(item.point for item in result.points)
    return ResultPage(
        results_headline(job, result, result.phase), HEADINGS, tuple(_row(item) for item in result.points),
        (
            ("quantity", f"{job.stated.kind} at the source's output, {sent}, {job.stated.z0_ohm:g}\u2009Ω"),
            ("method", method_in_words(job)),
        ),
        (
            *_claims(job, result), *each_reference(job, ((i, i.power_w, i.expanded_u_w) for i in result.points)),
            *sent_statements(job, (item.point for item in result.points)),
        ),
    )  # fmt: skip


def _row(item: OutputPoint) -> tuple[str, ...]:
    claim = item.claims[0] if item.claims else None
    verdict = "—" if claim is None else str(claim.decision.verdict)
    return (
        frequency(item.point.frequency_hz), level_said(item.point),
        with_uncertainty(item.power_w, item.expanded_u_w, "W"), level_with_uncertainty(item.power_w, item.expanded_u_w),
        percent(item.expanded_u_w / item.power_w), plain(claim.claimed_w, "W") if claim else "—",
        with_uncertainty(claim.error_w, claim.expanded_u_w, "W", plus=True) if claim else "—",
        verdict_said(verdict, item, item.is_reference),
    )  # fmt: skip


def _claims(job: Job, result: Output) -> Iterator[str]:
    """Every claim at every point, where a source makes more than one."""
    for item in result.points:
        for claim in item.claims[1:]:
            yield f"At {frequency(item.point.frequency_hz)} {claim_said(job, claim, item.is_reference)}."


def chart(job: Job, result: Output, left: Output | None = None, over: str = FREQUENCY, _curves: bool = False) -> Chart:
    """Each claim's error, or the power against what was set, over frequency or level."""
    claimed = any(item.claims for item in result.points)
    return stated_chart(job, result, left, over, quantity="claim less power" if claimed else "power less what is set")


def cards(seen: Seen[Output], number: str) -> tuple[Card, ...]:
    """Both sizes, of what the job ends with: the power at each setting."""
    result = seen.final
    powers = {item.point.id: item for item in result.points}

    def cell(item: Stated) -> str:
        return plain(powers[item.point.id].power_w, "W", 3)

    worst = max((item.expanded_u_w / item.power_w for item in result.points), default=0.0)
    foot = f"each ± at most {percent(worst)} (95 %); at other frequencies nothing is said"
    return tuple(card_of(seen.job, result.stated, size, number, "gives", foot, cell) for size in (LID, BENCH))


COLUMNS = (
    "phase", "frequency / Hz", "set / W", "rounds", "power / W", "U(power) / W", "power low / W", "power high / W",
    "power / dBm", "net in the end / W", "k", "channel of the claim", "claim / W", "claim less power / W",
    "U(claim less power) / W", "tolerance / W", "zone", "verdict", "computed by", "is a reference",
)  # fmt: skip


def table(seen: Seen[Output]) -> list[list[Cell]]:
    """Headings and rows, as found and then as left: one for each claim, one for a point without any."""
    phases = [(AS_FOUND, seen.found)] + ([(AS_LEFT, seen.left)] if seen.left is not None else [])
    headings, said = further_columns(seen.job, [item for _, result in phases for item in result.points])
    rows = [[*row, *said(item)] for phase, result in phases for item in result.points for row in _cells(phase, item)]
    return [[*COLUMNS, *headings], *rows]


def _cells(phase: str, item: OutputPoint) -> Iterator[list[Cell]]:
    before: list[Cell] = [
        phase, item.point.frequency_hz, item.point.target_w, item.rounds, item.power_w, item.expanded_u_w,
        *item.interval_w, float(dbm_from_watts(item.power_w)), item.net_w, item.k,
    ]  # fmt: skip
    after: list[Cell] = [item.engine, "yes" if item.is_reference else "no"]
    if not item.claims:
        yield [*before, "", "", "", "", "", "", "", *after]
    for claim in item.claims:
        yield [
            *before, claim.channel, claim.claimed_w, claim.error_w, claim.expanded_u_w, claim.tolerance_w,
            str(claim.decision.zone), str(claim.decision.verdict), *after,
        ]  # fmt: skip
