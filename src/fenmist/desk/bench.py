"""The bench: the job in hand, as a route of steps in working order, with notes in the margin."""

from collections.abc import Iterator
from contextlib import nullcontext
from importlib import import_module

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QAction, QCloseEvent, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QStackedWidget, QVBoxLayout, QWidget

from fenmist.desk.listening import listen_while_alive
from fenmist.desk.stepnumbers import READINGS, RESULTS, STEPS
from fenmist.desk.steps.step import Step
from fenmist.desk.theme import ThemeHolder, px
from fenmist.desk.widgets.labels import button, label, room_across
from fenmist.desk.widgets.margin import Margin
from fenmist.desk.widgets.pages import fit_columns, scrolling
from fenmist.desk.widgets.route import Route
from fenmist.errors import FenmistError
from fenmist.findings.note import Note, in_order
from fenmist.session.openjob import OpenJob
from fenmist.session.place import Place
from fenmist.session.route import route
from fenmist.session.session import Session
from fenmist.session.view import View
from fenmist.session.workable import working_out

HANDS_REST_MS = 200
"""Rest after which route and notes of the whole job follow what was entered."""

ROOM_FOR_MARGIN, ROOM_FOR_ROUTE = 1040.0, 760.0
"""Width in design pixels below which the margin, and the words of the route, make room for the work."""


