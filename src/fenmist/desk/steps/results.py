"""Results: the curve with its corridor, the table, the budget of the chosen point, and what if it were known better."""

from collections.abc import Mapping
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from fenmist.calibration.history import Past, at_point, drifts
from fenmist.calibration.outcome import Outcome, Stated, by_part
from fenmist.desk.filing import Saving
from fenmist.desk.plots.error_plot import ErrorPlot
from fenmist.desk.steps.step import Step, still_to_draw
from fenmist.desk.theme import ThemeHolder, px
from fenmist.desk.widgets.bars import BudgetBars, scrolled_bars
from fenmist.desk.widgets.grid import Grid
from fenmist.desk.widgets.labels import button, label, set_text
from fenmist.desk.widgets.line_edit import LineEdit
from fenmist.desk.widgets.pages import Columns
from fenmist.desk.widgets.phases import Phases
from fenmist.desk.widgets.picture_view import PictureView
from fenmist.desk.widgets.save_bar import Content, SaveBar
from fenmist.judgement.drifting import drift_sentence
from fenmist.judgement.headline import budget_title
from fenmist.judgement.job_rules import improvement
from fenmist.procedures.charts import history_chart
from fenmist.procedures.leaning import tree
from fenmist.procedures.page import FREQUENCY, LEVEL, YEARS, Chart, Picture
from fenmist.records.codec import record_hash
from fenmist.reports.drawing import chart_png, chart_svg
from fenmist.reports.resultfile import csv_bytes, head_table, xlsx_bytes
from fenmist.session.adjust import next_sighting, with_sighting
from fenmist.session.filenames import suggested_path
from fenmist.session.openjob import OpenJob
from fenmist.session.session import Session
from fenmist.session.summaries import present_as_past
from fenmist.session.view import View

BUDGET_KEYS = "results, budget"
"""Whose keys work where a budget stands beside the chart."""

PICTURE, LEANS = "picture", "what it leans on"
"""What is drawn in the chart's place: how several references agree; the chain to every certificate."""


