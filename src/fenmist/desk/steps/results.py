"""Results: the curve with its corridor, the table, and the budget of the chosen point."""

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout

from fenmist.desk.plots.error_plot import ErrorPlot
from fenmist.desk.steps.step import Step
from fenmist.desk.theme import ThemeHolder
from fenmist.desk.widgets.bars import BudgetBars
from fenmist.desk.widgets.grid import Grid
from fenmist.desk.widgets.labels import label, set_text
from fenmist.judgement.headline import results_headline
from fenmist.judgement.job_rules import improvement
from fenmist.reports.chart import error_chart
from fenmist.reports.resulttable import RESULT_HEADINGS, budget_title, result_rows
from fenmist.session.openjob import OpenJob, View
from fenmist.session.session import Session


class ResultsStep(Step):
    """The answer."""

    where = "results"

    def __init__(self, session: Session, job: OpenJob, themes: ThemeHolder) -> None:
        super().__init__(session, job, themes)
        self.plot = ErrorPlot(themes)
        self.plot.setMinimumHeight(250)
        self.table = Grid(RESULT_HEADINGS, 0, "results", grows=False)
        self.table.row_chosen.connect(self._on_row_chosen)
        self.budget_title = label("", "section", wrap=True)
        self.bars = BudgetBars(themes)
        self.improve = label("", "remedy", wrap=True)
        self.chosen = 0
        above = QHBoxLayout()
        above.setSpacing(20)
        above.addWidget(self.plot, 11)
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addWidget(self.budget_title)
        right.addWidget(self.bars)
        right.addWidget(self.improve)
        right.addStretch(1)
        above.addLayout(right, 9)
        self.body.addLayout(above)
        self.body.addWidget(self.table, 1)

    def headline_text(self, view: View) -> str:
        return results_headline(view.job, view.result)

    def refresh(self) -> None:
        super().refresh()
        result = self.job.view.result
        self.table.fill(result_rows(result))
        self.chosen = min(self.chosen, max(len(result.points) - 1, 0))
        self._show_chosen()

    def enter(self) -> None:
        self.table.setFocus()
        if self.table.rowCount() and self.table.currentRow() < 0:
            self.table.setCurrentCell(0, 0)

    def _show_chosen(self) -> None:
        view = self.job.view
        points = view.result.points
        point = points[self.chosen] if points else None
        set_text(self.budget_title, budget_title(point) if point else "")
        self.bars.show_budget(view.result.budget(point.point.id) if point else ())
        set_text(self.improve, improvement(view.result, point))
        self.plot.show_chart(error_chart(view.job, view.result), chosen=point.point.id if point else "")

    def _on_row_chosen(self, row: int) -> None:
        if 0 <= row < len(self.job.view.result.points):
            self.chosen = row
            self._show_chosen()
