"""Modulation as a room: what does it show on speech, tones, dots? is the peak button one?"""

from fenmist.calibration.references import KIND, VERSION
from fenmist.hookup.templates import METERS_IN_LINE, OF_MODULATION
from fenmist.procedures.modulation.asked import FOR_THE_LINE, FOR_THE_PLAN, job_draft, job_from_draft
from fenmist.procedures.modulation.bench import flaws, trouble
from fenmist.procedures.modulation.figures import entry_text, figures, marks, series
from fenmist.procedures.modulation.headline import readings_headline, short_headline, what_if_sentence
from fenmist.procedures.modulation.make import ID, begin, usual_w
from fenmist.procedures.modulation.page import cards, chart, method_in_words, page, table
from fenmist.procedures.modulation.reduction import Modulation, predict, reduce
from fenmist.procedures.modulation.rules import judge, judge_entries
from fenmist.procedures.procedure import Procedure

MODULATION: Procedure[Modulation] = Procedure(
    id=ID, question="What does it show on speech, and is the peak button one?", title="Meter on modulation",
    quantity="departure from what it claims to show", kind=KIND, version=VERSION, devices=METERS_IN_LINE,
    templates=OF_MODULATION, begin=begin, line_fields=FOR_THE_LINE, plan_fields=FOR_THE_PLAN, draft=job_draft,
    from_draft=job_from_draft, trouble=trouble, flaws=flaws, method=method_in_words, reduce=reduce,
    outcome=Modulation, judge=judge, judge_entries=judge_entries, readings_headline=readings_headline,
    what_if=what_if_sentence, short=short_headline, figures=figures, entry_text=entry_text, series=series, chart=chart,
    page=page, cards=cards, table=table, picture=marks, picture_first=True, predict=predict, most_w=usual_w,
)  # fmt: skip
