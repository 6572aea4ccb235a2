"""Logbook: all jobs, the newest first."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fenmist.desk.widgets.grid import Grid
from fenmist.desk.widgets.labels import button, label, set_text
from fenmist.session.session import Session
from fenmist.session.summaries import JobSummary


class LogbookPlace(QWidget):
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
        self.table = Grid(("begun", "job", "device", "points", "what came of it"), 0, "jobs", grows=False)
        self.table.row_opened.connect(self._open)
        self.new = button("New job", "do")
        self.new.clicked.connect(self.new_wanted)
        bar = QHBoxLayout()
        bar.addWidget(self.new)
        bar.addStretch(1)
        box = QVBoxLayout(self)
        box.setContentsMargins(40, 24, 40, 16)
        box.setSpacing(14)
        box.addWidget(self.headline)
        box.addWidget(self.table, 1)
        box.addLayout(bar)

    def refresh(self) -> None:
        """Read the list again."""
        self._jobs = self._session.summaries()
        self.table.fill(
            [
                [job.created_at[:10], job.title, job.device, f"{job.points_read} of {job.points}", job.headline]
                for job in self._jobs
            ]
        )
        set_text(self.headline, self._headline())
        if self._jobs and self.table.currentRow() < 0:
            self.table.setCurrentCell(0, 0)

    def enter(self) -> None:
        """The place comes to the front."""
        self.refresh()
        self.table.setFocus()

    def open_current(self) -> None:
        """Open the job in the current row."""
        self._open(self.table.currentRow())

    def _headline(self) -> str:
        if not self._jobs:
            return "The logbook is empty: begin with a new job."
        unread = sum(1 for job in self._jobs if job.points_read < job.points)
        open_jobs = f"{unread} of them not read to the end" if unread else "all of them read to the end"
        return f"{len(self._jobs)} {'job' if len(self._jobs) == 1 else 'jobs'} in the logbook, {open_jobs}."

    def _open(self, row: int) -> None:
        if 0 <= row < len(self._jobs):
            self.open_wanted.emit(self._jobs[row].id)
