"""Readings: the present point in large digits, an entry per instrument in reading order, the needle's echo.

Entries are never refused: Enter keeps the raw text. Draft and error follow each keystroke; notes come when an entry
is kept, or after a rest, so that the first digit of a number raises no alarm.
"""

from dataclasses import replace
from functools import cached_property
from html import escape
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QHideEvent, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from fenmist.calibration.job import PlanPoint
from fenmist.calibration.reduction import PointResult
from fenmist.calibration.series import series_at
from fenmist.desk.keypad import AFTER_COMMAND
from fenmist.desk.plots.error_plot import ErrorPlot
from fenmist.desk.steps.step import Step
from fenmist.desk.theme import ThemeHolder, px
from fenmist.desk.widgets.dial import Dial
from fenmist.desk.widgets.entry import EntryRow
from fenmist.desk.widgets.labels import clear_layout, hairline, label, set_state, set_text
from fenmist.desk.widgets.pages import Columns
from fenmist.desk.widgets.phases import Phases
from fenmist.errors import FenmistError
from fenmist.findings.note import Note, Severity
from fenmist.judgement.headline import readings_headline
from fenmist.reading.event import Role, Slot
from fenmist.reports.chart import error_chart
from fenmist.reports.fonts import SANS_FAMILY
from fenmist.session.openjob import OpenJob
from fenmist.session.present import entry_text, rounds_text, running_error, scatter_and_drift
from fenmist.session.session import Session
from fenmist.session.steering import COMMANDS, after
from fenmist.session.view import View
from fenmist.units.display import THIN, frequency, plain, rounded

if TYPE_CHECKING:
    from fenmist.desk.widgets.capture_panel import CapturePanel
    from fenmist.desk.widgets.series_view import SeriesView
    from fenmist.session.captures import OpenedCapture

BELOW_PX = 196
"""Height of the chart, and of a capture in its place."""

REST_MS = 600
"""Rest after the last key before a draft's notes are shown."""


