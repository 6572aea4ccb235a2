"""Hook-up: what is plugged together, where power is stated, and what each connector sees."""

from dataclasses import replace

from PySide6.QtCore import QPoint
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu, QVBoxLayout

from fenmist.calibration.asked import FOR_THE_LINE, job_draft, job_from_draft
from fenmist.calibration.edit import with_chosen_part, with_jumper
from fenmist.desk.steps.step import Step
from fenmist.desk.theme import ThemeHolder, font_scale
from fenmist.desk.widgets.form import Form
from fenmist.desk.widgets.grid import Grid
from fenmist.desk.widgets.labels import label
from fenmist.desk.widgets.line_view import LineView
from fenmist.desk.widgets.pages import Columns
from fenmist.judgement.headline import hookup_headline
from fenmist.kit.part import FEEDS, PartKind
from fenmist.reports.leveltable import LEVEL_HEADINGS, level_rows
from fenmist.session.openjob import OpenJob
from fenmist.session.session import Session
from fenmist.session.view import View


class HookUpStep(Step):
    """The line at full size, and its levels."""

    where = "hook-up"

    def __init__(self, session: Session, job: OpenJob, themes: ThemeHolder) -> None:
        super().__init__(session, job, themes, slim_line=False)
        self.line: LineView
        self.line.part_wanted.connect(self._on_part_wanted)
        self.line.jumper_wanted.connect(self._on_jumper_wanted)
        self.body.addWidget(self.line)
        self.menu: QMenu | None = None
        self.levels = Grid(LEVEL_HEADINGS, 0, "levels at each connector", grows=False)
        self.form = Form(FOR_THE_LINE, label_width=90)
        self.form.field_typed.connect(self._on_field_typed)

        left = QVBoxLayout()
        left.setSpacing(6)
        left.addWidget(label("What each connector sees at the highest planned power", "section"))
        left.addWidget(self.levels, 1)
        right = QVBoxLayout()
        right.setSpacing(6)
        right.addWidget(label("What is asked of it", "section"))
        right.addWidget(self.form)
        right.addStretch(1)
        below = Columns()
        below.setSpacing(28)
        below.addLayout(left, 21)
        below.addLayout(right, 9)
        self.body.addLayout(below, 1)

    def headline_text(self, view: View) -> str:
        return hookup_headline(view.job, view.notes)

    def refresh(self) -> None:
        super().refresh()
        self.levels.fill(level_rows(self.job.job))
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
        at = (placed.box.bottomLeft() * font_scale()).toPoint() + QPoint(0, 4)
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

    def _on_field_typed(self, field_id: str, text: str) -> None:
        made = job_from_draft(self.job.job, {**job_draft(self.job.job), field_id: text})
        if not isinstance(made, tuple):  # both fields are choices: nothing can be typed wrong
            self.job.edit(replace(made, events=()), field_id.replace("_", " "), merge=field_id)
