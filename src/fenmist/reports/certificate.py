"""The certificate as content: what stands on the page, worked out from the record alone.

Nothing here knows today or this machine: the same record gives the same content. The page claims accreditation for
nobody; what it says of traceability is what the kit's history holds.
"""

import math
from collections.abc import Iterator
from datetime import date
from typing import Any

from fenmist.calibration.chain import beneath, calibrated, chain_statements, leaned_on, read_on
from fenmist.calibration.decision import Verdict
from fenmist.calibration.job import Job, Rule
from fenmist.calibration.outcome import Outcome, Stated
from fenmist.calibration.receipt import LOOK_OVER
from fenmist.findings.note import Note
from fenmist.frozen import dataclass
from fenmist.hookup.line import branches, main_line
from fenmist.judgement.entry_rules import at_point
from fenmist.judgement.headline import budget_title, tolerance_shown
from fenmist.kit.due import State, due
from fenmist.kit.network import setting_text
from fenmist.kit.part import Part
from fenmist.procedures.page import FREQUENCY, Chart, Picture, ResultPage
from fenmist.procedures.procedure import Procedure, Seen
from fenmist.reports.linedrawing import line_svg
from fenmist.units.display import percent, plain, uncertainty
from fenmist.units.moment import day_of


@dataclass(frozen=True)
class Certificate:
    """The page's content; all texts are ready to be set."""

    title: str
    number: str  # nothing on a draft
    supersedes: str
    record: str  # first digits of the record's hash
    date: str  # of the last event on record
    demo: bool
    headline: str
    facts: tuple[tuple[str, str], ...]
    columns: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    rows_found: tuple[tuple[str, ...], ...]  # as found, where the rows above are as left
    chart: Chart
    chart_title: str
    picture: Picture | None  # of the point where it tells most
    budget_title: str
    budget: tuple[tuple[str, str, str, str], ...]  # influence, basis, contribution, share
    notes: tuple[tuple[str, str, str, str], ...]  # severity, what, why, answer
    hookup_svg: str
    references: tuple[tuple[str, str, str], ...]  # part, serial, history: what the results lean on
    others: tuple[tuple[str, str, str], ...]  # part, serial, what is stated of it
    verdict: str
    statements: tuple[str, ...]


def certificate(room: Procedure[Any], seen: Seen[Any], notes: tuple[Note, ...], record: str) -> Certificate:
    """Content of the page for a job as it stands; `record` is the hash of what it was made from.

    Results as left are judged where there are any; those as found stand beside them then.
    """
    job, result, found = seen.job, seen.final, seen.found
    adjusted = result is not found
    page = room.page(Seen(job, result.phase, found, seen.left))
    as_found = _rows(room.page(Seen(job, found.phase, found)), found) if adjusted else ()
    columns, rows, rows_found = _columns(page, result), _rows(page, result), as_found
    if not _claims(result):
        columns, rows, rows_found = _filled(columns, rows, rows_found)
    worst = result.worst
    chart = room.chart(job, found, result if adjusted else None, FREQUENCY, True)
    return Certificate(
        title=room.title,
        number="",
        supersedes="",
        record=record[:12],
        date=day_of(job.last_at),
        demo=job.demo,
        headline=page.headline,
        facts=_facts(job, result, page, adjusted),
        columns=columns,
        rows=rows,
        rows_found=rows_found,
        chart=chart,
        chart_title=f"{chart.quantity[:1].upper()}{chart.quantity[1:]} over frequency",
        picture=_picture(room, result),
        budget_title=budget_title(worst, room.quantity) if worst else "",
        budget=_budget(result, worst),
        notes=tuple(_note(job, note) for note in notes),
        hookup_svg=line_svg(job, job.bench),
        references=tuple(row for part in leaned_on(job) for row in _reference_rows(part, job.last_at.date())),
        others=tuple(_other(part) for part in _others(job)),
        verdict=_verdict(job, result),
        statements=_statements(job, result, page),
    )


def _facts(job: Job, result: Outcome, page: ResultPage, adjusted: bool) -> tuple[tuple[str, str], ...]:
    found = (
        ("device", _identification(job)),
        ("ranges", "; ".join(f"{plain(item.full_scale, item.unit)}" for item in job.device_ranges)),
        ("ports", job.receipt.ports),
        ("settings", job.receipt.switches),
        ("received", job.receipt.received_on),
        ("condition", job.receipt.condition),
        ("inspection", _looked_over(job)),
        ("customer", job.customer),
        ("place", job.place),
        ("technician", job.technician),
        ("conditions", job.conditions),
        ("state", "adjusted: as left, with as found below" if adjusted else "as found"),
        *page.facts,
        ("hook-up", hookup_in_words(job)),
        ("decision rule", _rule(job, result, page)),
        ("read on", _days(job)),
        ("rounds", f"{sum(len(item.rounds) for item in result.readings)} of {result.wanted} planned"),
        ("not read", _not_read(job)),
        ("next due", job.next_due),
    )
    return tuple((name, text) for name, text in found if text)


