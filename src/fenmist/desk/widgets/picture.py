"""Drawings saved as they are on screen: SVG with text as text, and PNG at twice the size."""

from pathlib import Path

from PySide6.QtCore import QPoint, QSize
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QWidget

from fenmist.errors import ReportError

TWICE = 2


def save_drawing(widget: QWidget, stem: Path) -> str:
    """Write `stem`.svg and `stem`.png; returns what was written, in words. Raises ReportError."""
    from PySide6.QtSvg import QSvgGenerator

    svg, png = stem.with_name(f"{stem.name}.svg"), stem.with_name(f"{stem.name}.png")
    generator = QSvgGenerator()
    generator.setFileName(str(svg))
    generator.setSize(widget.size())
    generator.setViewBox(widget.rect())
    generator.setTitle(widget.accessibleName())
    painter = QPainter()
    if not painter.begin(generator):
        raise ReportError(f"{svg} could not be written.", "Choose a home folder that can be written.")
    widget.render(painter, QPoint())
    painter.end()
    image = QImage(widget.size() * TWICE, QImage.Format.Format_ARGB32)
    image.fill(widget.palette().window().color())
    image.setDevicePixelRatio(TWICE)
    painter = QPainter(image)
    widget.render(painter, QPoint())
    painter.end()
    if not image.save(str(png)):
        raise ReportError(f"{png} could not be written.", "Choose a home folder that can be written.")
    return f"written: {svg.name} and {png.name}, {_shown(widget.size())}"


def _shown(size: QSize) -> str:
    return f"{size.width()} × {size.height()}"
