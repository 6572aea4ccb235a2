"""Characterisations of a part: which there are, one of them as a curve and as rows, typed, pasted or from a file."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QVBoxLayout, QWidget

from fenmist.desk.filing import TABLES, TOUCHSTONES, Opening
from fenmist.desk.theme import ThemeHolder, px, sans
from fenmist.desk.widgets.choosing import Choosing
from fenmist.desk.widgets.dialogs import ask_to_open, chooser
from fenmist.desk.widgets.form import Form
from fenmist.desk.widgets.grid import Grid
from fenmist.desk.widgets.labels import button, label, set_text
from fenmist.desk.widgets.line_edit import LineEdit
from fenmist.desk.widgets.painted import Painted
from fenmist.errors import FenmistError, OutOfRangeError
from fenmist.kit.characterisation import Characterisation
from fenmist.kit.lookup import look_up
from fenmist.kit.part import Part
from fenmist.kit.sheet import Field
from fenmist.kit.tables import (
    CORRECTION,
    QUANTITIES,
    TABLE_HEADINGS,
    Corrected,
    Quantity,
    TableFacts,
    quantities_for,
    table_from_texts,
    table_rows,
    tables_from_file,
    with_certificate,
    with_table,
    with_tables,
)
from fenmist.units.display import frequency
from fenmist.units.typed import number_from_text

FloatArray = NDArray[np.float64]
Numbers = NDArray[np.float64] | NDArray[np.complex128]

_FACTS = (
    Field("coverage", "coverage factor k of U", "2", "2 is about 95 %"),
    Field("source", "by", "Estuary Standards Room", "Laboratory, or the instrument used"),
    Field("measured_on", "on", "2026-10-14"),
    Field("setting", "switch position", "10 dB", "Empty if it has no switch"),
)


class CurveView(Painted):
    """A table as a curve with its uncertainty, between its ends only."""

    def __init__(self, themes: ThemeHolder) -> None:
        super().__init__()
        self._themes = themes
        self._table: Characterisation | None = None
        self.setAccessibleName("curve of the table")
        self.be_high(120)

    def show_table(self, table: Characterisation | None) -> None:
        """Draw it."""
        self._table = table
        shown = f"{len(table.frequency_hz)} points of {table.quantity}" if table else "no table"
        self.setAccessibleDescription(shown)
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter, table = self.painter(), self._table
        theme = self._themes.theme
        painter.setFont(sans(11))
        if table is None:
            painter.setPen(theme.color("second"))
            painter.drawText(QRectF(0, 10, self.across(), 40), Qt.AlignmentFlag.AlignLeft, "Nothing measured yet.")
            return
        ends = table.frequency_hz[0], table.frequency_hz[-1]
        f = np.geomspace(*ends, 121) if ends[1] > ends[0] else np.array([ends[0]])
        found = look_up(table, f)
        values, u = _shown(table, found.value), 2.0 * _shown_u(table, found.value, found.u)
        points = _shown(table, np.asarray(table.real) + (1j * np.asarray(table.imag) if table.imag else 0.0))
        low, high = float(np.min(values - u)), float(np.max(values + u))
        pad = max(0.08 * (high - low), 1e-3 * max(abs(high), 1e-9))
        self._paint(painter, f, values, u, np.asarray(table.frequency_hz), points, low - pad, high + pad)

    def _paint(
        self, painter: QPainter, f: FloatArray, y: FloatArray, u: FloatArray, at: FloatArray, points: FloatArray,
        low: float, high: float,
    ) -> None:  # fmt: skip
        theme, left, right, top, bottom = self._themes.theme, 58.0, 8.0, 6.0, 20.0
        span = np.log(f[-1] / f[0]) if f.size > 1 else 1.0

        def place(frequency_hz: float, value: float) -> QPointF:
            x = left + (self.across() - left - right) * (np.log(frequency_hz / f[0]) / span if f.size > 1 else 0.5)
            return QPointF(float(x), top + (high - value) / (high - low) * (self.down() - top - bottom))

        band = [place(a, b) for a, b in zip(f, y + u, strict=True)]
        band += [place(a, b) for a, b in zip(f[::-1], (y - u)[::-1], strict=True)]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color("teal_wash"))
        painter.drawPolygon(QPolygonF(band))
        painter.setPen(QPen(theme.color("teal"), 1.5))
        painter.drawPolyline(QPolygonF([place(a, b) for a, b in zip(f, y, strict=True)]))
        painter.setBrush(theme.color("teal"))
        for a, b in zip(at, points, strict=True):
            painter.drawEllipse(place(a, b), 2.5, 2.5)
        painter.setPen(theme.color("second"))
        for value, line in ((high, top), (low, self.down() - bottom - 12)):
            painter.drawText(QRectF(0, line, left - 6, 14), Qt.AlignmentFlag.AlignRight, f"{value:.4g}")
        below = self.down() - bottom + 4
        painter.drawText(QRectF(left, below, 120, 14), Qt.AlignmentFlag.AlignLeft, frequency(f[0]))
        end = QRectF(self.across() - right - 120, below, 120, 14)
        painter.drawText(end, Qt.AlignmentFlag.AlignRight, frequency(f[-1]))


def _shown(table: Characterisation, values: Numbers) -> FloatArray:
    """What is drawn: an S-parameter by its level in dB, an impedance by its magnitude, else as it stands."""
    if table.quantity.startswith("s"):
        return np.asarray(20.0 * np.log10(np.maximum(np.abs(values), 1e-6)))
    return np.asarray(np.abs(values) if table.imag else np.real(values))


def _shown_u(table: Characterisation, values: Numbers, u: FloatArray) -> FloatArray:
    if table.quantity.startswith("s"):
        return np.asarray(20.0 / np.log(10.0) * u / np.maximum(np.abs(values), 1e-6))
    return u


class TablesPanel(QWidget):
    """What was measured of a part; tells of the part with a table typed, pasted or opened."""

    part_changed = Signal(object)

    def __init__(self, themes: ThemeHolder, corrections: Callable[[Part], Mapping[str, Corrected]]) -> None:
        super().__init__()
        self.part: Part | None = None
        self._corrections = corrections  # by certificates of the logbook
        self._found: Mapping[str, Corrected] = {}
        self.tables = QComboBox()
        self.tables.setAccessibleName("table shown")
        self.tables.currentIndexChanged.connect(lambda _: self._show())
        self.new = Choosing()
        self.new.setAccessibleName("start a table of")
        self.new.textActivated.connect(self._on_new)
        self.curve = CurveView(themes)
        self.grid = Grid(TABLE_HEADINGS, 3, "measured table")
        self.grid.cell_typed.connect(self._on_cell)
        self.grid.row_removed.connect(self._on_removed)
        self.grid.pasted.connect(self._on_pasted)
        self.grid.setMinimumHeight(px(150))
        self.facts = Form(_FACTS, label_width=110)
        self.facts.field_typed.connect(self._on_fact)
        self.path = LineEdit()
        self.path.setPlaceholderText("file: .s1p .s2p .s3p .csv")
        self.path.setAccessibleName("file with a table")
        self.path.returnPressed.connect(self._on_open)
        self.open = button("Open", "do", "open the table's file")
        self.open.clicked.connect(self._on_open)
        self.problem = label("", "problem", wrap=True)
        self.problem.hide()
        self._fresh: Quantity | None = None
        self._lay_out()

    def _lay_out(self) -> None:
        top = QHBoxLayout()
        top.addWidget(label("Measured", "section"))
        top.addWidget(self.tables, 1)
        top.addWidget(self.new)
        file = QHBoxLayout()
        file.addWidget(self.path, 1)
        file.addWidget(chooser("choose a table's file", lambda: ask_to_open(self, self.opening)))
        file.addWidget(self.open)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 8, 0, 0)
        box.setSpacing(6)
        for item in (top, file):
            box.addLayout(item)
        box.addWidget(self.problem)
        for widget in (self.curve, self.grid, self.facts):
            box.addWidget(widget)

    def show_part(self, part: Part) -> None:
        """Show what is measured of a part."""
        other = self.part is None or self.part.id != part.id
        self.part = part
        quantities = quantities_for(part)
        if other:
            self._fresh = None
            self._say("")
        names = [_name(table) for table in part.characterisations]
        here = self.tables.currentText()
        self.tables.blockSignals(True)
        self.tables.clear()
        self.tables.addItems([*names, *([f"new: {self._fresh.label}"] if self._fresh else [])])
        index = self.tables.findText(here)
        self.tables.setCurrentIndex(index if index >= 0 and not other else max(len(names) - 1, 0))
        self.tables.setVisible(self.tables.count() > 0)
        self.tables.blockSignals(False)
        self.new.clear()
        self._found = self._corrections(part) if QUANTITIES[CORRECTION] in quantities else {}
        self.new.addItems(["new table…", *(item.label for item in quantities), *(f"from {n}" for n in self._found)])
        self._show()

    @property
    def table(self) -> Characterisation | None:
        """The table in front; none where a new one is begun or there is none."""
        place = self.tables.currentIndex()
        tables = self.part.characterisations if self.part else ()
        return tables[place] if 0 <= place < len(tables) else None

    @property
    def quantity(self) -> Quantity | None:
        """What the table in front is of, where it can be typed."""
        return QUANTITIES.get(self.table.quantity) if self.table else self._fresh

    def _show(self) -> None:
        table = self.table
        self.curve.show_table(table)
        self.grid.fill(table_rows(table) if table else [])
        self.grid.setVisible(table is not None or self._fresh is not None)
        self.facts.setVisible(self.grid.isVisibleTo(self))
        if table is not None:
            self.facts.fill({
                "coverage": f"{table.coverage:g}", "source": table.source, "measured_on": table.measured_on,
                "setting": table.setting,
            })  # fmt: skip

    def _on_new(self, text: str) -> None:
        quantities = quantities_for(self.part) if self.part else ()
        certificate = self._found.get(text.removeprefix("from "))
        if certificate is not None and self.part is not None:
            self._tell(with_certificate(self.part, certificate))
            return
        self._fresh = next((item for item in quantities if item.label == text), None)
        if self._fresh is not None and self.part is not None:
            self.show_part(self.part)
            self.tables.setCurrentIndex(self.tables.count() - 1)
            switches = self.part.switches
            self.facts.fill({"coverage": "2", "setting": switches[0].positions[0].label if switches else ""})
            self.grid.setFocus()
            self.grid.setCurrentCell(0, 0)

    def _typed_facts(self) -> TableFacts:
        draft = self.facts.draft()
        coverage = number_from_text(draft["coverage"])[0] if draft["coverage"].strip() else 2.0
        if not 0.5 <= coverage <= 10.0:
            raise OutOfRangeError(f"A k of {coverage:g} makes no sense.", "2 is about 95 %.")
        return TableFacts(coverage, draft["source"].strip(), draft["measured_on"].strip(), draft["setting"].strip())

    def _rows(self) -> list[list[str]]:
        return [self.grid.texts(row) for row in range(self.grid.rowCount())]

    def _on_cell(self, row: int, column: int, text: str) -> None:
        rows = self._rows()
        rows[row][column] = text
        if column == 0 and not rows[row][1].strip():
            return  # the value beside it completes the row
        self._keep(rows)

    def _on_removed(self, row: int) -> None:
        self._keep([item for number, item in enumerate(self._rows()) if number != row])

    def _on_pasted(self, row: int, column: int, pasted: Sequence[Sequence[str]]) -> None:
        rows = self._rows()
        for number, texts in enumerate(pasted):
            while len(rows) <= row + number:
                rows.append(["", "", ""])
            for place, text in enumerate(texts[: 3 - column]):
                rows[row + number][column + place] = text
        self._keep([item for item in rows if any(letter.isdigit() for letter in item[0])])

    def _on_fact(self, _field: str, _text: str) -> None:
        if self.table is not None:
            self._keep(self._rows())

    def _keep(self, rows: list[list[str]]) -> None:
        part, quantity, table = self.part, self.quantity, self.table
        if part is None or quantity is None:
            self._say("A table from a file is edited in the file: change it there and open it again.")
            return
        try:
            made = table_from_texts(quantity, rows, self._typed_facts())
        except FenmistError as error:
            self._say(str(error))
            return
        self._say("")
        self._fresh = None
        if table is not None:  # its setting may have been typed anew
            part = with_table(_without(part, table), made)
        self._tell(with_table(part, made))

    def _on_open(self) -> None:
        """Take the tables of a file."""
        if self.part is None or not self.path.text().strip():
            return
        self.open_file(Path(self.path.text().strip()).expanduser())

    @property
    def opening(self) -> Opening:
        """A table in a file."""
        return Opening("Open a measured table", "Tables", (*TOUCHSTONES, *TABLES), self.open_file)

    def open_file(self, path: Path) -> None:
        """Take the tables of a file, dropped or typed."""
        if self.part is None:
            return
        quantities = quantities_for(self.part)
        try:
            made = tables_from_file(
                self.part, path, self.quantity or (quantities[0] if quantities else None), self._typed_facts()
            )
        except FenmistError as error:
            self._say(str(error))
            return
        self._say("")
        self._tell(with_tables(self.part, made))

    def _tell(self, part: Part) -> None:
        self.part_changed.emit(part)

    def _say(self, text: str) -> None:
        set_text(self.problem, text)
        self.problem.setVisible(bool(text))


def _without(part: Part, table: Characterisation) -> Part:
    return replace(part, characterisations=tuple(item for item in part.characterisations if item is not table))


def _name(table: Characterisation) -> str:
    quantity = QUANTITIES.get(table.quantity)
    said = quantity.label if quantity else table.quantity.upper()
    about = ", ".join(item for item in (table.setting, table.measured_on) if item)
    return f"{said} ({about})" if about else said
