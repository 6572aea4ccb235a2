"""Kit: the equipment, what is stated of it, and when it was last compared."""

from uuid import uuid4

from PySide6.QtWidgets import QComboBox, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from fenmist.desk.widgets.form import Form
from fenmist.desk.widgets.grid import Grid
from fenmist.desk.widgets.labels import button, clear_layout, label, set_text
from fenmist.kit.draft import blank_part, draft_from_part, fields_for, part_from_draft
from fenmist.kit.part import Part, PartKind
from fenmist.session.session import Session


class KitPlace(QWidget):
    """The list at the left, the chosen part's fields at the right."""

    where = "kit"

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("ground")
        self._session = session
        self._parts: tuple[Part, ...] = ()
        self.part: Part | None = None
        self.form: Form | None = None
        self.headline = label("", "headline", wrap=True)
        self.table = Grid(("part", "kind", "serial", "history"), 0, "equipment", grows=False)
        self.table.row_chosen.connect(self._on_chosen)
        self.kind = QComboBox()
        self.kind.setAccessibleName("kind of the new part")
        self.kind.addItems([str(kind) for kind in PartKind])
        self.add = button("Add one", "do")
        self.add.clicked.connect(self._on_add)
        bar = QHBoxLayout()
        bar.addWidget(self.kind)
        bar.addWidget(self.add)
        bar.addStretch(1)
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addWidget(self.table, 1)
        left.addLayout(bar)
        self.title = label("", "section")
        self.said = label("", "second", wrap=True)
        self._column = QVBoxLayout()
        self._column.setContentsMargins(0, 0, 10, 0)
        holder = QWidget()
        holder.setLayout(self._column)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(holder)
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addWidget(self.title)
        right.addWidget(scroll, 1)
        right.addWidget(self.said)
        both = QHBoxLayout()
        both.setSpacing(32)
        both.addLayout(left, 5)
        both.addLayout(right, 4)
        box = QVBoxLayout(self)
        box.setContentsMargins(40, 24, 40, 16)
        box.setSpacing(14)
        box.addWidget(self.headline)
        box.addLayout(both, 1)

    def refresh(self) -> None:
        """Read the list again."""
        self._parts = self._session.kit
        self.table.fill([[part.label, str(part.kind), part.serial, _history(part)] for part in self._parts])
        unknown = [part for part in self._parts if part.indicators and not part.history]
        set_text(self.headline, _headline(self._parts, unknown))
        if self._parts and self.part is None:
            self.table.setCurrentCell(0, 0)
            self._on_chosen(0)

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

    def _make_form(self, part: Part) -> None:
        clear_layout(self._column)
        self.form = Form(fields_for(part.kind))
        self.form.field_typed.connect(self._on_typed)
        self._column.addWidget(self.form)
        self._column.addStretch(1)
        set_text(self.said, "Jobs keep the data they were begun with; changes count for new ones.")

    def _on_typed(self, field_id: str, text: str) -> None:
        if self.part is None or self.form is None:
            return
        made = part_from_draft(self.part, {**draft_from_part(self.part), field_id: text})
        if isinstance(made, Part):
            self.form.show_problems(())
            self.part = made
            self._session.save_part(made)
            set_text(self.title, f"{made.label}: {made.kind}")
            self.refresh()
        else:
            self.form.show_problems(made)

    def _on_add(self) -> None:
        kind = PartKind(self.kind.currentText())
        self._session.save_part(blank_part(uuid4().hex, kind))
        self.refresh()
        self.table.setCurrentCell(len(self._parts) - 1, 0)
        if self.form is not None:
            self.form.inputs["label"].setFocus()


def _history(part: Part) -> str:
    if part.history:
        return f"compared {part.history[-1].on}"
    return "nothing on record" if part.indicators else ""


def _headline(parts: tuple[Part, ...], unknown: list[Part]) -> str:
    if not unknown:
        return f"{len(parts)} parts; every instrument has a comparison on record."
    names = ", ".join(part.label for part in unknown[:3])
    if len(unknown) > 3:
        names += f" and {len(unknown) - 3} more"
    return f"{len(parts)} parts; nothing is on record of the past of {names}."
