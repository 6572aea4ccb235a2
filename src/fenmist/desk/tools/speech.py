"""Meters on speech: a waveform runs, and four kinds of meter move on it as they would."""

from pathlib import Path

from PySide6.QtCore import QTimer, Signal
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from fenmist.desk.filing import Files, Opening, Saving
from fenmist.desk.runner import JobRunner
from fenmist.desk.theme import ThemeHolder
from fenmist.desk.widgets.form import Form
from fenmist.desk.widgets.labels import button, label, set_text
from fenmist.desk.widgets.margin import Margin
from fenmist.desk.widgets.pages import beside_margin
from fenmist.desk.widgets.picture import drawing_saved
from fenmist.desk.widgets.speech_view import SpeechView
from fenmist.errors import FenmistError
from fenmist.findings.note import Note
from fenmist.kit.part import Part, PartKind
from fenmist.kit.sheet import Field
from fenmist.methods.on_waveform import MetersAnswer, MetersRequest
from fenmist.session.modulation import meters_headline, told_of
from fenmist.session.session import Session
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS
from fenmist.waveform.named import KINDS
from fenmist.waveform.running import Running

FRAME_MS = 33
"""Between two pictures: 30 a second."""

SLOW = 0.1
"""Time that passes over time that is taken, where it is slow."""

STEP_S = 0.05
"""By how much it goes on at a step."""

SOON_MS = 60
"""After the last key until it is worked out."""

TRACES = (".csv", ".npy", ".npz")

_FIELDS = (
    Field("waveform", "waveform", "speech", "dots 20 Hz 40 % · AM 80 % · two-tone 0.5 · or a captured trace's file"),
    Field("pep", "peak envelope power", "100 W"),
    Field("shown", "what your meter showed", "40 W", "A mark on each scale: which of the four is it?"),
    Field("meter", "your meter", "", "With the times that stand on its sheet in the kit", ("any",)),
)


