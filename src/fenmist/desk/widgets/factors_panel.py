"""What to multiply by: factors over frequency and level, where it isn't worth it, and both ways of looking one up."""

from collections.abc import Callable

from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from fenmist.calibration.outcome import Outcome
from fenmist.desk.theme import px
from fenmist.desk.widgets.grid import Grid
from fenmist.desk.widgets.labels import label, set_text
from fenmist.desk.widgets.line_edit import LineEdit
from fenmist.session.adjust import factors
from fenmist.session.openjob import OpenJob
from fenmist.session.view import View

_NOTHING = "There is nothing to multiply by yet: no point was read (readings: Alt+5)."


class FactorsPanel(QWidget):
    """A correction, and what follows from it."""

    def __init__(self, job: OpenJob) -> None:
        super().__init__()
        self.job = job
        self.body = QVBoxLayout(self)
        self.body.setContentsMargins(0, 0, 0, 0)
        self.body.setSpacing(8)
        self.table = Grid(("multiply by",), 0, "factors", grows=False)
        self.statements = label("", "second", wrap=True)
        self.shown, self.stands_for = LineEdit(), label("", "second", wrap=True)
        self.given, self.would_show = LineEdit(), label("", "second", wrap=True)
        self.body.addLayout(self._asking("it shows", self.shown, "40 W at 14 MHz", self.stands_for))
        self.body.addLayout(self._asking("the power is", self.given, "50 W at 21 MHz", self.would_show))
        self.body.addWidget(self.table, 1)
        self.body.addWidget(self.statements)

    def _asking(self, name: str, field: LineEdit, example: str, answer: QLabel) -> QHBoxLayout:
        field.setAccessibleName(name)
        field.setPlaceholderText(example)
        field.setMaximumWidth(px(150))
        field.textEdited.connect(lambda _: self._look_up())
        named = label(name, "second")
        named.setFixedWidth(px(90))
        row = QHBoxLayout()
        row.addWidget(named)
        row.addWidget(field)
        row.addWidget(answer, 1)
        return row

    def headline_text(self, view: View) -> str:
        """By how much, in a sentence."""
        found = factors(view)
        return found.headline if found is not None else _NOTHING

    def refresh(self) -> None:
        """Show the job as it stands, of the phase in hand."""
        found = factors(self.job.view)
        if found is not None:
            self.table.set_headings(found.headings)
        self.table.fill([list(row) for row in found.rows] if found is not None else [])
        set_text(self.statements, "\n".join(found.statements) if found is not None else "")
        self._look_up()

    def _look_up(self) -> None:
        room = self.job.view.procedure
        self._answer(self.shown, self.stands_for, room.look_up)
        self._answer(self.given, self.would_show, room.would_show)

    def _answer(self, field: LineEdit, answer: QLabel, of: Callable[[Outcome, str], str] | None) -> None:
        text = field.text()
        is_whole = " at " in text and bool(text.rpartition(" at ")[2].strip())
        set_text(answer, of(self.job.view.result, text) if of is not None and is_whole else "")
