"""Readings: the present point in large digits, an entry per instrument in reading order, the needle's echo.

Entries are never refused: Enter keeps the raw text. Draft and error follow each keystroke; notes come when an entry
is kept, or after a rest, so that the first digit of a number raises no alarm.
"""

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QHideEvent, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fenmist.desk.filing import CAPTURES, Opening, Printing, Saving, either
from fenmist.desk.keypad import AFTER_COMMAND
from fenmist.desk.listening import listen_while_alive
from fenmist.desk.steps.step import Step
from fenmist.desk.theme import ThemeHolder, px
from fenmist.desk.widgets.below import Below
from fenmist.desk.widgets.echo import Echo
from fenmist.desk.widgets.entry import EntryRow
from fenmist.desk.widgets.labels import as_html, clear_layout, hairline, label, set_state, set_text
from fenmist.desk.widgets.pages import Columns
from fenmist.desk.widgets.phases import Phases
from fenmist.desk.widgets.running import Running
from fenmist.errors import FenmistError
from fenmist.findings.note import Note, Severity
from fenmist.reading.event import Slot
from fenmist.reports.fonts import SANS_FAMILY
from fenmist.session.openjob import OpenJob
from fenmist.session.present import entry_text, origin_text, rounds_text
from fenmist.session.run import Run
from fenmist.session.session import Session
from fenmist.session.sheets import sheet_pages
from fenmist.session.steering import COMMANDS, after
from fenmist.session.view import View
from fenmist.units.display import THIN, frequency, plain
from fenmist.units.unit import UNITS

if TYPE_CHECKING:
    from fenmist.session.autorun import AutoRun
    from fenmist.session.captures import OpenedCapture

NO_BREAK = "\u00a0"
"""A space that rich text doesn't break at, as it does at a thin one."""

REST_MS = 600
"""Rest after the last key before a draft's notes are shown."""


