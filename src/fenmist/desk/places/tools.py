"""Tools: power from volts, step by step, without a job."""

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fenmist.desk.theme import ThemeHolder
from fenmist.desk.widgets.bars import BudgetBars
from fenmist.desk.widgets.form import Form
from fenmist.desk.widgets.grid import Grid
from fenmist.desk.widgets.labels import label, set_text
from fenmist.desk.widgets.margin import Margin
from fenmist.errors import FenmistError
from fenmist.findings.note import Note
from fenmist.judgement.headline import value_headline
from fenmist.kit.draft import Field
from fenmist.session.power import PowerAnswer, PowerRequest
from fenmist.units.display import plain, rounded, with_uncertainty
from fenmist.waveform.response import BandwidthModel

_FIELDS = (
    Field("volts", "volts at the tee", "102 Vpp", "With how they were taken: Vpp, Vpk or Vrms"),
    Field("load", "load", "57.7", "45+j12 · 52 @ −8 · |57.7| swr 1.2 · |57.7| · 57.7"),
    Field("frequency", "frequency", "7.125 MHz"),
    Field("lead", "lead to the oscilloscope", "0.3 m", "Left out: the oscilloscope sits at the load"),
    Field("bandwidth", "bandwidth of the oscilloscope", "100 MHz", "Left out: nothing is corrected"),
    Field("bandwidth_model", "shape of its response", choices=tuple(str(model) for model in BandwidthModel)),
    Field("input_capacitance", "its input capacitance", "16 pF"),
    Field("velocity_factor", "velocity factor of the lead", "0.66"),
    Field("scope_accuracy", "its vertical accuracy, ±", "3 %"),
    Field("load_u", "load known to, standard", "1 %"),
)
_EXAMPLE = {"volts": "102 Vpp", "load": "57.7", "frequency": "7.125 MHz", "lead": "0.3 m", "bandwidth": "100 MHz"}


class ToolsPlace(QWidget):
    """Power from volts."""

    where = "tools"

    def __init__(self, themes: ThemeHolder) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.answer: PowerAnswer | None = None
        self.headline = label("", "headline", wrap=True)
        self.form = Form(_FIELDS, live=True)
        self.form.fill({**_EXAMPLE, "bandwidth_model": str(BandwidthModel.ONE_POLE)})
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(40)
        self._soon.timeout.connect(self.refresh)
        self.form.field_typed.connect(lambda *_: self._soon.start())
        self.said = label("", "problem", wrap=True)
        self.steps = Grid(("step", "power", "dB", "why"), 0, "from volts to power", grows=False)
        self.bars = BudgetBars(themes)
        self.taken = label("", "second", wrap=True)
        self.margin = Margin(self._on_answer)
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addWidget(label("Power from volts", "section"))
        left.addWidget(self.form)
        left.addWidget(self.said)
        left.addStretch(1)
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addWidget(label("From V²/50 Ω to the power", "section"))
        right.addWidget(self.steps)
        right.addWidget(label("What makes it uncertain", "section"))
        right.addWidget(self.bars)
        right.addWidget(label("Taken as", "section"))
        right.addWidget(self.taken)
        right.addStretch(1)
        both = QHBoxLayout()
        both.setSpacing(32)
        both.addLayout(left, 6)
        both.addLayout(right, 11)
        inner = QVBoxLayout()
        inner.setContentsMargins(40, 24, 20, 16)
        inner.setSpacing(14)
        inner.addWidget(self.headline)
        inner.addLayout(both, 1)
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.addLayout(inner, 1)
        box.addWidget(self.margin)

    def enter(self) -> None:
        """The place comes to the front."""
        self.refresh()
        self.form.inputs["volts"].setFocus()

    def request(self) -> PowerRequest:
        """The request as it stands in the fields."""
        names = {item.id: item.label for item in _FIELDS}
        return PowerRequest(**{name: text.strip() for name, text in self.form.draft().items()}, names=names)  # type: ignore[arg-type]

    def refresh(self) -> None:
        """Work it out from the fields."""
        try:
            self.answer = self.request()()
        except FenmistError as error:
            set_text(self.said, str(error))
            set_text(self.headline, "The power follows when every field can be read.")
            self._clear()
            return
        set_text(self.said, "")
        answer = self.answer
        net, incident = answer.net, answer.incident
        set_text(self.headline, value_headline(float(net.value[0]), float(net.expanded_u[0])))
        rows = _rows(answer)
        rows.append(
            [
                "incident at the load", with_uncertainty(float(incident.value[0]), float(incident.expanded_u[0]), "W"),
                "", "what a forward scale shows",
            ]
        )  # fmt: skip
        self.steps.fill(rows)
        self.steps.fit_height()
        self.bars.show_budget(tuple(row for row in answer.budget if row.contribution > 0))
        set_text(self.taken, "\n".join(f"· {text}" for text in answer.assumptions))
        self.margin.show_notes(answer.notes, {})

    def _clear(self) -> None:
        """Show no answer that belongs to other fields."""
        self.answer = None
        self.steps.fill([])
        self.bars.show_budget(())
        set_text(self.taken, "")
        self.margin.show_notes((), {})

    def _on_answer(self, _note: Note, text: str) -> None:
        """Notes of a tool belong to no record, so an answer has nowhere to stay; the margin says so."""
        set_text(self.said, f"“{text}” is not kept: a tool's notes belong to no job.")


def _rows(answer: PowerAnswer) -> list[list[str]]:
    power = answer.vrms_v**2 / 50.0
    rows = [["V²/50 Ω", plain(power, "W"), "", f"{plain(answer.vrms_v, 'V')} rms as read"]]
    for step in answer.corrections:
        power *= step.factor
        rows.append([step.name, plain(power, "W"), rounded(step.db, 2, plus=True), step.why])
    net = answer.net
    shown = with_uncertainty(float(net.value[0]), float(net.expanded_u[0]), "W")
    rows.append(["net in the load", shown, "", answer.interval_text or f"U, k = {net.k[0]:.2f}"])
    return rows
