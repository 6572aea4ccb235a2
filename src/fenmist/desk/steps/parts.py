"""Parts: what each end of the line measures at the planned frequencies, and what everything else is taken for."""

from collections.abc import Sequence

from PySide6.QtWidgets import QComboBox, QHBoxLayout, QVBoxLayout, QWidget

from fenmist.calibration.edit import LoadRow, load_rows, load_u, load_with_rows, with_load_rows
from fenmist.calibration.gather import ends_of, load_of
from fenmist.desk.steps.step import Step
from fenmist.desk.theme import ThemeHolder, px
from fenmist.desk.widgets.form import Form
from fenmist.desk.widgets.grid import Grid
from fenmist.desk.widgets.labels import clear_layout, label, scrolled, set_text
from fenmist.desk.widgets.line_edit import LineEdit
from fenmist.desk.widgets.pages import Columns
from fenmist.errors import FenmistError
from fenmist.judgement.headline import parts_headline
from fenmist.kit.draft import draft_from_part, fields_of_part, part_from_draft
from fenmist.kit.part import Part
from fenmist.reports.loadtable import LOAD_HEADINGS, load_table
from fenmist.session.openjob import OpenJob
from fenmist.session.session import Session
from fenmist.session.view import View
from fenmist.units.moment import day_of
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS

_SHOWN_AS = (
    "As the analyser shows it, and hot after minutes of carrier if it was measured so: "
    "45+j12 · 52 @ −8 · |57.7| swr 1.2 · |57.7|"
)
_NOT_HERE = ("label", "serial", "form", "compared_on", "compared_by", "due")


