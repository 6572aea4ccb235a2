"""What every step of the route has in common: a slim line, a headline, its own body."""

from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from fenmist.desk.filing import Files, Saving
from fenmist.desk.theme import ThemeHolder
from fenmist.desk.widgets.labels import label, set_text
from fenmist.desk.widgets.line_view import LineView
from fenmist.findings.note import Note
from fenmist.reading.event import Slot
from fenmist.session.filenames import suggested_path
from fenmist.session.openjob import OpenJob
from fenmist.session.session import Session
from fenmist.session.view import View


def still_to_draw(points: int) -> str:
    """How many points wait for Monte Carlo, as the beginning of a sentence."""
    return f"{'One point is' if points == 1 else f'{points} points are'} still to be drawn by Monte Carlo"


class Step(Files, QWidget):
    """Base of the steps; made for one open job, refreshed when it changes.

    Parameters
    ----------
    session, job, themes
        What the step shows and commands.
    slim_line : bool
        Whether the line stands at the top as a strip.
    """

    where = ""  # of the actions table
    notes_follow = False  # whether route and notes may wait until the hands rest
    shown = ""  # id of the hook-up that is looked at; the first where nothing is said
    draft_rested = Signal(object)  # notes of a draft, after a rest
    typed = Signal()  # a key went into a draft
    notes_moved = Signal()  # the step looks at something else now
    did = Signal(str)  # what was done, for the foot
    wire_wanted = Signal(str)  # "channel" in hand, its "round", the whole "run", or "stop"
    bench_wanted = Signal()  # another bench is to be chosen for the job
    point_wanted = Signal(str)  # a point is to be read next
    point_shown = Signal()  # the point in hand stands on the screen, maybe another one

    def __init__(self, session: Session, job: OpenJob, themes: ThemeHolder, slim_line: bool = True) -> None:
        super().__init__()
        self.session, self.job, self.themes = session, job, themes
        self.setObjectName("ground")
        self.body = QVBoxLayout(self)
        self.body.setContentsMargins(10, 10, 20, 12)
        self.body.setSpacing(10)
        self.line = LineView(themes, slim=slim_line)
        if slim_line:
            self.body.addWidget(self.line)
        self.headline: QLabel = label("", "headline", wrap=True)
        self.body.addWidget(self.headline)

    def refresh(self) -> None:
        """Show the job as it stands."""
        self.line.show_job(self.job.job, self.shown)
        self.say_headline()

    def say_headline(self) -> None:
        """Put the sentence at the top."""
        set_text(self.headline, self.headline_text(self.job.view))
        self.headline.setAccessibleName(self.headline.text())

    @property
    def point_in_hand(self) -> str:
        """The point whose entries are being made; nothing outside of the run."""
        return ""

    def notes(self, view: View) -> tuple[Note, ...]:
        """What stands in the margin beside this step."""
        return view.notes

    def headline_text(self, view: View) -> str:
        """The sentence at the top."""
        raise NotImplementedError

    def enter(self) -> None:
        """The step comes to the front: put the keyboard where the work is."""

    def show_to_draw(self, points: int) -> None:
        """So many points are still to be drawn, one after the other."""

    def caught_up(self, view: View) -> None:
        """Everything was worked out to the end: show again what was shown at once."""

    def closing(self) -> None:
        """The job leaves the bench: end what still runs."""

    @property
    def place(self) -> tuple[tuple[str, int, int, str] | None, str]:
        """Where the work is: the slot in hand as (point, round, position, phase), and what is typed but not kept."""
        return None, ""

    @property
    def slot_in_hand(self) -> Slot | None:
        """Where the next reading goes, where the step reads."""
        return None

    def resume(self, slot: tuple[str, int, int, str] | None, draft: str) -> None:
        """Go back to a place."""

    def go_to_point(self, point_id: str) -> None:
        """Go to the first reading of a point, where the step reads."""

    def go_on_from(self, slot: Slot) -> None:
        """Go on behind a slot that was read, where the step reads."""

    def open_capture(self, path: Path | None = None) -> None:
        """Take a capture as the reading in hand, where the step reads."""

    def toggle_series(self) -> None:
        """Show power against time, where the step reads."""

    def next_panel(self) -> None:
        """Bring the next of several views to the front, where the step has them."""

    @property
    def drawing(self) -> tuple[str, QWidget] | None:
        """Name and widget of the drawing that can be saved here."""
        return "line", self.line

    @property
    def saving(self) -> Saving | None:
        """The drawing, where the step has nothing else."""
        if self.drawing is None:
            return None
        from fenmist.desk.widgets.picture import drawing_saved  # on first use

        name, widget = self.drawing
        return drawing_saved(widget, suggested_path(self.job.job, f" {name}.svg"), self.did.emit)

    @property
    def saving_tables(self) -> Saving:
        """What readings stand for on the bench, as pages or for other programs."""
        paper, kind = self.session.setting("paper"), self.session.setting("csv")

        def write(path: Path) -> None:
            from fenmist.session.benchpaper import write_tables  # on first use

            self.did.emit(f"written: {write_tables(self.job.view, path, paper, kind).name}")

        return Saving("Reading table", suggested_path(self.job.job, "-reading-table.pdf"), (".pdf", ".csv"), write)

    def take_photo(self, path: Path) -> None:
        """Keep a photo, where the step takes them."""