class ReadingsStep(Step):
    """The run."""

    where = "readings"

    def __init__(self, session: Session, job: OpenJob, themes: ThemeHolder) -> None:
        super().__init__(session, job, themes)
        self.phases = Phases(job)
        self.run = Run(job)
        self._keeping = False
        self._by_wire: AutoRun | None = None  # the run that was under way when instruments were last heard of
        self.rows: dict[int, EntryRow] = {}
        self._instruments: tuple[tuple[str, str, bool], ...] = ()
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
        self.wire = label("", "live", "the run by wire", wrap=True)
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
        self.body.addWidget(self.wire)
        listen_while_alive(self, session.wires.changed, self._show_wires)
        self._clock = QTimer(self)
        self._clock.setInterval(1000)
        self._clock.timeout.connect(self._tick)

        self._entries = QVBoxLayout()
        self._entries.setSpacing(0)
        self.former = label("", "second", wrap=True)
        self.running = Running()
        self.hint = label("", "second", wrap=True)
        left = QVBoxLayout()
        left.setSpacing(6)
        left.addLayout(self._entries)
        left.addWidget(self.former)
        left.addSpacing(10)
        left.addWidget(self.running)
        left.addWidget(self.hint)
        left.addStretch(1)
        self.echo = Echo(self.run, themes)
        self.echo.dragged.connect(self._on_dragged)
        middle = Columns()
        middle.setSpacing(20)
        middle.addLayout(left, 9)
        right = QVBoxLayout()
        right.setSpacing(8)
        self.order = label("", "second", "in this order", wrap=True)
        self.order.setTextFormat(Qt.TextFormat.RichText)
        right.addWidget(self.order)
        right.addWidget(self.echo, 1)
        middle.addLayout(right, 5)
        self.body.addLayout(middle, 1)
        self.below = Below(themes)
        self.below.taken.connect(self._on_capture_taken)
        self.below.left.connect(self._focus_slot)
        self.body.addWidget(self.below)
        self.setAcceptDrops(True)
        self.run.settle()
        self.running.show_point(job.view, self.run.point, kept=True)  # before it is styled the first time

    # showing

    def headline_text(self, view: View) -> str:
        return str(view.procedure.readings_headline(view.job, view.at_once, self.run.point))

    def refresh(self) -> None:
        if self._keeping:
            return  # what follows an entry is shown once the next slot is known
        view, before = self.job.view, self.run.slot
        self.run.settle()
        self.shown = self.run.point.hookup if self.run.point else ""
        super().refresh()
        self.paper.setVisible(self.job.from_paper)
        self.wire.setVisible(bool(self.wire.text()))
        self.phases.refresh()
        self._show_point(view)
        self._show_order(view)
        self.point_shown.emit()
        self._show_rows(view)
        self.running.show_point(view, self.run.point, kept=True)
        self._show_below()
        if before is not None and self.run.slot is not None and before != self.run.slot:
            self._be_fresh()  # another reading is in hand: what is typed next goes where the run stands
            if self.isVisible():
                self._focus_slot()

    def caught_up(self, view: View) -> None:
        if self.run.draft is None:
            self.running.show_point(view, self.run.point, kept=True)
        if self.run.slot is not None:
            self.job.get_ready(self.run.slot)

    @property
    def slot_in_hand(self) -> Slot | None:
        return self.run.slot

    @property
    def point_in_hand(self) -> str:
        return self.run.slot.point if self.run.slot else ""

    @property
    def place(self) -> tuple[tuple[str, int, int, str] | None, str]:
        if self.run.slot is None:
            return None, ""
        row = self.rows.get(self.run.slot.position)
        draft = row.field.text() if row is not None and not row.field.fresh else ""
        return (self.run.slot.point, self.run.slot.round, self.run.slot.position, self.run.slot.phase), draft

    def resume(self, slot: tuple[str, int, int, str] | None, draft: str) -> None:
        wanted = Slot(*slot) if slot else None
        if wanted is None or wanted.phase != self.job.view.phase or wanted not in self.job.view.order:
            return
        self._go(wanted)
        if draft:
            self._type(wanted.position, draft)

    def enter(self) -> None:
        self._focus_slot()

    def _show_point(self, view: View) -> None:
        point = self.run.point
        if point is None or self.run.slot is None:
            set_text(self.point, "")
            return
        place = 1 + view.job.place_of(point.id)
        words = (
            *([f"PEP of {point.waveform}"] if point.waveform else []),
            *([point.leg] if point.leg else []),
            *([f"range {point.range_id}"] if point.range_id else []),
            f"round {self.run.slot.round} of {point.repeats}",
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
        rest = as_html(" · ".join(words))
        small = f"<span style='font-family:{SANS_FAMILY}; font-size:{px(12)}px; color:{second}'>&nbsp; {rest}</span>"
        set_text(self.point, large + small)
        self.point.setAccessibleName(", ".join((*shown, *words)))

    def _show_order(self, view: View) -> None:
        """What is done one after the other at the point in hand, where reading isn't all."""
        wanted = view.procedure.order
        lines = wanted(view.at_once, self.run.point.id) if wanted is not None and self.run.point is not None else ()
        gap = f"<p style='margin:0 0 {px(6)}px 0'>"
        set_text(
            self.order,
            "".join(f"{gap}{n}. {as_html(line).replace(THIN, NO_BREAK)}</p>" for n, line in enumerate(lines, start=1)),
        )
        self.order.setVisible(bool(lines))

    def _show_rows(self, view: View) -> None:
        point = self.run.point
        sequence = point.sequence if point else ()
        read = tuple(self._instrument(role) for role in sequence)
        if read != self._instruments:
            self._make_rows(read)
        if point is None or self.run.slot is None:
            return
        for position, row in self.rows.items():
            slot = self.run.at(position)
            event = view.standing.get(slot)
            entry = event.entry if event else None
            text = entry.raw_text if entry else ""
            beside = entry_text(view, entry) if entry else self._live(position)
            row.show_entry(text, bool(entry and entry.reading is None), beside)
            row.beside.setToolTip(origin_text(entry))
        set_text(self.former, rounds_text(view, point, self.run.slot.round))
        self.echo.follow(view)

    def _live(self, position: int) -> str:
        """What the wire says of a channel that isn't read yet."""
        point, wires = self.run.point, self.session.wires
        who = wires.reads(self.job.job, point.sequence[position]) if point is not None else None
        return f"R reads · {wires.live(who[0].id).text(self.session.now())}" if who is not None else ""

    def _show_wires(self) -> None:
        """What instruments say now, and how far the run by wire is."""
        wires, view = self.session.wires, self.job.view
        former, run = self._by_wire, wires.run
        self._by_wire = run
        if former is not None and run is None:
            self.go_on_from(former.slot)
        if run is not None and run.slot != self.run.slot and view.job.has_point(run.slot.point):
            self._go(run.slot)
        said = wires.said
        if run is not None and said:
            way = "it is so, go on" if run.waits_for_hands else "stop; again: on from there"
            said = f"● by wire, {run.progress}: {said}  (Ctrl+R: {way})"
        set_text(self.wire, said)
        self._tick()
        self.wire.setVisible(bool(said))
        if self.run.slot is not None:
            for position, row in self.rows.items():
                if self.run.at(position) not in view.standing and row.field.fresh:
                    set_text(row.beside, self._live(position))
        self.line.show_live(self.session.wires, self.session.now())

    def go_to_point(self, point_id: str) -> None:
        self._go(Slot(point_id, 1, 0, self.job.view.phase))

    def go_on_from(self, slot: Slot) -> None:
        if slot in self.job.view.standing and self.run.slot == slot:
            self._go(after(self.job, slot))

    def _instrument(self, channel: str) -> tuple[str, str, bool]:
        """Name and unit of what is read in a channel, and whether that can have a sign; of a part that shows several
        things, what of it.
        """
        job = self.job.job
        part, shows = job.part_read(channel), job.indicator(channel)
        of_part = sum(job.part_read(name).id == part.id for name in dict.fromkeys(self._sequence(channel)))
        name = f"{part.label}, {shows.label}" if of_part > 1 else part.label
        return name, shows.unit, shows.can_be_negative or UNITS[shows.unit].decibel

    def _sequence(self, channel: str) -> tuple[str, ...]:
        """What is read together with a channel: the round in hand, else all of its hook-up."""
        point, job = self.run.point, self.job.job
        if point is not None and channel in point.sequence:
            return point.sequence
        return job.order_on(job.channel(channel).hookup)

    def _make_rows(self, instruments: tuple[tuple[str, str, bool], ...]) -> None:
        self._instruments = instruments
        clear_layout(self._entries)
        self.rows = {}
        for position, (name, unit, is_signed) in enumerate(instruments):
            row = EntryRow(name, unit, self.themes.keypad, is_signed=is_signed)
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
                if row.field is watched and self.run.slot is not None and self.run.slot.position != position:
                    self.run.slot = self.run.at(position)
        return False

    def _tick(self) -> None:
        """The key-down clock and the load's heat, once a second and whenever something was typed."""
        warm = self.job.warmth(self.run.slot)
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

    def _show_below(self) -> None:
        names = {item.id: self._instrument(item.id)[0] for item in self.job.job.channels}
        self.below.follow(self.job.view, self.point_in_hand, names, lambda: self.run.drafted)

    # typing

    def _on_edited(self, position: int, text: str) -> None:
        self.typed.emit()
        if self.run.slot is None or not text.strip() or text == self.themes.keypad.command:
            self._show_commands(text == self.themes.keypad.command)
            self._drop_draft()
            return
        found, is_first = self.run.type(position, text)
        if is_first:
            QTimer.singleShot(0, self._tick)
        meant = f" · most likely {found.likeliest_text}" if found.likeliest_text else ""
        set_text(self.rows[position].beside, "" if found.reading else f"not read yet{meant}")
        shown = self.run.draft or self.job.view
        self.echo.follow(shown)
        self.running.show_point(shown, self.run.point, kept=False)
        self._show_below()
        self._rest.start()

    def _show_commands(self, wanted: bool) -> None:
        """What may follow the command key."""
        if wanted:
            choices = (f"{digit} {said}".replace(" ", "\u00a0") for digit, (_, said) in AFTER_COMMAND.items())
            set_text(self.hint, "  ".join(choices))

    def _drop_draft(self) -> None:
        self.run.draft = None
        self._rest.stop()
        self.echo.follow(self.job.view)
        self.running.show_point(self.job.view, self.run.point, kept=True)

    def _on_rest(self) -> None:
        draft = self.run.whole_draft()
        if draft is not None:
            self.draft_rested.emit(draft.notes)
            set_text(self.headline, self.headline_text(draft))
            self._show_alarm(draft.notes)

    def _show_alarm(self, notes: tuple[Note, ...]) -> None:
        """Frame of the large digits, by shape: eyes are on the dial."""
        if self.run.slot is None:
            return
        place = self.run.slot.place
        worst = next((note for note in notes if note.about == place and note.severity is Severity.DOUBT), None)
        set_state(self.rows[self.run.slot.position].field, alarm="doubt" if worst else "none")
        set_text(self.hint, f"▲ doubt: {worst.what}" if worst else "")

    def _on_committed(self, position: int, text: str) -> None:
        if self.run.slot is None:
            return
        field = self.rows[position].field
        slot = self.run.at(position)
        if text.strip() and not field.fresh:
            self._keeping = True
            try:
                self.run.keep(position, text)
            finally:
                self._keeping = False
            # only what is kept stops being a draft: when it can't be written the text stays to be kept again
            field.fresh = True
            field.setModified(False)
            self._rest.stop()
            self._show_alarm(self.job.view.notes_near(slot.point))
        self._go(after(self.job, slot))

    def _on_steered(self, position: int, what: str) -> None:
        if self.run.slot is None:
            return
        slot = self.run.at(position)
        if what.startswith("nudge"):
            self._nudge(position, int(what.split()[1]))
        elif what == "carrier":
            self.job.switch_carrier(slot)
            self._tick()
        elif what.startswith("wire"):
            self.run.slot = slot
            self.wire_wanted.emit(what.removeprefix("wire "))
        else:
            self._steer(what, slot)

    def _steer(self, what: str, slot: Slot) -> None:
        try:
            self._go(COMMANDS[what](self.job, slot))
            set_text(self.hint, "")
        except FenmistError as error:
            set_text(self.hint, str(error))

    def _nudge(self, position: int, steps: int) -> None:
        text = self.echo.nudged(steps) if self.echo.place == position else None
        if text is not None:
            self._type(position, text)

    def _on_dragged(self, position: int, text: str) -> None:
        self._type(position, text)

    def _type(self, position: int, text: str) -> None:
        field = self.rows[position].field
        field.setFocus()
        field.fresh = False
        field.setText(text)
        self._on_edited(position, text)

    # moving

    def _go(self, slot: Slot) -> None:
        self.run.go(slot)
        self._be_fresh()
        self.refresh()
        self._focus_slot()

    def _be_fresh(self) -> None:
        """Nothing is being typed in any field."""
        for row in self.rows.values():
            row.field.fresh = True
            set_state(row.field, alarm="none")

    def _focus_slot(self) -> None:
        if self.run.slot is not None and self.run.slot.position in self.rows:
            field = self.rows[self.run.slot.position].field
            field.setFocus()
            field.selectAll()

    def toggle_series(self) -> None:
        """Power against time in place of the errors, or back."""
        if self.below.shows_series:
            self.below.show_chart()
            return
        self.below.setCurrentWidget(self.below.series)
        self._show_below()
        self._focus_slot()

    # a capture as the entry

    def open_capture(self, path: Path | None = None) -> None:
        """Show the capture panel for the oscilloscope's entry, with a file where one was dropped."""
        point = self.run.point
        if point is None or self.run.slot is None:
            return
        if not self.run.takes_capture(self.run.slot.position):
            self.run.slot = self.run.at(self.run.first(self.run.takes_capture))
        self.below.capture.expect(point.frequency_hz)
        self.below.setCurrentWidget(self.below.capture)
        event = self.job.view.standing.get(self.run.slot)
        if path is not None:
            self.below.capture.open_file(path)
        elif event is not None and event.entry is not None and event.entry.attached:
            self.below.capture.show_kept(self.job.attached_capture(event.entry))
        else:
            self.below.capture.path.setFocus()

    def _on_capture_taken(self, opened: "OpenedCapture") -> None:
        if self.run.slot is None:
            return
        slot = self.run.slot
        self.job.enter_trace(slot, opened.source, opened.channel)
        self.below.show_chart()
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
    def opening(self) -> Opening:
        return Opening("Open a capture", "Captures", CAPTURES, self.open_capture)

    @property
    def drawing(self) -> tuple[str, QWidget] | None:
        return self.below.drawing

    @property
    def saving(self) -> Saving:
        drawing = super().saving
        return self.saving_tables if drawing is None else either(drawing, self.saving_tables)

    @property
    def printing(self) -> Printing:
        from fenmist.session.benchpaper import tables_of  # on first use

        paper = self.session.setting("paper")
        return Printing("reading table", paper, sheet_pages(tables_of(self.job.view), paper))

    def closing(self) -> None:
        self.below.wait()

    def current_widget(self) -> QWidget | None:
        """The field in which the next reading is typed."""
        return self.rows[self.run.slot.position].field if self.run.slot else None
