"""Pages that scroll where they don't fit, and columns that stand one below the other where it is narrow."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QBoxLayout, QHBoxLayout, QLayout, QScrollArea, QStackedWidget, QWidget


class Columns(QBoxLayout):
    """Columns side by side; below each other where it is narrow."""

    def __init__(self) -> None:
        super().__init__(QBoxLayout.Direction.LeftToRight)


def side_by_side(left: QLayout, right: QLayout, shares: tuple[int, int], spacing: int = 28) -> Columns:
    """Two columns with their shares of the width."""
    made = Columns()
    made.setSpacing(spacing)
    for column, share in zip((left, right), shares, strict=True):
        made.addLayout(column, share)
    return made


def beside_margin(page: QWidget, shown: QBoxLayout, margin: QWidget) -> None:
    """Lay out a tool: what it shows, and the margin with its notes."""
    shown.setContentsMargins(28, 8, 20, 14)
    box = QHBoxLayout(page)
    box.setContentsMargins(0, 0, 0, 0)
    box.addLayout(shown, 1)
    box.addWidget(margin)


def fit_columns(page: QWidget, width: int) -> None:
    """Put a page's columns side by side where they need no more than so many pixels, else below each other."""
    found = page.findChildren(Columns)
    for columns in found:
        columns.setDirection(QBoxLayout.Direction.LeftToRight)
    if found and page.minimumSizeHint().width() > width:
        for columns in found:
            columns.setDirection(QBoxLayout.Direction.TopToBottom)


def scrolling(page: QWidget) -> QScrollArea:
    """A page in an area that scrolls both ways."""
    made = QScrollArea()
    made.setWidgetResizable(True)
    made.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    made.setWidget(page)
    return made


class Pages(QStackedWidget):
    """A stack whose pages scroll each for itself: the widest of them doesn't make the window wide."""

    def __init__(self) -> None:
        super().__init__()
        self._areas: dict[QWidget, QScrollArea] = {}

    def add(self, page: QWidget) -> None:
        """Add a page."""
        self._areas[page] = scrolling(page)
        self.addWidget(self._areas[page])
        if self.isVisible():
            self._fit(page)

    def drop(self, page: QWidget) -> None:
        """Take a page away for good."""
        area = self._areas.pop(page)
        self.removeWidget(area)
        area.deleteLater()

    def show_page(self, page: QWidget) -> None:
        """Bring a page to the front."""
        self.setCurrentWidget(self._areas[page])

    @property
    def page(self) -> QWidget | None:
        """The page in front."""
        here = self.currentWidget()
        return next((page for page, area in self._areas.items() if area is here), None)

    def _fit(self, page: QWidget) -> None:
        fit_columns(page, self.width())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        for page in self._areas:
            self._fit(page)
