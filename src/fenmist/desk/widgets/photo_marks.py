"""A photo of a dial: its marks are clicked in the order of the figures, and the scale is drawn from where they lie."""

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fenmist.desk.theme import ThemeHolder, px, sans
from fenmist.desk.widgets.labels import button, label, set_text
from fenmist.desk.widgets.line_edit import LineEdit
from fenmist.errors import FenmistError
from fenmist.kit.dialphoto import scale_from_clicks
from fenmist.kit.scale import Scale
from fenmist.units.typed import number_from_text


class _Photo(QWidget):
    """The picture with its clicks; clicks are kept in the picture's pixels."""

    clicked = Signal()

    def __init__(self, themes: ThemeHolder) -> None:
        super().__init__()
        self._themes = themes
        self.pixmap = QPixmap()
        self.clicks: list[tuple[float, float]] = []
        self.setMinimumHeight(px(260))
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setAccessibleName("photo of the dial")

    def _box(self) -> QRectF:
        size = self.pixmap.size().scaled(self.size(), Qt.AspectRatioMode.KeepAspectRatio)
        return QRectF(
            (self.width() - size.width()) / 2.0, (self.height() - size.height()) / 2.0, size.width(), size.height()
        )

    def paintEvent(self, _: QPaintEvent) -> None:
        if self.pixmap.isNull():
            return
        theme, box = self._themes.theme, self._box()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.drawPixmap(box, self.pixmap, QRectF(self.pixmap.rect()))
        scale = box.width() / self.pixmap.width()
        painter.setFont(sans(12, 600))
        for number, (x, y) in enumerate(self.clicks, start=1):
            at = QPointF(box.x() + x * scale, box.y() + y * scale)
            painter.setPen(QPen(theme.color("paper"), 4.0))
            painter.drawEllipse(at, 6.0, 6.0)
            painter.setPen(QPen(theme.color("rust"), 2.0))
            painter.drawEllipse(at, 6.0, 6.0)
            painter.drawText(at + QPointF(9.0, -7.0), str(number))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        box = self._box()
        if self.pixmap.isNull() or not box.contains(event.position()):
            return
        scale = self.pixmap.width() / box.width()
        self.clicks.append(((event.position().x() - box.x()) * scale, (event.position().y() - box.y()) * scale))
        self.update()
        self.clicked.emit()


class PhotoMarks(QWidget):
    """Photo, figures, and what comes of both."""

    taken = Signal(object)  # the Scale
    closed = Signal()

    def __init__(self, themes: ThemeHolder) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.title = label("", "section")
        self.photo = _Photo(themes)
        self.photo.clicked.connect(self._refresh)
        self.figures = LineEdit()
        self.figures.setAccessibleName("figures of the marks")
        self.counts = LineEdit()
        self.counts.setAccessibleName("divisions between them")
        self.said = label("", "second", wrap=True)
        self.back = button("Take back a click", "link")
        self.back.clicked.connect(self._on_back)
        self.take = button("Take these marks", "do")
        self.take.clicked.connect(self._on_take)
        self.leave = button("Leave", "link")
        self.leave.clicked.connect(self.closed)
        row = QHBoxLayout()
        row.setSpacing(12)
        row.addWidget(label("figures", "second"))
        row.addWidget(self.figures, 3)
        row.addWidget(label("divisions", "second"))
        row.addWidget(self.counts, 2)
        row.addWidget(self.back)
        row.addWidget(self.take)
        row.addWidget(self.leave)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.addWidget(self.title)
        box.addWidget(self.photo, 1)
        box.addLayout(row)
        box.addWidget(self.said)

    def show_photo(self, data: bytes, name: str, scale: Scale | None) -> None:
        """Show a photo with the figures known so far."""
        self.photo.pixmap.loadFromData(data)
        self.photo.clicks = []
        set_text(self.title, f"{name}: click each printed mark in the order of its figure")
        if scale is not None:
            self.figures.setText(" ".join(f"{value:g}" for value in scale.marks))
            self.counts.setText(" ".join(str(count) for count in scale.divisions))
        self._refresh()

    def _numbers(self, text: str) -> tuple[float, ...]:
        return tuple(number_from_text(word)[0] for word in text.split())

    def _refresh(self) -> None:
        wanted = len(self.figures.text().split())
        set_text(self.said, f"{len(self.photo.clicks)} of {wanted} marks clicked.")
        self.photo.update()

    def _on_back(self) -> None:
        if self.photo.clicks:
            self.photo.clicks.pop()
            self._refresh()

    def _on_take(self) -> None:
        try:
            counts = tuple(round(value) for value in self._numbers(self.counts.text()))
            made = scale_from_clicks(self.photo.clicks, self._numbers(self.figures.text()), counts)
        except FenmistError as error:
            set_text(self.said, str(error))
            return
        self.taken.emit(made)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.closed.emit()
        elif event.key() == Qt.Key.Key_Backspace:
            self._on_back()
        else:
            super().keyPressEvent(event)
