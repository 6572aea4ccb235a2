"""The bench: the job in hand, as a route of steps in working order, with notes in the margin."""

from importlib import import_module

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from fenmist.desk.steps.step import Step
from fenmist.desk.theme import ThemeHolder
from fenmist.desk.widgets.labels import button, label
from fenmist.desk.widgets.margin import Margin
from fenmist.desk.widgets.route import Route
from fenmist.findings.note import Note
from fenmist.session.openjob import OpenJob
from fenmist.session.route import route
from fenmist.session.session import Session

STEPS = (
    ("hookup", "HookUpStep"),
    ("parts", "PartsStep"),
    ("readings", "ReadingsStep"),
    ("results", "ResultsStep"),
    ("certificate", "CertificateStep"),
)
"""Module and class of each step in working order; imported and made when first shown, for a quick start."""

READINGS = [name for name, _ in STEPS].index("readings")
"""Number of the step in which is read."""


class Bench(QWidget):
    """Route, step and margin of one open job."""

    step_changed = Signal()

    def __init__(self, session: Session, job: OpenJob, themes: ThemeHolder) -> None:
        super().__init__()
        self.job = job
        self._context = (session, job, themes)
        self._made: dict[int, Step] = {}
        self._number = 0
        self.setObjectName("ground")
        self.route = Route(themes)
        self.route.chosen.connect(self.go)
        self.margin = Margin(self._on_answer)
        self.stack = QStackedWidget()
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self.route)
        box.addWidget(self.stack, 1)
        box.addWidget(self.margin)
        self._end = job.changed.listen(self._refresh)
        self.go(self.first_open_step())

    @property
    def step(self) -> Step:
        """The step in front."""
        return self.step_at(self._number)

    def step_at(self, number: int) -> Step:
        """A step of the route, made when first asked for."""
        if number not in self._made:
            module, name = STEPS[number]
            made: Step = getattr(import_module(f"fenmist.desk.steps.{module}"), name)(*self._context)
            made.draft_rested.connect(self._show_draft_notes)
            self.stack.addWidget(made)
            self._made[number] = made
        return self._made[number]

    def first_open_step(self) -> int:
        """The first step that still needs something; results when nothing does."""
        states = route(self.job.view)
        return next((number for number, state in enumerate(states[:3]) if state.fill < 1.0), 3)

    def go(self, number: int) -> None:
        """Bring a step to the front."""
        self._number = number
        self.stack.setCurrentWidget(self.step)
        self._refresh()
        self.step.enter()
        self.step_changed.emit()

    def enter(self) -> None:
        """The bench comes to the front."""
        self.step.enter()

    def end(self) -> None:
        """Stop listening and wait for what still runs."""
        self._end()
        for step in self._made.values():
            step.closing()

    def _refresh(self) -> None:
        view = self.job.view
        self.route.show_states(route(view), self._number)
        self.margin.show_notes(view.notes, view.job.answers)
        self.step.refresh()

    def _show_draft_notes(self, notes: tuple[Note, ...]) -> None:
        self.margin.show_notes(notes, self.job.job.answers)

    def _on_answer(self, note: Note, text: str) -> None:
        self.job.answer(note, text)


class NoJob(QWidget):
    """What stands on the bench while no job is open."""

    new_wanted = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("ground")
        box = QVBoxLayout(self)
        box.setContentsMargins(40, 40, 40, 40)
        box.setSpacing(14)
        box.addWidget(label("No job is on the bench.", "headline"))
        text = "A job takes one meter from hook-up to certificate. Begin a new one, or open one from the logbook."
        box.addWidget(label(text, "second", wrap=True))
        self.do = button("New job", "do")
        self.do.setFixedWidth(110)
        self.do.clicked.connect(self.new_wanted)
        box.addWidget(self.do)
        box.addStretch(1)

    def enter(self) -> None:
        """The place comes to the front."""
        self.do.setFocus()
