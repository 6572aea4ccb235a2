"""What to turn: the control as a slider that moves the errors of a range, three settings side by side."""

import math

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QSlider, QVBoxLayout, QWidget

from fenmist.desk.theme import ThemeHolder
from fenmist.desk.widgets.form import Form
from fenmist.desk.widgets.grid import Grid
from fenmist.desk.widgets.labels import label, set_text
from fenmist.desk.widgets.pages import Columns
from fenmist.desk.widgets.turn_view import TurnMarks, TurnView
from fenmist.errors import FenmistError
from fenmist.findings.note import Note
from fenmist.kit.sheet import Field
from fenmist.methods.trim import Control, Measure, Setting
from fenmist.session.adjust import (
    CONTROLS,
    HEADINGS,
    MEASURES,
    Chosen,
    Turned,
    best,
    headline,
    place_said,
    ranges_of,
    rows,
    turned,
)
from fenmist.session.openjob import OpenJob
from fenmist.session.trim import settings_of
from fenmist.session.view import View
from fenmist.units.display import frequency, plain

STEPS, REACH = 500, 0.25
"""Steps of the slider to each side, and how far it reaches at least: ± of the logarithm of the gain (Fenmist's own)."""

ALL_BANDS = "all"

_FIELDS = (
    Field("range", "range", choices=("—",)),
    Field("band", "band", choices=(ALL_BANDS,), help="Where each band has a control of its own"),
    Field("control", "what can be turned", choices=CONTROLS),
    Field("measure", "errors weighed in", choices=MEASURES),
    Field("at", "set at", choices=("—",), help="A level and frequency that the bench can make"),
)


_KEY = "Hollow: as found. Solid: as it would be, with its U. Washed: the tolerance."


class TurnPanel(QWidget):
    """What to turn, and how far."""

    moved = Signal()  # what is said has changed

    def __init__(self, job: OpenJob, themes: ThemeHolder) -> None:
        super().__init__()
        self.job = job
        self.form = Form(_FIELDS, label_width=110)
        self.form.field_typed.connect(lambda *_: self._show())
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(-STEPS, STEPS)
        self.slider.setPageStep(STEPS // 25)
        self.slider.setAccessibleName("gain")
        self.slider.valueChanged.connect(lambda _: self._slid())
        self.marks = TurnMarks(themes, self.slider)
        self.reads = label("", "second", wrap=True)
        self.view = TurnView(themes)
        self.table = Grid(HEADINGS, 0, "settings", grows=False)
        self.table.row_chosen.connect(self._on_row)
        self.left = label("", "second", wrap=True)
        self.found: Turned | None = None
        self._reach = REACH
        self._lay_out()

    def _lay_out(self) -> None:
        above = QVBoxLayout()
        above.setSpacing(6)
        above.addWidget(self.view)
        turn = QHBoxLayout()
        turn.addWidget(label("less", "second"))
        turn.addWidget(self.slider, 1)
        turn.addWidget(label("more", "second"))
        above.addLayout(turn)
        above.addWidget(self.marks)
        above.addWidget(self.reads)
        side = QVBoxLayout()
        side.setSpacing(8)
        side.addWidget(self.form)
        side.addWidget(label(_KEY, "second", wrap=True))
        side.addStretch(1)
        holder = QWidget()
        holder.setLayout(side)
        both = Columns()
        both.setSpacing(24)
        both.addLayout(above, 15)
        both.addWidget(holder, 8)
        body = QVBoxLayout(self)
        body.setContentsMargins(0, 0, 0, 0)
        body.addLayout(both)
        body.addWidget(self.table)
        body.addWidget(self.left)
        body.addStretch(1)

    @property
    def notes(self) -> tuple[Note, ...]:
        """What is said of the settings."""
        return self.found.answer.notes if self.found is not None else ()

    def headline_text(self, view: View) -> str:
        """What to turn, or what it did."""
        return headline(view, self._chosen(view))

    def _chosen(self, view: View) -> Chosen:
        draft = self.form.draft()
        places = [item for one in ranges_of(view) for item in one.places]
        points = {place_said(item): item.point.id for item in places}
        bands = {frequency(item.point.frequency_hz): item.point.frequency_hz for item in places}
        return Chosen(
            draft["range"].removesuffix("\u202fW"), Measure(draft["measure"]), Control(draft["control"]),
            points.get(draft["at"], ""), bands.get(draft["band"], 0.0),
        )  # fmt: skip

    def refresh(self) -> None:
        """Show the job as it stands."""
        found = ranges_of(self.job.view)
        self.form.offer("range", [f"{item.range_id}\u202fW" if item.range_id else "—" for item in found] or ["—"])
        self._show()

    def _show(self) -> None:
        view = self.job.view
        chosen = self._chosen(view)
        of_range = next((item for item in ranges_of(view) if item.range_id == chosen.range_id), None)
        places = of_range.places if of_range is not None else ()
        bands = dict.fromkeys(frequency(item.point.frequency_hz) for item in places)
        self.form.offer("band", [ALL_BANDS, *(bands if len(bands) > 1 else ())])
        chosen = self._chosen(view)
        places = tuple(item for item in places if chosen.band_hz in (0.0, item.point.frequency_hz))
        self.form.offer("at", ["the highest", *(place_said(item) for item in places)])
        said = ""
        try:
            self.found = turned(view, self._chosen(view))
        except FenmistError as error:
            self.found, said = None, str(error)
        set_text(self.left, said)
        settings = settings_of(self.found.answer) if self.found is not None else []
        self._reach = max([REACH, *(1.2 * abs(math.log(setting.gain)) for _, setting in settings)])
        self.table.fill(rows(self.found) if self.found is not None else [])
        self.table.fit_height()
        self.marks.show_marks([(self._place(setting), name) for name, setting in settings[1:]])
        self.slider.setEnabled(self.found is not None)
        if self.found is not None:
            self._set(best(self.found)[1])
        else:
            self.view.show_turned(None, None)
            set_text(self.reads, "")
        self.moved.emit()

    def _place(self, setting: Setting) -> int:
        """Where the slider stands for a gain."""
        return round(STEPS * math.log(setting.gain) / self._reach)

    def _set(self, setting: Setting) -> None:
        """Put the slider where a setting is, and draw it."""
        self.slider.blockSignals(True)
        self.slider.setValue(self._place(setting))
        self.slider.blockSignals(False)
        self._draw(setting)

    def _slid(self) -> None:
        if self.found is not None:
            zero = self.found.answer.minimax.zero_w
            gain = math.exp(self._reach * self.slider.value() / STEPS)
            self._draw(self.found.answer.left_by(gain, zero))

    def _draw(self, setting: Setting) -> None:
        if self.found is None:
            return
        self.view.show_turned(self.found, setting)
        at = self.found.at
        set_text(
            self.reads,
            f"Make it read {plain(self.found.answer.reads(setting), 'W', 4)} where the reference says "
            f"{plain(at.reference_w, 'W', 4)}, {place_said(at)}: × {setting.gain:.4f}.",
        )

    def _on_row(self, row: int) -> None:
        if self.found is not None and row >= 0:
            self._set(settings_of(self.found.answer)[row][1])
