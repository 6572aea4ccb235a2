"""Power from volts, step by step.

Each correction can be left out, each budget line asked about, and the answer goes into a job.
"""

from collections.abc import Callable, Mapping
from pathlib import Path

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fenmist.desk.filing import Files, Saving
from fenmist.desk.theme import ThemeHolder
from fenmist.desk.widgets.bars import BudgetBars, scrolled_bars
from fenmist.desk.widgets.form import Form
from fenmist.desk.widgets.labels import button, label, scrolled, set_text
from fenmist.desk.widgets.margin import Margin
from fenmist.desk.widgets.pages import beside_margin, side_by_side
from fenmist.desk.widgets.picture import drawing_saved
from fenmist.desk.widgets.waterfall import Waterfall
from fenmist.errors import FenmistError
from fenmist.findings.note import Note
from fenmist.judgement.headline import value_headline, what_if_power
from fenmist.judgement.job_rules import improvement_of
from fenmist.kit.sheet import Field
from fenmist.methods.power_from_volts import PowerAnswer, PowerRequest
from fenmist.rf.cable import CABLES
from fenmist.session.handover import into_job, into_new_job
from fenmist.session.session import Session
from fenmist.waveform.response import BandwidthModel

NO_CABLE = "not said"
_FIELDS = (
    Field("volts", "volts at the tee", "102 Vpp", "With how they were taken: Vpp, Vpk or Vrms"),
    Field(
        "also",
        "same volts, read another way",
        "35.6 Vrms",
        "A difference of one per cent points to noise or distortion",
    ),
    Field("load", "load", "57.7", "45+j12 · 52 @ −8 · |57.7| swr 1.2 · |57.7| · 57.7"),
    Field("load_u", "standard u of the load", "1 %"),
    Field("frequency", "frequency", "7.125 MHz"),
    Field("lead", "lead to the oscilloscope", "0.3 m", "Left empty: the oscilloscope is at the load itself"),
    Field("cable", "cable type", choices=(NO_CABLE, *(item.label for item in CABLES)), help="For its loss"),
    Field("velocity_factor", "velocity factor", "0.66"),
    Field("probe", "or divider probe", "10:1", "At the tee instead of a lead"),
    Field("ground_lead", "ground lead", "100 mm", "0 mm for a coaxial tip adapter"),
    Field("probe_bandwidth", "probe bandwidth", "200 MHz"),
    Field("bandwidth", "oscilloscope's bandwidth", "100 MHz", "Left empty: no correction"),
    Field("bandwidth_model", "shape of the response", choices=tuple(str(model) for model in BandwidthModel)),
    Field("input_capacitance", "input or tip capacitance", "16 pF"),
    Field("scope_accuracy", "vertical accuracy, ±", "3 %"),
    Field("noise", "noise on the trace", "0.5 %", "Standard deviation over the amplitude"),
    Field("harmonics", "source harmonics", "-40 dBc", "At most; left empty: −40 dBc is assumed"),
)
_EXAMPLE = {"volts": "102 Vpp", "load": "57.7", "frequency": "7.125 MHz", "lead": "0.3 m", "bandwidth": "100 MHz"}