class SpeechTool(Files, QWidget):
    """Meters on speech."""

    title = "Meters on speech"
    did = Signal(str)  # what was done, for the foot
    question_wanted = Signal(str)  # a job is to be begun on this question

    def __init__(self, session: Session, themes: ThemeHolder) -> None:
        super().__init__()
        self._session = session
        self.headline = label("", "headline", wrap=True)
        self.form = Form(_FIELDS, live=True)
        self.form.fill({"waveform": "speech", "pep": "100 W", "shown": ""})
        self.said = label("", "problem", wrap=True)
        self.view = SpeechView(themes)
        self.answer: MetersAnswer | None = None
        self.speed = 1.0
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MS)
        self._soon.timeout.connect(self.refresh)
        self.form.field_typed.connect(lambda *_: self._soon.start())
        self._frames = QTimer(self)
        self._frames.setInterval(FRAME_MS)
        self._frames.timeout.connect(self._on_frame)
        self._runner = JobRunner(self)
        self._runner.answered.connect(self._show)
        self._runner.refused.connect(self._on_refused)
        self.pause = button("pause", "do")
        self.pause.clicked.connect(self._on_pause)
        self.slow = button("slow", "do")
        self.slow.clicked.connect(self._on_slow)
        self.step = button("step", "do")
        self.step.clicked.connect(self._on_step)
        self.begin = button("a job about this", "do")
        self.begin.setToolTip("Prove a peak function on a bench: the same PEP as one waveform after the other")
        self.begin.clicked.connect(lambda: self.question_wanted.emit("modulation"))
        self.margin = Margin(self._on_answer)
        self.running = True
        self._lay_out()

    def _lay_out(self) -> None:
        kinds = QGridLayout()
        kinds.setHorizontalSpacing(14)
        kinds.setVerticalSpacing(4)
        for number, name in enumerate(KINDS):
            made = button(name.upper() if len(name) == 2 else name, "link", KINDS[name].said)
            made.clicked.connect(lambda _=False, text=name: self.choose(text))
            kinds.addWidget(made, number // 5, number % 5)
        keys = QHBoxLayout()
        keys.setSpacing(10)
        for made in (self.pause, self.slow, self.step, self.begin):
            keys.addWidget(made)
        keys.addStretch(1)
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addWidget(self.form)
        left.addWidget(self.said)
        aside = QVBoxLayout()
        aside.setSpacing(10)
        aside.addLayout(kinds)
        aside.addLayout(keys)
        aside.addStretch(1)
        top = QHBoxLayout()
        top.setSpacing(28)
        top.addLayout(left, 5)
        top.addLayout(aside, 6)
        inner = QVBoxLayout()
        inner.setSpacing(10)
        inner.addWidget(self.headline)
        inner.addLayout(top)
        inner.addWidget(self.view)
        inner.addStretch(1)
        beside_margin(self, inner, self.margin)

    def enter(self) -> None:
        """The tool comes to the front."""
        self.form.offer("meter", ("any", *self._meters()))
        if self.answer is None:
            self.refresh()
        self.form.inputs["waveform"].setFocus()

    def _meters(self) -> dict[str, Part]:
        """Meters of the kit that show a power, by their labels."""
        return {
            part.label: part for part in self._session.kit
            if part.kind in (PartKind.INLINE_METER, PartKind.POWER_METER) and part.indicators
        }  # fmt: skip

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._tick()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._frames.stop()

    def choose(self, waveform: str) -> None:
        """Take a waveform by name, or a file's."""
        self.form.fill({**self.form.draft(), "waveform": waveform})
        self.refresh()

    @property
    def opening(self) -> Opening:
        return Opening("A captured trace, or its envelope", "Traces", TRACES, lambda path: self.choose(str(path)))

    @property
    def saving(self) -> Saving:
        return drawing_saved(self.view, Path.home() / "Meters on speech.svg", self.did.emit)

    def refresh(self) -> None:
        """Work it out from the fields, in a worker."""
        texts = self.form.draft()
        meter = self._meters().get(texts["meter"])
        self._runner.start(MetersRequest(texts["waveform"].strip(), texts["pep"].strip(), meter=meter), _with_running)

    def _on_refused(self, error: FenmistError | None) -> None:
        set_text(self.said, str(error) if error else "")
        if error is not None:
            set_text(self.headline, "What meters show appears once the waveform can be read.")
            self.answer = None
            self.view.show_running(None, None)
            self.margin.show_notes((), {})

    def _show(self, made: tuple[MetersAnswer, Running]) -> None:
        self.answer, running = made
        set_text(self.said, "")
        self.view.device_w = self._device_w()
        told = told_of(self.answer, self.view.device_w)
        set_text(self.headline, " ".join(text for text in (meters_headline(self.answer), told) if text))
        self.view.show_running(running, self.answer)
        self.margin.show_notes(self.answer.notes, {})
        self._tick()

    def _device_w(self) -> float | None:
        text = self.form.draft()["shown"].strip()
        if not text:
            return None
        try:
            return value_from_text(text, UNITS["W"], "what your meter showed", "40 W")
        except FenmistError as error:
            set_text(self.said, str(error))
            return None

    def _tick(self) -> None:
        if self.running and self.isVisible() and self.view.running is not None:
            self._frames.start()
        else:
            self._frames.stop()

    def _on_frame(self) -> None:
        if self.view.running is not None:
            self.view.running.advance(FRAME_MS / 1000.0 * self.speed)
            self.view.update()

    def _on_pause(self) -> None:
        self.running = not self.running
        self.pause.setText("pause" if self.running else "run")
        self._tick()

    def _on_slow(self) -> None:
        self.speed = SLOW if self.speed == 1.0 else 1.0
        self.slow.setText("slow" if self.speed == 1.0 else "as it is")

    def _on_step(self) -> None:
        if self.running:
            self._on_pause()
        if self.view.running is not None:
            self.view.running.advance(STEP_S)
            self.view.update()

    def _on_answer(self, _note: Note, text: str) -> None:
        """Notes of a tool belong to no record, so an answer has nowhere to stay; the margin says so."""
        set_text(self.said, f"“{text}” was not kept: notes of a tool belong to no job.")


def _with_running(answer: MetersAnswer) -> tuple[MetersAnswer, Running]:
    return answer, Running(answer.waveform, answer.movements)
