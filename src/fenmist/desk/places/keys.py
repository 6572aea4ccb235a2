"""The shortcut page: every action and key of the table, by where it works."""

from itertools import groupby

from PySide6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from fenmist.desk.actions import ACTIONS
from fenmist.desk.widgets.labels import key_cap, label

ROWS = 23
"""Lines a column."""


class KeysPlace(QWidget):
    """All keys on one page."""

    where = "keys"

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("ground")
        box = QVBoxLayout(self)
        box.setContentsMargins(40, 24, 40, 16)
        box.setSpacing(14)
        box.addWidget(
            label("Everything can be done from the keyboard; the run from the numeric pad alone.", "headline")
        )
        grid = QGridLayout()
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(6)
        column, row = 0, 0
        for where, actions in groupby(ACTIONS, key=lambda item: item.where):
            listed = list(actions)
            if row and row + len(listed) + 1 > ROWS:
                column, row = column + 4, 0
            grid.addWidget(label(where, "section"), row, column, 1, 3)
            row += 1
            for action in listed:
                grid.addWidget(key_cap(action.shortcut), row, column)
                grid.addWidget(label(action.text), row, column + 1)
                grid.addWidget(label(action.tip, "second"), row, column + 2)
                row += 1
            row += 1
        box.addLayout(grid)
        box.addWidget(label("F1 or Esc leads back.", "second"))
        box.addStretch(1)

    def enter(self) -> None:
        """The place comes to the front."""
        self.setFocus()
