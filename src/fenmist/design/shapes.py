"""What can be built, as data: which pieces stand between which nodes, and where the line and the sensor are."""

from enum import StrEnum

from fenmist.frozen import dataclass
from fenmist.rf.circuit import GROUND, BranchKind

R, C, L, T = BranchKind.RESISTOR, BranchKind.CAPACITOR, BranchKind.INDUCTOR, BranchKind.TURNS


class Shape(StrEnum):
    """What can be built."""

    RESISTIVE_TAP = "resistive tap"
    TRANSFORMER_TAP = "transformer tap"
    GAP_TAP = "gap tap"
    PI_PAD = "pi pad"
    TEE_PAD = "tee pad"
    L_PAD = "L pad"
    DIVIDER = "divider"
    MISMATCH = "deliberate mismatch"
    LOAD = "dummy load"
    STAR = "splitter of three resistors"
    PAIR = "splitter of two resistors"


class Target(StrEnum):
    """What is asked of a design, and in what it is typed."""

    COUPLING = "coupling"  # dB
    LOSS = "loss"  # dB
    RATIO = "ratio"  # of volts
    SWR = "SWR"
    NONE = ""


@dataclass(frozen=True)
class Spot:
    """One piece of a circuit."""

    id: str
    kind: BranchKind
    nodes: tuple[str, ...]
    label: str
    optional: bool = False  # left out where its value is 0


@dataclass(frozen=True)
class Layout:
    """A circuit to be filled with values."""

    spots: tuple[Spot, ...]
    target: Target
    near: str = "in"
    far: str = ""  # the line's other end; none where it ends here. The same node as `near` where the line passes by
    side: str = ""  # where a sensor hangs
    output: str = ""  # where a trim wire ends
    second: str = ""  # a splitter's second output
    gives_to_volts: bool = False  # driven by volts and looked at by volts, whatever the source


LAYOUTS = {
    Shape.RESISTIVE_TAP: Layout(
        (
            Spot("R1", R, ("in", "tap"), "from the line"),
            Spot("R2", R, ("tap", GROUND), "across the output"),
            Spot("block", C, ("tap", "side"), "keeps DC out", optional=True),
        ),
        Target.COUPLING, far="in", side="side", output="tap",
    ),
    Shape.TRANSFORMER_TAP: Layout(
        (
            Spot("core", T, ("in", "out", "side", GROUND), "turns"),
            Spot("L", L, ("side", GROUND), "of the winding"),
            Spot("R2", R, ("side", GROUND), "across the winding", optional=True),
        ),
        Target.COUPLING, far="out", side="side",
    ),
    Shape.GAP_TAP: Layout(
        (
            Spot("gap", C, ("in", "side"), "to the line"),
            Spot("R2", R, ("side", GROUND), "across the output", optional=True),
        ),
        Target.COUPLING, far="in", side="side",
    ),
    Shape.PI_PAD: Layout(
        (
            Spot("shunt in", R, ("in", GROUND), "shunt at in"),
            Spot("series", R, ("in", "out"), "series"),
            Spot("shunt out", R, ("out", GROUND), "shunt at out"),
        ),
        Target.LOSS, far="out", output="out",
    ),
    Shape.TEE_PAD: Layout(
        (
            Spot("series in", R, ("in", "middle"), "series at in"),
            Spot("shunt", R, ("middle", GROUND), "shunt"),
            Spot("series out", R, ("middle", "out"), "series at out"),
        ),
        Target.LOSS, far="out", output="out",
    ),
    Shape.L_PAD: Layout(
        (Spot("series", R, ("in", "out"), "series, at the higher side"), Spot("shunt", R, ("out", GROUND), "shunt")),
        Target.NONE, far="out",
    ),
    Shape.DIVIDER: Layout(
        (Spot("R1", R, ("in", "side"), "from the point"), Spot("R2", R, ("side", GROUND), "across the meter")),
        Target.RATIO, side="side", output="side", gives_to_volts=True,
    ),
    Shape.MISMATCH: Layout((Spot("R", R, ("in", GROUND), "end of the line"),), Target.SWR),
    Shape.LOAD: Layout((Spot("R", R, ("in", GROUND), "end of the line"),), Target.NONE),
    Shape.STAR: Layout(
        (
            Spot("R in", R, ("in", "middle"), "at in"),
            Spot("R out", R, ("middle", "out"), "to one meter"),
            Spot("R second", R, ("middle", "second"), "to the other"),
        ),
        Target.NONE, far="out", second="second",
    ),
    Shape.PAIR: Layout(
        (Spot("R out", R, ("in", "out"), "to one meter"), Spot("R second", R, ("in", "second"), "to the other")),
        Target.NONE, far="out", second="second",
    ),
}  # fmt: skip
"""What each is made of."""

TAPS = (Shape.RESISTIVE_TAP, Shape.TRANSFORMER_TAP, Shape.GAP_TAP)
PADS = (Shape.PI_PAD, Shape.TEE_PAD, Shape.L_PAD)
SPLITTERS = (Shape.STAR, Shape.PAIR)
ENDS = (Shape.MISMATCH, Shape.LOAD)
