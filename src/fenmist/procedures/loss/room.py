"""The loss of a part as a room: what does it take, and may it stay in line?"""

from fenmist.calibration.references import KIND, VERSION
from fenmist.hookup.templates import OF_LOSS, PASSED
from fenmist.procedures.loss.asked import FOR_THE_LINE, FOR_THE_PLAN, job_draft, job_from_draft
from fenmist.procedures.loss.bench import flaws, trouble
from fenmist.procedures.loss.figures import entry_text, figures, rounds, series
from fenmist.procedures.loss.headline import readings_headline, short_headline, what_if_sentence
from fenmist.procedures.loss.make import ID, begin
from fenmist.procedures.loss.page import cards, chart, method_in_words, page, table
from fenmist.procedures.loss.reduction import Losses, predict, reduce
from fenmist.procedures.loss.rules import judge, judge_entries
from fenmist.procedures.procedure import Procedure

LOSS: Procedure[Losses] = Procedure(
    id=ID, question="What does this part lose?", title="Insertion loss", quantity="loss", kind=KIND, version=VERSION,
    devices=PASSED, templates=OF_LOSS, begin=begin, line_fields=FOR_THE_LINE, plan_fields=FOR_THE_PLAN,
    draft=job_draft, from_draft=job_from_draft, trouble=trouble, flaws=flaws, method=method_in_words, reduce=reduce,
    outcome=Losses, judge=judge, judge_entries=judge_entries, readings_headline=readings_headline,
    what_if=what_if_sentence, short=short_headline, figures=figures, entry_text=entry_text, series=series, chart=chart,
    page=page, cards=cards, table=table, picture=rounds, predict=predict,
)  # fmt: skip
