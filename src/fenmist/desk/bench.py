"""The bench: the job in hand, as a route of steps in working order, with notes in the margin."""

from importlib import import_module

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from fenmist.desk.steps.step import Step
from fenmist.desk.theme import ThemeHolder
from fenmist.desk.widgets.labels import button, label
from fenmist.desk.widgets.margin import Margin
from fenmist.desk.widgets.route import Route
from fenmist.findings.note import Note, in_order
from fenmist.session.openjob import OpenJob
from fenmist.session.route import route
from fenmist.session.session import Session

STEPS = (
    ("receive", "ReceiveStep"),
    ("hookup", "HookUpStep"),
    ("parts", "PartsStep"),
    ("plan", "PlanStep"),
    ("readings", "ReadingsStep"),
    ("results", "ResultsStep"),
    ("certificate", "CertificateStep"),
)
"""Module and class of each step in working order; imported and made when first shown, for a quick start."""

READINGS = [name for name, _ in STEPS].index("readings")
"""Number of the step in which is read."""

RESULTS = READINGS + 1
"""Number of the step that shows what came of it."""


HANDS_REST_MS = 200
"""Rest after which route and notes of the whole job follow what was entered."""


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
        self._shown: tuple[Note, ...] = ()
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(HANDS_REST_MS)
        self._rest.timeout.connect(self._catch_up)
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
            made.typed.connect(self._on_typed)
            self.stack.addWidget(made)
            self._made[number] = made
        return self._made[number]

    def first_open_step(self) -> int:
        """The first step that still needs something; results when nothing does. A look-over never holds up a run."""
        states = route(self.job.view)
        needed = range(0 if not self.job.view.standing else 1, RESULTS)
        return next((number for number in needed if states[number].fill < 1.0), RESULTS)

    def go(self, number: int) -> None:
        """Bring a step to the front."""
        self._number = number
        self.stack.setCurrentWidget(self.step)
        self.step.refresh()
        self._catch_up()
        self.step.enter()
        self.step_changed.emit()

    def enter(self) -> None:
        """The bench comes to the front."""
        self.step.enter()

    def end(self) -> None:
        """Stop listening and wait for what still runs."""
        self._end()
        self._rest.stop()
        for step in self._made.values():
            step.closing()

    def _refresh(self) -> None:
        """The step at once; what concerns the whole job follows when the hands rest, so that no key waits for it."""
        self.step.refresh()
        point = self.step.point_in_hand
        if point:
            fresh = self.job.view.notes_near(point)
            others = (note for note in self._shown if not note.about.startswith(f"{point}/"))
            self._shown = in_order((*fresh, *others))
            self.margin.show_notes(self._shown, self.job.job.answers)
            self._rest.start()
        else:
            self._catch_up()

    @property
    def is_behind(self) -> bool:
        """True while route and notes of the whole job still follow."""
        return self._rest.isActive()

    def _catch_up(self) -> None:
        self._rest.stop()
        view = self.job.view
        self._shown = view.notes
        self.route.show_states(route(view), self._number)
        self.margin.show_notes(view.notes, view.job.answers)

    def _on_typed(self) -> None:
        if self.is_behind:
            self._rest.start()

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
