"""Logbook: all jobs, searched and filtered; jobs handed over and taken in; what meters did through the years."""

import time
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QHideEvent, QKeyEvent
from PySide6.QtWidgets import QComboBox, QVBoxLayout, QWidget

from fenmist.calibration.history import drifts
from fenmist.desk.filing import Files, Opening, Saving
from fenmist.desk.widgets.dialogs import ask_to_open, chooser
from fenmist.desk.widgets.grid import Grid
from fenmist.desk.widgets.labels import button, label, set_text
from fenmist.desk.widgets.line_edit import LineEdit
from fenmist.desk.widgets.pages import Columns
from fenmist.errors import FenmistError
from fenmist.judgement.drifting import drift_sentence
from fenmist.session.session import Session
from fenmist.session.summaries import JobSummary
from fenmist.units.display import count_of, frequency, plain

if TYPE_CHECKING:
    from fenmist.desk.places.intake import Intake

ALL, OPEN, DONE = "all jobs", "unfinished", "finished"
ANY_DEVICE = "any device"
HANDS_REST_MS = 60
"""Rest after the last arrow key after which a job's history is worked out."""

SEARCH_REST_MS = 120
AT_A_TIME_S = 0.05
"""Lines are made anew for so long between two looks at keys and clicks."""

SHOWN_AGAIN_S = 1.0
"""While many lines are made anew the list is shown again so often."""


