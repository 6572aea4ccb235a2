"""Plan: frequencies, levels and ranges laid out as a grid, points left out with a reason, and what is asked."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PySide6.QtWidgets import QHBoxLayout, QHeaderView, QVBoxLayout, QWidget

from fenmist.calibration.edit import PLAN_HEADINGS, plan_rows, plan_with_cell, plan_with_rows, plan_without
from fenmist.calibration.planning import ORDERS, points_from_grid, with_points
from fenmist.calibration.planning import Grid as PlanGrid
from fenmist.desk.filing import Opening, Printing, Saving
from fenmist.desk.steps.step import Step
from fenmist.desk.theme import ThemeHolder, px
from fenmist.desk.widgets.dialogs import ask_to_open, ask_to_save, chooser
from fenmist.desk.widgets.form import Form
from fenmist.desk.widgets.grid import Grid
from fenmist.desk.widgets.labels import button, label, scrolled, set_text
from fenmist.desk.widgets.line_edit import LineEdit
from fenmist.desk.widgets.pages import Columns
from fenmist.desk.widgets.plan_map import PlanMap
from fenmist.desk.widgets.save_bar import SaveBar
from fenmist.errors import FenmistError
from fenmist.files.bounded import bytes_of
from fenmist.findings.note import Problem
from fenmist.judgement.headline import plan_headline
from fenmist.kit.sheet import Field
from fenmist.session.benchpaper import run_sheet_contents, run_sheet_of
from fenmist.session.filenames import suggested_path
from fenmist.session.openjob import OpenJob
from fenmist.session.planview import plan_states, point_time, run_estimate, signs_in_words
from fenmist.session.session import Session
from fenmist.session.sheets import sheet_pages
from fenmist.session.view import View

_GRID = (
    Field("frequencies", "frequencies", "2.2 8.3 16.4 MHz", "Band edges, the middle, and where it will be used"),
    Field("levels", "levels", "20 50 100 W or 10 50 100 %", "Watts, or per cent of each range"),
    Field("ranges", "ranges", "all", "Left empty: the lowest range that shows the level"),
    Field("rounds", "rounds", "3", "Three or more show the scatter"),
    Field("waveform", "sent", "two-tone, or AM 80 %", "The level is its PEP; left empty: a steady carrier"),
    Field("order", "order", choices=ORDERS),
)


TYPED = len(PLAN_HEADINGS) - 1
"""Columns that are typed, but for the last."""

HOOKUP = PLAN_HEADINGS.index("hook-up")
WAVEFORM = PLAN_HEADINGS.index("waveform")
REASON = TYPED + 2
"""Column in which it is typed why a point is left out; its time and its state stand before it."""

MOST_FORM_BYTES = 5_000_000


class PlanStep(Step):
    """What will be run through it."""

    where = "plan"

    def __init__(self, session: Session, job: OpenJob, themes: ThemeHolder) -> None:
        super().__init__(session, job, themes)
        self.map = PlanMap(themes)
        self.map.point_clicked.connect(self._on_point_clicked)
        self.estimate = label("", "second", wrap=True)
        self.plan = Grid((*PLAN_HEADINGS[:-1], "key down", "state", PLAN_HEADINGS[-1]), TYPED, "plan")
        self.plan.make_editable(REASON)
        self.plan.horizontalHeader().setSectionResizeMode(HOOKUP, QHeaderView.ResizeMode.Interactive)
        self.plan.setColumnWidth(HOOKUP, px(96))
        self.plan.cell_typed.connect(self._on_plan_typed)
        self.plan.row_removed.connect(self._on_plan_removed)
        self.plan.pasted.connect(self._on_pasted)
        self.plan.currentCellChanged.connect(lambda *_: self._show_map())
        self.problem = label("", "problem", wrap=True)
        self.problem.hide()
        self.grid = Form(_GRID, label_width=84)
        self.grid.inputs["rounds"].setText("3")  # type: ignore[union-attr]
        self.add = button("Add these points", "do")
        self.add.clicked.connect(self.add_grid)
        for name in ("frequencies", "levels", "ranges", "rounds", "waveform"):
            self.grid.inputs[name].returnPressed.connect(self.add_grid)  # type: ignore[union-attr]
        self.asked = Form(job.view.procedure.plan_fields, label_width=84)
        self.asked.field_typed.connect(self._on_field_typed)
        self.sheet = SaveBar(
            "run sheet", suggested_path(job.job, "-run-sheet.pdf"),
            lambda: run_sheet_contents(self.job.view, session.setting("paper"), session.setting("csv")),
        )  # fmt: skip
        self.tables = button("Reading table…", "link", "What each instrument's readings stand for, large; Ctrl+P there")
        self.tables.clicked.connect(self.ask_for_tables)
        self.form_path = LineEdit()
        self.form_path.setAccessibleName("filled run sheet")
        self.form_path.setPlaceholderText("a filled-in form, .csv")
        self.form_path.returnPressed.connect(self._on_form)
        self.take = button("Take readings", "do", "take the readings of a filled run sheet")
        self.take.clicked.connect(self._on_form)
        self._lay_out()

    def _form_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(label("filled form", "second"))
        row.addWidget(self.form_path, 1)
        row.addWidget(chooser("choose a filled run sheet", lambda: ask_to_open(self, self.opening)))
        row.addWidget(self.take)
        return row

    @property
    def opening(self) -> Opening:
        return Opening("Open a filled run sheet", "Filled run sheets", (".csv",), self.open_form)

    @property
    def saving(self) -> Saving:
        return self.sheet.saving

    @property
    def printing(self) -> Printing:
        paper = self.session.setting("paper")
        return Printing("run sheet", paper, sheet_pages(run_sheet_of(self.job.view), paper))

    def ask_for_tables(self) -> None:
        """Ask where the table of what readings stand for goes."""
        wanted = self.saving_tables
        ask_to_save(self, replace(wanted, take=lambda path: self._try_to(lambda: wanted.take(path))))

    def _try_to(self, do: Callable[[], object]) -> None:
        try:
            do()
        except FenmistError as error:
            self._say(str(error))

    def open_form(self, path: Path) -> None:
        """Take the readings of a run sheet that was filled in."""
        self.form_path.setText(str(path))
        self._on_form()

    def _on_form(self) -> None:
        """Enter what stands on a filled form, times unknown."""
        path = Path(self.form_path.text().strip()).expanduser()
        try:
            data = bytes_of(path, MOST_FORM_BYTES) if self.form_path.text().strip() else b""
            count = self.job.take_form(data, path.name or "no file")
        except FenmistError as error:
            self._say(str(error))
            return
        self._say(f"{count} readings were taken from {path.name}; their times are unknown, so no drift is corrected.")

    def _lay_out(self) -> None:
        left = QVBoxLayout()
        left.setSpacing(6)
        left.addWidget(self.map)
        left.addWidget(label(signs_in_words(), "second", wrap=True))
        left.addWidget(self.estimate)
        left.addWidget(label("Type over a point to change it; the empty row adds one, Del removes one.", "second"))
        left.addWidget(self.plan, 1)
        left.addWidget(self.problem)
        row = QHBoxLayout()
        row.addWidget(label("Run sheet: a page to write on (.pdf) or a form to fill in (.csv)", "second"))
        row.addStretch(1)
        row.addWidget(self.tables)
        left.addLayout(row)
        left.addWidget(self.sheet)
        left.addLayout(self._form_row())
        side = QVBoxLayout()
        side.setContentsMargins(0, 0, 8, 0)
        side.setSpacing(6)
        side.addWidget(label("Add a grid of points", "section"))
        side.addWidget(self.grid)
        row = QHBoxLayout()
        row.addWidget(self.add)
        row.addStretch(1)
        side.addLayout(row)
        side.addSpacing(10)
        side.addWidget(label("Tolerance and rule", "section"))
        side.addWidget(self.asked)
        side.addStretch(1)
        holder = QWidget()
        holder.setLayout(side)
        both = Columns()
        both.setSpacing(24)
        both.addLayout(left, 15)
        both.addWidget(scrolled(holder), 10)
        self.body.addLayout(both, 1)

    @property
    def drawing(self) -> tuple[str, QWidget] | None:
        return "plan", self.map

    def headline_text(self, view: View) -> str:
        return plan_headline(view.job)

    def refresh(self) -> None:
        super().refresh()
        view = self.job.view
        self._states = plan_states(view)
        rows = zip(plan_rows(view.job), view.job.plan, strict=True)
        shown = [
            [*row[:-1], point_time(view.job, point.id), self._remark(view, point.id), row[-1]] for row, point in rows
        ]
        self.plan.fill(shown)
        self.plan.setColumnHidden(HOOKUP, len(view.job.hookups) < 2 and len(view.job.legs) < 2)
        self.plan.setColumnHidden(WAVEFORM, not any(point.waveform for point in view.job.plan))
        self.asked.fill(view.procedure.draft(view.job))
        set_text(self.estimate, run_estimate(view.job))
        self._show_map()

    def _remark(self, view: View, point_id: str) -> str:
        state = self._states[point_id]
        return view.unserved.get(point_id, str(state)) if state.name == "UNSERVED" else str(state)

    def _show_map(self) -> None:
        plan, row = self.job.job.plan, self.plan.currentRow()
        self.map.show_plan(plan, self._states, plan[row].id if 0 <= row < len(plan) else "")

    def enter(self) -> None:
        if self.job.job.plan:
            self.plan.setFocus()
            if self.plan.currentRow() < 0:
                self.plan.setCurrentCell(0, 0)
        else:
            self.grid.inputs["frequencies"].setFocus()

    def _on_point_clicked(self, point_id: str) -> None:
        self.plan.setCurrentCell(self.job.job.place_of(point_id), 0)
        self.plan.setFocus()

    def add_grid(self) -> None:
        """Lay out what is typed as a grid."""
        made = points_from_grid(self.job.job, PlanGrid(**self.grid.draft()))
        if made and isinstance(made[0], Problem):
            self.grid.show_problems([item for item in made if isinstance(item, Problem)])
            return
        self.grid.show_problems(())
        points = [item for item in made if not isinstance(item, Problem)]
        self._say("" if points else "All of these points are in the plan already.")
        order = self.grid.draft()["order"]
        self.job.edit(with_points(self.job.job, points, order), f"{len(points)} points")

    def _on_plan_typed(self, row: int, column: int, text: str) -> None:
        try:
            job = plan_with_cell(self.job.job, row, min(column, TYPED), text)
        except FenmistError as error:
            self._say(str(error))
            return
        self._say("")
        self.job.edit(job, "plan", merge=f"plan {row} {column}")
        self.refresh()

    def _on_pasted(self, row: int, column: int, rows: list[list[str]]) -> None:
        try:
            made = plan_with_rows(self.job.job, row, min(column, TYPED), rows)
            self.job.edit(made, f"paste of {len(rows)} rows")
        except FenmistError as error:
            self._say(str(error))

    def _on_plan_removed(self, row: int) -> None:
        try:
            self.job.edit(plan_without(self.job.job, row), "take out a point")
        except FenmistError as error:
            self._say(str(error))

    def _on_field_typed(self, field_id: str, text: str) -> None:
        room, job = self.job.view.procedure, self.job.job
        made = room.from_draft(job, {**room.draft(job), field_id: text})
        if isinstance(made, tuple):
            self.asked.show_problems(made)
            return
        self.asked.show_problems(())
        self.job.edit(replace(made, events=()), field_id.replace("_", " "), merge=field_id)

    def _say(self, text: str) -> None:
        set_text(self.problem, text)
        self.problem.setVisible(bool(text))