class PartsStep(Step):
    """The table of the load, or of the end that is chosen, at the left; the other parts' data at the right."""

    where = "parts"

    def __init__(self, session: Session, job: OpenJob, themes: ThemeHolder) -> None:
        super().__init__(session, job, themes)
        self.table = Grid(LOAD_HEADINGS, 3, "impedance of the load")
        self.table.cell_typed.connect(self._on_cell_typed)
        self.table.row_removed.connect(self._on_row_removed)
        self.table.pasted.connect(self._on_pasted)
        self.u_field = LineEdit()
        self.u_field.setAccessibleName("the load is known to, standard uncertainty")
        self.u_field.setMaximumWidth(px(90))
        self.u_field.editingFinished.connect(self._on_u_typed)
        self.problem = label("", "problem", wrap=True)
        self.problem.hide()
        self.title = label("", "section")
        self.ends = QComboBox()
        self.ends.setAccessibleName("end of the line")
        self.ends.activated.connect(lambda _: self._on_end_chosen())
        self._end = ""  # part id, where the lines that are read end in several things

        known = QHBoxLayout()
        known.addWidget(label("known to, standard uncertainty", "second"))
        known.addWidget(self.u_field)
        known.addStretch(1)
        left = QVBoxLayout()
        left.setSpacing(6)
        titled = QHBoxLayout()
        titled.addWidget(self.title)
        titled.addWidget(self.ends)
        titled.addStretch(1)
        left.addLayout(titled)
        left.addWidget(label(_SHOWN_AS, "second", wrap=True))
        left.addWidget(self.table, 1)
        left.addWidget(self.problem)
        left.addLayout(known)

        self.forms: dict[str, Form] = {}  # by part
        self._shown: list[tuple[str, str, str]] = []
        self._column = QVBoxLayout()
        self._column.setContentsMargins(0, 0, 8, 0)
        self._column.setSpacing(8)
        holder = QWidget()
        holder.setLayout(self._column)
        both = Columns()
        both.setSpacing(28)
        both.addLayout(left, 14)
        both.addWidget(scrolled(holder), 9)
        self.body.addLayout(both, 1)

    def headline_text(self, view: View) -> str:
        return parts_headline(view.job)

    def refresh(self) -> None:
        super().refresh()
        self._show_table()
        self._fill_forms()

    def _show_table(self) -> None:
        job, ends = self.job.job, ends_of(self.job.job)
        several = len(ends) > 1
        if [self.ends.itemData(n) for n in range(self.ends.count())] != [part.id for part in ends]:
            self.ends.clear()
            for part in ends:
                self.ends.addItem(part.label, part.id)
        names = [part.id for part in ends]
        self._end = self._end if self._end in names else next(iter(names), "")
        self.ends.setCurrentIndex(max(self.ends.findData(self._end), 0))
        self.ends.setVisible(several)
        title = f"Impedance of {ends[0].label}" if ends else "No load ends this line."
        set_text(self.title, "Impedance of" if several else title)
        self.table.setVisible(bool(ends))
        self.table.fill(load_table(job, self._end) if ends else [])
        if not self.u_field.hasFocus():
            self.u_field.setText(f"{100 * load_u(job, self._end):g} %" if ends else "")

    def _on_end_chosen(self) -> None:
        self._end = str(self.ends.currentData())
        self._say("")
        self._show_table()

    def enter(self) -> None:
        self.table.setFocus()
        row = next((r for r in range(self.table.rowCount()) if not self.table.texts(r)[1]), 0)
        self.table.setCurrentCell(row, 1)

    def _fill_forms(self) -> None:
        described = self._parts()
        if self._shown != [(part.id, part.kind, part.label) for part in described]:
            self._make_forms(described)
        for part in described:
            self.forms[part.id].fill(draft_from_part(part))

    def _make_forms(self, described: Sequence[Part]) -> None:
        clear_layout(self._column)
        self.forms = {}
        self._shown = [(part.id, part.kind, part.label) for part in described]
        for part in described:
            form = Form([item for item in fields_of_part(part) if item.id not in _NOT_HERE], label_width=140)
            form.field_typed.connect(lambda field, text, name=part.id: self._on_part_typed(name, field, text))
            self.forms[part.id] = form
            self._column.addWidget(label(part.label, "section"))
            self._column.addWidget(form)
        self._column.addStretch(1)

    def _parts(self) -> tuple[Part, ...]:
        """Parts of the benches that are read, what is read first; the device and the load have places of their own."""
        job, load = self.job.job, load_of(self.job.job)
        own = {job.dut, load.id if load is not None else ""}
        read = [job.part_read(item.id) for item in job.channels]
        others = [job.part(item.part) for leg in job.visits for item in job.hookup(leg.hookup).elements]
        return tuple({part.id: part for part in (*read, *others) if part.id not in own}.values())

    def _on_part_typed(self, part_id: str, field_id: str, text: str) -> None:
        part = self.job.job.part(part_id)
        made = part_from_draft(part, {**draft_from_part(part), field_id: text})
        form = self.forms[part_id]
        if isinstance(made, Part):
            form.show_problems(())
            self.job.edit(self.job.job.with_part(made), f"{part.label}: {field_id}", merge=f"{part.id} {field_id}")
        else:
            form.show_problems(made)

    def _on_cell_typed(self, row: int, column: int, text: str) -> None:
        rows = load_rows(self.job.job, self._end)
        try:
            here = rows.pop(row) if row < len(rows) else LoadRow(self._typed_frequency(row), "")
            if column == 0:
                here = here._replace(frequency_hz=value_from_text(text, UNITS["MHz"], "frequency", "8.291 MHz"))
            else:
                here = here._replace(cold=text) if column == 1 else here._replace(hot=text)
            if here.cold or here.hot:  # else the impedance beside it completes the row
                self._keep([*rows, here], load_u(self.job.job, self._end))
        except FenmistError as error:
            self._say(str(error))

    def _typed_frequency(self, row: int) -> float:
        return value_from_text(self.table.texts(row)[0], UNITS["MHz"], "frequency", "8.291 MHz")

    def _on_pasted(self, _row: int, _column: int, rows: list[list[str]]) -> None:
        try:
            self._keep(load_with_rows(load_rows(self.job.job, self._end), rows), load_u(self.job.job, self._end))
        except FenmistError as error:
            self._say(str(error))

    def _on_row_removed(self, row: int) -> None:
        rows = [item for number, item in enumerate(load_rows(self.job.job, self._end)) if number != row]
        self._keep(rows, load_u(self.job.job, self._end))

    def _on_u_typed(self) -> None:
        try:
            u = value_from_text(self.u_field.text(), UNITS["%"], "known to", "1 %")
        except FenmistError as error:
            self._say(str(error))
            return
        if not 0 <= u < 1:
            self._say("Type from 0 % to below 100 %.")
        else:
            self._keep(load_rows(self.job.job, self._end), u)

    def _keep(self, rows: list[LoadRow], u: float) -> None:
        self._say("")
        today = day_of(self.job.view.as_of)
        self.job.edit(with_load_rows(self.job.job, rows, u, today, self._end), "impedance of what ends the line")

    def _say(self, text: str) -> None:
        set_text(self.problem, text)
        self.problem.setVisible(bool(text))
