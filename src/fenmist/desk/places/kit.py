"""Kit: the equipment, what is stated of it, when it is due, and which jobs used it."""

from dataclasses import replace
from pathlib import Path
from uuid import uuid4

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from fenmist.desk.filing import Files, Opening, Saving
from fenmist.desk.listening import listen_while_alive
from fenmist.desk.theme import ThemeHolder
from fenmist.desk.widgets.form import Form
from fenmist.desk.widgets.grid import Grid
from fenmist.desk.widgets.labels import button, clear_layout, label, set_text
from fenmist.desk.widgets.pages import Columns
from fenmist.desk.widgets.tables_panel import TablesPanel
from fenmist.errors import FenmistError
from fenmist.files.whole import with_ending, write_whole
from fenmist.kit.draft import blank_part, draft_from_part, fields_of_part, part_from_draft
from fenmist.kit.due import Due, State
from fenmist.kit.generic import starter_shelf
from fenmist.kit.part import Part, PartKind
from fenmist.kit.tables import quantities_for
from fenmist.session.session import Session
from fenmist.session.summaries import JobSummary
from fenmist.units.display import count_of

_SIGNS = {State.FINE: "✓", State.DUE: "▲", State.OVERDUE: "✕", State.UNKNOWN: "?", State.NOT_NEEDED: "–"}
MOST_JOBS = 6
"""Jobs named under “used in”."""


class KitPlace(Files, QWidget):
    """The list at the left, the chosen part's fields at the right."""

    where = "kit"
    open_wanted = Signal(str)

    def __init__(self, session: Session, themes: ThemeHolder) -> None:
        super().__init__()
        self.setObjectName("ground")
        self._session = session
        self.tables = TablesPanel(themes, session.corrections_of)
        self.tables.part_changed.connect(self._save)
        self._parts: tuple[Part, ...] = ()
        self.part: Part | None = None
        self.form: Form | None = None
        self.headline = label("", "headline", wrap=True)
        self.search = QComboBox()
        self.search.setAccessibleName("which parts are shown")
        self.search.addItems(["all parts", "due or overdue", "unknown"])
        self.search.textActivated.connect(lambda _: self.refresh())
        self.table = Grid(("part", "kind", "serial", "state", "due"), 0, "equipment", grows=False)
        self.table.row_chosen.connect(self._on_chosen)
        self.kind = QComboBox()
        self.kind.setAccessibleName("kind of the new part")
        self.kind.addItems([str(kind) for kind in PartKind])
        self.kind.insertSeparator(self.kind.count())
        self.kind.addItems([part.label for part in starter_shelf()])
        self.add = button("Add", "do")
        self.add.clicked.connect(self._on_add)
        self.away = button("Retire", "link")
        self.away.clicked.connect(self._on_away)
        self.copy_button = button("copy the list", "link")
        self.copy_button.clicked.connect(self.table.copy)
        self.title = label("", "section")
        self.stated, self.measured = button("stated", "phase"), button("measured", "phase")
        for made in (self.stated, self.measured):
            made.setCheckable(True)
            made.clicked.connect(lambda _=False, m=made: self.show_side(m is self.measured))
        self.said = label("", "second", wrap=True)
        self.used = QVBoxLayout()
        self.used.setSpacing(2)
        self._column = QVBoxLayout()
        self._column.setContentsMargins(0, 0, 10, 0)
        self._lay_out()
        listen_while_alive(self, session.changed, self._on_changed)

    @property
    def saving(self) -> Saving:
        return Saving("Due dates as a calendar", Path.home() / "due-dates.ics", (".ics",), self._save_dates)

    def _save_dates(self, path: Path) -> None:
        from fenmist.reports.calendar import calendar_bytes  # heavy: imported on first use
        from fenmist.session.duedates import due_dates

        found = due_dates(self._session)
        write_whole(with_ending(path, ".ics"), lambda: calendar_bytes(found, self._session.now()))
        set_text(self.said, f"{count_of(len(found), 'due date', 'due dates').capitalize()} written to {path}.")

    def _lay_out(self) -> None:
        bar = QHBoxLayout()
        bar.setSpacing(12)
        bar.addWidget(self.kind)
        bar.addWidget(self.add)
        bar.addWidget(self.away)
        bar.addStretch(1)
        bar.addWidget(self.copy_button)
        above = QHBoxLayout()
        above.addWidget(label("show", "second"))
        above.addWidget(self.search)
        above.addStretch(1)
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addLayout(above)
        left.addWidget(self.table, 1)
        left.addLayout(bar)
        holder = QWidget()
        whole = QVBoxLayout(holder)
        whole.setContentsMargins(0, 0, 0, 0)
        self._stated_side = QWidget()
        self._stated_side.setLayout(self._column)
        whole.addWidget(self._stated_side)
        whole.addWidget(self.tables)
        whole.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(holder)
        right = QVBoxLayout()
        right.setSpacing(8)
        heading = QHBoxLayout()
        heading.setSpacing(14)
        heading.addWidget(self.title, 1)
        heading.addWidget(self.stated)
        heading.addWidget(self.measured)
        right.addLayout(heading)
        right.addWidget(scroll, 1)
        right.addWidget(self.said)
        right.addLayout(self.used)
        both = Columns()
        both.setSpacing(32)
        both.addLayout(left, 13)
        both.addLayout(right, 8)
        box = QVBoxLayout(self)
        box.setContentsMargins(40, 24, 40, 16)
        box.setSpacing(14)
        box.addWidget(self.headline)
        box.addLayout(both, 1)

    def refresh(self) -> None:
        """Read the list again."""
        parts = self._session.kit
        dues = {part.id: self._session.due(part) for part in parts}
        self._parts = tuple(part for part in parts if self._is_shown(dues[part.id]))
        self.table.fill([_row(part, dues[part.id]) for part in self._parts])
        set_text(self.headline, kit_headline(parts, dues))
        known = self.part is not None and any(part.id == self.part.id for part in self._parts)
        if self._parts and not known:
            self.table.setCurrentCell(0, 0)
            self._on_chosen(0)
        elif self.part is not None and known:
            self._on_chosen(next(n for n, part in enumerate(self._parts) if self.part and part.id == self.part.id))

    def _is_shown(self, due: Due) -> bool:
        shown = self.search.currentIndex()
        return shown == 0 or due.state in ((State.DUE, State.OVERDUE) if shown == 1 else (State.UNKNOWN,))

    def _on_changed(self) -> None:
        if self.isVisible():
            self.refresh()

    def enter(self) -> None:
        """The place comes to the front."""
        self.refresh()
        self.table.setFocus()

    def _on_chosen(self, row: int) -> None:
        if not 0 <= row < len(self._parts):
            return
        part = self._parts[row]
        if self.form is None or self.part is None or self.part.kind is not part.kind or self.part.id != part.id:
            self._make_form(part)
        self.part = part
        set_text(self.title, f"{part.label}: {part.kind}")
        if self.form is not None:
            self.form.fill(draft_from_part(part))
        self.tables.show_part(part)
        has_tables = bool(quantities_for(part)) or bool(part.characterisations)
        self.measured.setEnabled(has_tables)
        self.measured.setText(f"measured ({len(part.characterisations)})" if part.characterisations else "measured")
        self.show_side(self.measured.isChecked() and has_tables)
        self._show_used(self._session.used_in(part.id))

    def show_side(self, measured: bool) -> None:
        """What is stated of the part, or what was measured of it."""
        self.stated.setChecked(not measured)
        self.measured.setChecked(measured)
        self._stated_side.setVisible(not measured)
        self.tables.setVisible(measured)

    @property
    def opening(self) -> Opening:
        return self.tables.opening

    def open_table(self, path: Path) -> None:
        """Take a file's tables for the chosen part."""
        self.show_side(True)
        self.tables.open_file(path)

    def _make_form(self, part: Part) -> None:
        clear_layout(self._column)
        self.form = Form(fields_of_part(part))
        self.form.field_typed.connect(self._on_typed)
        self._column.addWidget(self.form)
        set_text(self.said, "Jobs keep the data they started with; changes apply to new jobs. Ctrl+Z undoes.")

    def _show_used(self, jobs: tuple[JobSummary, ...]) -> None:
        clear_layout(self.used)
        self.used.addWidget(label(f"Used in {count_of(len(jobs), 'job', 'jobs')}", "section"))
        for job in jobs[:MOST_JOBS]:
            made = button(f"{job.began_on}  {job.title}", "link", f"open the job {job.title}")
            made.clicked.connect(lambda _=False, name=job.id: self.open_wanted.emit(name))
            self.used.addWidget(made)

    def _on_typed(self, field_id: str, text: str) -> None:
        if self.part is None or self.form is None:
            return
        made = part_from_draft(self.part, {**draft_from_part(self.part), field_id: text})
        if isinstance(made, tuple):
            self.form.show_problems(made)
            return
        self.form.show_problems(())
        self._save(made)

    def _save(self, part: Part) -> None:
        try:
            self._session.save_part(part)
        except FenmistError as error:
            set_text(self.said, str(error))
            return
        self.part = part
        self.refresh()

    def _on_add(self) -> None:
        wanted = self.kind.currentText()
        generic = next((part for part in starter_shelf() if part.label == wanted), None)
        self.search.setCurrentIndex(0)
        self._save(replace(generic, id=uuid4().hex) if generic else blank_part(uuid4().hex, PartKind(wanted)))
        self.table.setCurrentCell(len(self._parts) - 1, 0)
        if self.form is not None:
            self.form.inputs["label"].setFocus()

    def _on_away(self) -> None:
        """Retire the chosen part: it is no longer offered, and stays in the jobs that used it."""
        if self.part is not None:
            gone, self.part = self.part, None
            self._save(replace(gone, retired=True))
            self.part = None
            self.refresh()