class Bench(QWidget):
    """Route, step and margin of one open job."""

    step_changed = Signal()
    did = Signal(str)  # what was done, for the foot
    bench_wanted = Signal()  # another bench is to be chosen for the job
    wire_wanted = Signal(str, object)  # what is to be read by wire, and the slot in hand
    failed = Signal(str)  # the job can't be worked out, and why

    def __init__(self, session: Session, job: OpenJob, themes: ThemeHolder, step: int | None = None) -> None:
        super().__init__()
        job.draw_in_steps()
        self.job = job
        self._session = session
        self._context = (session, job, themes)
        self._made: dict[int, Step] = {}
        self._holders: dict[int, QScrollArea] = {}
        self._number = 0
        self._torn: TornOff | None = None
        self._margin_wanted = False
        self.setObjectName("ground")
        self.route = Route(themes)
        self.route.chosen.connect(self.go)
        self.margin = Margin(self._on_answer)
        self.notes_button = button("", "link", "show the notes")
        self.notes_button.clicked.connect(self.show_margin)
        self.notes_button.setFixedWidth(px(44))
        self.notes_button.hide()
        self.stack = QStackedWidget()
        self._elsewhere = label("The readings are in a window of their own; F11 brings them back.", "second")
        self._elsewhere.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.stack.addWidget(self._elsewhere)
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self.route)
        box.addWidget(self.stack, 1)
        box.addWidget(self.notes_button)
        box.addWidget(self.margin)
        self._shown: tuple[Note, ...] = ()
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.timeout.connect(self._on_rest)
        self._slices: Iterator[None] | None = None  # of what follows, while it is being done
        self._judged = False  # whether its notes were shown yet
        self._room = QTimer(self)
        self._room.setSingleShot(True)
        self._room.timeout.connect(self._fit_step)
        listen_while_alive(self, job.changed, self._refresh)
        self.go(self.first_open_step() if step is None else step)

    @property
    def step(self) -> Step:
        """The step in front."""
        return self.step_at(self._number)

    @property
    def number(self) -> int:
        """Number of the step in front."""
        return self._number

    def step_at(self, number: int) -> Step:
        """A step of the route, made when first asked for."""
        if number not in self._made:
            module, name = STEPS[number]
            made: Step = getattr(import_module(f"fenmist.desk.steps.{module}"), name)(*self._context)
            made.draft_rested.connect(self._show_draft_notes)
            made.did.connect(self.did)
            made.bench_wanted.connect(self.bench_wanted)
            made.wire_wanted.connect(lambda what, step=made: self.wire_wanted.emit(what, step.slot_in_hand))
            made.notes_moved.connect(self._catch_up)
            made.point_shown.connect(self._on_point_shown)
            made.point_wanted.connect(self._read_point)
            made.typed.connect(self._on_typed)
            holder = scrolling(made)
            self.stack.addWidget(holder)
            self._made[number], self._holders[number] = made, holder
        return self._made[number]

    def offers(self, number: int) -> bool:
        """Whether the job's question has that step."""
        return route(self.job.view, judged=False)[number].is_offered

    def first_open_step(self) -> int:
        """The first step that still needs something; results when nothing does. A look-over never holds up a run."""
        states = route(self.job.view, judged=False)
        return next((number for number in range(1, RESULTS) if states[number].fill < 1.0), RESULTS)

    def go(self, number: int) -> None:
        """Bring a step to the front."""
        self._number = number
        step = self.step
        torn = self._torn is not None and self._torn.number == number
        self.stack.setCurrentWidget(self._elsewhere if torn else self._holders[number])
        step.refresh()
        if self._judged:
            self._catch_up()
        else:
            self.route.show_states(route(self.job.view, judged=False), number)
            self._wait_for_rest()
        self._make_room()
        if torn and self._torn is not None:
            self._torn.activateWindow()
        step.enter()
        self.step_changed.emit()

    def enter(self) -> None:
        """The bench comes to the front."""
        self.step.enter()

    def _read_point(self, point_id: str) -> None:
        """Go where a point is read."""
        self.go(READINGS)
        self.step.go_to_point(point_id)

    def resume(self, place: Place) -> None:
        """Go back to where the work was left: the step, the slot, and what was typed there but not kept."""
        if 0 <= place.step < len(STEPS):
            if self._number != place.step:
                self.go(place.step)
            self.step.resume(place.slot, place.draft)

    def end(self) -> None:
        """Remember the place and wait for what still runs."""
        self.put_back()
        self._remember()
        self._rest.stop()
        for step in self._made.values():
            step.closing()

    def _remember(self) -> None:
        slot, draft = self.step.place
        self._session.remember(Place(self.job.job.id, self._number, slot, draft))

    # what follows a change

    def _refresh(self) -> None:
        """The step at once; what concerns the whole job follows when the hands rest, so that no key waits for it."""
        self.step.refresh()
        if self._torn is not None and self._torn.number != self._number:
            self.step_at(self._torn.number).refresh()
        point = self.step.point_in_hand
        if point:
            fresh = self.job.view.notes_near(point)
            others = (note for note in self._shown if not note.about.startswith(f"{point}/"))
            self._show((*fresh, *others))
            self._wait_for_rest()
        elif self.step.notes_follow:
            self._wait_for_rest()
        else:
            self._catch_up()

    @property
    def is_behind(self) -> bool:
        """True while route and notes of the whole job still follow."""
        return self._rest.isActive()

    def _wait_for_rest(self) -> None:
        self._slices = None
        self._rest.start(HANDS_REST_MS)

    def _on_rest(self) -> None:
        """In slices: a key in between waits for one of them alone, and what was done by then needn't be done again."""
        self._slices = self._slices or self._in_slices(self.job.view)
        try:
            with nullcontext() if self._judged else working_out(self.job.job.title):
                is_more = next(self._slices, True) is None
        except FenmistError as error:
            self.failed.emit(str(error))
            return
        if is_more:
            self._rest.start(0)

    def _in_slices(self, view: View) -> Iterator[None]:
        """Draw what is to be drawn, then judge; the first notes of all don't wait for that."""
        was_late = view.to_draw > 0
        yield
        while self._judged and self.job.draw_on():
            self.step.show_to_draw(self.job.view.to_draw)
            yield
        if was_late and not self.step.point_in_hand:  # a run shows again what it must by itself
            self.step.refresh()
        yield from self.job.view.judging()
        self._catch_up()

    def _catch_up(self) -> None:
        self._slices = None
        self._rest.stop()
        self._judged = True
        view = self.job.view
        self.route.show_states(route(view), self._number)
        self._show(self.step.notes(view))
        self.step.caught_up(view)
        self._remember()
        if view.to_draw:
            self._wait_for_rest()

    def _show(self, notes: tuple[Note, ...]) -> None:
        self._shown = notes = in_order(notes, self.step.point_in_hand)
        self.margin.show_notes(notes, self.job.job.answers)
        counts = [(sign, sum(note.severity == name for note in notes)) for name, sign in _SIGNS.items()]
        said = "\n".join(f"{sign} {count}" for sign, count in counts if count)
        self.notes_button.setText(f"{said}\nF6" if said else "F6")

    def _on_point_shown(self) -> None:
        self._show(self._shown)
        self._room.start()

    def _fit_step(self) -> None:
        """Make room where the step in front became wider than its place."""
        if self.step.minimumSizeHint().width() > room_across(self._holders[self._number]):
            self._make_room()

    def _on_typed(self) -> None:
        if self.is_behind:
            self._wait_for_rest()

    def _show_draft_notes(self, notes: tuple[Note, ...]) -> None:
        self.margin.show_notes(in_order(notes, self.step.point_in_hand), self.job.job.answers)
        self._remember()

    def _on_answer(self, note: Note, text: str) -> None:
        self.job.answer(note, text)

    # room

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._make_room()

    def _make_room(self) -> None:
        """Where it is narrow (large letters, arm's length, a small screen) margin and route give way to the work."""
        width = self.width() / px(1000, at_arm=True) * 1000.0
        roomy = width >= ROOM_FOR_MARGIN
        self.margin.setVisible(roomy or self._margin_wanted)
        self.notes_button.setVisible(not roomy)
        slim = width < ROOM_FOR_ROUTE
        self.route.be_slim(slim)
        beside = px(50.0 if slim else 172.0) + (0 if roomy else px(44))
        beside += px(268.0) if roomy or self._margin_wanted else 0
        for step in self._made.values():
            fit_columns(step, self.width() - beside)

    def show_margin(self) -> None:
        """Show the notes where they made room, or put them away again."""
        self._margin_wanted = not self._margin_wanted
        self._make_room()
        if self.margin.isVisible():
            self.margin.focus_first()

    # a window of its own

    def tear_off(self, actions: list[QAction]) -> None:
        """The readings in a window of their own, or back."""
        if self._torn is not None:
            self.put_back()
            self.go(READINGS)
            return
        step = self.step_at(READINGS)
        holder = self._holders[READINGS]
        holder.takeWidget()
        self._torn = TornOff(READINGS, step, actions)
        self._torn.closed.connect(self._on_torn_closed)
        self._torn.show()
        if self._number == READINGS:
            self.stack.setCurrentWidget(self._elsewhere)
        step.enter()

    def _on_torn_closed(self) -> None:
        self.put_back()
        self.window().activateWindow()
        self.go(self._number)

    def put_back(self) -> None:
        """The torn-off step back in its place."""
        if self._torn is not None:
            torn, self._torn = self._torn, None
            step = torn.released()
            if step is not None:
                self._holders[torn.number].setWidget(step)
            torn.hide()
            torn.deleteLater()

    @property
    def torn(self) -> "TornOff | None":
        """The window of the torn-off step, if any."""
        return self._torn


