"""A tool's answer as a sheet: what was typed, what follows, what to mind."""

from collections.abc import Mapping

from fenmist.reports.answersheet import AnswerSheet
from fenmist.session.aids import Aid, Said

STATEMENTS = (
    "Calculated from what was typed; nothing was measured for it, and no record stands behind it.",
    "The technician's own page: it claims accreditation for nobody. Licence and local rules say what may be sent.",
)


def answer_sheet(aid: Aid, texts: Mapping[str, str], said: Said, date: str, is_demo: bool) -> AnswerSheet:
    """The page's content for what stands in a tool's fields."""
    asked = tuple(
        (field.label.capitalize() if field.label.islower() else field.label, texts[field.id])
        for field in aid.fields if texts.get(field.id, "").strip()
    )  # fmt: skip
    return AnswerSheet(
        aid.title, date, is_demo, said.headline, asked, said.rows, said.picture,
        tuple((str(note.severity), note.what, note.why, note.remedy) for note in said.notes), STATEMENTS,
    )  # fmt: skip