class ReadingsStep(Step):
    """The run."""

    where = "readings"

    def __init__(self, session: Session, job: OpenJob, themes: ThemeHolder) -> None:
        super().__init__(session, job, themes)
        self.phases = Phases(job)
        self.slot: Slot | None = None
        self.draft_view: View | None = None
        self._draft: tuple[Slot, Role, str] | None = None
        self._keeping = False
        self.rows: dict[int, EntryRow] = {}
        self._instruments: tuple[tuple[str, str], ...] = ()
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(REST_MS)
        self._rest.timeout.connect(self._on_rest)

        self.point = label("", "point")
        self.point.setTextFormat(Qt.TextFormat.RichText)
        row = Columns()
        row.addWidget(self.point)
        row.addStretch(1)
        row.addWidget(self.phases)
        self.body.addLayout(row)
        self.heat = label("", "second", "carrier and heat of the load")
        self.advice = label("", "alarm", "rest advice")
        strip = QHBoxLayout()
        strip.setSpacing(16)
        self.paper = label("▲ copied from paper: times unknown  (F12: read here)", "alarm", "copied from paper")
        strip.addWidget(self.paper)
        strip.addWidget(self.heat)
        strip.addWidget(self.advice)
        strip.addStretch(1)
        self.body.addLayout(strip)
        self._clock = QTimer(self)
        self._clock.setInterval(1000)
        self._clock.timeout.connect(self._tick)

        self._entries = QVBoxLayout()
        self._entries.setSpacing(0)
        self.former = label("", "second", wrap=True)
        self.error_w, self.error_db, self.error_u = (label("—", "running") for _ in range(3))
        self.scatter, self.drift = (label("", "second") for _ in range(2))
        self.hint = label("", "second", wrap=True)
        left = QVBoxLayout()
        left.setSpacing(6)
        left.addLayout(self._entries)
        left.addWidget(self.former)
        left.addSpacing(10)
        left.addLayout(self._running())
        left.addWidget(self.hint)
        left.addStretch(1)
        self.dial = Dial(themes)
        self.dial.value_dragged.connect(self._on_dragged)
        self.caption = label("", "second", wrap=True)
        self.caption.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        right = QVBoxLayout()
        right.addWidget(self.dial)
        right.addWidget(self.caption)
        right.addStretch(1)
        middle = Columns()
        middle.setSpacing(20)
        middle.addLayout(left, 9)
        middle.addLayout(right, 5)
        self.body.addLayout(middle, 1)
        self.plot = ErrorPlot(themes, compact=True)
        self.below = QStackedWidget()
        self.below.setFixedHeight(px(BELOW_PX))
        self.below.addWidget(self.plot)
        self.body.addWidget(self.below)
        self.setAcceptDrops(True)

    def _running(self) -> QHBoxLayout:
        box = QHBoxLayout()
        box.setSpacing(24)
        shown = (
            ("error so far", self.error_w), ("", self.error_db), ("U", self.error_u),
        )  # fmt: skip
        for name, value in shown:
            column = QVBoxLayout()
            column.setSpacing(0)
            said = label(name or " ", "second")
            if value is self.error_u:
                self.u_name = said
            column.addWidget(said)
            column.addWidget(value)
            box.addLayout(column)
        beside = QVBoxLayout()
        beside.setSpacing(2)
        beside.addStretch(1)
        beside.addWidget(self.scatter)
        beside.addWidget(self.drift)
        box.addLayout(beside)
        box.addStretch(1)
        return box

    # showing

    def headline_text(self, view: View) -> str:
        return readings_headline(view.job, view.result, self._point())

    def refresh(self) -> None:
        if self._keeping:
            return  # what follows an entry is shown once the next slot is known
        view = self.job.view
        known = self.slot is not None and any(point.id == self.slot.point for point in view.job.plan)
        if self.slot is None or not known or self.slot.phase != view.phase:
            self.slot = view.resume_slot() or self._last_slot(view)
        super().refresh()
        self.paper.setVisible(self.job.from_paper)
        self.phases.refresh()
        self._show_point(view)
        self.point_shown.emit()
        self._show_rows(view)
        self._show_running(view, kept=True)
        self._show_series()
        self.plot.show_chart_soon(lambda: error_chart(self.job.job, self.job.view.result), self._draft_point)

    @property
    def point_in_hand(self) -> str:
        return self.slot.point if self.slot else ""

    @property
    def place(self) -> tuple[tuple[str, int, int, str] | None, str]:
        if self.slot is None:
            return None, ""
        row = self.rows.get(self.slot.position)
        draft = row.field.text() if row is not None and not row.field.fresh else ""
        return (self.slot.point, self.slot.round, self.slot.position, self.slot.phase), draft

    def resume(self, slot: tuple[str, int, int, str] | None, draft: str) -> None:
        wanted = Slot(*slot) if slot else None
        if wanted is None or wanted.phase != self.job.view.phase or wanted not in self.job.view.order:
            return
        self._go(wanted)
        if draft:
            self._type(wanted.position, draft)

    def enter(self) -> None:
        self._focus_slot()

    def _point(self) -> PlanPoint | None:
        return self.job.job.point(self.slot.point) if self.slot else None

    @staticmethod
    def _last_slot(view: View) -> Slot | None:
        return view.slots(view.job.plan[-1])[-1][0] if view.job.plan else None

    def _show_point(self, view: View) -> None:
        point = self._point()
        if point is None or self.slot is None:
            set_text(self.point, "")
            return
        place = 1 + [item.id for item in view.job.plan].index(point.id)
        words = (
            f"range {point.range_id}",
            f"round {self.slot.round} of {point.repeats}",
            f"point {place} of {len(view.job.plan)}",
        )
        shown = (frequency(point.frequency_hz), plain(point.target_w, "W"))
        second = self.themes.theme.second
        gap = f"<span style='font-size:{px(14)}px'>&nbsp;</span>"
        wide = px(21, at_arm=True)
        large = f"<span style='font-size:{wide}px'>&nbsp; </span>".join(
            f"{number}{gap}<span style='font-size:{wide}px; color:{second}'>{unit}</span>"
            for number, unit in (text.split(THIN) for text in shown)
        )
        rest = escape(" · ".join(words))
        small = f"<span style='font-family:{SANS_FAMILY}; font-size:{px(12)}px; color:{second}'>&nbsp; {rest}</span>"
        set_text(self.point, large + small)
        self.point.setAccessibleName(", ".join((*shown, *words)))

    def _show_rows(self, view: View) -> None:
        point = self._point()
        sequence = point.sequence if point else ()
        read = tuple(self._instrument(role) for role in sequence)
        if read != self._instruments:
            self._make_rows(read)
        if point is None or self.slot is None:
            return
        for position, row in self.rows.items():
            slot = replace(self.slot, position=position)
            event = view.standing.get(slot)
            entry = event.entry if event else None
            text = entry.raw_text if entry else ""
            beside = entry_text(view, slot, sequence[position], entry)
            row.show_entry(text, bool(entry and entry.reading is None), beside)
        set_text(self.former, rounds_text(view, point, self.slot.round))
        self._show_dial(view)

    def _instrument(self, role: Role) -> tuple[str, str]:
        """Name and unit of what is read in a role."""
        element, indicator = self.job.job.indicator(role)
        return self.job.job.part(self.job.job.hookups[0].element(element).part).label, indicator.unit

    def _make_rows(self, instruments: tuple[tuple[str, str], ...]) -> None:
        self._instruments = instruments
        clear_layout(self._entries)
        self.rows = {}
        for position, (name, unit) in enumerate(instruments):
            row = EntryRow(name, unit, self.themes.keypad)
            row.field.textEdited.connect(lambda text, p=position: self._on_edited(p, text))
            row.field.committed.connect(lambda text, p=position: self._on_committed(p, text))
            row.field.steered.connect(lambda what, p=position: self._on_steered(p, what))
            row.field.installEventFilter(self)
            if position:
                self._entries.addWidget(hairline())
            self._entries.addWidget(row)
            self.rows[position] = row

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.FocusIn:
            for position, row in self.rows.items():
                if row.field is watched and self.slot is not None and self.slot.position != position:
                    self.slot = replace(self.slot, position=position)
        return False

    def _show_dial(self, view: View) -> None:
        point = self._point()
        if point is None or self.slot is None:
            return
        used = view.job.range_of(point, Role.DUT)
        self.dial.setVisible(used is not None and used.scale is not None)
        self.dial.show_range(used, view.job.part_of_division)
        here = self.slot.position
        position = here if self._role(here) is Role.DUT else point.sequence.index(Role.DUT)
        slot = replace(self.slot, position=position)
        event = view.standing.get(slot)
        reading = event.entry.reading if event and event.entry else None
        draft = self.draft_view is not None and self.slot.position == position
        self.dial.show_value(reading.value if reading else None, draft)
        set_text(self.caption, self.dial.caption())

    def _show_running(self, view: View, kept: bool) -> None:
        point = self._point()
        found = view.result.of(point.id) if point else None
        texts = running_error(found)
        for shown, text in zip((self.error_w, self.error_db, self.error_u), texts, strict=True):
            set_text(shown, text)
            set_state(shown, kept="true" if kept and found else "false")
        scatter, drift = scatter_and_drift(view, point.id) if point else ("—", "—")
        set_text(self.scatter, f"scatter {scatter}")
        set_text(self.drift, f"drift {drift}")
        set_text(self.u_name, f"U, k = {rounded(found.k, 2)}" if found else "U")

    def _tick(self) -> None:
        """The key-down clock and the load's heat, once a second and whenever something was typed."""
        warm = self.job.warmth(self.slot)
        set_text(self.heat, f"carrier {warm.text}" if warm else "")
        advice = warm.advice if warm else ""
        set_text(self.advice, f"{'✕' if warm and warm.severity == 'stop' else '▲'} {advice}" if advice else "")
        set_state(self.advice, severity=warm.severity if warm else "")

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._tick()
        self._clock.start()

    def hideEvent(self, event: QHideEvent) -> None:
        self._clock.stop()
        super().hideEvent(event)

    def _draft_point(self) -> PointResult | None:
        point = self._point()
        view = self.draft_view
        return view.result.of(point.id) if view is not None and point is not None else None

    # typing

    def _on_edited(self, position: int, text: str) -> None:
        self.typed.emit()
        if self.slot is None or not text.strip() or text == self.themes.keypad.command:
            self._show_commands(text == self.themes.keypad.command)
            self._drop_draft()
            return
        slot = replace(self.slot, position=position)
        role = self._role(position)
        if self.job.begin_entry(slot):
            QTimer.singleShot(0, self._tick)
        self._draft = slot, role, text
        self.draft_view = self.job.draft_here(slot, role, text)
        found = self.job.interpret(slot, role, text)
        meant = f" · most likely {found.likeliest_text}" if found.likeliest_text else ""
        set_text(self.rows[position].beside, "" if found.reading else f"not read yet{meant}")
        self._show_dial(self.draft_view)
        self._show_running(self.draft_view, kept=False)
        self.plot.show_chart_soon(lambda: error_chart(self.job.job, self.job.view.result), self._draft_point)
        self._rest.start()

    def _show_commands(self, wanted: bool) -> None:
        """What may follow the command key."""
        if wanted:
            choices = (f"{digit} {said}".replace(" ", "\u00a0") for digit, (_, said) in AFTER_COMMAND.items())
            set_text(self.hint, "  ".join(choices))

    def _drop_draft(self) -> None:
        self.draft_view = None
        self._rest.stop()
        self._show_dial(self.job.view)
        self._show_running(self.job.view, kept=True)

    def _on_rest(self) -> None:
        if self.draft_view is not None and self._draft is not None:
            draft = self.job.draft(*self._draft)  # with the whole job around it
            self.draft_rested.emit(draft.notes)
            set_text(self.headline, self.headline_text(draft))
            self._show_alarm(draft.notes)

    def _show_alarm(self, notes: tuple[Note, ...]) -> None:
        """Frame of the large digits, by shape: eyes are on the dial."""
        if self.slot is None:
            return
        place = self.slot.place
        worst = next((note for note in notes if note.about == place and note.severity is Severity.DOUBT), None)
        set_state(self.rows[self.slot.position].field, alarm="doubt" if worst else "none")
        set_text(self.hint, f"▲ doubt: {worst.what}" if worst else "")

    def _on_committed(self, position: int, text: str) -> None:
        if self.slot is None:
            return
        field = self.rows[position].field
        slot = replace(self.slot, position=position)
        if text.strip() and not field.fresh:
            self.slot = slot
            self._keeping = True
            try:
                self.job.enter(slot, self._role(position), text.strip())
            finally:
                self._keeping = False
            # only what is kept stops being a draft: when it can't be written the text stays to be kept again
            field.fresh = True
            field.setModified(False)
            self.draft_view = None
            self._rest.stop()
            self._show_alarm(self.job.view.notes_near(slot.point))
        self._go(after(self.job, slot))

    def _role(self, position: int) -> Role:
        point = self._point()
        return point.sequence[position] if point else Role.DUT

    def _on_steered(self, position: int, what: str) -> None:
        if self.slot is None:
            return
        slot = replace(self.slot, position=position)
        if what.startswith("nudge"):
            self._nudge(position, int(what.split()[1]))
        elif what == "carrier":
            self.job.switch_carrier(slot)
            self._tick()
        else:
            self._steer(what, slot)

    def _steer(self, what: str, slot: Slot) -> None:
        try:
            self._go(COMMANDS[what](self.job, slot))
            set_text(self.hint, "")
        except FenmistError as error:
            set_text(self.hint, str(error))

    def _nudge(self, position: int, steps: int) -> None:
        if self._role(position) is not Role.DUT:
            return
        value = self.dial.nudged(steps)
        if value is not None:
            self._type(position, f"{value:.6g}")

    def _on_dragged(self, value: float) -> None:
        point = self._point()
        if point is not None:
            self._type(point.sequence.index(Role.DUT), f"{value:.6g}")

    def _type(self, position: int, text: str) -> None:
        field = self.rows[position].field
        field.setFocus()
        field.fresh = False
        field.setText(text)
        self._on_edited(position, text)

    # moving

    def _go(self, slot: Slot) -> None:
        self.slot = slot
        for row in self.rows.values():
            row.field.fresh = True
            set_state(row.field, alarm="none")
        self.draft_view = None
        self.refresh()
        self._focus_slot()

    def _focus_slot(self) -> None:
        if self.slot is not None and self.slot.position in self.rows:
            field = self.rows[self.slot.position].field
            field.setFocus()
            field.selectAll()

    # power against time

    @cached_property
    def series(self) -> "SeriesView":
        """Power against time, made when first asked for."""
        from fenmist.desk.widgets.series_view import SeriesView

        made = SeriesView(self.themes)
        made.closed.connect(self.toggle_series)
        self.below.addWidget(made)
        return made

    def toggle_series(self) -> None:
        """Power against time in place of the errors, or back."""
        if self.below.currentWidget() is self.series:
            self.below.setCurrentWidget(self.plot)
        else:
            self.below.setCurrentWidget(self.series)
            self._show_series()
        self._focus_slot()

    def _show_series(self) -> None:
        point = self._point()
        if "series" not in self.__dict__ or self.below.currentWidget() is not self.series or point is None:
            return
        view = self.job.view
        readings = next(item for item in view.result.readings if item.point.id == point.id)
        names = {role: self._instrument(role)[0] for role in Role}
        self.series.show_series(series_at(readings, view.result.of(point.id)), names)

    # a capture as the entry

    @cached_property
    def capture(self) -> "CapturePanel":
        """The panel of a capture, made when first asked for."""
        from fenmist.desk.widgets.capture_panel import CapturePanel  # fits and files are imported on first use

        made = CapturePanel(self.themes)
        made.taken.connect(self._on_capture_taken)
        made.closed.connect(self.close_capture)
        self.below.addWidget(made)
        return made

    def open_capture(self, path: Path | None = None) -> None:
        """Show the capture panel for the oscilloscope's entry, with a file where one was dropped."""
        point = self._point()
        if point is None or self.slot is None:
            return
        if self._role(self.slot.position) is not Role.REFERENCE:
            self.slot = replace(self.slot, position=point.sequence.index(Role.REFERENCE))
        self.capture.expect(point.frequency_hz)
        self.below.setCurrentWidget(self.capture)
        event = self.job.view.standing.get(self.slot)
        if path is not None:
            self.capture.open_file(path)
        elif event is not None and event.entry is not None and event.entry.attached:
            self.capture.show_kept(self.job.attached_capture(event.entry))
        else:
            self.capture.path.setFocus()

    def close_capture(self) -> None:
        """Back to the chart."""
        self.below.setCurrentWidget(self.plot)
        self._focus_slot()

    def _on_capture_taken(self, opened: "OpenedCapture") -> None:
        if self.slot is None:
            return
        slot = self.slot
        self.job.enter_trace(slot, self._role(slot.position), opened.source, opened.channel)
        self.close_capture()
        self._go(after(self.job, slot))

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        local = [url.toLocalFile() for url in event.mimeData().urls() if url.isLocalFile()]
        if local:
            event.acceptProposedAction()
            self.open_capture(Path(local[0]))

    @property
    def drawing(self) -> tuple[str, QWidget] | None:
        below = self.below.currentWidget()
        if below is self.plot:
            return "error", self.plot
        if "series" in self.__dict__ and below is self.series:
            return "power against time", self.series.drawing
        return "capture", self.capture.view

    def closing(self) -> None:
        if "capture" in self.__dict__:
            self.capture.wait()

    def current_widget(self) -> QWidget | None:
        """The field in which the next reading is typed."""
        return self.rows[self.slot.position].field if self.slot else None