def _rule(job: Job, result: Outcome, page: ResultPage) -> str:
    """By what it is judged, unless the question says that in its own words."""
    if not _claims(result) or any(name == "decision rule" for name, _ in page.facts):
        return ""
    return f"{tolerance_shown(job)}, {job.rule}: {RULES[job.rule]}"


def _budget(result: Outcome, worst: Stated | None) -> tuple[tuple[str, str, str, str], ...]:
    rows = result.budget(worst.point.id) if worst else ()
    unit = worst.unit if worst else ""
    return tuple(
        (row.influence.label, row.influence.basis, uncertainty(row.contribution, unit), percent(row.share))
        for row in rows
        if row.share >= 5e-4
    )


def _picture(room: Procedure[Any], result: Outcome) -> Picture | None:
    """What a room draws of the point where that tells most; none where there is nothing."""
    if room.picture is None:
        return None
    found = [item for point in result.stated if (item := room.picture(result, point.point.id)) is not None]
    return max(found, key=lambda item: item.weight, default=None)


def _claims(result: Outcome) -> bool:
    """Whether anything is claimed that could be judged."""
    return any(item.decision is not None for item in result.stated)


def _filled(
    columns: tuple[str, ...], rows: tuple[tuple[str, ...], ...], others: tuple[tuple[str, ...], ...]
) -> tuple[tuple[str, ...], tuple[tuple[str, ...], ...], tuple[tuple[str, ...], ...]]:
    """The columns in which something stands in one row at least."""
    kept = [n for n in range(len(columns)) if not rows or any(row[n] != "—" for row in (*rows, *others))]

    def of(row: tuple[str, ...]) -> tuple[str, ...]:
        return tuple(row[n] for n in kept)

    return of(columns), tuple(map(of, rows)), tuple(map(of, others))


def _columns(page: ResultPage, result: Outcome) -> tuple[str, ...]:
    return (*page.headings[:-1], "T", "p", page.headings[-1]) if _claims(result) else page.headings


def _rows(page: ResultPage, result: Outcome) -> tuple[tuple[str, ...], ...]:
    """The rows of results, each with its tolerance and the probability that its verdict is wrong (JCGM 106:2012)."""
    if not _claims(result):
        return page.rows
    made = []
    for item, row in zip(result.stated, page.rows, strict=True):
        if item.decision is None:
            made.append((*row[:-1], "—", "—", row[-1]))
            continue
        risk = item.decision.risk
        wrong = "—" if risk is None else percent(risk) if risk >= 0.001 else "<\u20090.1\u2009%"
        made.append((*row[:-1], f"±{plain(item.tolerance, item.unit, 3)}", wrong, row[-1]))
    return tuple(made)


def _verdict(job: Job, result: Outcome) -> str:
    decisions = [item.decision for item in result.stated if item.decision is not None]
    if not result.stated:
        return "Nothing has been read, so there is no verdict."
    if not decisions:
        return "Nothing is claimed that could be judged: the values are stated with their uncertainty."
    counts = {verdict: sum(item.verdict is verdict for item in decisions) for verdict in Verdict}
    said = ", ".join(f"{verdict} at {count}" for verdict, count in counts.items() if count)
    risky = max(item.risk or 0.0 for item in decisions)
    return (
        f"By {job.rule} against {tolerance_shown(job)}: {said} of {len(result.stated)} points. "
        f"The largest probability that one of these verdicts is wrong is {percent(risky)}."
    )


def _of_verdicts(result: Outcome) -> Iterator[str]:
    if _claims(result):
        yield "T is the tolerance, p the probability that the verdict of a row is wrong (JCGM 106:2012)."


def _statements(job: Job, result: Outcome, page: ResultPage) -> tuple[str, ...]:
    largest_k = max((item.k for item in result.stated), default=2.0)
    if largest_k <= 2.05:
        factor = "k = 2.00" if largest_k < 2.005 else f"k = 2.00 to {largest_k:.2f}"
    else:
        factor = "k by row: " + ", ".join(f"{item.k:.2f}" for item in result.stated)
    return (
        f"U is the expanded uncertainty for a coverage of about 95 % (JCGM 100:2008), {factor}.",
        *_of_verdicts(result),
        f"Traceability: these results are {_traceability(job)}.",
        *chain_statements(job, result),
        *page.statements,
        "The results hold for the device as it was, at the points read, on the day they were read.",
        "This page is the technician's own record and claims no accreditation.",
    )


