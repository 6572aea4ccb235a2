"""A scale taken from a photo of its dial: the marks are clicked in order, and where they lie says how the needle moves.

A circle is laid through the clicks by least squares (algebraic fit); the angles about its middle give each mark's
deflection. A photo taken at a slant makes an ellipse of the arc: clicks that don't lie on a circle are refused.
"""

import math
from collections.abc import Sequence

import numpy as np

from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.kit.scale import Scale

OFF_CIRCLE = 0.04
"""Distance of a click from the circle, part of its radius, from which the photo is refused (Fenmist's own)."""


@dataclass(frozen=True)
class Arc:
    """The circle under the marks: middle and radius in the photo's pixels."""

    x: float
    y: float
    radius: float


def arc_through(clicks: Sequence[tuple[float, float]]) -> Arc:
    """The circle through clicks, three or more.

    Raises
    ------
    OutOfRangeError
        For fewer, for clicks on one spot or in a line, and for clicks that lie on no circle.
    """
    if len(clicks) < 3:
        raise OutOfRangeError("An arc needs three marks or more.", "Click the marks in order, the lowest first.")
    points = np.array(clicks, float)
    centre = points.mean(axis=0)
    x, y = (points - centre).T
    matrix = np.column_stack([x, y, np.ones_like(x)])
    if np.linalg.matrix_rank(matrix, tol=1e-6 * max(float(np.abs(matrix).max()), 1.0)) < 3:
        raise OutOfRangeError("The clicks lie in a line or on one spot.", "Click on the marks along the arc.")
    (a, b, c), *_ = np.linalg.lstsq(matrix, x**2 + y**2, rcond=None)
    radius = math.sqrt(max(c + (a**2 + b**2) / 4.0, 0.0))
    off = np.abs(np.hypot(x - a / 2.0, y - b / 2.0) - radius)
    if not radius > 0 or float(off.max()) > OFF_CIRCLE * radius:
        worst = int(np.argmax(off)) + 1
        raise OutOfRangeError(
            f"Click {worst} lies off the circle through the others.",
            "Click again, or take the photo straight from the front.",
        )
    return Arc(float(a / 2.0 + centre[0]), float(b / 2.0 + centre[1]), radius)


def scale_from_clicks(
    clicks: Sequence[tuple[float, float]], marks: Sequence[float], divisions: Sequence[int], name: str = "arc"
) -> Scale:
    """The scale whose marks were clicked, in the order of their figures.

    Raises
    ------
    OutOfRangeError
        Where clicks and figures don't match, or the clicks make no arc.
    """
    if len(clicks) != len(marks):
        raise OutOfRangeError(
            f"{len(clicks)} marks were clicked, {len(marks)} figures are typed.",
            "Click one place for each printed mark, in the order of the figures.",
        )
    arc = arc_through(clicks)
    angles = np.unwrap([math.atan2(arc.y - y, x - arc.x) for x, y in clicks])
    turned = np.abs(angles - angles[0])
    if np.any(np.diff(turned) <= 0):
        raise OutOfRangeError("The clicks don't follow each other along the arc.", "Click them in order.")
    places = turned / turned[-1]
    if marks[0] > 0:  # the left stop lies below the first mark: as far as the first gap says
        first = places[1] * marks[0] / (marks[1] - marks[0])
        places = (places + first) / (1.0 + first)
    return Scale(name, tuple(marks), tuple(divisions), places=tuple(float(min(p, 1.0)) for p in places))
