"""Why it errs: readings with the curve of the likeliest shape, shapes side by side, the reading that decides."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fenmist.desk.plots.error_plot import ErrorPlot
from fenmist.desk.theme import ThemeHolder, px
from fenmist.desk.widgets.grid import Grid
from fenmist.desk.widgets.labels import button, label, set_text
from fenmist.procedures.page import EXPLAINED, Chart
from fenmist.session.adjust import explained, point_said, with_one_more
from fenmist.session.openjob import OpenJob
from fenmist.session.view import View

_KEY = "The line is the likeliest shape. A weight is among all shapes that count; what misses least foretells best."
_NOTHING = "Why it errs can be looked for once three points were read as found (readings: Alt+5)."


class WhyPanel(QWidget):
    """What the errors may come from."""

    did = Signal(str)

    def __init__(self, job: OpenJob, themes: ThemeHolder) -> None:
        super().__init__()
        self.job = job
        self.plot = ErrorPlot(themes)
        self.plot.setMinimumHeight(px(220))
        self.key = label(_KEY, "second", wrap=True)
        self.shapes = Grid(EXPLAINED, 0, "why it errs", grows=False)
        self.offer = label("", "second", wrap=True)
        self.one_more = button("Plan this reading", "do")
        self.one_more.clicked.connect(self._plan_it)
        below = QHBoxLayout()
        below.addWidget(self.offer, 1)
        below.addWidget(self.one_more)
        body = QVBoxLayout(self)
        body.setContentsMargins(0, 0, 0, 0)
        body.addWidget(self.plot, 1)
        body.addWidget(self.key)
        body.addWidget(self.shapes, 1)
        body.addLayout(below)

    def headline_text(self, view: View) -> str:
        """What it is, or may be."""
        said = explained(view)
        return said.headline if said is not None else _NOTHING

    def refresh(self) -> None:
        """Show the job as it stands."""
        said = explained(self.job.view)
        self.plot.show_chart(said.chart if said is not None else Chart(()))
        for widget in (self.plot, self.key, self.shapes):
            widget.setVisible(said is not None)
        self.shapes.fill([list(row) for row in said.rows] if said is not None else [])
        set_text(self.offer, said.offer if said is not None else "")
        self.one_more.setVisible(said is not None and said.point is not None)

    def _plan_it(self) -> None:
        said = explained(self.job.view)
        if said is not None and said.point is not None:
            self.job.edit(with_one_more(self.job.job, said), "one more reading")
            self.did.emit(f"Planned last: {point_said(said.point)}. It is read in “readings”.")
