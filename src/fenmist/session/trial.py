"""A job from elsewhere is tried before it is kept: all that window, paper and files will ask of it is asked once.

What passes here doesn't fail later in a step, a summary, a certificate, a run sheet or an export. The work grows in
proportion to the job; `progress` is told the part that is done and may raise to stop it.
"""

from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

import msgspec

from fenmist.calibration.asked import whose_draft
from fenmist.calibration.edit import load_rows, load_u, plan_rows
from fenmist.calibration.history import drifts
from fenmist.calibration.job import Job
from fenmist.calibration.levels import planned_levels
from fenmist.errors import CancelledError, FenmistError, FileFormatError, OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.judgement import headline
from fenmist.judgement.bench import judge_bench
from fenmist.judgement.job_rules import improvement
from fenmist.kit.draft import draft_from_part, fields_of_part
from fenmist.kit.due import due
from fenmist.kit.tables import table_rows
from fenmist.procedures.benchwork import read_hookup
from fenmist.procedures.charts import history_chart
from fenmist.procedures.page import FREQUENCY, LEVEL
from fenmist.reading.event import AS_FOUND, AS_LEFT
from fenmist.records.codec import encode, not_finite, record_hash
from fenmist.records.jobfile import read_job_file
from fenmist.reports.certificate import certificate
from fenmist.reports.leveltable import level_rows
from fenmist.reports.linedrawing import line_svg
from fenmist.reports.loadtable import load_table
from fenmist.reports.resultfile import csv_bytes, head_table
from fenmist.reports.runsheet import form_csv, run_sheet
from fenmist.session.planview import plan_states, run_estimate
from fenmist.session.present import entry_text, rounds_text
from fenmist.session.route import route
from fenmist.session.summaries import present_as_past, summary
from fenmist.session.view import View
from fenmist.session.warmth import warmth
from fenmist.session.workable import working_out
from fenmist.units.moment import day_of

Progress = Callable[[float], None]


def try_whole(job: Job, progress: Progress = lambda _: None) -> None:
    """Ask everything of a job that will be asked of it.

    Parameters
    ----------
    progress : callable
        Told the part that is done, 0 to 1; what it raises ends the trial.

    Raises
    ------
    UnworkableJobError
        Where anything of it can't be worked out, or comes out as no finite number.
    """
    phases = (AS_FOUND, AS_LEFT) if job.is_adjusted else (AS_FOUND,)
    as_of = job.last_at
    steps = [step for phase in phases for step in _steps(View(job, as_of, phase))]
    for number, step in enumerate(steps):
        progress(number / len(steps))
        with working_out(job.title):
            step()
    progress(1.0)


@dataclass(frozen=True)
class Tried:
    """A job from a file that can be kept, with its files (name and bytes by hash)."""

    job: Job
    files: Mapping[str, tuple[str, bytes]]


def read_tried(path: Path, progress: Progress = lambda _: None) -> Tried:
    """The job in a file, tried.

    Raises
    ------
    FileFormatError
        Names the file and what is wrong with it.
    """
    job, files = read_job_file(path)
    try:
        try_whole(job, progress)
    except CancelledError:
        raise
    except FenmistError as error:
        raise FileFormatError(
            f"{path.name} can't be taken in: {error.headline}", "It was left as it is; nothing was kept of it."
        ) from error
    return Tried(job, files)


def _steps(view: View) -> tuple[Callable[[], object], ...]:
    return (
        lambda: _results(view), lambda: view.notes, lambda: _kept(view), lambda: _bench(view), lambda: _parts(view),
        lambda: _plan(view), lambda: _run(view), lambda: _answers(view), lambda: _paper(view),
    )  # fmt: skip


def _results(view: View) -> None:
    result = view.result
    for item in result.stated:
        numbers = (
            item.value, *item.interval, item.u, item.k, item.tolerance, item.share, *item.share_interval,
            item.share_tolerance,
        )  # fmt: skip
        _must_be_finite(numbers, f"the result at point “{item.point.id}”")
    for name, estimate in result.quantities.items():
        _must_be_finite([float(value) for value in estimate.value], f"the {name}")
        for column in range(len(result.stated)):
            _must_be_finite([row.share for row in estimate.budget(column)], "a budget")


def _kept(view: View) -> None:
    encode(view.job)
    record_hash(view.job)
    _, past, _ = summary(view.job)
    _must_be_finite(msgspec.to_builtins(past, enc_hook=list), "its history")
    drifts(past)


def _bench(view: View) -> None:
    job = view.job
    for hookup in job.hookups:
        levels = planned_levels(job).get(hookup.id)
        if levels is not None:
            _ = levels.stairs
        level_rows(job, hookup.id)
        line_svg(job, hookup)
        judge_bench(job, hookup.id, view.as_of.date())
        headline.hookup_headline(job, judge_bench(job, hookup.id), hookup)
    read_hookup(job)


def _parts(view: View) -> None:
    job = view.job
    load_rows(job), load_u(job), load_table(job), whose_draft(job), view.procedure.draft(job)
    headline.parts_headline(job)
    for part in job.kit:
        fields_of_part(part), draft_from_part(part), due(part, view.as_of.date())
        for table in part.characterisations:
            table_rows(table)


def _plan(view: View) -> None:
    job = view.job
    plan_rows(job), plan_states(view), run_estimate(job)
    headline.receive_headline(job), headline.plan_headline(job)
    form_csv(job, view.phase)
    route(view)


def _run(view: View) -> None:
    job, result = view.job, view.result
    planned = {point.id for point in job.plan}
    for point in job.plan:
        view.procedure.readings_headline(job, result, point)
        view.procedure.figures(result, point.id), rounds_text(view, point, 1)
        for series in view.procedure.series(result, point.id):
            _must_be_finite([series.mean_w, series.seconds_above(1.0)], "a series of readings")
    for slot, event in view.standing.items():
        if event.entry is not None and slot.phase == view.phase and slot.point in planned:
            entry_text(view, event.entry)
    view.resume_slot(), view.next_slot()
    ends = [keying.end_s for keying in view.carrier.keyings]
    warmth(job, view.carrier, max(ends, default=0.0), None)


def _answers(view: View) -> None:
    job, result = view.job, view.result
    view.procedure.page(view.seen)
    headline.certificate_headline(job, result, view.notes)
    csv_bytes(_finite_rows(view.procedure.table(view.seen)))
    csv_bytes(head_table(job, record_hash(job)))
    for item in result.stated:
        headline.budget_title(item, view.procedure.quantity)
    if result.stated:
        improvement(result, result.stated[0])
        history_chart(present_as_past(job, result.stated[0], view.phase), [result.stated[0]], job.last_at.date())


def _paper(view: View) -> None:
    job = view.job
    certificate(view.procedure, view.seen, view.notes, record_hash(job))
    if job.to_read:
        run_sheet(job, view.notes, day_of(view.as_of))
    for over in (FREQUENCY, LEVEL):
        view.procedure.chart(job, view.found, view.left, over, True)
    if view.seen.final.stated:
        view.procedure.cards(view.seen, "")


def _finite_rows(rows: list[list[Any]]) -> list[list[Any]]:
    _must_be_finite(rows, "its results")
    return rows


def _must_be_finite(values: Any, what: str) -> None:
    bad = not_finite(values, what)
    if bad:
        raise OutOfRangeError(f"{bad} comes out as no finite number.", "Look at the numbers it is made from.")
