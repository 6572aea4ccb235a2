"""Instruments on wires: who is there, which part of the kit it is, what it says now, and every word on its wire."""

from pathlib import Path

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QHideEvent, QKeyEvent, QShowEvent
from PySide6.QtWidgets import QApplication, QCheckBox, QComboBox, QHBoxLayout, QPlainTextEdit, QVBoxLayout, QWidget

from fenmist.desk.filing import Files, Opening, Saving
from fenmist.desk.listening import listen_while_alive
from fenmist.desk.theme import ThemeHolder, px
from fenmist.desk.widgets.choosing import Choosing
from fenmist.desk.widgets.dialogs import ask_to_save
from fenmist.desk.widgets.grid import Grid
from fenmist.desk.widgets.labels import button, label, set_text
from fenmist.desk.widgets.line_edit import LineEdit
from fenmist.desk.widgets.line_view import LineView
from fenmist.desk.widgets.pages import Columns
from fenmist.desk.wiring import Wiring
from fenmist.errors import FenmistError
from fenmist.files.whole import write_whole
from fenmist.instruments.address import address
from fenmist.instruments.instrument import Reflection
from fenmist.instruments.trouble import Trouble
from fenmist.session.session import Session
from fenmist.session.wires import Attached, span_from_text

FIND_OUT, NO_PART, OF_JOB = "find out by itself", "no part of the kit", "the job on the bench"

LOG_MS = 500
"""Between two looks at the log of a wire."""