def hookup_in_words(job: Job) -> str:
    """The line from source to load, with what hangs on it."""
    hookup = job.bench

    def label(element_id: str) -> str:
        element = hookup.element(element_id)
        setting = setting_text(job.part(element.part), element.settings)
        return job.part(element.part).label + (f" (at {setting})" if setting else "")

    line = " – ".join(label(name) for name in main_line(hookup, job.parts))
    hanging = "; ".join(
        f"on the {label(at)}: {' – '.join(label(name) for name in names)}"
        for (at, _), names in branches(hookup, job.parts).items()
    )
    return f"{line}; {hanging}" if hanging else line


def _note(job: Job, note: Note) -> tuple[str, str, str, str]:
    answer = job.answers.get(note.key)
    said = f"answered {day_of(answer.at)}: {answer.text}" if answer and answer.holds_for(note) else ""
    return str(note.severity), note.what, note.why, said


RULES = {
    Rule.SIMPLE: "accepted where the error is within the tolerance, whatever U is",
    Rule.GUARDED: "accepted where error and U together are within the tolerance",
}
"""What each rule means (JCGM 106:2012)."""


def _identification(job: Job) -> str:
    device = job.dut_part
    texts = (device.label, device.serial and f"serial {device.serial}", job.receipt.inventory)
    return ", ".join(text for text in texts if text)


def _looked_over(job: Job) -> str:
    faults = job.receipt.faults
    if faults:
        return "; ".join(faults)
    seen = len(job.receipt.looks) - len([look for look in job.receipt.looks.values() if not look.state])
    return f"{seen} of {len(LOOK_OVER)} items, nothing found" if seen else ""


def _days(job: Job) -> str:
    days = sorted({day_of(event.at) for event in job.standing.values()})
    return days[0] if len(days) == 1 else f"{days[0]} to {days[-1]}" if days else ""


def _not_read(job: Job) -> str:
    """Points and rounds that were left out, with the reason."""
    blocked = [f"{at_point(p).removeprefix('at ')} ({p.blocked})" for p in job.plan if p.blocked]
    rounds = [
        f"round {number} {at_point(job.point(point))} ({event.reason})"
        for (point, number, _), event in job.skipped.items()
        if any(item.id == point for item in job.plan)
    ]
    return "; ".join([*blocked, *rounds])


def _others(job: Job) -> tuple[Part, ...]:
    """What else stood on the bench, the device apart."""
    leaned = {part.id for part in leaned_on(job)} | {job.dut}
    return tuple(part for part in read_on(job) if part.id not in leaned)


def _reference_rows(part: Part, as_of: date) -> list[tuple[str, str, str]]:
    """A part with what its latest comparison says, and the earlier ones beneath."""
    state = due(part, as_of)
    late = f" (overdue on {as_of})" if state.state is State.OVERDUE else ""
    earlier = sorted(part.history, key=lambda item: item.on, reverse=True)[1:]
    rows = [(part.label, part.serial, history_in_words(part) + late)]
    rows += [
        ("", "", f"before: {item.on} by {item.by}{f' ({item.reference})' * bool(item.reference)}") for item in earlier
    ]
    return rows + [("– " * link.depth + link.label, "", f"leaned on: {calibrated(link)}") for link in beneath(part)]


def _other(part: Part) -> tuple[str, str, str]:
    stated = (
        f"{name.rpartition('_')[0].replace('_', ' ')} {plain(item.value, item.unit, 3)}"
        for name, item in part.properties.items()
        if item.unit and math.isfinite(item.value)
    )
    return part.label, part.serial, ", ".join(stated)


def history_in_words(part: Part) -> str:
    """What is on record of a part's past, honestly."""
    latest = max(part.history, key=lambda item: item.on, default=None)
    if latest is not None:
        due = f", due {latest.due}" if latest.due else ""
        number = f" ({latest.reference})" if latest.reference else ""
        return f"calibrated {latest.on} by {latest.by}{number}{due}"
    table = part.characterisation("impedance_ohm")
    if table is not None:
        when = f" on {table.measured_on}" if table.measured_on else ""
        return f"impedance measured{when} with {table.source or 'an analyser of unknown history'}"
    return "no calibration on record: not traceable"


def _traceability(job: Job) -> str:
    """What can honestly be said of the chain to the unit."""
    loose = [part.label for part in leaned_on(job) if not part.history]
    loose += [link.label for part in leaned_on(job) for link in beneath(part) if not link.on]
    loose = list(dict.fromkeys(loose))
    numbered = [part for part in leaned_on(job) if part.history and part.history[-1].reference]
    if loose:
        return (
            f"not traceable: {' and '.join(loose)} has no calibration on record"
            if len(loose) == 1
            else (f"not traceable: {' and '.join(loose)} have no calibration on record")
        )
    if len(numbered) == len(leaned_on(job)):
        return "traceable through the certificates named above, as far as those are"
    return "compared with the parts named above; where no certificate is named, no chain to the unit is claimed"
