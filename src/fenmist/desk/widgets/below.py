"""Below the entries: the chart of errors, or in its place power against time, or a capture."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QStackedWidget, QWidget

from fenmist.calibration.outcome import Stated
from fenmist.desk.plots.error_plot import ErrorPlot
from fenmist.desk.theme import ThemeHolder, px
from fenmist.procedures.page import FREQUENCY
from fenmist.session.view import View

if TYPE_CHECKING:
    from fenmist.desk.widgets.capture_panel import CapturePanel
    from fenmist.desk.widgets.series_view import SeriesView

BELOW_PX = 196
"""Height of the chart, and of what stands in its place."""


class Below(QStackedWidget):
    """The chart in front; the others are made when first asked for."""

    taken = Signal(object)  # an opened capture, to be kept as the entry
    left = Signal()  # the chart is in front again

    def __init__(self, themes: ThemeHolder) -> None:
        super().__init__()
        self._themes = themes
        self._series: SeriesView | None = None
        self._capture: CapturePanel | None = None
        self.plot = ErrorPlot(themes, compact=True)
        self.setFixedHeight(px(BELOW_PX))
        self.addWidget(self.plot)

    @property
    def series(self) -> "SeriesView":
        """Power against time."""
        if self._series is None:
            from fenmist.desk.widgets.series_view import SeriesView

            self._series = SeriesView(self._themes)
            self._series.closed.connect(self.show_chart)
            self.addWidget(self._series)
        return self._series

    @property
    def capture(self) -> "CapturePanel":
        """The panel of a capture."""
        if self._capture is None:
            from fenmist.desk.widgets.capture_panel import CapturePanel  # fits and files are imported on first use

            self._capture = CapturePanel(self._themes)
            self._capture.taken.connect(self.taken)
            self._capture.closed.connect(self.show_chart)
            self.addWidget(self._capture)
        return self._capture

    @property
    def shows_series(self) -> bool:
        """Whether power against time is in front."""
        return self._series is not None and self.currentWidget() is self._series

    def show_chart(self) -> None:
        """Back to the errors."""
        self.setCurrentWidget(self.plot)
        self.left.emit()

    def follow(self, view: View, point_id: str, names: dict[str, str], draft: Callable[[], Stated | None]) -> None:
        """Follow a change of the job: the chart soon, power against time at once where it is in front."""
        room = view.procedure
        self.plot.show_chart_soon(lambda: room.chart(view.job, view.result, None, FREQUENCY, False), draft)
        if point_id and self.shows_series:
            self.series.show_series(room.series(view.result, point_id), names)

    @property
    def drawing(self) -> tuple[str, QWidget]:
        """What is in front, with its name."""
        here = self.currentWidget()
        if here is self.plot:
            return "error", self.plot
        return ("power against time", self.series.drawing) if self.shows_series else ("capture", self.capture.view)

    def wait(self) -> None:
        """Let a file that is being read come to its end."""
        if self._capture is not None:
            self._capture.wait()
