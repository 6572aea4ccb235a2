"""The arc under a needle: printed marks, divisions between them, and the law of the movement.

The law is an exponent: deflection = (value/top)^law. A volts-linear movement with a watt scale has law 0.5, a
thermocouple current scale 2, a linear one 1. Several ranges may share one arc; a range then multiplies the
printed figures. What a needle can be read to follows from the division it stands in, not from the range.
"""

import numpy as np

from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass


@dataclass(frozen=True)
class Scale:
    """Printed marks (rising, from the lowest figure to the top) and how many divisions follow each of them."""

    id: str
    marks: tuple[float, ...]
    divisions: tuple[int, ...]  # between marks[i] and marks[i + 1]
    law: float = 1.0  # exponent of the movement, > 0
    places: tuple[float, ...] = ()  # deflection of each mark in place of the law; the last may stand before the end

    def __post_init__(self) -> None:
        rising = all(a < b for a, b in zip(self.marks, self.marks[1:], strict=False))
        if len(self.marks) < 2 or not rising or (self.marks[0] < 0 and not self.places):
            raise OutOfRangeError(
                f"The marks of scale “{self.id}” are {list(self.marks)}.",
                "Give two or more, rising, the lowest 0 or above.",
            )
        if len(self.divisions) != len(self.marks) - 1 or min(self.divisions) < 1:
            raise OutOfRangeError(
                f"Scale “{self.id}” has {len(self.marks)} marks and {len(self.divisions)} counts of divisions.",
                "Give one count (1 or more) for each gap between marks.",
            )
        if self.places and (
            len(self.places) != len(self.marks)
            or not all(a < b for a, b in zip(self.places, self.places[1:], strict=False))
            or not (self.places[0] >= 0.0 and self.places[-1] < 1.0 + 1e-9)
        ):
            raise OutOfRangeError(
                f"Scale “{self.id}” has {len(self.marks)} marks and {len(self.places)} places.",
                "Give one place for each mark, rising from 0 or above to 1 at most.",
            )
        if not 0.1 <= self.law <= 4.0:
            raise OutOfRangeError(f"The law of scale “{self.id}” is {self.law:g}.", "It lies from 0.1 to 4.")

    @property
    def top(self) -> float:
        """The highest printed figure."""
        return self.marks[-1]

    def deflection(self, value: float) -> float:
        """Needle's place from 0 (left stop) to 1 (full scale) at a printed value; held a little past both ends."""
        if self.places:
            past = value / self.top if self.top > 0.0 else 1.06 if value > self.top else 1.0
            beyond = min(max(self.places[-1] * past, self.places[-1]), 1.06)
            return float(np.interp(value, self.marks, self.places, right=beyond))
        share = max(value, 0.0) / self.top
        return float(min(share**self.law, 1.06))

    def value_at(self, deflection: float) -> float:
        """Printed value under a needle at `deflection`, 0 to 1."""
        if self.places:
            return float(np.interp(deflection, self.places, self.marks))
        return float(self.top * min(max(deflection, 0.0), 1.0) ** (1.0 / self.law))

    def gap_at(self, value: float) -> int:
        """Index of the gap between marks in which a printed value lies; a mark belongs to the gap above it."""
        inside = sum(1 for mark in self.marks[1:-1] if value >= mark * (1 - 1e-12))
        return min(inside, len(self.divisions) - 1)

    def division_at(self, value: float) -> float:
        """Size of the local division at a printed value, in printed figures; at a mark the larger neighbour's."""
        gap = self.gap_at(value)
        size = self._division(gap)
        on_mark = gap > 0 and abs(value - self.marks[gap]) < 1e-9 * self.top
        return max(size, self._division(gap - 1)) if on_mark else size

    def _division(self, gap: int) -> float:
        return (self.marks[gap + 1] - self.marks[gap]) / self.divisions[gap]

    def value_of_pointer(self, mark: float, divisions: float) -> float:
        """Printed value of "so many divisions past that mark".

        Raises
        ------
        OutOfRangeError
            Where the mark isn't printed, or the divisions lead past the next mark.
        """
        index = next((i for i, value in enumerate(self.marks) if abs(value - mark) <= 1e-9 * self.top), None)
        if index is None:
            shown = ", ".join(f"{value:g}" for value in self.marks)
            raise OutOfRangeError(f"No mark on this arc says {mark:g}.", f"It has {shown}.")
        count = self.divisions[index] if index < len(self.divisions) else 0
        if not 0 <= divisions <= count:
            raise OutOfRangeError(
                f"{divisions:g} divisions past {mark:g} leads past the next mark: there are {count}.",
                "Name the mark below the needle.",
            )
        return self.marks[index] + (divisions * self._division(index) if count else 0.0)

    def minor_marks(self) -> tuple[float, ...]:
        """Printed values of the unlabelled marks between the labelled ones."""
        return tuple(
            self.marks[gap] + step * self._division(gap)
            for gap, count in enumerate(self.divisions)
            for step in range(1, count)
        )


def db_scale(marks: tuple[float, ...], divisions: tuple[int, ...] = ()) -> Scale:
    """The arc of a needle that shows dB relative to its range: its place goes with the volts.

    >>> scale = db_scale((-10.0, -6.0, -3.0, 0.0, 3.0))
    >>> round(scale.deflection(-3.0), 3)  # half the volts of +3 dB
    0.501
    """
    places = tuple(10.0 ** ((mark - marks[-1]) / 20.0) for mark in marks)
    return Scale("dB", marks, divisions or tuple(2 for _ in marks[1:]), places=places)
