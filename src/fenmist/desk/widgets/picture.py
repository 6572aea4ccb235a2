"""Drawings saved as they are on screen: SVG with text as text, or PNG at twice the size."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QPoint, QSize
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QWidget

from fenmist.desk.filing import Saving
from fenmist.errors import ReportError

TWICE = 2


DRAWINGS = (".svg", ".png")
"""Endings of what a drawing is saved as."""


def drawing_saved(widget: QWidget, suggested: Path, said: Callable[[str], object]) -> Saving:
    """A drawing as something to be saved; what was written is said."""
    return Saving("Save the drawing", suggested, DRAWINGS, lambda path: said(save_drawing(widget, path)))


def save_drawing(widget: QWidget, path: Path) -> str:
    """Write a drawing as the name's ending says; returns what was written, in words. Raises ReportError."""
    if path.suffix.lower() not in DRAWINGS:
        raise ReportError(f"“{path.name}” ends in neither {' nor '.join(DRAWINGS)}.", "Name it so.")
    done = _save_svg(widget, path) if path.suffix.lower() == ".svg" else _save_png(widget, path)
    if not done:
        raise ReportError(f"{path} could not be written.", "Choose a folder that can be written.")
    return f"written: {path.name}, {_shown(widget.size())}"


def _save_svg(widget: QWidget, path: Path) -> bool:
    from PySide6.QtSvg import QSvgGenerator

    generator = QSvgGenerator()
    generator.setFileName(str(path))
    generator.setSize(widget.size())
    generator.setViewBox(widget.rect())
    generator.setTitle(widget.accessibleName())
    painter = QPainter()
    if not painter.begin(generator):
        return False
    widget.render(painter, QPoint())
    painter.end()
    return True


def _save_png(widget: QWidget, path: Path) -> bool:
    image = QImage(widget.size() * TWICE, QImage.Format.Format_ARGB32)
    image.fill(widget.palette().window().color())
    image.setDevicePixelRatio(TWICE)
    painter = QPainter(image)
    widget.render(painter, QPoint())
    painter.end()
    return image.save(str(path))


def _shown(size: QSize) -> str:
    return f"{size.width()} × {size.height()}"
