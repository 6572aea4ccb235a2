"""Steps as a room: do they step?"""

from fenmist.calibration.references import KIND, VERSION
from fenmist.hookup.templates import OF_STEPS, STEPPED
from fenmist.procedures.procedure import Procedure
from fenmist.procedures.steps.asked import FOR_THE_LINE, FOR_THE_PLAN, job_draft, job_from_draft
from fenmist.procedures.steps.bench import flaws, trouble
from fenmist.procedures.steps.figures import entry_text, figures, series, stems
from fenmist.procedures.steps.headline import readings_headline, short_headline, what_if_sentence
from fenmist.procedures.steps.make import ID, begin, usual_w
from fenmist.procedures.steps.page import cards, chart, method_in_words, page, table
from fenmist.procedures.steps.reduction import Steps, predict, reduce
from fenmist.procedures.steps.rules import judge, judge_entries

STEPS: Procedure[Steps] = Procedure(
    id=ID, question="Do these steps step?", title="Linearity of steps", quantity="departure of the step", kind=KIND,
    version=VERSION, devices=STEPPED, templates=OF_STEPS, begin=begin, line_fields=FOR_THE_LINE,
    plan_fields=FOR_THE_PLAN, draft=job_draft, from_draft=job_from_draft, trouble=trouble, flaws=flaws,
    method=method_in_words, reduce=reduce, outcome=Steps, judge=judge, judge_entries=judge_entries,
    readings_headline=readings_headline, what_if=what_if_sentence, short=short_headline, figures=figures,
    entry_text=entry_text, series=series, chart=chart, page=page, cards=cards, table=table, picture=stems,
    predict=predict, most_w=usual_w,
)  # fmt: skip
