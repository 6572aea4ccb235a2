"""Constants as a room: what makes watts of this home-built meter's volts?"""

from fenmist.calibration.references import KIND, VERSION
from fenmist.hookup.templates import OF_HOME_BUILT
from fenmist.kit.part import PartKind
from fenmist.procedures.constants.asked import FOR_THE_LINE, FOR_THE_PLAN, job_draft, job_from_draft
from fenmist.procedures.constants.bench import flaws, trouble
from fenmist.procedures.constants.headline import (
    entry_text,
    figures,
    readings_headline,
    series,
    short_headline,
    what_if_sentence,
)
from fenmist.procedures.constants.make import ID, SHARES, begin, most_w
from fenmist.procedures.constants.page import EXPORTS, cards, chart, page, table
from fenmist.procedures.constants.reduction import Constants, predict, reduce
from fenmist.procedures.constants.rules import judge, judge_entries
from fenmist.procedures.page import LEVEL
from fenmist.procedures.procedure import Procedure
from fenmist.procedures.words import method_in_words

CONSTANTS: Procedure[Constants] = Procedure(
    id=ID, question="What makes watts of this home-built meter's volts?", title="Constants of a home-built meter",
    quantity="constants less power", kind=KIND, version=VERSION, devices=(PartKind.HOME_BUILT,),
    templates=OF_HOME_BUILT, begin=begin, line_fields=FOR_THE_LINE, plan_fields=FOR_THE_PLAN, draft=job_draft,
    from_draft=job_from_draft, trouble=trouble, flaws=flaws, method=method_in_words, reduce=reduce, judge=judge,
    judge_entries=judge_entries, readings_headline=readings_headline, what_if=what_if_sentence, short=short_headline,
    figures=figures, entry_text=entry_text, series=series, chart=chart, page=page, cards=cards, table=table,
    picture=Constants.voices, most_w=most_w, predict=predict, shares=SHARES, chart_over=LEVEL, exports=EXPORTS,
)  # fmt: skip
