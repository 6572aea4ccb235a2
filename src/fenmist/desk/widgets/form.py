"""Fields with their names, units and problems beneath them."""

from collections.abc import Mapping, Sequence

from PySide6.QtCore import Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QComboBox, QFormLayout, QLineEdit, QVBoxLayout, QWidget

from fenmist.desk.theme import px
from fenmist.desk.widgets.labels import label, set_text
from fenmist.desk.widgets.line_edit import LineEdit
from fenmist.findings.note import Problem
from fenmist.kit.sheet import Field


class Form(QWidget):
    """A form over a draft (texts by field id); tells of each committed change."""

    field_typed = Signal(str, str)

    def __init__(self, fields: Sequence[Field], live: bool = False, label_width: int = 0) -> None:
        super().__init__()
        self.fields = tuple(fields)
        self.inputs: dict[str, QLineEdit | QComboBox] = {}
        self._problems = {}
        box = QFormLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setHorizontalSpacing(14)
        box.setVerticalSpacing(5)
        for item in self.fields:
            holder = QWidget()
            inner = QVBoxLayout(holder)
            inner.setContentsMargins(0, 0, 0, 0)
            inner.setSpacing(0)
            problem = label("", "problem", wrap=True)
            problem.hide()
            self._problems[item.id] = problem
            self.inputs[item.id] = self._choice(item) if item.choices else self._line(item, live)
            inner.addWidget(self.inputs[item.id])
            inner.addWidget(problem)
            name = label(item.label, "second")
            name.setMinimumWidth(px(label_width))
            name.setMinimumHeight(px(26))
            box.addRow(name, holder)

    def _line(self, item: Field, live: bool) -> QLineEdit:
        field = LineEdit()
        field.setAccessibleName(item.label)
        field.setPlaceholderText(item.example)
        field.setToolTip(item.help)
        if live:
            field.textEdited.connect(lambda text, i=item.id: self.field_typed.emit(i, text))
        else:
            field.editingFinished.connect(lambda i=item.id, f=field: self._on_finished(i, f))
        return field

    def _choice(self, item: Field) -> QComboBox:
        field = QComboBox()
        field.setAccessibleName(item.label)
        field.addItems(list(item.choices))
        field.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        field.setMinimumContentsLength(6)
        field.textActivated.connect(lambda text, i=item.id: self.field_typed.emit(i, text))
        return field

    def _on_finished(self, field_id: str, field: QLineEdit) -> None:
        if field.isModified():
            field.setModified(False)
            self.field_typed.emit(field_id, field.text())

    def fill(self, draft: Mapping[str, str]) -> None:
        """Show a draft; a field that is being typed into is left alone."""
        for field_id, field in self.inputs.items():
            text = draft.get(field_id, "")
            if isinstance(field, QComboBox):
                field.setCurrentText(text)
            elif field.text() != text and not (field.hasFocus() and field.isModified()):
                field.setText(text)
                field.setCursorPosition(0)

    def offer(self, field_id: str, choices: Sequence[str]) -> None:
        """Other choices of a field; the one that is taken stays where it is among them, else the first."""
        field = self.inputs[field_id]
        if isinstance(field, QComboBox) and [field.itemText(n) for n in range(field.count())] != list(choices):
            taken = field.currentText()
            field.clear()
            field.addItems(list(choices))
            field.setCurrentText(taken)

    def draft(self) -> dict[str, str]:
        """What stands in the fields."""
        return {
            field_id: field.currentText() if isinstance(field, QComboBox) else field.text()
            for field_id, field in self.inputs.items()
        }

    def show_problems(self, problems: Sequence[Problem]) -> None:
        """Say what is wrong beneath the fields it is about."""
        said = {problem.field: f"{problem.what} {problem.remedy}".strip() for problem in problems}
        for field_id, shown in self._problems.items():
            self.inputs[field_id].setAccessibleDescription(said.get(field_id, ""))
            set_text(shown, said.get(field_id, ""))
            shown.setVisible(field_id in said)
        self._fit_problems()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit_problems()

    def _fit_problems(self) -> None:
        """Give what is said beneath a field the height of all its lines: the layout alone allows for two."""
        for field_id, shown in self._problems.items():
            lines = shown.heightForWidth(self.inputs[field_id].width()) if shown.text() else 0
            shown.setMinimumHeight(max(lines, 0))