class PowerTool(Files, QWidget):
    """Power from volts."""

    title = "Power from volts"
    did = Signal(str)  # what was done, for the foot
    job_wanted = Signal()  # a job was made or changed and belongs on the bench

    def __init__(self, session: Session, themes: ThemeHolder) -> None:
        super().__init__()
        self._session = session
        self.answer: PowerAnswer | None = None
        self.headline = label("", "headline", wrap=True)
        self.form = Form(_FIELDS, live=True)
        self.form.fill({**_EXAMPLE, "bandwidth_model": str(BandwidthModel.ONE_POLE), "cable": NO_CABLE})
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(40)
        self._soon.timeout.connect(self.refresh)
        self.form.field_typed.connect(lambda *_: self._soon.start())
        self.said = label("", "problem", wrap=True)
        self.steps = Waterfall(themes)
        self.steps.switched.connect(lambda _: self.refresh())
        self.bars = BudgetBars(themes)
        self.bars.asked.connect(self._on_asked)
        self.improve = label("", "remedy", wrap=True)
        self.what_if = label("", "second", wrap=True)
        self.taken = label("", "second", wrap=True)
        self.swr = label("", "second", wrap=True)
        self.new_job = button("a job from this", "do")
        self.new_job.clicked.connect(self._on_new_job)
        self.this_job = button("into the job on the bench", "do")
        self.this_job.clicked.connect(self._on_this_job)
        self.margin = Margin(self._on_answer)
        self._lay_out()

    def _lay_out(self) -> None:
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addWidget(label("What was read, and on what", "section"))
        left.addWidget(scrolled(self.form), 1)
        left.addWidget(self.said)
        keys = QHBoxLayout()
        keys.addWidget(self.new_job)
        keys.addWidget(self.this_job)
        keys.addStretch(1)
        left.addLayout(keys)
        right = QVBoxLayout()
        right.setSpacing(7)
        right.addWidget(
            label("From V²/50 Ω to the power: clear a box to see what a correction is worth", "section", wrap=True)
        )
        right.addWidget(self.steps)
        right.addWidget(self.swr)
        right.addSpacing(6)
        right.addWidget(label("What makes it uncertain", "section"))
        right.addWidget(scrolled_bars(self.bars))
        right.addWidget(self.improve)
        right.addWidget(self.what_if)
        right.addWidget(label("Assumptions", "section"))
        right.addWidget(self.taken)
        right.addStretch(1)
        inner = QVBoxLayout()
        inner.setSpacing(14)
        inner.addWidget(self.headline)
        inner.addLayout(side_by_side(left, right, (7, 11)), 1)
        beside_margin(self, inner, self.margin)

    def enter(self) -> None:
        """The place comes to the front."""
        self.this_job.setVisible(self._session.open_job is not None)
        self.refresh()
        self.form.inputs["volts"].setFocus()

    def request(self, known: Mapping[str, float] | None = None) -> PowerRequest:
        """The request as it stands in the fields and boxes."""
        texts = {name: text.strip() for name, text in self.form.draft().items()}
        if texts["cable"] == NO_CABLE:
            texts["cable"] = ""
        names = {item.id: item.label for item in _FIELDS}
        return PowerRequest(
            **texts, left_out=self.steps.left_out, known=dict(known or {}), names=names  # type: ignore[arg-type]
        )  # fmt: skip

    @property
    def saving(self) -> Saving:
        return drawing_saved(self.steps, Path.home() / "Power from volts, corrections.svg", self.did.emit)

    def refresh(self) -> None:
        """Work it out from the fields."""
        self.bars.forget()
        try:
            self.answer = self.request()()
        except FenmistError as error:
            set_text(self.said, str(error))
            set_text(self.headline, "The power appears once every field can be read.")
            self._clear()
            return
        set_text(self.said, "")
        self._show(self.answer)
        set_text(self.what_if, "What if a line were better known? Click it, or press Tab: ← halves, → doubles it.")

    def _show(self, answer: PowerAnswer) -> None:
        left_out = tuple(step.name for step in answer.corrections if not step.applied)
        net, u = float(answer.net.value[0]), float(answer.net.expanded_u[0])
        set_text(self.headline, value_headline(net, u, left_out))
        self.steps.show_answer(answer)
        self.bars.show_budget(tuple(row for row in answer.budget if row.contribution > 0 or self.bars.known))
        set_text(self.improve, improvement_of(answer.budget, u, "W"))
        match = answer.match
        low, high = match.swr_interval
        drawn = ", by Monte Carlo" if match.engine != "linear" else ""
        set_text(self.swr, f"SWR at the tee, seen from the source: {match.swr:.2f} ({low:.2f} to {high:.2f}{drawn})")
        set_text(self.taken, "\n".join(f"· {text}" for text in answer.assumptions))
        self.margin.show_notes(answer.notes, {})
        for made in (self.new_job, self.this_job):
            made.setEnabled(True)

    def _clear(self) -> None:
        """Show no answer that belongs to other fields."""
        self.answer = None
        self.steps.show_answer(None)
        self.bars.show_budget(())
        for shown in (self.taken, self.swr, self.improve, self.what_if):
            set_text(shown, "")
        self.margin.show_notes((), {})
        for made in (self.new_job, self.this_job):
            made.setEnabled(False)

    def _on_asked(self, known: Mapping[str, float]) -> None:
        """What if: the budget and U follow; nothing of it is kept."""
        if self.answer is None:
            return
        if not known:
            self.refresh()
            return
        before, asked = self.answer, self.request(known)()
        self.bars.show_budget(asked.budget)
        set_text(self.what_if, what_if_power(float(before.net.expanded_u[0]), float(asked.net.expanded_u[0])))

    def _on_new_job(self) -> None:
        self._send(lambda: into_new_job(self._session, self.request()))

    def _on_this_job(self) -> None:
        job = self._session.open_job
        if job is not None:
            self._send(lambda: into_job(job, self.request()))

    def _send(self, put: Callable[[], object]) -> None:
        try:
            put()
        except FenmistError as error:
            set_text(self.said, str(error))
            return
        self.job_wanted.emit()

    def _on_answer(self, _note: Note, text: str) -> None:
        """Notes of a tool belong to no record, so an answer has nowhere to stay; the margin says so."""
        set_text(self.said, f"“{text}” was not kept: notes of a tool belong to no job.")
