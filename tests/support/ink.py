"""What is painted, as numbers: marks of a painted widget in design pixels."""

from dataclasses import dataclass, field
from itertools import pairwise

from PySide6.QtCore import QPointF, QRectF

from fenmist.desk.widgets.painted import Painted


@dataclass
class Marks:
    """Where lines, rings and boxes were put."""

    lines: list[tuple[QPointF, QPointF]] = field(default_factory=list)
    rings: list[QPointF] = field(default_factory=list)
    boxes: list[QRectF] = field(default_factory=list)
    words: dict[str, QRectF] = field(default_factory=dict)

    def lie_inside(self, widget):
        """Whether there are some, and all of them lie in the widget."""
        ends = [end for line in self.lines for end in line]
        corners = [corner for box in self.boxes for corner in (box.topLeft(), box.bottomRight())]
        whole, places = QRectF(0.0, 0.0, widget.across(), widget.down()), [*ends, *self.rings, *corners]
        return bool(places) and all(whole.contains(place) for place in places)


class Ink:
    """In a painter's place: paints with it, and tells."""

    def __init__(self, painter, marks):
        self._painter, self._marks = painter, marks

    def __getattr__(self, name):
        return getattr(self._painter, name)

    def drawLine(self, first, last):
        self._marks.lines.append((QPointF(first), QPointF(last)))
        self._painter.drawLine(first, last)

    def drawPolyline(self, places):
        self._marks.lines += list(pairwise(places))
        self._painter.drawPolyline(places)

    def drawEllipse(self, center, *radii):
        self._marks.rings.append(QPointF(center))
        self._painter.drawEllipse(center, *radii)

    def drawText(self, *where):
        if len(where) == 3:
            box, flags, text = where
            self._marks.words[text] = self._painter.boundingRect(box, flags.value, text)
        self._painter.drawText(*where)

    def drawRect(self, box):
        self._marks.boxes.append(QRectF(box))
        self._painter.drawRect(box)


def painted(monkeypatch, widget):
    """Its marks, painted now."""
    marks, painter = Marks(), Painted.painter
    monkeypatch.setattr(Painted, "painter", lambda self: Ink(painter(self), marks))
    widget.grab()
    monkeypatch.setattr(Painted, "painter", painter)
    return marks