_SIGNS = {"stop": "✕", "doubt": "▲", "watch": "●"}


class TornOff(QWidget):
    """A step in a window of its own, for another screen."""

    closed = Signal()

    def __init__(self, number: int, step: Step, actions: list[QAction]) -> None:
        super().__init__()
        self.number = number
        self._step: Step | None = step
        self.setObjectName("ground")
        self.setWindowTitle("Fenmist: readings")
        self.resize(px(900), px(720))
        self.addActions(actions)
        self._box = QVBoxLayout(self)
        self._box.setContentsMargins(px(10), px(10), 0, 0)
        self._box.addWidget(step)
        step.show()

    def released(self) -> Step | None:
        """Give the step back."""
        step, self._step = self._step, None
        if step is not None:
            self._box.removeWidget(step)
        return step

    def closeEvent(self, event: QCloseEvent) -> None:
        super().closeEvent(event)
        if self._step is not None:
            self.closed.emit()


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
        text = "A job takes one meter from receipt to certificate. Start a new one, or open one from the logbook."
        box.addWidget(label(text, "second", wrap=True))
        self.do = button("New job", "do")
        self.do.setFixedWidth(px(110))
        self.do.clicked.connect(self.new_wanted)
        box.addWidget(self.do)
        box.addStretch(1)

    def enter(self) -> None:
        """The place comes to the front."""
        self.do.setFocus()