class InstrumentsPlace(Files, QWidget):
    """The list at the left, the wire log of the chosen one at the right."""

    where = "instruments"
    did = Signal(str)  # what was done, for the foot

    def __init__(self, session: Session, wiring: Wiring, themes: ThemeHolder) -> None:
        super().__init__()
        self.setObjectName("ground")
        self._session, self._wires, self._wiring = session, session.wires, wiring
        self._rows: tuple[Attached, ...] = ()
        self.headline = label("", "headline", wrap=True)
        self.line = LineView(themes, slim=True)
        self.table = Table(("instrument", "it says", "driver", "address"), 0, "instruments on wires", grows=False)
        self.table.row_opened.connect(self._identify)
        self.table.row_chosen.connect(lambda _: self._show_log())
        self.table.detach_wanted.connect(self.detach)
        self.address = LineEdit()
        self.address.setAccessibleName("address of an instrument")
        self.address.setPlaceholderText("192.168.0.9:5025, /dev/ttyUSB0@9600, USB0::…::INSTR")
        self.address.returnPressed.connect(self.attach)
        self.driver = _choice("driver", px(170))
        self.part = _choice("which part of the kit it is", px(170))
        self.attach_button = button("Attach", "do", "attach the instrument at this address")
        self.attach_button.clicked.connect(self.attach)
        self.is_part = Choosing()
        self.is_part.setAccessibleName("the chosen one is")
        self.is_part.textActivated.connect(self._assign)
        self.identify_button = button("Ask who it is", "do")
        self.identify_button.clicked.connect(lambda: self._identify(self.table.currentRow()))
        self.detach_button = button("Detach", "do")
        self.detach_button.clicked.connect(self.detach)
        self.scene = _choice("simulated bench", px(170))
        self.scene.textActivated.connect(lambda _: self._show_title())
        self.title = label("", "second", "what stands there", wrap=True)
        self._titles: dict[str, str] = {}
        self.seed = LineEdit("1")
        self.seed.setAccessibleName("number that the simulated bench is made from")
        self.seed.setFixedWidth(px(56))
        self.bench_button = button("Start a simulated bench", "do")
        self.bench_button.clicked.connect(self.toggle_bench)
        self.watching = QCheckBox("keep watching on the bench")
        self.watching.setToolTip("Instruments are asked once a second there, too: some then don't obey their own knobs")
        self.watching.toggled.connect(self._on_watching)
        self.log = QPlainTextEdit()
        self.log.setReadOnly(True)
        self.log.setAccessibleName("what was said on the wire")
        self.log.setProperty("role", "log")
        self.log.setTabChangesFocus(True)
        self.copy_button = button("Copy the log", "do")
        self.copy_button.clicked.connect(self.copy_log)
        self.sweep_button = button("Save a sweep", "do", "save the analyser's sweep as a Touchstone file")
        self.sweep_button.clicked.connect(lambda: ask_to_save(self, self.sweeping))
        self.sweep_button.hide()
        self.span = LineEdit("1 to 60 MHz, 201")
        self.span.setAccessibleName("span and points of the sweep")
        self.span.hide()
        self.said = label("", "problem", wrap=True)
        self._clock = QTimer(self)
        self._clock.setInterval(LOG_MS)
        self._clock.timeout.connect(self._show_log)
        self._lay_out()
        listen_while_alive(self, self._wires.changed, self.refresh)

    def _lay_out(self) -> None:
        add = Columns()
        add.setSpacing(10)
        add.addWidget(self.address, 1)
        add.addWidget(self.driver)
        add.addWidget(self.part)
        add.addWidget(self.attach_button)
        chosen = QHBoxLayout()
        chosen.setSpacing(10)
        chosen.addWidget(label("the chosen one is", "second"))
        chosen.addWidget(self.is_part, 1)
        chosen.addWidget(self.identify_button)
        chosen.addWidget(self.detach_button)
        chosen.addWidget(self.span)
        chosen.addWidget(self.sweep_button)
        bench = QHBoxLayout()
        bench.setSpacing(10)
        bench.addWidget(label("no instrument at hand?", "second"))
        bench.addWidget(self.scene)
        bench.addWidget(label("number", "second"))
        bench.addWidget(self.seed)
        bench.addWidget(self.bench_button)
        bench.addStretch(1)
        left = QVBoxLayout()
        left.setSpacing(12)
        left.addLayout(add)
        left.addWidget(self.said)  # where one looks while typing
        left.addWidget(self.table, 1)
        left.addLayout(chosen)
        left.addWidget(self.watching)
        left.addLayout(bench)
        left.addWidget(self.title)
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addWidget(label("what was said on its wire", "section"))
        right.addWidget(self.log, 1)
        row = QHBoxLayout()
        row.addWidget(self.copy_button)
        row.addStretch(1)
        right.addLayout(row)
        both = Columns()
        both.setSpacing(24)
        both.addLayout(left, 11)
        both.addLayout(right, 7)
        box = QVBoxLayout(self)
        box.setContentsMargins(40, 24, 40, 16)
        box.setSpacing(12)
        box.addWidget(self.headline)
        box.addWidget(self.line)
        box.addLayout(both, 1)

    # showing

    def enter(self) -> None:
        """The place comes to the front."""
        self._offer()
        self.refresh()
        (self.table if self._rows else self.address).setFocus()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._clock.start()
        self._wiring.watch(True)

    def hideEvent(self, event: QHideEvent) -> None:
        self._clock.stop()
        self._wiring.watch(self._wires.keeps_watching)
        super().hideEvent(event)

    def _offer(self) -> None:
        """What can be chosen: drivers, parts, benches."""
        from fenmist.simulation.scenarios import SCENARIOS

        found = self._wires.drivers
        _fill(self.driver, [FIND_OUT, *found.drivers])
        names = [part.label for part in self._session.kit if part.indicators or part.kind.value in _SENDERS]
        _fill(self.part, [NO_PART, *names])
        _fill(self.is_part, [NO_PART, *names])
        job = [OF_JOB] if self._session.open_job is not None else []
        is_new = bool(job) and self.scene.findText(OF_JOB) < 0
        _fill(self.scene, [*job, *(item.name for item in SCENARIOS)])
        self._titles = {item.name: item.title for item in SCENARIOS}
        if is_new:
            self.scene.setCurrentText(OF_JOB)
        self._show_title()
        if found.wrong:
            set_text(self.said, " ".join(str(error) for error in found.wrong))

    def _show_title(self) -> None:
        set_text(self.title, self._titles.get(self.scene.currentText(), "What this job's bench is made of."))

    def refresh(self) -> None:
        """Show them as they are."""
        now, wires = self._session.now(), self._wires
        self._rows = wires.attached
        self.table.fill([self._row(item) for item in self._rows])
        if self._rows and self.table.currentRow() < 0:
            self.table.setCurrentCell(0, 0)
        job = self._session.open_job
        self.line.setVisible(job is not None)
        if job is not None:
            self.line.show_job(job.job, job.hookup_shown)
            self.line.show_live(wires, now)
        set_text(self.headline, self._headline())
        for item in (self.identify_button, self.detach_button, self.is_part, self.copy_button):
            item.setEnabled(bool(self._rows))
        self.watching.setChecked(wires.keeps_watching)
        self.bench_button.setText("Stop it" if self._wiring.bench_runs else "Start a simulated bench")
        chosen = self._chosen()
        self.is_part.setCurrentText(self._part_label(chosen.part) or NO_PART if chosen else NO_PART)

    def _row(self, item: Attached) -> tuple[str, ...]:
        driver = self._wires.driver_of(item)
        name = self._part_label(item.part) or self._wires.live(item.id).name or "not part of the kit"
        simulated = ", simulated" if item.is_simulated else ""
        said = self._wires.live(item.id).text(self._session.now())
        return name, said, driver.title if driver else f"▲ {item.driver} is gone", f"{_address(item)}{simulated}"

    def _part_label(self, part: str) -> str:
        return next((item.label for item in self._session.kit if item.id == part), "")

    def _headline(self) -> str:
        wires = self._wires
        if not wires.attached:
            return "No instrument is on a wire. Type an address, or start a simulated bench."
        lost = [item for item in wires.attached if wires.live(item.id).trouble is not None]
        here = [item for item in wires.attached if wires.live(item.id).has_answered and item not in lost]
        job = self._session.open_job
        used = sum(any(part.id == item.part for part in job.job.kit) for item in here) if job is not None else 0
        count = len(wires.attached)
        said = f"{len(here)} of {count} instruments answer" if count > 1 else f"{len(here) or 'No'} instrument answers"
        said = f"All {count} instruments answer" if len(here) == count > 1 else said
        beside = f", {used} of them on this job's bench" if used else ""
        if not lost:
            return f"{said}{beside}."
        first = lost[0]
        trouble = wires.live(first.id).trouble
        name = self._part_label(first.part) or _address(first)
        return f"{said}{beside}. {name}: {trouble.what if trouble else ''}"

    def _chosen(self) -> Attached | None:
        row = self.table.currentRow()
        return self._rows[row] if 0 <= row < len(self._rows) else None

    def _show_log(self) -> None:
        chosen = self._chosen()
        lines = "\n".join(self._wires.log(chosen.id)) if chosen else ""
        if lines != self.log.toPlainText():
            at_end = self.log.verticalScrollBar().value() >= self.log.verticalScrollBar().maximum() - 2
            self.log.setPlainText(lines)
            if at_end:
                self.log.verticalScrollBar().setValue(self.log.verticalScrollBar().maximum())
        driver = self._wires.driver_of(chosen) if chosen else None
        for item in (self.span, self.sweep_button):
            item.setVisible(driver is not None and driver.sweep is not None)
        if chosen is not None and not self.is_part.hasFocus():
            self.is_part.setCurrentText(self._part_label(chosen.part) or NO_PART)

    # doing

    def attach(self) -> None:
        """Attach what is at the address; without a driver, ask first who it is."""
        text, driver = self.address.text(), self.driver.currentText()
        if driver != FIND_OUT:
            self._add(text, driver)
            return
        try:
            address(text)
        except FenmistError as error:
            set_text(self.said, str(error))
            return
        set_text(self.said, "Asking who is there …")
        self._wiring.recognise(text, lambda found: self._recognised(text, found))

    def _recognised(self, text: str, found: "str | Trouble") -> None:
        if isinstance(found, Trouble):
            set_text(self.said, f"{found} Or choose its driver.")
        else:
            self._add(text, found)

    def _add(self, text: str, driver: str) -> None:
        label_ = self.part.currentText()
        part = next((item.id for item in self._session.kit if item.label == label_), "")
        try:
            made = self._wires.add(text, driver, part)
        except FenmistError as error:
            set_text(self.said, str(error))
            return
        set_text(self.said, "")
        self.address.clear()
        self.table.setCurrentCell(len(self._rows) - 1, 0)
        self._wiring.identify(made.id)
        self.did.emit("attached")

    def detach(self) -> None:
        """Detach the chosen one."""
        chosen = self._chosen()
        if chosen is not None:
            self._wires.remove(chosen.id)
            self.did.emit("detached")

    def _identify(self, row: int) -> None:
        if 0 <= row < len(self._rows):
            self._wiring.identify(self._rows[row].id)

    def _assign(self, text: str) -> None:
        chosen = self._chosen()
        if chosen is not None:
            part = next((item.id for item in self._session.kit if item.label == text), "")
            self._wires.assign(chosen.id, part)

    def _on_watching(self, on: bool) -> None:
        self._wires.keeps_watching = on

    def toggle_bench(self) -> None:
        """Start the simulated bench that is chosen, or stop the one that runs."""
        if self._wiring.bench_runs:
            self._wiring.stop_bench()
            self.refresh()
            return
        seed = self.seed.text().strip()
        if not seed.isdecimal():
            set_text(self.said, f"“{seed}” is no number to make a bench from. Type a whole one.")
            return
        set_text(self.said, "")
        chosen, job = self.scene.currentText(), self._session.open_job
        if chosen == OF_JOB and job is not None:
            self._wiring.start_bench_of(job, int(seed))
        else:
            self._wiring.start_bench(chosen, int(seed))
        self._wires.keeps_watching = True
        self.refresh()

    # a sweep

    @property
    def sweeping(self) -> Saving:
        """Where the chosen analyser's sweep goes."""
        return Saving("Save the sweep", Path.home() / "sweep.s1p", (".s1p",), self.sweep)

    def sweep(self, path: Path) -> None:
        """Fetch the chosen analyser's sweep and write it as a Touchstone file."""
        chosen = self._chosen()
        try:
            low, high, points = span_from_text(self.span.text())
        except FenmistError as error:
            set_text(self.said, str(error))
            return
        if chosen is None:
            return
        name = self._part_label(chosen.part) or "analyser"

        def take(came: object) -> None:
            if isinstance(came, Reflection):
                write_whole(path, lambda: came.touchstone(name).encode())
                self.did.emit(f"saved as {path.name}")
            elif isinstance(came, Trouble):
                set_text(self.said, str(came))

        set_text(self.said, "")
        self._wiring.ask(chosen.id, lambda instrument: instrument.sweep(low, high, points), take)

    # the log, and drivers as files

    def copy_log(self) -> None:
        """Put the log of the chosen wire on the clipboard."""
        QApplication.clipboard().setText(self.log.toPlainText())
        self.did.emit("wire log copied")

    @property
    def saving(self) -> Saving:
        return Saving("Save the wire log", Path.home() / "wire log.txt", (".txt",), self._save_log)

    def _save_log(self, path: Path) -> None:
        write_whole(path, lambda: self.log.toPlainText().encode())
        self.did.emit(f"saved as {path.name}")

    @property
    def opening(self) -> Opening:
        return Opening("Take in a driver", "Drivers", (".toml",), self.take_driver)

    def take_driver(self, path: Path) -> None:
        """Check a driver's file and keep it with the workshop's own; raises FileFormatError with line and reason."""
        self._wires.keep_driver(path)
        self._offer()
        self.did.emit(f"driver {path.stem} kept")


class Table(Grid):
    """Enter asks who it is, Del detaches."""

    detach_wanted = Signal()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Delete:
            self.detach_wanted.emit()
        else:
            super().keyPressEvent(event)


def _address(item: Attached) -> str:
    """Where it is, as people write it."""
    return item.address.removeprefix("TCPIP::").removesuffix("::SOCKET").replace("::", ":")


_SENDERS = ("transmitter", "signal generator")


def _choice(name: str, width: int) -> QComboBox:
    made = QComboBox()
    made.setAccessibleName(name)
    made.setFixedWidth(width)
    return made


def _fill(field: QComboBox, texts: list[str]) -> None:
    """Offer these; what is chosen stays where it is among them."""
    if [field.itemText(n) for n in range(field.count())] != texts:
        here = field.currentText()
        field.clear()
        field.addItems(texts)
        field.setCurrentText(here if here in texts else texts[0])