def _row(part: Part, due: Due) -> list[str]:
    latest = due.latest
    when = ""
    if latest is not None and latest.due:
        when = latest.due if due.state is State.FINE else f"{latest.due}, {_days(due.days)}"
    state = f"{_SIGNS[due.state]} {due.state}"
    return [part.label, str(part.kind), part.serial, state, when]


def _days(days: int) -> str:
    if days == 0:
        return "today"
    return f"in {days} days" if days > 0 else f"{-days} days ago"


def kit_headline(parts: tuple[Part, ...], dues: dict[str, Due]) -> str:
    """What needs care in the equipment."""
    if not parts:
        return "There is no equipment yet: add what is on the bench."
    late = [part for part in parts if dues[part.id].state is State.OVERDUE]
    soon = [part for part in parts if dues[part.id].state is State.DUE]
    unknown = [part for part in parts if dues[part.id].state is State.UNKNOWN]
    said = []
    if late:
        said.append(f"{_names(late)} {'is' if len(late) == 1 else 'are'} overdue")
    if soon:
        said.append(f"{_names(soon)} {'is' if len(soon) == 1 else 'are'} due within 60 days")
    if unknown:
        said.append(f"{count_of(len(unknown), 'part has', 'parts have')} no calibration history")
    text = "; ".join(said)
    return f"{text[0].upper()}{text[1:]}." if said else f"All {len(parts)} parts are in date, or need no date."


def _names(parts: list[Part]) -> str:
    names = [part.label for part in parts]
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
