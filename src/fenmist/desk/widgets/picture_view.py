"""What a room draws of a point, in the window's colours."""

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from fenmist.desk.theme import ThemeHolder, px
from fenmist.procedures.page import Picture
from fenmist.reports.fonts import PAPER_FAMILIES
from fenmist.reports.pictures import height_of, picture_svg
from fenmist.reports.strokes import Inks


class PictureView(QWidget):
    """The picture as wide as there is room, never higher."""

    def __init__(self, themes: ThemeHolder, with_values: bool = True) -> None:
        super().__init__()
        self._themes, self._with_values = themes, with_values
        self.picture: Picture | None = None
        self.setAccessibleName("drawing of the point")

    @property
    def unit(self) -> float:
        """A design pixel at the letters' size."""
        return float(px(1000)) / 1000.0

    def show_picture(self, picture: Picture | None) -> None:
        """Show what is drawn of a point."""
        self.picture = picture
        self.setAccessibleDescription(picture.said if picture else "")
        self.setMinimumHeight(px(round(height_of(picture))) if picture else 0)
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        if self.picture is None:
            return
        from PySide6.QtSvg import QSvgRenderer

        theme = self._themes.theme
        inks = Inks(theme.ink, theme.second, theme.hairline, theme.teal, theme.teal_wash, theme.rust, PAPER_FAMILIES[0])
        unit = self.unit
        width, height = self.width() / unit, height_of(self.picture)
        renderer = QSvgRenderer(picture_svg(self.picture, inks, width, self._with_values).encode())
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        renderer.render(painter, QRectF(0.0, 0.0, width * unit, height * unit))
        painter.end()
