"""What is wrong, as a page: a row for each sighting, the suspects with their odds and grounds."""

from fenmist.calibration.job import Job
from fenmist.calibration.outcome import Stated
from fenmist.calibration.sent import level_said
from fenmist.methods.chain import SUSPECTS
from fenmist.methods.triage import SURE, odds_said
from fenmist.procedures.cards import card_of
from fenmist.procedures.charts import stated_chart
from fenmist.procedures.page import BENCH, FREQUENCY, LID, Card, Cell, Chart, ResultPage
from fenmist.procedures.procedure import Seen
from fenmist.procedures.triage.headline import results_headline
from fenmist.procedures.triage.reduction import Seen as Sighted
from fenmist.procedures.triage.reduction import Triage
from fenmist.procedures.words import method_in_words
from fenmist.reading.event import AS_FOUND, AS_LEFT
from fenmist.units.display import frequency, percent, plain, swr

HEADINGS = ("frequency", "set", "into", "own meter", "external meter", "arrives", "SWR", "supply")
"""Columns of the table."""

LEAST = 0.01
"""Odds from which a suspect is named on paper."""


def page(seen: Seen[Triage]) -> ResultPage:
    """The page of the phase in hand."""
    job, result = seen.job, seen.in_hand
    stated = {item.point.id for item in result.stated}
    rows = tuple(_row(item) for item in result.seen if item.found.point.id in stated)
    where = "" if result.main_hz is None else f" at {frequency(result.main_hz)}"
    return ResultPage(
        results_headline(job, result, result.phase), HEADINGS, rows,
        (
            ("quantity", f"odds of each suspect{where}, one thing being wrong"),
            ("method", f"{method_in_words(job)}; odds by Bayes from likelihoods drawn for each suspect"),
            ("before", "how often each is met: " + ", ".join(f"{s.what} {percent(s.prevalence)}" for s in SUSPECTS)),
        ),
        tuple(_statements(result)),
    )  # fmt: skip


def _statements(result: Triage) -> list[str]:
    answer = result.answer
    if answer is None:
        return []
    said = [*evidence(result)]
    if answer.next_test is not None:
        said.append(f"To be sure: {answer.next_test.what}.")
    for f, other in result.answers.items():
        if f != result.main_hz:
            said.append(f"At {frequency(f)}: {other.headline}")
    return said


def evidence(result: Triage) -> tuple[str, ...]:
    """The suspects with odds and grounds, and what is done about the first where it is sure."""
    if result.answer is None:
        return ()
    named = [item for item in result.answer.suspects if item.odds >= LEAST]
    said = [f"{_begun(item.what)}: {odds_said(item.odds)}. {_begun(item.why)}." for item in named]
    if named[0].odds >= SURE and named[0].mend:
        said.append(f"To be done: {named[0].mend}.")
    return tuple(said)


def _begun(words: str) -> str:
    """Words as they begin a sentence."""
    return f"{words[0].upper()}{words[1:]}"


def _row(item: Sighted) -> tuple[str, ...]:
    one, point = item.sighting, item.found.point
    arrives = "—" if one.external_w is None else percent(one.external_w / one.set_w)
    return (
        frequency(point.frequency_hz), level_said(point), point.leg, _watts(one.own_w), _watts(one.external_w), arrives,
        "—" if one.swr is None else swr(one.swr), "—" if one.supply_v is None else plain(one.supply_v, "V", 3),
    )  # fmt: skip


def _watts(value: float | None) -> str:
    return "—" if value is None else plain(value, "W", 3)


def chart(job: Job, result: Triage, left: Triage | None = None, over: str = FREQUENCY, _curves: bool = False) -> Chart:
    """What is given less what is set or shown, over frequency or level."""
    return stated_chart(job, result, left, over, quantity="shown or set less power")


def cards(seen: Seen[Triage], number: str) -> tuple[Card, ...]:
    """Both sizes: what arrived at each sighting, and who it was."""
    result = seen.final
    found = {item.found.point.id: item.sighting for item in result.seen}

    def cell(item: Stated) -> str:
        one = found[item.point.id]
        return "—" if one.external_w is None else percent(one.external_w / one.set_w)

    foot = results_headline(seen.job, result, result.phase)
    return tuple(
        card_of(seen.job, result.stated, size, number, "of what is set", foot, cell, lambda item: item.point.leg)
        for size in (LID, BENCH)
    )


COLUMNS = (
    "phase", "frequency / Hz", "set / W", "into", "own meter / W", "external meter / W", "SWR", "supply / V",
    *(f"odds of {item.what}" for item in SUSPECTS),
)  # fmt: skip


def table(seen: Seen[Triage]) -> list[list[Cell]]:
    """Headings and rows, as found and then as left; odds are those at a row's frequency, all sightings together."""
    phases = [(AS_FOUND, seen.found)] + ([(AS_LEFT, seen.left)] if seen.left is not None else [])
    return [[*COLUMNS], *(_cells(phase, result, item) for phase, result in phases for item in result.seen)]


def _cells(phase: str, result: Triage, item: Sighted) -> list[Cell]:
    one, point = item.sighting, item.found.point
    odds = {found.id: found.odds for found in result.answers[point.frequency_hz].suspects}
    read: list[Cell] = ["" if v is None else v for v in (one.own_w, one.external_w, one.swr, one.supply_v)]
    return [phase, point.frequency_hz, one.set_w, point.leg, *read, *(odds[suspect.id] for suspect in SUSPECTS)]
