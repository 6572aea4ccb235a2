"""The error so far at the point in hand: in watts, in decibels, with U, scatter and drift."""

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fenmist.calibration.job import PlanPoint
from fenmist.desk.widgets.labels import label, set_state, set_text
from fenmist.procedures.page import Figures
from fenmist.session.view import View


class Running(QWidget):
    """Running figures, greyed while they come of a draft."""

    def __init__(self) -> None:
        super().__init__()
        self.error_w, self.error_db, self.error_u = (label("—", "running") for _ in range(3))
        self.scatter, self.drift = (label("", "second") for _ in range(2))
        self.name, self.second_name, self.u_name = (label(text, "second") for text in ("", " ", "U"))
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(24)
        for name, value in (
            (self.name, self.error_w), (self.second_name, self.error_db),
            (self.u_name, self.error_u),
        ):  # fmt: skip
            column = QVBoxLayout()
            column.setSpacing(0)
            column.addWidget(name)
            column.addWidget(value)
            box.addLayout(column)
        beside = QVBoxLayout()
        beside.setSpacing(2)
        beside.addStretch(1)
        beside.addWidget(self.scatter)
        beside.addWidget(self.drift)
        box.addLayout(beside)
        box.addStretch(1)

    def show_point(self, view: View, point: PlanPoint | None, kept: bool) -> None:
        """Show what is known at a point, kept or drafted; nothing stands there without a plan."""
        if point is None:
            self.hide()
            return
        found: Figures = view.procedure.figures(view.at_once, point.id)
        known = view.at_once.stated_at(point.id) is not None
        texts = (found.value, found.second, found.expanded_u)
        for shown, text in zip((self.error_w, self.error_db, self.error_u), texts, strict=True):
            set_text(shown, text)
            set_state(shown, kept="true" if kept and known else "false")
        set_text(self.name, found.name)
        set_text(self.second_name, found.second_name or " ")
        set_text(self.u_name, found.u_name)
        set_text(self.scatter, f"scatter {found.scatter}")
        set_text(self.drift, f"drift {found.drift}")
        self.show()
