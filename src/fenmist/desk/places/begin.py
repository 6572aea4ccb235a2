"""Beginning a job: what is asked, what came in, and what this shelf can decide."""

from collections.abc import Callable, Iterator

from PySide6.QtCore import QTimer, Signal
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QHeaderView, QVBoxLayout, QWidget

from fenmist.calibration.planning import Grid
from fenmist.desk.theme import ThemeHolder, px
from fenmist.desk.widgets.bench_strip import ROLE, Strip
from fenmist.desk.widgets.grid import Grid as Table
from fenmist.desk.widgets.labels import button, label, set_text
from fenmist.desk.widgets.line_edit import LineEdit
from fenmist.desk.widgets.pages import Columns
from fenmist.errors import FenmistError, OutOfRangeError
from fenmist.kit.part import Part
from fenmist.procedures.shelf import (
    Ranked,
    devices,
    first_frequencies,
    headline,
    in_order,
    levels_asked,
    missing,
    usual_level,
    usual_rounds,
)
from fenmist.procedures.table import ROOMS, room_of, rooms
from fenmist.session.openjob import OpenJob
from fenmist.session.session import UNNAMED, Session
from fenmist.units.display import frequency, plain
from fenmist.units.typed import value_from_text, values_from_text
from fenmist.units.unit import UNITS

HANDS_REST_MS = 350
"""Rest after which the benches follow what was typed."""

MOST_NAMED = 8
"""Frequencies that are named one by one above the list."""

HEADINGS = ("bench", "what it would reach", "U at worst", "what stands in the way")


LEGEND = "Predicted from stated performance. Filled: decides what is claimed; outlined: can’t; hatched: not readable."


