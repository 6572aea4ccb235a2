"""Adjust, explain, correct: what to turn, why it errs, what to multiply by."""

from PySide6.QtWidgets import QHBoxLayout, QWidget

from fenmist.desk.steps.step import Step
from fenmist.desk.theme import ThemeHolder
from fenmist.desk.widgets.factors_panel import FactorsPanel
from fenmist.desk.widgets.labels import button
from fenmist.desk.widgets.phases import Phases
from fenmist.desk.widgets.turn_panel import TurnPanel
from fenmist.desk.widgets.why_panel import WhyPanel
from fenmist.findings.note import Note
from fenmist.session.openjob import OpenJob
from fenmist.session.session import Session
from fenmist.session.view import View

TURN, WHY, FACTORS = "what to turn", "why it errs", "what to multiply by"


class AdjustStep(Step):
    """Three views of the same errors."""

    where = "adjust"

    def __init__(self, session: Session, job: OpenJob, themes: ThemeHolder) -> None:
        super().__init__(session, job, themes)
        self.phases = Phases(job)
        self.turn, self.why, self.factors = TurnPanel(job, themes), WhyPanel(job, themes), FactorsPanel(job)
        self.turn.moved.connect(self._on_moved)
        self.why.did.connect(self.did)
        self.panels: dict[str, TurnPanel | WhyPanel | FactorsPanel] = {
            TURN: self.turn, WHY: self.why, FACTORS: self.factors
        }  # fmt: skip
        self.front = TURN
        row = QHBoxLayout()
        row.setSpacing(14)
        self.switches = {name: button(name, "phase") for name in self.panels}
        for name, made in self.switches.items():
            made.setCheckable(True)
            made.setProperty("begun", "true")
            made.clicked.connect(lambda _=False, front=name: self.show_panel(front))
            row.addWidget(made)
        row.addStretch(1)
        row.addWidget(self.phases)
        self.body.addLayout(row)
        for panel in self.panels.values():
            self.body.addWidget(panel, 1)
        self._show_front()

    @property
    def drawing(self) -> tuple[str, QWidget] | None:
        return ("adjust", self.turn.view) if self.front == TURN else super().drawing

    def notes(self, view: View) -> tuple[Note, ...]:
        return (*(self.turn.notes if self.front == TURN else ()), *view.notes)

    def headline_text(self, view: View) -> str:
        return self.panels[self.front].headline_text(view)

    def refresh(self) -> None:
        self.turn.refresh()
        super().refresh()
        self.phases.refresh()
        if self.front != TURN:
            self.panels[self.front].refresh()

    def show_panel(self, name: str) -> None:
        """Bring one of the three to the front."""
        self.front = name
        self._show_front()
        self.refresh()
        self.notes_moved.emit()

    def next_panel(self) -> None:
        names = list(self.panels)
        self.show_panel(names[(names.index(self.front) + 1) % len(names)])
        self.enter()

    def _show_front(self) -> None:
        for name, panel in self.panels.items():
            panel.setVisible(name == self.front)
            self.switches[name].setChecked(name == self.front)

    def _on_moved(self) -> None:
        self.say_headline()
        self.notes_moved.emit()

    def enter(self) -> None:
        first = {TURN: self.turn.slider, WHY: self.why.shapes, FACTORS: self.factors.shown}
        first[self.front].setFocus()
