"""Adjust: the control as a slider that moves the errors of a range, three settings side by side, what was turned."""

import math

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QSlider, QVBoxLayout, QWidget

from fenmist.desk.steps.step import Step
from fenmist.desk.theme import ThemeHolder
from fenmist.desk.widgets.form import Form
from fenmist.desk.widgets.grid import Grid
from fenmist.desk.widgets.labels import button, label, set_text
from fenmist.desk.widgets.pages import Columns
from fenmist.desk.widgets.phases import Phases
from fenmist.desk.widgets.turn_view import TurnMarks, TurnView
from fenmist.errors import FenmistError
from fenmist.findings.note import Note
from fenmist.kit.sheet import Field
from fenmist.methods.trim import Control, Measure, Setting
from fenmist.procedures.page import EXPLAINED
from fenmist.session.adjust import (
    CONTROLS,
    HEADINGS,
    MEASURES,
    Chosen,
    Turned,
    best,
    explained,
    headline,
    place_said,
    point_said,
    ranges_of,
    rows,
    turned,
    with_one_more,
)
from fenmist.session.openjob import OpenJob
from fenmist.session.session import Session
from fenmist.session.trim import settings_of
from fenmist.session.view import View
from fenmist.units.display import plain

STEPS, REACH = 500, 0.25
"""Steps of the slider to each side, and how far it reaches: ± of the logarithm of the gain (Fenmist's own)."""

_FIELDS = (
    Field("range", "range", choices=("—",)),
    Field("control", "what can be turned", choices=CONTROLS),
    Field("measure", "errors weighed in", choices=MEASURES),
    Field("at", "set at", choices=("—",), help="A level and frequency that the bench can make"),
)


_KEY = "Hollow: as found. Solid: as it would be, with its U. Washed: the tolerance."


def _place(setting: Setting) -> int:
    """Where the slider stands for a gain."""
    return round(STEPS * math.log(setting.gain) / REACH)


class AdjustStep(Step):
    """What to turn, and how far."""

    where = "adjust"

    def __init__(self, session: Session, job: OpenJob, themes: ThemeHolder) -> None:
        super().__init__(session, job, themes)
        self.phases = Phases(job)
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
        self.why = label("", "second", wrap=True)
        self.shapes = Grid(EXPLAINED, 0, "why it errs", grows=False)
        self.offer = label("", "second", wrap=True)
        self.one_more = button("Plan this reading", "do")
        self.one_more.clicked.connect(self._plan_it)
        self.found: Turned | None = None
        self._choices: dict[str, str] = {}
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
        side.addWidget(self.phases)
        side.addStretch(1)
        holder = QWidget()
        holder.setLayout(side)
        both = Columns()
        both.setSpacing(24)
        both.addLayout(above, 15)
        both.addWidget(holder, 8)
        self.body.addLayout(both)
        self.body.addWidget(self.table, 1)
        self.body.addWidget(self.left)
        self.body.addWidget(self.why)
        self.body.addWidget(self.shapes, 1)
        below = QHBoxLayout()
        below.addWidget(self.offer, 1)
        below.addWidget(self.one_more)
        self.body.addLayout(below)

    @property
    def drawing(self) -> tuple[str, QWidget] | None:
        return "adjust", self.view

    def notes(self, view: View) -> tuple[Note, ...]:
        return (*(self.found.answer.notes if self.found is not None else ()), *view.notes)

    def headline_text(self, view: View) -> str:
        return headline(view, self._chosen(view))

    def _chosen(self, view: View) -> Chosen:
        draft = self.form.draft()
        points = {place_said(item): item.point.id for one in ranges_of(view) for item in one.places}
        return Chosen(
            draft["range"].removesuffix("\u202fW"), Measure(draft["measure"]), Control(draft["control"]),
            points.get(draft["at"], ""),
        )  # fmt: skip

    def refresh(self) -> None:
        found = ranges_of(self.job.view)
        self.form.offer("range", [f"{item.range_id}\u202fW" if item.range_id else "—" for item in found] or ["—"])
        super().refresh()
        self.phases.refresh()
        self._show()
        self._show_why()

    def _show_why(self) -> None:
        said = explained(self.job.view)
        set_text(self.why, f"Why it errs. {said.headline}" if said else "")
        self.why.setVisible(said is not None)
        self.shapes.setVisible(said is not None)
        self.shapes.fill([list(row) for row in said.rows] if said else [])
        set_text(self.offer, said.offer if said else "")
        self.offer.setVisible(bool(said and said.offer))
        self.one_more.setVisible(bool(said and said.point))

    def _plan_it(self) -> None:
        said = explained(self.job.view)
        if said is not None and said.point is not None:
            self.job.edit(with_one_more(self.job.job, said), "one more reading")
            self.did.emit(f"Planned last: {point_said(said.point)}. Read it in “readings”.")

    def _show(self) -> None:
        view = self.job.view
        chosen = self._chosen(view)
        of_range = next((item for item in ranges_of(view) if item.range_id == chosen.range_id), None)
        places = of_range.places if of_range is not None else ()
        self.form.offer("at", ["the highest", *(place_said(item) for item in places)])
        said = ""
        try:
            self.found = turned(view, self._chosen(view))
        except FenmistError as error:
            self.found, said = None, str(error)
        set_text(self.headline, self.headline_text(view))
        set_text(self.left, said)
        self.table.fill(rows(self.found) if self.found is not None else [])
        self.marks.show_marks(
            [(_place(setting), name) for name, setting in settings_of(self.found.answer)[1:]] if self.found else []
        )
        self.slider.setEnabled(self.found is not None)
        if self.found is not None:
            self._set(best(self.found)[1])
        else:
            self.view.show_turned(None, None)
            set_text(self.reads, "")
        self.notes_moved.emit()

    def _set(self, setting: Setting) -> None:
        """Put the slider where a setting is, and draw it."""
        self.slider.blockSignals(True)
        self.slider.setValue(_place(setting))
        self.slider.blockSignals(False)
        self._draw(setting)

    def _slid(self) -> None:
        if self.found is not None:
            zero = self.found.answer.minimax.zero_w
            gain = math.exp(REACH * self.slider.value() / STEPS)
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

    def enter(self) -> None:
        self.slider.setFocus()
