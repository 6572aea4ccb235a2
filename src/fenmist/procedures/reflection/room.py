"""A meter of match as a room: is this SWR or reflected reading right?"""

from fenmist.calibration.references import KIND, VERSION
from fenmist.hookup.templates import METERS_OF_MATCH, OF_MATCH
from fenmist.procedures.procedure import Procedure
from fenmist.procedures.reflection.asked import FOR_THE_LINE, FOR_THE_PLAN, job_draft, job_from_draft
from fenmist.procedures.reflection.bench import flaws, trouble
from fenmist.procedures.reflection.figures import entry_text, figures, ring_and_spot, series
from fenmist.procedures.reflection.headline import readings_headline, short_headline, what_if_sentence
from fenmist.procedures.reflection.make import ID, bearable, begin, tells_of_match
from fenmist.procedures.reflection.page import cards, chart, method_in_words, page, table
from fenmist.procedures.reflection.reduction import Matches, predict, reduce
from fenmist.procedures.reflection.rules import judge, judge_entries

REFLECTION: Procedure[Matches] = Procedure(
    id=ID, question="Is this SWR or reflected reading right?", title="Check of an SWR meter", quantity="error of ρ",
    kind=KIND, version=VERSION, devices=METERS_OF_MATCH, templates=OF_MATCH, begin=begin, line_fields=FOR_THE_LINE,
    plan_fields=FOR_THE_PLAN, draft=job_draft, from_draft=job_from_draft, trouble=trouble, flaws=flaws,
    method=method_in_words, reduce=reduce, outcome=Matches, judge=judge, judge_entries=judge_entries,
    readings_headline=readings_headline, what_if=what_if_sentence, short=short_headline, figures=figures,
    entry_text=entry_text, series=series, chart=chart, page=page, cards=cards, table=table, picture=ring_and_spot,
    predict=predict, most_w=bearable, asks=tells_of_match,
)  # fmt: skip
