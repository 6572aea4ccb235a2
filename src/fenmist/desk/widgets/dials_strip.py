"""Dials of a simulated bench in a strip below the work: what is to be read by eye can be looked at."""

from collections.abc import Mapping

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fenmist.calibration.job import Job, PlanPoint
from fenmist.desk.theme import ThemeHolder, px
from fenmist.desk.widgets.dial import Dial
from fenmist.desk.widgets.labels import label, set_text
from fenmist.kit.part import Indicator, Part, Range

Shown = Mapping[str, Mapping[str, float]]
"""What each needle points at, W, by part and indicator."""

_STOP = 1.03
"""Part of full scale at which a needle lies against its stop."""


class DialsStrip(QWidget):
    """One drawn dial for each needle; nothing is said in figures."""

    def __init__(self, themes: ThemeHolder) -> None:
        super().__init__()
        self._themes = themes
        self.dials: dict[tuple[str, str], Dial] = {}
        self._row = QHBoxLayout()
        self._row.addStretch(1)
        self._row.addStretch(1)
        self.said = label("", "second")
        self.said.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        box = QVBoxLayout(self)
        box.setContentsMargins(px(20), 0, px(20), px(8))
        box.addLayout(self._row)
        box.addWidget(self.said)

    def follow(self, shown: Shown, parts: Mapping[str, Part], job: Job | None, point: PlanPoint | None) -> None:
        """Move the needles; ranges are those of the point in hand."""
        said = []
        for part_id, needles in shown.items():
            part = parts.get(part_id)
            if part is None:
                continue
            for name, value in needles.items():
                used = _range(part.indicator(name), value, _planned(job, point, part_id, name))
                if used is None:
                    continue
                dial = self._dial(part, name)
                dial.show_range(used, 0.25)
                dial.show_value(min(max(value, 0.0), _STOP * used.full_scale), False)
                said.append(f"{part.label}, simulated, {part.indicator(name).label}: {used.id}\u202f{used.unit} range")
        set_text(self.said, " · ".join(said))

    def _dial(self, part: Part, name: str) -> Dial:
        key = part.id, name
        if key not in self.dials:
            dial = self.dials[key] = Dial(self._themes)
            dial.setEnabled(False)  # it is looked at, not turned
            dial.setAccessibleName(f"simulated dial of {part.label}, {part.indicator(name).label}")
            self._row.insertWidget(self._row.count() - 1, dial)
        return self.dials[key]


def _planned(job: Job | None, point: PlanPoint | None, part: str, indicator: str) -> Range | None:
    """The range that the point in hand is planned on."""
    if job is None or point is None:
        return None
    mine = (name for name in point.sequence if (job.part_read(name).id, job.indicator(name).id) == (part, indicator))
    channel = next(mine, None)
    return job.range_of(point, channel) if channel is not None else None


def _range(shows: Indicator, value: float, planned: Range | None) -> Range | None:
    """The one on which it is read; where no plan says it the first that reaches so far."""
    drawn = [used for used in shows.ranges if used.scale is not None]
    if planned is not None and planned.scale is not None:
        return planned
    return next((used for used in drawn if value <= used.full_scale), drawn[-1] if drawn else None)
