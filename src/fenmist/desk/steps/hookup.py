"""Hook-up: what is plugged together, and what will be run through it."""

from dataclasses import replace

from PySide6.QtCore import QPoint
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QHBoxLayout, QMenu, QVBoxLayout

from fenmist.calibration.edit import (
    PLAN_HEADINGS,
    job_draft,
    job_fields,
    job_from_draft,
    plan_rows,
    plan_with_cell,
    plan_without,
    with_chosen_part,
    with_jumper,
)
from fenmist.desk.steps.step import Step
from fenmist.desk.theme import ThemeHolder
from fenmist.desk.widgets.form import Form
from fenmist.desk.widgets.grid import Grid
from fenmist.desk.widgets.labels import label, scrolled, set_text
from fenmist.desk.widgets.line_view import LineView
from fenmist.errors import FenmistError
from fenmist.judgement.headline import hookup_headline
from fenmist.kit.part import FEEDS, PartKind
from fenmist.session.openjob import OpenJob, View
from fenmist.session.session import Session


class HookUpStep(Step):
    """The line at full size, the plan and the tolerance."""

    where = "hook-up"

    def __init__(self, session: Session, job: OpenJob, themes: ThemeHolder) -> None:
        super().__init__(session, job, themes, slim_line=False)
        self.line: LineView
        self.line.part_wanted.connect(self._on_part_wanted)
        self.line.jumper_wanted.connect(self._on_jumper_wanted)
        self.body.addWidget(self.line)
        self.problem = label("", "problem", wrap=True)
        self.problem.hide()
        self.menu: QMenu | None = None

        self.plan = Grid(PLAN_HEADINGS, len(PLAN_HEADINGS), "plan")
        self.plan.cell_typed.connect(self._on_plan_typed)
        self.plan.row_removed.connect(self._on_plan_removed)
        self.form = Form(job_fields())
        self.form.field_typed.connect(self._on_field_typed)

        left = QVBoxLayout()
        left.setSpacing(6)
        left.addWidget(label("What will be run through it", "section"))
        left.addWidget(label("Type into the empty row to add a point.", "second"))
        left.addWidget(self.plan, 1)
        left.addWidget(self.problem)
        right = QVBoxLayout()
        right.setSpacing(6)
        right.addWidget(label("What is asked", "section"))
        right.addWidget(scrolled(self.form), 1)
        below = QHBoxLayout()
        below.setSpacing(28)
        below.addLayout(left, 3)
        below.addLayout(right, 2)
        self.body.addLayout(below, 1)

    def headline_text(self, view: View) -> str:
        return hookup_headline(view.job, view.notes)

    def refresh(self) -> None:
        super().refresh()
        self.plan.fill(plan_rows(self.job.job))
        self.form.fill(job_draft(self.job.job))

    def enter(self) -> None:
        self.line.setFocus()

    def _on_part_wanted(self, element_id: str) -> None:
        """Offer the kit's parts of the kind that stands there."""
        job = self.job.job
        here = job.part(job.hookups[0].element(element_id).part)
        self.menu = QMenu(self)
        for part in self.session.kit:
            if part.kind is here.kind or {part.kind, here.kind} <= set(FEEDS):
                action = QAction(part.label, self.menu)
                action.triggered.connect(lambda _=False, p=part: self._choose(element_id, p.id))
                self.menu.addAction(action)
        if here.kind is PartKind.JUMPER:
            away = QAction("take it out", self.menu)
            away.triggered.connect(lambda: self._on_jumper_wanted(False))
            self.menu.addAction(away)
        placed = next(item for item in self.line.placed() if item.element == element_id)
        at = placed.box.bottomLeft().toPoint() + QPoint(0, 4)
        self.menu.popup(self.line.mapToGlobal(at))
        if self.menu.actions():
            self.menu.setActiveAction(self.menu.actions()[0])

    def _choose(self, element_id: str, part_id: str) -> None:
        part = next(item for item in self.session.kit if item.id == part_id)
        self.job.edit(with_chosen_part(self.job.job, element_id, part), f"choose {part.label}")

    def _on_jumper_wanted(self, wanted: bool) -> None:
        jumpers = [part for part in self.session.kit if part.kind is PartKind.JUMPER]
        chosen = jumpers[0] if wanted and jumpers else None
        self.job.edit(with_jumper(self.job.job, chosen), "add jumper" if chosen else "take out jumper")

    def _on_plan_typed(self, row: int, column: int, text: str) -> None:
        try:
            job = plan_with_cell(self.job.job, row, column, text)
        except FenmistError as error:
            self._say(str(error))
            return
        self._say("")
        self.job.edit(job, "plan", merge=f"plan {row} {column}")
        self.plan.fill(plan_rows(self.job.job))

    def _on_plan_removed(self, row: int) -> None:
        try:
            self.job.edit(plan_without(self.job.job, row), "take out a point")
        except FenmistError as error:
            self._say(str(error))

    def _on_field_typed(self, field_id: str, text: str) -> None:
        draft = {**job_draft(self.job.job), field_id: text}
        made = job_from_draft(self.job.job, draft)
        if isinstance(made, tuple):
            self.form.show_problems(made)
            return
        self.form.show_problems(())
        self.job.edit(replace(made, events=()), field_id.replace("_", " "), merge=field_id)

    def _say(self, text: str) -> None:
        set_text(self.problem, text)
        self.problem.setVisible(bool(text))
