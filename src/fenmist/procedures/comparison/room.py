"""The comparison as a room: how far off is this meter, and is a source's claim true?"""

from typing import TYPE_CHECKING

from fenmist.calibration.job import Job
from fenmist.calibration.references import KIND, VERSION
from fenmist.hookup.templates import OF_METERS, OF_SENSORS
from fenmist.kit.part import PartKind
from fenmist.procedures.comparison.adjust import turnables
from fenmist.procedures.comparison.asked import FOR_THE_LINE, FOR_THE_PLAN, job_draft, job_from_draft
from fenmist.procedures.comparison.bench import flaws, trouble
from fenmist.procedures.comparison.chart import error_chart
from fenmist.procedures.comparison.correction import correction_table
from fenmist.procedures.comparison.factors import factors_page
from fenmist.procedures.comparison.figures import entry_text, figures, looked_up_text, series, would_show_text
from fenmist.procedures.comparison.headline import readings_headline, short_headline, what_if_sentence
from fenmist.procedures.comparison.make import begin
from fenmist.procedures.comparison.page import cards, page, table
from fenmist.procedures.comparison.reduction import Result, predict, reduce
from fenmist.procedures.comparison.rules import judge, judge_entries
from fenmist.procedures.comparison.why import explained_page
from fenmist.procedures.procedure import Procedure
from fenmist.procedures.words import method_in_words

if TYPE_CHECKING:
    from fenmist.methods.power_from_volts import PowerAnswer, PowerRequest


def _with_power_parts(job: Job, request: "PowerRequest", answer: "PowerAnswer") -> Job:
    from fenmist.procedures.comparison.handover import with_parts_of  # on first use

    return with_parts_of(job, request, answer)


COMPARISON: Procedure[Result] = Procedure(
    id="comparison", question="How far off is this power meter?", title="Comparison of an RF wattmeter",
    quantity="error", kind=KIND, version=VERSION, devices=(PartKind.INLINE_METER, PartKind.POWER_METER),
    templates=(*OF_METERS, *OF_SENSORS), begin=begin, line_fields=FOR_THE_LINE, plan_fields=FOR_THE_PLAN,
    draft=job_draft, from_draft=job_from_draft, trouble=trouble, flaws=flaws,
    method=method_in_words, reduce=reduce, outcome=Result, in_steps=reduce, judge=judge,
    judge_entries=judge_entries, readings_headline=readings_headline, what_if=what_if_sentence, short=short_headline,
    figures=figures, entry_text=entry_text, series=series, chart=error_chart, page=page, cards=cards, table=table,
    picture=Result.voices, correction=correction_table, look_up=looked_up_text, turnables=turnables,
    explain=explained_page, factors=factors_page, would_show=would_show_text, predict=predict,
    with_power_parts=_with_power_parts,
)  # fmt: skip