class LogbookPlace(Files, QWidget):
    """The list; Enter opens a job."""

    where = "logbook"
    open_wanted = Signal(str)
    new_wanted = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("ground")
        self._session = session
        self._jobs: tuple[JobSummary, ...] = ()
        self.headline = label("", "headline", wrap=True)
        self.search = LineEdit()
        self.search.setAccessibleName("search the logbook")
        self.search.setPlaceholderText("search everything: names, serials, readings, answers")
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(SEARCH_REST_MS)
        self._rest.timeout.connect(self.refresh)
        self.search.textEdited.connect(lambda _: self._rest.start())
        self.search.returnPressed.connect(self._on_search_done)
        self.state = self._choice("which jobs", (ALL, OPEN, DONE))
        self.device = self._choice("of which device", (ANY_DEVICE,))
        headings = ("begun", "job", "device", "customer", "points", "result")
        self.table = Grid(headings, 0, "jobs", grows=False)
        self.table.row_opened.connect(self._open)
        self.table.row_chosen.connect(self._on_row_chosen)
        self.history = label("", "second", "history of this meter", wrap=True)
        self._hands_rest = QTimer(self)
        self._hands_rest.setSingleShot(True)
        self._hands_rest.setInterval(HANDS_REST_MS)
        self._hands_rest.timeout.connect(lambda: self._show_history(self.table.currentRow()))
        self._behind = QTimer(self)
        self._behind.setInterval(0)
        self._behind.timeout.connect(self._catch_up)
        self._shown_at = 0.0
        self._told: dict[tuple[str, str, str], str] = {}  # histories by meter and question, till the list is read again
        self.new = button("New job", "do")
        self.new.clicked.connect(self.new_wanted)
        self.path = LineEdit()
        self.path.setAccessibleName("file to hand over to, or to take in")
        self.path.setPlaceholderText("a job file, .fenjob.json")
        self.hand_over_button = button("Export job", "do")
        self.hand_over_button.clicked.connect(self.hand_over)
        self.take_in_button = button("Import", "do", "import the job in a file")
        self.take_in_button.clicked.connect(lambda: self.take_in(Path(self.path.text().strip()).expanduser()))
        self.cancel_button = button("Cancel", "do", "stop importing")
        self.cancel_button.clicked.connect(self.cancel)
        self.cancel_button.hide()
        self.said = label("", "second", wrap=True)
        self.setAcceptDrops(True)
        self._lay_out()

    def _choice(self, name: str, texts: tuple[str, ...]) -> QComboBox:
        made = QComboBox()
        made.setAccessibleName(name)
        made.addItems(list(texts))
        made.textActivated.connect(lambda _: self.refresh())
        return made

    def _lay_out(self) -> None:
        filters = Columns()
        filters.setSpacing(12)
        filters.addWidget(self.search, 2)
        filters.addWidget(self.state)
        filters.addWidget(self.device)
        bar = Columns()
        bar.setSpacing(12)
        bar.addWidget(self.new)
        bar.addSpacing(20)
        bar.addWidget(self.path, 1)
        bar.addWidget(chooser("choose the file of a job", lambda: ask_to_open(self, self.opening)))
        bar.addWidget(self.hand_over_button)
        bar.addWidget(self.take_in_button)
        bar.addWidget(self.cancel_button)
        box = QVBoxLayout(self)
        box.setContentsMargins(40, 24, 40, 16)
        box.setSpacing(12)
        box.addWidget(self.headline)
        box.addLayout(filters)
        box.addWidget(self.table, 1)
        box.addWidget(self.history)
        box.addLayout(bar)
        box.addWidget(self.said)

    def refresh(self) -> None:
        """Read the list again; where much of it is made anew, that goes on while the window stands."""
        self._show(self._session.catch_up(AT_A_TIME_S))

    def _catch_up(self) -> None:
        self._behind.stop()  # what goes wrong here is said once
        left = self._session.catch_up(AT_A_TIME_S)
        if not left or time.monotonic() > self._shown_at + SHOWN_AGAIN_S:
            self._show(left)
        else:
            self._behind.start()

    def _show(self, behind: int) -> None:
        """The list as far as it is made, with so many jobs missing or out of date."""
        self._shown_at = time.monotonic()
        self._told = {}
        if behind:
            self._behind.start()
        else:
            self._behind.stop()
        found = self._session.listed(self.search.text())
        self._fill_devices(found)
        here = self._jobs[self.table.currentRow()].id if 0 <= self.table.currentRow() < len(self._jobs) else ""
        state, device = self.state.currentText(), self.device.currentText()
        self._jobs = tuple(
            job
            for job in found
            if (state == ALL or job.complete is (state == DONE)) and device in (ANY_DEVICE, _name(job))
        )
        self.table.fill([_row(job) for job in self._jobs])
        making = f"The list is being made anew: {count_of(behind, 'job is', 'jobs are')} still to come."
        set_text(self.headline, making if behind else self._headline())
        if self._jobs:
            self._choose(here)
        self._on_row_chosen(self.table.currentRow())

    def _choose(self, job_id: str) -> None:
        self.table.setCurrentCell(next((n for n, job in enumerate(self._jobs) if job.id == job_id), 0), 0)

    def _fill_devices(self, found: tuple[JobSummary, ...]) -> None:
        names = [ANY_DEVICE, *sorted({_name(job) for job in found})]
        here = self.device.currentText()
        if here not in names:
            names.append(here)
        if [self.device.itemText(n) for n in range(self.device.count())] != names:
            self.device.clear()
            self.device.addItems(names)
            self.device.setCurrentText(here or ANY_DEVICE)

    def enter(self) -> None:
        """The place comes to the front."""
        self.refresh()
        self.table.setFocus()
        set_text(self.said, self._session.said_on_open)

    def _on_search_done(self) -> None:
        self.refresh()
        self.table.setFocus()

    def _headline(self) -> str:
        if not self._session.has_jobs:
            return "The logbook is empty: start a new job, or drop a job file here."
        narrowed = self.search.text().strip() or self.state.currentText() != ALL
        if narrowed or self.device.currentText() != ANY_DEVICE:
            return f"{count_of(len(self._jobs), 'job holds', 'jobs hold').capitalize()} what is looked for."
        troubled = sum(1 for job in self._jobs if job.trouble)
        unread = sum(1 for job in self._jobs if not job.complete) - troubled
        open_jobs = f"{unread} of them not read to the end" if unread else "all of them finished"
        trouble = f"; {count_of(troubled, 'job', 'jobs')} can't be worked out" if troubled else ""
        return f"{len(self._jobs)} {'job' if len(self._jobs) == 1 else 'jobs'} in the logbook, {open_jobs}{trouble}."

    def _on_row_chosen(self, row: int) -> None:
        """Its history follows when the hands rest: through many jobs it takes longer than a key may."""
        job = self._jobs[row] if 0 <= row < len(self._jobs) else None
        trouble = f"✕ {job.trouble}" if job is not None and job.trouble else ""
        set_text(self.history, "" if job is None else trouble or f"{_name(job)} …")
        self._hands_rest.start()

    def _show_history(self, row: int) -> None:
        """How the chosen job's meter moved through the years, where it was compared before."""
        if not 0 <= row < len(self._jobs):
            set_text(self.history, "")
            return
        job = self._jobs[row]
        if job.trouble or self._behind.isActive():
            return
        asked = job.device_id, job.serial, job.question
        if asked not in self._told:
            self._told[asked] = self._history_of(*asked)
        set_text(self.history, f"{_name(job)}{self._told[asked]}")

    def _history_of(self, device_id: str, serial: str, question: str) -> str:
        """What follows a meter's name."""
        past = self._session.history(device_id, serial)
        lines = [line for line in drifts(past) if question in ("", line.question)]
        times = len({item.job for item in past})
        if not lines:
            return f": compared {count_of(times, 'time', 'times')}, so no drift yet."
        worst = max(lines, key=lambda line: (line.is_seen, abs(line.per_year)))
        where = f"at {frequency(worst.frequency_hz)}, {plain(worst.level_w, 'W')}"
        return f", {count_of(times, 'job', 'jobs')}, {where}: {drift_sentence(worst)}"

    def hideEvent(self, event: QHideEvent) -> None:
        self._hands_rest.stop()
        self._behind.stop()
        super().hideEvent(event)

    def _open(self, row: int) -> None:
        if 0 <= row < len(self._jobs):
            self.open_wanted.emit(self._jobs[row].id)

    # jobs as files

    @property
    def opening(self) -> Opening:
        return Opening("Import a job", "Jobs", (".json",), self.take_in)

    @property
    def saving(self) -> Saving | None:
        return Saving("Export the selected job", self._typed, (".fenjob.json",), self.hand_over_to)

    @property
    def _typed(self) -> Path:
        """The path in the field, or one in the home folder for the chosen job."""
        row, text = self.table.currentRow(), self.path.text().strip()
        title = self._jobs[row].title if 0 <= row < len(self._jobs) else "job"
        return Path(text).expanduser() if text else Path.home() / f"{title}.fenjob.json"

    def hand_over(self) -> None:
        """Write the chosen job to the file named."""
        self.hand_over_to(self._typed)

    def hand_over_to(self, path: Path) -> None:
        """Write the chosen job to a file."""
        row = self.table.currentRow()
        if not 0 <= row < len(self._jobs):
            set_text(self.said, "Select a job in the list first.")
            return
        try:
            set_text(self.said, f"Exported: {self._session.hand_over(self._jobs[row].id, path)}")
        except FenmistError as error:
            set_text(self.said, str(error))

    def take_in(self, path: Path) -> None:
        """Try the job of a file and keep it in this logbook; what comes of it is said."""
        self.intake.add(path)
        self.cancel_button.setVisible(self.intake.is_busy)

    @cached_property
    def intake(self) -> "Intake":
        """Files on their way in; made when first asked for."""
        from fenmist.desk.places.intake import Intake

        made = Intake(self._session, self)
        made.said.connect(lambda text: set_text(self.said, text))
        made.taken.connect(self._on_taken)
        made.ended.connect(self.cancel_button.hide)
        return made

    def cancel(self) -> None:
        """Stop taking in."""
        if "intake" in self.__dict__:
            self.intake.cancel()

    def closing(self) -> None:
        """Stop and wait for what is being taken in."""
        if "intake" in self.__dict__:
            self.intake.closing()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and "intake" in self.__dict__ and self.intake.is_busy:
            self.cancel()
        else:
            super().keyPressEvent(event)

    def _on_taken(self, job_id: str) -> None:
        self.search.clear()
        self.state.setCurrentText(ALL)
        self.device.setCurrentText(ANY_DEVICE)
        self.refresh()
        self._choose(job_id)
        set_text(self.said, f"Imported: {next((job.title for job in self._jobs if job.id == job_id), job_id)}")

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.toLocalFile().endswith(".json") for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        for url in event.mimeData().urls():
            if url.isLocalFile():
                self.take_in(Path(url.toLocalFile()))
        event.acceptProposedAction()


def _name(job: JobSummary) -> str:
    return f"{job.device}, {job.serial}" if job.serial else job.device


def _row(job: JobSummary) -> list[str]:
    return [
        job.began_on, job.title, _name(job), job.customer, f"{job.points_read} of {job.points}", job.headline
    ]  # fmt: skip