class BeginPage(QWidget):
    """Chooses question, device and bench; Enter on a bench begins the job, or moves the one in hand there."""

    where = "begin"
    begun = Signal()  # a job was made: it is the open one
    moved = Signal()  # the job in hand stands on another bench

    def __init__(self, session: Session, themes: ThemeHolder) -> None:
        super().__init__()
        self.setObjectName("ground")
        self._session = session
        self._job: OpenJob | None = None  # whose bench is chosen anew
        self._found: list[Ranked] = []
        self._shown: tuple[Ranked, ...] = ()
        self._looking: Iterator[Ranked] | None = None
        self._is_owed = False  # what is asked hasn't been looked at yet
        self._devices: tuple[Part, ...] = ()
        self._wanted, self._showing = "", False  # name of the bench that was moved to
        self._refused = ""  # why the chosen one can't be taken; it stands until another is looked at
        self._level = 0.0  # W, at which it was looked
        self._rest, self._next = QTimer(self), QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.timeout.connect(self.look)
        self._next.setInterval(0)
        self._next.timeout.connect(self._take_one)
        self.headline = label("", "headline", wrap=True)
        self.question = self._choice("question", [room.question for room in rooms()])
        self.question.textActivated.connect(lambda _: self._choose(self._on_question))
        self.device = self._choice("device", [])
        self.device.textActivated.connect(lambda _: self._choose(self._on_device))
        self.frequencies = self._line("frequencies", "3.6 7.1 14.2 MHz; empty: planned later")
        self.level = self._line("power", "50 W")
        self.rounds = self._line("rounds", "3")
        self.table = Table(HEADINGS, 0, "benches", grows=False)
        self.table.verticalHeader().setDefaultSectionSize(px(38))
        self.table.horizontalHeader().setSectionResizeMode(1, QHeaderView.ResizeMode.Fixed)
        self.table.setColumnWidth(1, px(410))
        self.table.setItemDelegateForColumn(1, Strip(themes, self.table))
        self.table.row_chosen.connect(self._on_row)
        self.table.row_opened.connect(self.take)
        self.said = label("", "second", wrap=True)
        self.lacking = label("", "second", wrap=True)
        self.begin = button("Begin on this bench", "do")
        self.begin.clicked.connect(lambda: self.take(self.table.currentRow()))
        self._lay_out()

    def _choice(self, name: str, texts: list[str]) -> QComboBox:
        made = QComboBox()
        made.setAccessibleName(name)
        made.addItems(texts)
        return made

    def _line(self, name: str, example: str) -> LineEdit:
        made = LineEdit()
        made.setAccessibleName(name)
        made.setPlaceholderText(example)
        made.textEdited.connect(lambda _: self._look_at_rest())
        return made

    def _choose(self, set_out: Callable[[], None]) -> None:
        """Something else is asked: benches of what was asked before are gone at once, others are looked for soon."""
        self._found = []
        self.lacking.hide()
        set_out()
        self._look_at_rest()
        self._show()

    def _look_at_rest(self) -> None:
        """What was looked at before doesn't count any more."""
        self._looking, self._is_owed = None, True
        self._next.stop()
        self._rest.start(HANDS_REST_MS)

    def hideEvent(self, event: QHideEvent) -> None:
        """Nobody waits for benches on another page: hands there aren't kept waiting for them."""
        super().hideEvent(event)
        self._rest.stop()
        self._next.stop()

    def showEvent(self, event: QShowEvent) -> None:
        """The page is back: what was still to be looked at is."""
        super().showEvent(event)
        if self._is_owed:
            self.look()
        elif self._looking is not None:
            self._next.start()

    def _lay_out(self) -> None:
        asked = Columns()
        asked.setSpacing(14)
        for name, field, stretch in (
            ("What do you want to know?", self.question, 4), ("Of what?", self.device, 3),
            ("At", self.frequencies, 4), ("With", self.level, 1), ("Rounds", self.rounds, 1),
        ):  # fmt: skip
            column = QVBoxLayout()
            column.setSpacing(2)
            column.addWidget(label(name, "section"))
            column.addWidget(field)
            asked.addLayout(column, stretch)
        row = QHBoxLayout()
        row.addWidget(self.begin)
        row.addStretch(1)
        box = QVBoxLayout(self)
        box.setContentsMargins(40, 24, 40, 16)
        box.setSpacing(12)
        box.addWidget(self.headline)
        box.addLayout(asked)
        box.addWidget(label(LEGEND, "second"))
        box.addWidget(self.table, 1)
        box.addWidget(self.said)
        box.addWidget(self.lacking)
        box.addLayout(row)

    # what is asked

    def open(self, job: OpenJob | None = None, question: str = "") -> None:
        """Begin a new job, on a question where one is given, or choose another bench for one."""
        self._job = job
        for field in (self.question, self.device, self.rounds):
            field.setEnabled(job is None)
        self.begin.setText("Begin on this bench" if job is None else "Move the job to this bench")
        if job is not None:
            question = job.job.question
        if question:
            self.question.setCurrentText(room_of(question).question)
        self._on_question()
        self.look()

    def enter(self) -> None:
        """The page comes to the front."""
        self.table.setFocus()

    @property
    def _room(self) -> str:
        return tuple(ROOMS)[max(self.question.currentIndex(), 0)]

    @property
    def chosen_device(self) -> Part | None:
        """What the question is asked of; none where the kit has nothing of that kind."""
        place = self.device.currentIndex()
        return self._devices[place] if 0 <= place < len(self._devices) else None

    def _on_question(self) -> None:
        kit = self._session.kit if self._job is None else self._kit_of(self._job)
        self._devices = devices(room_of(self._room), kit)
        if self._job is not None:
            self._devices = tuple(part for part in self._devices if part.id == self._job.job.dut)
        self.device.clear()
        self.device.addItems([part.label for part in self._devices])
        self._on_device()

    def _kit_of(self, job: OpenJob) -> tuple[Part, ...]:
        """The shelf, with the parts as this job describes them."""
        own = job.job.parts
        return (*own.values(), *(part for part in self._session.kit if part.id not in own))

    def _on_device(self) -> None:
        device = self.chosen_device
        if device is not None:
            job = self._job.job if self._job is not None else None
            planned = sorted({point.frequency_hz for point in job.plan}) if job is not None else []
            hertz = planned[:12] or first_frequencies(room_of(self._room), device)
            self.frequencies.setText(f"{' '.join(f'{f / 1e6:g}' for f in hertz)} MHz")
            level = max((point.target_w for point in job.plan), default=0.0) if job is not None else 0.0
            self.level.setText(plain(level or self._usual_level(device), "W").replace("\u202f", " "))
            if not self.rounds.isModified():
                self.rounds.setText(str(usual_rounds(room_of(self._room))))

    def _usual_level(self, device: Part) -> float:
        return usual_level(room_of(self._room), self._session.kit, device, self._session.now())

    # what the shelf can decide

    def look(self) -> None:
        """Look at every bench anew, one after the other: the list fills as they are found."""
        self._rest.stop()
        self._found, self._looking, self._wanted, self._refused, self._is_owed = [], None, "", "", False
        device = self.chosen_device
        try:
            hertz, level = self._asked()
            self._level = level
        except FenmistError as error:
            self._show(str(error))
            return
        if device is None:
            self._show("The kit has nothing that this could be asked of: add it in the place “kit” (Ctrl+3).")
            return
        kit = self._session.kit if self._job is None else self._kit_of(self._job)
        lacks = missing(room_of(self._room), kit, device)
        set_text(self.lacking, f"Not with this kit: {'; '.join(lacks)}." if lacks else "")
        self.lacking.setVisible(bool(lacks))
        self._looking = self._session.shelf(self._room, device, hertz, level, kit)
        if self.isVisible():
            self._next.start()

    def _asked(self) -> tuple[tuple[float, ...], float]:
        text, device = self.frequencies.text().strip(), self.chosen_device
        hertz = values_from_text(text, "MHz", "frequencies", "3.6 7.1 14.2 MHz") if text else ()
        if not hertz and device is not None:
            hertz = first_frequencies(room_of(self._room), device)
        level = value_from_text(self.level.text(), UNITS["W"], "power", "50 W")
        if min(hertz, default=1.0) <= 0.0 or level <= 0.0:
            raise OutOfRangeError("Frequencies and power lie above 0.", "Type for example 7.1 MHz and 50 W.")
        return hertz or (7e6,), level

    def _take_one(self) -> None:
        found = next(self._looking, None) if self._looking is not None else None
        if found is None:
            self._looking = None
            self._next.stop()
        else:
            self._found.append(found)
        self._show()

    @property
    def is_looking(self) -> bool:
        """Whether benches are still being looked at."""
        return self._looking is not None or self._is_owed

    def _show(self, trouble: str = "") -> None:
        self._shown, self._showing = in_order(self._found), True
        self.table.fill([_row(item) for item in self._shown])
        for row, item in enumerate(self._shown):
            cell = self.table.item(row, 1)
            if cell is not None:
                cell.setData(ROLE, item.points)
        if self._shown:
            tones = [f"{point.point.frequency_hz / 1e6:g}" for point in self._shown[0].points]
            at = ", ".join(tones) if len(tones) <= MOST_NAMED else f"{tones[0]} to {tones[-1]}"
            self.table.horizontalHeaderItem(1).setText(f"what it would reach at {at} MHz")  # type: ignore[union-attr]
        names = [item.name for item in self._shown]
        if self._shown:
            self.table.setCurrentCell(names.index(self._wanted) if self._wanted in names else 0, 0)
        self._showing = False
        device = self.chosen_device
        if trouble or device is None:
            set_text(self.headline, trouble)
        elif self.is_looking and not self._found:
            set_text(self.headline, "Looking at what the shelf allows…")
        else:
            said = headline(device, self._shown, self._level)
            set_text(self.headline, f"So far: {said[0].lower()}{said[1:]}" if self.is_looking else said)
        self.begin.setEnabled(bool(self._shown))
        self._say_chosen()

    def _on_row(self, row: int) -> None:
        """Hands moved along the list: what they stopped at stays chosen while more is found."""
        if not self._showing and 0 <= row < len(self._shown):
            self._wanted, self._refused = self._shown[row].name, ""
        self._say_chosen()

    def _say_chosen(self) -> None:
        row = self.table.currentRow()
        if self._refused or not 0 <= row < len(self._shown):
            set_text(self.said, self._refused)
            return
        item = self._shown[row]
        parts = ", ".join(part.label for part in item.bench.parts)
        blocked = {point.blocked: point for point in item.points if point.blocked}
        why = "; ".join(f"{frequency(point.point.frequency_hz)}: {text}" for text, point in blocked.items())
        set_text(self.said, f"Parts: {parts}." + (f" {why}." if why else ""))

    # taking one

    def take(self, row: int) -> None:
        """Begin the job on a bench of the list, or move the one in hand there."""
        device = self.chosen_device
        if device is None or not 0 <= row < len(self._shown):
            return
        item = self._shown[row]
        try:
            if self._job is not None:
                self._job.move_to(item.bench)
                self.moved.emit()
                return
            text = self.frequencies.text().strip()
            levels = levels_asked(room_of(self._room), self.level.text())
            grid = (
                Grid(text, levels, rounds=self.rounds.text() or str(usual_rounds(room_of(self._room))))
                if text
                else None
            )
            self._session.new_job(UNNAMED, device.id, item.bench, self._room, grid)
        except FenmistError as error:
            self._refused = str(error)
            self._say_chosen()
            return
        self.begun.emit()


def _row(item: Ranked) -> list[str]:
    decided = sum(point.decides for point in item.points)
    claimed = any(point.tolerance for point in item.points)
    way = next((point.blocked for point in item.points if point.blocked), "")
    late = f"overdue: {', '.join(item.overdue)}" if item.overdue else ""
    reach = f"decides at {decided} of {len(item.points)}" if claimed else f"{len(item.free)} of {len(item.points)}"
    return [item.name, reach, f"±{item.reaches(item.worst)}" if item.free else "—", way or late]
