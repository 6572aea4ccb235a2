"""The shortcut page: every action and key of the table, by where it works; the run's keypad can be changed here."""

from dataclasses import fields
from itertools import groupby

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from fenmist.desk.actions import ACTIONS
from fenmist.desk.keypad import AFTER_COMMAND, Keypad
from fenmist.desk.theme import ThemeHolder, px
from fenmist.desk.widgets.labels import key_cap, label, set_text
from fenmist.desk.widgets.line_edit import LineEdit
from fenmist.errors import FenmistError

ROWS = 24
"""Lines a column."""

_SAID = {"command": "before a digit", "repeat": "one more round", "carrier": "carrier on or off", "back": "back one"}


class KeysPlace(QWidget):
    """All keys on one page."""

    where = "keys"
    keypad_changed = Signal()

    def __init__(self, themes: ThemeHolder) -> None:
        super().__init__()
        self._themes = themes
        self.setObjectName("ground")
        outer = QVBoxLayout(self)
        outer.setContentsMargins(px(40), px(20), px(20), px(12))
        outer.setSpacing(px(10))
        outer.addWidget(
            label("Everything can be done by keyboard; the run from the numeric pad alone.", "headline", wrap=True)
        )
        page = QWidget()
        box = QVBoxLayout(page)
        box.setContentsMargins(0, 0, 0, 0)
        box.addLayout(self._table())
        box.addSpacing(px(10))
        box.addLayout(self._keypad())
        self.said = label("F1 or Esc leads back.", "second", wrap=True)
        box.addWidget(self.said)
        box.addStretch(1)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(page)
        outer.addWidget(area, 1)

    def _table(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(px(12))
        grid.setVerticalSpacing(px(4))
        column, row = 0, 0
        for where, actions in groupby(ACTIONS, key=lambda item: item.where):
            listed = list(actions)
            if row and row + len(listed) + 1 > ROWS:
                column, row = column + 3, 0
            grid.addWidget(label(where, "section"), row, column, 1, 2)
            row += 1
            for action in listed:
                grid.addWidget(key_cap(action.shortcut), row, column)
                said = label(action.text, "second")
                said.setToolTip(action.tip)
                grid.addWidget(said, row, column + 1)
                row += 1
        grid.setColumnStretch(column + 2, 1)
        return grid

    def _keypad(self) -> QHBoxLayout:
        """The keys that steer a run, to be changed."""
        row = QHBoxLayout()
        row.setSpacing(px(8))
        row.addWidget(label("the run's keypad", "section"))
        self.fields = {}
        for item in fields(Keypad):
            field = LineEdit(getattr(self._themes.keypad, item.name))
            field.setMaxLength(1)
            field.setFixedWidth(px(34))
            field.setAccessibleName(f"key: {_SAID[item.name]}")
            field.editingFinished.connect(lambda name=item.name: self._on_typed(name))
            self.fields[item.name] = field
            row.addWidget(field)
            row.addWidget(label(_SAID[item.name], "second"))
        after = "  ".join(f"{digit} {said}" for digit, (_, said) in AFTER_COMMAND.items())
        row.addWidget(label(f"·  {after}", "second"))
        row.addStretch(1)
        return row

    def _on_typed(self, name: str) -> None:
        field = self.fields[name]
        if field.text() == getattr(self._themes.keypad, name):
            return
        try:
            self._themes.keypad = self._themes.keypad.changed(name, field.text())
        except FenmistError as error:
            field.setText(getattr(self._themes.keypad, name))
            set_text(self.said, str(error))
            return
        set_text(self.said, "Kept.")
        self.keypad_changed.emit()

    def enter(self) -> None:
        """The place comes to the front."""
        self.setFocus()
