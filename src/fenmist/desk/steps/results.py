"""Results: the curve with its corridor, the table, the budget of the chosen point, and what if it were known better."""

from collections.abc import Mapping

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout

from fenmist.calibration.reduction import PointResult
from fenmist.desk.plots.error_plot import ErrorPlot
from fenmist.desk.steps.step import Step
from fenmist.desk.theme import ThemeHolder
from fenmist.desk.widgets.bars import BudgetBars, scrolled_bars
from fenmist.desk.widgets.grid import Grid
from fenmist.desk.widgets.labels import button, label, set_text
from fenmist.desk.widgets.line_edit import LineEdit
from fenmist.desk.widgets.phases import Phases
from fenmist.judgement.headline import results_headline, what_if_sentence
from fenmist.judgement.job_rules import improvement
from fenmist.reports.chart import FREQUENCY, LEVEL, error_chart
from fenmist.reports.resulttable import RESULT_HEADINGS, budget_title, result_rows
from fenmist.session.openjob import OpenJob, View
from fenmist.session.present import looked_up_text
from fenmist.session.session import Session


class ResultsStep(Step):
    """The answer."""

    where = "results"

    def __init__(self, session: Session, job: OpenJob, themes: ThemeHolder) -> None:
        super().__init__(session, job, themes)
        self.phases = Phases(job)
        self.over = FREQUENCY
        self.over_button = button("", "link", "over frequency or over level")
        self.over_button.clicked.connect(self.turn_chart)
        self.plot = ErrorPlot(themes)
        self.plot.setMinimumHeight(250)
        self.table = Grid(RESULT_HEADINGS, 0, "results", grows=False)
        self.table.row_chosen.connect(self._on_row_chosen)
        self.budget_title = label("", "section", wrap=True)
        self.bars = BudgetBars(themes)
        self.bars.asked.connect(self._on_asked)
        self.improve = label("", "remedy", wrap=True)
        self.what_if = label("", "second", wrap=True)
        self.chosen = 0
        left = QVBoxLayout()
        left.setSpacing(4)
        row = QHBoxLayout()
        row.addWidget(self.over_button)
        row.addStretch(1)
        row.addWidget(self.phases)
        left.addLayout(row)
        left.addWidget(self.plot, 1)
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addWidget(self.budget_title)
        right.addWidget(scrolled_bars(self.bars))
        right.addWidget(self.improve)
        right.addWidget(self.what_if)
        right.addStretch(1)
        right.addLayout(self._look_up_row())
        above = QHBoxLayout()
        above.setSpacing(20)
        above.addLayout(left, 11)
        above.addLayout(right, 9)
        self.body.addLayout(above)
        self.body.addWidget(self.table, 1)

    def _look_up_row(self) -> QHBoxLayout:
        self.question = LineEdit()
        self.question.setAccessibleName("look up what a reading stands for")
        self.question.setPlaceholderText("40 W at 14 MHz")
        self.question.setMaximumWidth(150)
        self.question.textEdited.connect(lambda _: self._look_up())
        self.stands_for = label("", "second", wrap=True)
        row = QHBoxLayout()
        row.addWidget(label("it reads", "second"))
        row.addWidget(self.question)
        row.addWidget(self.stands_for, 1)
        return row

    def _look_up(self) -> None:
        text = self.question.text().strip()
        complete = " at " in text and text.partition(" at ")[2].strip()
        set_text(self.stands_for, looked_up_text(self.job.view.result, text) if complete else "")

    def headline_text(self, view: View) -> str:
        return results_headline(view.job, view.result, view.phase)

    def refresh(self) -> None:
        super().refresh()
        self.phases.refresh()
        self.bars.forget()
        self._look_up()
        result = self.job.view.result
        self.table.fill(result_rows(result))
        self.chosen = min(self.chosen, max(len(result.points) - 1, 0))
        self._show_chosen()

    def enter(self) -> None:
        self.table.setFocus()
        if self.table.rowCount() and self.table.currentRow() < 0:
            self.table.setCurrentCell(0, 0)

    def turn_chart(self) -> None:
        """Over frequency to over level and back."""
        self.over = LEVEL if self.over == FREQUENCY else FREQUENCY
        self._show_chosen()

    def _point(self) -> PointResult | None:
        points = self.job.view.result.points
        return points[self.chosen] if points else None

    def _show_chosen(self) -> None:
        view, point = self.job.view, self._point()
        set_text(self.budget_title, budget_title(point) if point else "")
        self.bars.show_budget(view.result.budget(point.point.id) if point else ())
        set_text(self.improve, improvement(view.result, point))
        hint = "What if a line were known better? Click it, or Tab there: ← halves, → doubles its uncertainty."
        set_text(self.what_if, hint if point else "")
        self._show_chart(None)

    def _show_chart(self, draft: PointResult | None) -> None:
        view, point = self.job.view, self._point()
        other = LEVEL if self.over == FREQUENCY else FREQUENCY
        self.over_button.setText(f"show over {other}")
        chart = error_chart(view.job, view.found, view.left, self.over, curves=True)
        self.plot.show_chart(chart, draft, point.point.id if point else "")

    def _on_row_chosen(self, row: int) -> None:
        if 0 <= row < len(self.job.view.result.points):
            self.chosen = row
            self.bars.forget()
            self._show_chosen()

    def _on_asked(self, known: Mapping[str, float]) -> None:
        """What if: U and verdict follow; the record doesn't."""
        point = self._point()
        if point is None:
            return
        if not known:
            self._show_chosen()
            return
        result = self.job.view.what_if(known)
        after = result.of(point.point.id)
        if after is not None:
            self.bars.show_budget(result.budget(point.point.id))
            set_text(self.what_if, what_if_sentence(self.job.job, point, after))
            self._show_chart(after)
