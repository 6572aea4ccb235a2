"""The error so far at the point in hand: in watts, in decibels, with U, scatter and drift."""

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fenmist.calibration.job import PlanPoint
from fenmist.desk.widgets.labels import label, set_state, set_text
from fenmist.session.present import running_error, scatter_and_drift
from fenmist.session.view import View
from fenmist.units.display import rounded


class Running(QWidget):
    """Running figures, greyed while they come of a draft."""

    def __init__(self) -> None:
        super().__init__()
        self.error_w, self.error_db, self.error_u = (label("—", "running") for _ in range(3))
        self.scatter, self.drift = (label("", "second") for _ in range(2))
        self.u_name = label("U", "second")
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(24)
        for name, value in (
            (label("error so far", "second"), self.error_w), (label(" ", "second"), self.error_db),
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
        self.setVisible(point is not None)
        found = view.result.of(point.id) if point else None
        for shown, text in zip((self.error_w, self.error_db, self.error_u), running_error(found), strict=True):
            set_text(shown, text)
            set_state(shown, kept="true" if kept and found else "false")
        scatter, drift = scatter_and_drift(view, point.id) if point else ("—", "—")
        set_text(self.scatter, f"scatter {scatter}")
        set_text(self.drift, f"drift {drift}")
        set_text(self.u_name, f"U, k = {rounded(found.k, 2)}" if found else "U")