class ResultsStep(Step):
    """The answer."""

    where = "results"

    def __init__(self, session: Session, job: OpenJob, themes: ThemeHolder) -> None:
        super().__init__(session, job, themes)
        if job.view.procedure.aside is None:
            self.where = BUDGET_KEYS
        self.phases = Phases(job)
        self.over = PICTURE if job.view.procedure.picture_first else job.view.procedure.chart_over
        self.over_button = button("", "link", "over frequency, over level, through the years")
        self.over_button.clicked.connect(self.turn_chart)
        self.copy_button = button("copy the table", "link")
        self.plot = ErrorPlot(themes)
        self.plot.setMinimumHeight(px(185))
        self.table = Grid(job.view.page.headings, 0, "results", grows=False)
        self.table.setMinimumHeight(px(90))
        self.table.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Ignored)  # it scrolls, not the page
        self.table.row_chosen.connect(self._on_row_chosen)
        self.copy_button.clicked.connect(self.table.copy)
        self.budget_title = label("", "section", wrap=True)
        self.bars = BudgetBars(themes, most=5)
        self.bars.asked.connect(self._on_asked)
        self.aside = label("", wrap=True)  # in the budget's place
        self.aside.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.improve = label("", "remedy", wrap=True)
        self.what_if = label("", "second", wrap=True)
        self.next_button = button("Plan and read it", "do", "plan the next test and go there")
        self.next_button.clicked.connect(self._plan_next)
        self.chosen = 0
        self._parts = False  # the budget is shown by part
        self._known_history: tuple[tuple[str, str, int], tuple[Past, ...]] | None = None
        self.late = label("", "second")
        self.body.addWidget(self.late)
        left = QVBoxLayout()
        left.setSpacing(4)
        row = QHBoxLayout()
        row.setSpacing(16)
        row.addWidget(self.over_button)
        row.addWidget(self.copy_button)
        row.addStretch(1)
        row.addWidget(self.phases)
        left.addLayout(row)
        left.addWidget(self.plot, 1)
        self.picture = PictureView(themes)
        left.addWidget(self.picture, 1)
        self.agreement = label("", "second", wrap=True)
        left.addWidget(self.agreement)
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addWidget(self.budget_title)
        kinds = QHBoxLayout()
        kinds.setSpacing(14)
        self.budget_of = QComboBox()
        self.budget_of.setAccessibleName("budget of")
        self.budget_of.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.budget_of.setMinimumContentsLength(14)
        self.budget_of.textActivated.connect(lambda _: self._on_budget_of())
        self.by_part = button("by part", "link", "budget by influence, or by part")
        self.by_part.clicked.connect(self._turn_by_part)
        kinds.addWidget(self.budget_of)
        kinds.addWidget(self.by_part)
        kinds.addStretch(1)
        right.addLayout(kinds)
        self._bars = scrolled_bars(self.bars)
        right.addWidget(self._bars)
        right.addWidget(self.aside)
        right.addWidget(self.improve)
        right.addWidget(self.what_if)
        right.addWidget(self.next_button, 0, Qt.AlignmentFlag.AlignLeft)
        right.addStretch(1)
        right.addLayout(self._look_up_row())
        above = Columns()
        above.setSpacing(20)
        above.addLayout(left, 11)
        above.addLayout(right, 9)
        self.body.addLayout(above)
        self.drift = label("", "second", wrap=True)
        self.body.addWidget(self.drift)
        self.below = label("", wrap=True)
        self.below.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.body.addWidget(self.below)
        self.body.addWidget(self.table, 1)
        self.save = SaveBar("chart or table", suggested_path(job.job, ".svg"), self._contents)
        self.save.path.setToolTip("The chart as .svg or .png, the table as .csv or .xlsx")
        self.body.addWidget(self.save)

    @property
    def saving(self) -> Saving:
        return self.save.saving

    def _contents(self) -> dict[str, Content]:
        """What can be saved, by the ending of the name: the chart, the table."""
        view = self.job.view.whole
        chart = self._chart(view)
        table = view.procedure.table(view.seen)
        kind = self.session.setting("csv")
        more = {ending: partial(of, view.seen) for ending, of in view.procedure.exports.items()}
        return {
            **more,
            ".svg": lambda: chart_svg(chart),
            ".png": lambda: chart_png(chart),
            ".csv": lambda: csv_bytes(table, kind),
            ".xlsx": lambda: xlsx_bytes(table, head_table(view.job, record_hash(view.job)), view.job.last_at),
        }

    def _look_up_row(self) -> QHBoxLayout:
        self.question = LineEdit()
        self.question.setAccessibleName("look up a reading")
        self.question.setPlaceholderText("40 W at 14 MHz")
        self.question.setMaximumWidth(px(150))
        self.question.textEdited.connect(lambda _: self._look_up())
        self.stands_for = label("", "second", wrap=True)
        row = QHBoxLayout()
        named = label("reading", "second")
        if self.job.view.procedure.look_up is None:
            named.hide()
            self.question.hide()
        row.addWidget(named)
        row.addWidget(self.question)
        row.addWidget(self.stands_for, 1)
        return row

    def _look_up(self) -> None:
        text = self.question.text().strip()
        complete = " at " in text and text.partition(" at ")[2].strip()
        view = self.job.view
        answer = view.procedure.look_up(view.result, text) if complete and view.procedure.look_up else ""
        set_text(self.stands_for, answer)

    def headline_text(self, view: View) -> str:
        return view.page.headline

    def refresh(self) -> None:
        super().refresh()
        self.phases.refresh()
        self.bars.forget()
        self._look_up()
        view = self.job.view
        self.show_to_draw(view.to_draw)
        set_text(self.below, "\n".join(view.page.below))
        self.below.setVisible(bool(view.page.below))
        self.table.fill([list(row) for row in view.page.rows])
        self.chosen = min(self.chosen, max(len(view.result.stated) - 1, 0))
        self._show_chosen()

    def show_to_draw(self, points: int) -> None:
        set_text(self.late, f"{still_to_draw(points)}: until then what is stated there is a first guess.")
        self.late.setVisible(points > 0)

    def enter(self) -> None:
        self.table.setFocus()
        if self.table.rowCount() and self.table.currentRow() < 0:
            self.table.setCurrentCell(0, 0)

    def turn_chart(self) -> None:
        """Over frequency, over level, through the years where there is a history."""
        self.over = self._next_over()
        self._show_chosen()

    def _next_over(self) -> str:
        ways = [FREQUENCY, LEVEL, *([YEARS] if self._past() else []), *([PICTURE] if self._picture() else []), LEANS]
        return ways[(ways.index(self.over) + 1) % len(ways)] if self.over in ways else FREQUENCY

    def _past(self) -> tuple[Past, ...]:
        """What other jobs found of this meter at the chosen point."""
        point = self._point()
        if point is None or point.point.waveform:
            return ()
        leg = point.point.leg if self.job.job.answers_alone(point.point) else ""
        asked = self.job.job.question, leg
        return at_point(self._history(), asked, point.point.frequency_hz, point.point.target_w)

    def _history(self) -> tuple[Past, ...]:
        job = self.job.job
        key = (job.dut, job.dut_part.serial, self.session.logbook.job_count())
        if self._known_history is None or self._known_history[0] != key:
            self._known_history = key, self.session.history(job.dut, job.dut_part.serial, but=job.id)
        return self._known_history[1]

    def _drift_text(self) -> str:
        """How the meter moved at the chosen point through the years, with this job's result."""
        point, past = self._point(), self._past()
        if point is None or not past:
            return ""
        lines = drifts((*past, *present_as_past(self.job.job, point, self.job.view.phase)))
        return drift_sentence(lines[0]) if lines else ""

    def _point(self) -> Stated | None:
        points = self.job.view.result.stated
        return points[self.chosen] if points else None

    def _show_next(self) -> None:
        """The sighting that would tell most, of a question that is asked further and further."""
        found = next_sighting(self.job.view)
        self.next_button.setVisible(found is not None)
        if found is not None:
            self.next_button.setToolTip(found[1])

    def _plan_next(self) -> None:
        found = next_sighting(self.job.view)
        if found is not None:
            self.job.edit(with_sighting(self.job.job, found[0]), "the next sighting")
            self.did.emit(f"Planned: {found[1]}.")
            self.point_wanted.emit(found[0].id)

    def _show_chosen(self) -> None:
        view, point = self.job.view, self._point()
        self._show_next()
        aside = view.procedure.aside
        self.aside.setVisible(aside is not None)
        if aside is not None:
            set_text(self.aside, "\n\n".join(aside(view.result)))
        else:
            set_text(self.budget_title, budget_title(point, view.procedure.quantity) if point else "")
            set_text(self.improve, improvement(view.result, point))
            hint = "What if a line were better known? Click it, or press Tab: ← halves, → doubles its uncertainty."
            set_text(self.what_if, hint if point else "")
        for shown in (self.budget_title, self._bars, self.improve, self.what_if):
            shown.setVisible(aside is None)
        self._show_budget(view.result)
        self._show_chart(None)

    def _show_budget(self, result: Outcome) -> None:
        """The budget that is chosen, of the point that is."""
        point = self._point()
        budgets = result.budgets(point.point.id) if point and self.job.view.procedure.aside is None else {}
        names = list(budgets)
        if [self.budget_of.itemText(n) for n in range(self.budget_of.count())] != names:
            self.budget_of.clear()
            self.budget_of.addItems(names)
        self.budget_of.setVisible(len(names) > 1)
        self.by_part.setVisible(bool(names))
        rows = budgets.get(self.budget_of.currentText(), ())
        self.by_part.setText("by influence" if self._parts else "by part")
        self.bars.show_budget(by_part(self.job.job, rows) if self._parts else rows)

    def _on_budget_of(self) -> None:
        self.bars.forget()
        self._show_chosen()

    def _turn_by_part(self) -> None:
        self._parts = not self._parts
        self._on_budget_of()

    def _picture(self) -> Picture | None:
        """How the references of the chosen point agree; none of one alone."""
        view, point = self.job.view, self._point()
        if point is None or view.procedure.picture is None:
            return None
        found: Picture | None = view.procedure.picture(view.result, point.point.id)
        return found

    def _show_chart(self, draft: Stated | None) -> None:
        point, other, drawn = self._point(), self._next_over(), self._picture()
        said = {YEARS: "show through the years", PICTURE: f"show {drawn.name}" if drawn else "", LEANS: f"show {LEANS}"}
        self.over_button.setText(said.get(other, f"show over {other}"))
        leans = tree(self.job.job, self.job.view.result) if self.over == LEANS else None
        picture = drawn if self.over == PICTURE else leans
        self.picture.show_picture(picture)
        self.picture.setVisible(picture is not None)
        self.plot.setVisible(picture is None)
        told = picture.said if picture is not None and picture.said != self.job.view.page.headline else ""
        set_text(self.agreement, told)
        self.agreement.setVisible(bool(told))
        set_text(self.drift, self._drift_text())
        self.drift.setVisible(bool(self.drift.text()))
        self.plot.show_chart(self._chart(self.job.view), draft, point.point.id if point else "")

    def _chart(self, view: View) -> Chart:
        point = next(iter(view.result.stated[self.chosen :]), None)
        if self.over == YEARS and point is not None:
            return history_chart(self._past(), [point], view.job.last_at.date())
        over = view.procedure.chart_over if self.over in (PICTURE, LEANS) else self.over
        chart: Chart = view.procedure.chart(view.job, view.found, view.left, over, True)
        return chart

    @property
    def drawing(self) -> tuple[str, QWidget] | None:
        if self.bars.hasFocus():
            return "budget", self.bars
        return (
            (self.picture.picture.name, self.picture)
            if self.picture.picture and self.picture.isVisible()
            else ("error", self.plot)
        )

    def closing(self) -> None:
        self.save.wait()

    def _on_row_chosen(self, row: int) -> None:
        if 0 <= row < len(self.job.view.result.stated):
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
        result = self.job.view.what_if(known, point.point.id)
        after = result.stated_at(point.point.id)
        if after is not None:
            self._show_budget(result)
            set_text(self.what_if, self.job.view.procedure.what_if(self.job.job, point, after))
            self._show_chart(after)
