"""What the usual shortcuts say beside what is so, and the corners that close a design's low end.

Page: docs/method/designer.md.
"""

import math

from fenmist.design.design import Design
from fenmist.design.response import respond
from fenmist.design.shapes import Shape
from fenmist.frozen import dataclass


@dataclass(frozen=True)
class Shortcut:
    """A rule of thumb beside the truth."""

    formula: str
    says_db: float
    off_db: float
    why: str


def shortcut_db(design: Design) -> Shortcut | None:
    """The rule of thumb for such a thing; none where there is none."""
    values, ask = design.values, design.ask
    if design.shape is Shape.RESISTIVE_TAP:
        says = 20.0 * math.log10(values["R1"] / _across(design))
        formula, why = "20·log10(R1/Rp)", "Rp itself stands in the way as well"
    elif design.shape is Shape.TRANSFORMER_TAP:
        says = 20.0 * math.log10(values["core"])
        formula, why = "20·log10 N", "it holds only where the sensor is the only resistor across the winding"
    elif design.shape is Shape.DIVIDER and values["R2"] > 0.0:
        says = 20.0 * math.log10(values["R1"] / values["R2"])
        formula, why = "R1/R2", "R2 is part of the whole, and the meter lies across it"
    else:
        return None
    truth = float(respond(design.as_drawn, ask.middle_hz).main_db[0])
    return Shortcut(formula, says, says - truth, why)


def low_corner_hz(design: Design) -> float | None:
    """Where half the power is lost towards the low end: of a winding, or of a capacitor that keeps DC out."""
    values, ask = design.values, design.ask
    if design.shape is Shape.TRANSFORMER_TAP:
        return _across(design) / (2.0 * math.pi * values["L"])
    if design.shape is Shape.RESISTIVE_TAP and values["block"] > 0.0 and math.isfinite(ask.sensor_ohm):
        behind = values["R1"] * values["R2"] / (values["R1"] + values["R2"])
        return 1.0 / (2.0 * math.pi * values["block"] * (ask.sensor_ohm + behind))
    return None


def high_corner_hz(design: Design) -> float | None:
    """Where a stray at a divider's output takes half the power: 1/(2π·(R1 ∥ R2 ∥ Rm)·C); none without any."""
    farad = design.strays.output_f + design.ask.sensor_f
    if design.shape is not Shape.DIVIDER or farad <= 0.0:
        return None
    return (1.0 / design.values["R1"] + 1.0 / _across(design)) / (2.0 * math.pi * farad)


def _across(design: Design) -> float:
    """What lies across the output, with what is plugged in."""
    own = [design.values[item.id] for item in design.resistors if item.id == "R2"]
    return 1.0 / (sum(1.0 / ohm for ohm in own) + 1.0 / design.ask.sensor_ohm)
