"""A drawn circuit whose values are typed in place."""

from PySide6.QtCore import Signal
from PySide6.QtGui import QFocusEvent, QResizeEvent
from PySide6.QtWidgets import QWidget

from fenmist.desk.theme import ThemeHolder, px
from fenmist.desk.widgets.line_edit import LineEdit
from fenmist.desk.widgets.picture_view import PictureView
from fenmist.procedures.page import Circuit
from fenmist.reports.circuitdrawing import value_place


class ValueField(LineEdit):
    """A value over the drawing."""

    focused = Signal()

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.focused.emit()


WIDE, HIGH = 88, 24
"""Of a value's field, in design pixels."""


class CircuitView(PictureView):
    """The circuit; each value is a field over it."""

    value_typed = Signal(str, str)  # piece, text
    value_entered = Signal(str)  # the keyboard came to a piece's value

    def __init__(self, themes: ThemeHolder) -> None:
        super().__init__(themes, with_values=False)
        self.setAccessibleName("the circuit")
        self.fields: dict[str, ValueField] = {}

    def show_circuit(self, circuit: Circuit) -> None:
        """Show a circuit; a field that is being typed into is left alone."""
        self.show_picture(circuit)
        wanted = {item.id: item for item in circuit.valued if item.kind != "trim"}
        for name in [name for name in self.fields if name not in wanted]:
            field = self.fields.pop(name)
            field.hide()
            field.deleteLater()
        previous: QWidget | None = None
        for name, item in wanted.items():
            field = self.fields.get(name) or self._made(name)
            if field.text() != item.value and not field.isModified():
                field.setText(item.value)
                field.setCursorPosition(0)
            if previous is not None:
                self.setTabOrder(previous, field)
            previous = field
        self._place()

    def _made(self, name: str) -> ValueField:
        field = ValueField()
        field.setParent(self)
        field.setAccessibleName(f"value of {name}")
        field.setToolTip("Type another value; empty gives the one that follows back")
        field.editingFinished.connect(lambda: self._on_finished(name, field))
        field.focused.connect(lambda: self.value_entered.emit(name))
        self.fields[name] = field
        field.show()
        return field

    def _on_finished(self, name: str, field: ValueField) -> None:
        if field.isModified():
            field.setModified(False)
            self.value_typed.emit(name, field.text())

    def _place(self) -> None:
        if not isinstance(self.picture, Circuit):
            return
        for item in self.picture.valued:
            if (field := self.fields.get(item.id)) is not None:
                x, y = value_place(item, self.width() / self.unit)
                field.setGeometry(
                    round(x * self.unit), round((y - HIGH / 2.0) * self.unit), px(WIDE), px(HIGH)
                )  # fmt: skip

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._place()
