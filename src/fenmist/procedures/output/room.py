"""The power of a source as a room: how much does it give, and is what it says of itself true?"""

from fenmist.calibration.references import KIND, VERSION
from fenmist.hookup.templates import OF_SOURCES
from fenmist.kit.part import PartKind
from fenmist.procedures.output.asked import FOR_THE_LINE, FOR_THE_PLAN, job_draft, job_from_draft
from fenmist.procedures.output.bench import flaws, trouble
from fenmist.procedures.output.figures import entry_text, figures, series
from fenmist.procedures.output.headline import readings_headline, short_headline, what_if_sentence
from fenmist.procedures.output.make import ID, begin
from fenmist.procedures.output.page import cards, chart, page, table
from fenmist.procedures.output.reduction import Output, reduce
from fenmist.procedures.output.rules import judge, judge_entries
from fenmist.procedures.procedure import Procedure
from fenmist.procedures.words import method_in_words

OUTPUT: Procedure[Output] = Procedure(
    id=ID, question="How much does this source give?", title="Power of an RF source", quantity="power", kind=KIND,
    version=VERSION, devices=(PartKind.TRANSMITTER, PartKind.GENERATOR), templates=OF_SOURCES, begin=begin,
    line_fields=FOR_THE_LINE, plan_fields=FOR_THE_PLAN, draft=job_draft, from_draft=job_from_draft, trouble=trouble,
    flaws=flaws, method=method_in_words, reduce=reduce, outcome=Output, in_steps=reduce,
    judge=judge, judge_entries=judge_entries, readings_headline=readings_headline, what_if=what_if_sentence,
    short=short_headline, figures=figures, entry_text=entry_text, series=series, chart=chart, page=page, cards=cards,
    table=table, picture=Output.voices,
)  # fmt: skip
