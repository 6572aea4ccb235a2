"""A widget that paints itself in design pixels, whatever the font scale: the painter is scaled, not each number."""

from PySide6.QtCore import QPointF
from PySide6.QtGui import QMouseEvent, QPainter
from PySide6.QtWidgets import QWidget

from fenmist.desk.theme import font_scale, px


class Painted(QWidget):
    """Base of painted widgets: sizes, painter and mouse in design pixels."""

    def across(self) -> float:
        """Width in design pixels."""
        return self.width() / font_scale()

    def down(self) -> float:
        """Height in design pixels."""
        return self.height() / font_scale()

    def be_high(self, pixels: float) -> None:
        """Fix the height, in design pixels."""
        self.setFixedHeight(px(pixels))

    def painter(self) -> QPainter:
        """A smooth painter in design pixels."""
        made = QPainter(self)
        made.setRenderHint(QPainter.RenderHint.Antialiasing)
        made.scale(font_scale(), font_scale())
        return made

    def at(self, event: QMouseEvent) -> QPointF:
        """Where the mouse is, in design pixels."""
        return event.position() / font_scale()
