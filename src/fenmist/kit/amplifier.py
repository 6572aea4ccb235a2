"""What amplifiers of each class make of their DC."""

import math
from collections.abc import Mapping

from fenmist.frozen import dataclass


@dataclass(frozen=True)
class Usual:
    """What an amplifier makes of its DC, as parts of it."""

    low: float
    high: float
    most: float = 1.0
    """More than that none of its class gives."""


WHOLE_SET, STAGE = "the whole set", "its output stage"
FEEDS = (WHOLE_SET, STAGE)
"""What the DC that is read goes into."""

NOT_SAID = "not said"

CLASSES: Mapping[str, Usual] = {
    "A": Usual(0.2, 0.4, 0.5), "AB": Usual(0.4, 0.65, math.pi / 4.0), "B": Usual(0.5, 0.7, math.pi / 4.0),
    "C": Usual(0.6, 0.8), "switching": Usual(0.7, 0.95),
}  # fmt: skip
"""Of an output stage at full power; the most of A and B, 1/2 and π/4, follow from a sine as large as its supply allows
(derived; any electronics textbook); spans are common practice, no source, as is that valves in C give 60 to 80 %."""

OF_A_SET = Usual(0.3, 0.5)
"""Of a whole set at full power: what drives and cools the stage counts, too (common practice, no source)."""
