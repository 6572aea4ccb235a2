"""Triage as a room: transmitter, line or meter, which one is wrong?"""

from fenmist.calibration.references import KIND, VERSION
from fenmist.hookup.templates import OF_TRIAGE
from fenmist.kit.part import PartKind
from fenmist.procedures.output.bench import trouble
from fenmist.procedures.procedure import Procedure
from fenmist.procedures.triage.asked import FOR_THE_LINE, FOR_THE_PLAN, job_draft, job_from_draft
from fenmist.procedures.triage.bench import flaws
from fenmist.procedures.triage.headline import (
    arrivals,
    entry_text,
    figures,
    readings_headline,
    series,
    short_headline,
    what_if_sentence,
)
from fenmist.procedures.triage.make import ID, begin
from fenmist.procedures.triage.order import order
from fenmist.procedures.triage.page import cards, chart, evidence, page, table
from fenmist.procedures.triage.reduction import Triage, reduce
from fenmist.procedures.triage.rules import judge, judge_entries
from fenmist.procedures.triage.suspects import next_point, offer
from fenmist.procedures.words import method_in_words

TRIAGE: Procedure[Triage] = Procedure(
    id=ID, question="Transmitter, line or meter: which one is wrong?", title="What is wrong",
    quantity="own meter less power", kind=KIND, version=VERSION, devices=(PartKind.TRANSMITTER,), templates=OF_TRIAGE,
    begin=begin, line_fields=FOR_THE_LINE, plan_fields=FOR_THE_PLAN, draft=job_draft, from_draft=job_from_draft,
    trouble=trouble, flaws=flaws, method=method_in_words, reduce=reduce, judge=judge, judge_entries=judge_entries,
    readings_headline=readings_headline, what_if=what_if_sentence, short=short_headline, figures=figures,
    entry_text=entry_text, series=series, chart=chart, page=page, cards=cards, table=table, picture=arrivals,
    picture_first=True, next_point=next_point, offer=offer, order=order, aside=evidence,
)  # fmt: skip
