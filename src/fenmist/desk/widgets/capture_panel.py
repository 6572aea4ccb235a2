"""A capture beside the run: file, channel, the trace with its fit, what it says, and the key that takes it.

Never a dialog: the run goes on behind it. The file is read and worked out by the job runner.
"""

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFormLayout,
    QGridLayout,
    QHBoxLayout,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from fenmist.desk.filing import CAPTURES, Opening
from fenmist.desk.runner import JobRunner
from fenmist.desk.theme import ThemeHolder
from fenmist.desk.widgets.busy import Busy
from fenmist.desk.widgets.dialogs import ask_to_open
from fenmist.desk.widgets.labels import button, clear_layout, label, set_text
from fenmist.desk.widgets.line_edit import LineEdit
from fenmist.desk.widgets.trace_view import TraceView
from fenmist.errors import FenmistError
from fenmist.session.captures import CaptureRequest, CaptureSource, OpenedCapture, opened
from fenmist.session.present import trace_facts

READING = "reading…"
"""Shown while a file is read."""


class CapturePanel(QWidget):
    """Opens a capture and offers its reading."""

    taken = Signal(object)  # the opened capture
    closed = Signal()

    def __init__(self, themes: ThemeHolder) -> None:
        super().__init__()
        self.opened: OpenedCapture | None = None
        self._expected_hz: float | None = None
        self._runner = JobRunner(self)
        self._runner.answered.connect(self._on_opened)
        self._runner.refused.connect(self._on_refused)
        self.path = self._line("file of the capture", "drop a file here, or type its name")
        self.step = self._line("time step", "4 ns, where the file doesn't say it")
        self.count = self._line("volts per count", "4 mV, where it holds counts")
        self.channel = QComboBox()
        self.channel.setAccessibleName("channel")
        self.channel.textActivated.connect(self._on_channel)
        self.browse = button("choose…", "link", "choose a file")
        self.browse.clicked.connect(self._on_browse)
        self.take = button("take the fitted value", "do")
        self.take.clicked.connect(self._on_take)
        self.close_button = button("close", "link", "close the capture")
        self.close_button.clicked.connect(self.closed)
        self.said = label("", "problem", wrap=True)
        self.remark = label("", "second", wrap=True)
        for shown in (self.said, self.remark):  # a long sentence must not widen the window
            shown.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.view = TraceView(themes)
        self._facts = QGridLayout()
        self._lay_out()
        self._show()

    def _line(self, name: str, example: str) -> LineEdit:
        made = LineEdit()
        made.setAccessibleName(name)
        made.setPlaceholderText(example)
        made.returnPressed.connect(self._on_typed)
        return made

    def _lay_out(self) -> None:
        form = self._form = QFormLayout()
        form.setHorizontalSpacing(12)
        form.setVerticalSpacing(4)
        row = QHBoxLayout()
        row.addWidget(self.path, 1)
        row.setSpacing(8)
        row.addWidget(self.browse)
        form.addRow(label("capture", "second"), row)
        form.addRow(label("channel", "second"), self.channel)
        form.addRow(label("time step", "second"), self.step)
        form.addRow(label("per count", "second"), self.count)
        self._ask_for(None)
        keys = QHBoxLayout()
        keys.addWidget(self.take)
        keys.addSpacing(14)
        keys.addWidget(self.close_button)
        keys.addStretch(1)
        left = QVBoxLayout()
        left.addLayout(form)
        left.addWidget(self.said)
        left.addWidget(self.remark)
        left.addWidget(Busy(self._runner, "reading the capture"))
        left.addStretch(1)
        left.addLayout(keys)
        self._facts.setHorizontalSpacing(10)
        self._facts.setVerticalSpacing(2)
        right = QVBoxLayout()
        right.addLayout(self._facts)
        right.addStretch(1)
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(18)
        box.addLayout(left, 5)
        box.addWidget(self.view, 6)
        box.addLayout(right, 4)

    def expect(self, frequency_hz: float | None) -> None:
        """The carrier's planned frequency; a capture in hand is looked at again."""
        if frequency_hz != self._expected_hz:
            self._expected_hz = frequency_hz
            if self.opened is not None:
                self._on_opened(self.opened.on(self.opened.channel, frequency_hz))

    def open_file(self, path: Path) -> None:
        """Read a file: dropped, chosen or typed."""
        self.path.setText(str(path))
        self.path.setModified(False)
        self.path.setCursorPosition(0)
        set_text(self.said, "")
        set_text(self.remark, READING)
        self._runner.start(CaptureRequest(path, self.step.text().strip(), self.count.text().strip(), self._expected_hz))

    def show_kept(self, source: CaptureSource) -> None:
        """Show a capture that the logbook holds."""
        self.path.setText(f"{source.name}, kept in the logbook")
        self.path.setCursorPosition(0)
        self._on_opened(opened(source, expected_hz=self._expected_hz))

    def wait(self) -> None:
        """End what still runs."""
        self._runner.wait()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.closed.emit()
        else:
            super().keyPressEvent(event)

    def _on_typed(self) -> None:
        if self.path.text().strip():
            self.open_file(Path(self.path.text().strip()).expanduser())

    def _on_browse(self) -> None:
        ask_to_open(self, Opening("Open a capture", "Captures", CAPTURES, self.open_file))

    def _on_channel(self, name: str) -> None:
        if self.opened is not None:
            self._on_opened(self.opened.on(name, self._expected_hz))

    def _on_opened(self, found: OpenedCapture) -> None:
        self.opened = found
        notes = found.trace.notes if found.trace else ()
        said = "  ".join(f"{note.what} {note.remedy}" for note in notes[:2])
        usable = bool(found.trace and found.trace.usable)
        set_text(self.said, found.problem or ("" if usable else said))
        taken = "; ".join(found.source.capture.assumed)
        set_text(self.remark, said if usable and said else f"Taken: {taken}." if taken else "")
        self._show()
        self.take.setFocus()

    def _on_refused(self, error: FenmistError) -> None:
        self.opened = None
        set_text(self.said, str(error))
        set_text(self.remark, "")
        self._show()
        asked = self.step if "time step" in str(error) else self.count if "count" in str(error) else None
        self._ask_for(asked)
        (asked or self.path).setFocus()

    def _ask_for(self, field: LineEdit | None) -> None:
        """Show a field for what the file doesn't say; one that holds something stays."""
        for made in (self.step, self.count):
            self._form.setRowVisible(made, made is field or bool(made.text().strip()))

    def _show(self) -> None:
        found = self.opened
        names = [item.name for item in found.source.capture.channels] if found else []
        if names != [self.channel.itemText(n) for n in range(self.channel.count())]:
            self.channel.clear()
            self.channel.addItems(names)
        if found is not None:
            self.channel.setCurrentText(found.channel)
        self.view.show_trace(
            found.source.capture.channel(found.channel) if found else None, found.trace if found else None
        )
        clear_layout(self._facts)
        for row, (name, value) in enumerate(trace_facts(found) if found else []):
            self._facts.addWidget(label(name, "second"), row, 0)
            self._facts.addWidget(label(value), row, 1)
        usable = bool(found and found.trace and found.trace.usable)
        self.take.setText("take the fitted value" if usable or found is None else "keep as an open entry")
        self.take.setEnabled(found is not None)

    def _on_take(self) -> None:
        if self.opened is not None:
            self.taken.emit(self.opened)
