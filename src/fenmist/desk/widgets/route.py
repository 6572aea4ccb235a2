"""The route of steps at the left: a ring each, empty, half or full, with what the step still needs."""

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPaintEvent, QPen
from PySide6.QtWidgets import QVBoxLayout, QWidget

from fenmist.desk.theme import ThemeHolder, px, sans
from fenmist.desk.widgets.painted import Painted
from fenmist.session.route import StepState


class RouteItem(Painted):
    """One step on the route."""

    chosen = Signal()

    def __init__(self, state: StepState, themes: ThemeHolder) -> None:
        super().__init__()
        self._themes = themes
        self.state = state
        self.current = False
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.be_high(40)
        self.set_state(state, False)

    def set_state(self, state: StepState, current: bool) -> None:
        """Show another state."""
        self.state, self.current = state, current
        fill = {0.0: "not begun", 1.0: "done"}.get(state.fill, "begun")
        self.setAccessibleName(f"{state.title}: {fill}{', ' + state.needs if state.needs else ''}")
        self.be_high(44 if state.needs else 34)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(px(160), self.height())

    def paintEvent(self, _: QPaintEvent) -> None:
        theme = self._themes.theme
        painter = self.painter()
        if self.hasFocus():
            painter.fillRect(self.rect(), theme.color("teal_wash"))
        middle = 17.0
        ring = QRectF(11.0, middle - 5.0, 10.0, 10.0)
        teal = theme.color("teal" if self.state.fill else "second")
        painter.setPen(QPen(teal, 1.5))
        painter.drawEllipse(ring)
        painter.setBrush(theme.color("teal"))
        if self.state.fill >= 1.0:
            painter.drawEllipse(ring)
        elif self.state.fill > 0.0:
            painter.drawPie(ring, 270 * 16, 180 * 16)
        painter.setPen(theme.color("ink" if self.current or self.state.fill else "second"))
        painter.setFont(sans(14, 600 if self.current else 400))
        painter.drawText(QRectF(34, 6, self.across() - 36, 22), Qt.AlignmentFlag.AlignVCenter, self.state.title)
        if self.state.needs:
            painter.setPen(theme.color("second"))
            painter.setFont(sans(11))
            painter.drawText(QRectF(34, 26, self.across() - 34, 16), Qt.AlignmentFlag.AlignVCenter, self.state.needs)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.chosen.emit()
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, _: QMouseEvent) -> None:
        self.chosen.emit()


class Route(QWidget):
    """All steps, in working order."""

    chosen = Signal(int)

    def __init__(self, themes: ThemeHolder) -> None:
        super().__init__()
        self._themes = themes
        self.items: list[RouteItem] = []
        self.setFixedWidth(px(172))
        self._box = QVBoxLayout(self)
        self._box.setContentsMargins(px(18), px(20), 0, px(8))
        self._box.setSpacing(2)

    def be_slim(self, slim: bool) -> None:
        """Show rings only, where there is no room for words."""
        self.setFixedWidth(px(50 if slim else 172))

    def show_states(self, states: tuple[StepState, ...], current: int) -> None:
        """Show the steps' states."""
        if not self.items:
            for number, state in enumerate(states):
                item = RouteItem(state, self._themes)
                item.chosen.connect(lambda n=number: self.chosen.emit(n))
                self.items.append(item)
                self._box.addWidget(item)
            self._box.addStretch(1)
        for number, (item, state) in enumerate(zip(self.items, states, strict=True)):
            item.set_state(state, number == current)
            item.setVisible(state.is_offered)
