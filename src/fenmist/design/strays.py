"""What nobody solders in: capacitance across each resistor and from the joints of a stack to the box, and its leads.

They set the high end. A stack becomes a ladder of its resistors, each with a lead L in series and a C across it, and
a C to the box at each joint between two; a trim wire is a C from the line to the output. Page: docs/method/designer.md.
"""

from collections.abc import Iterator

from fenmist.design.stack import How, Stack
from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.rf.circuit import GROUND, LEAST_H, Branch, BranchKind

LARGEST = 1e-6
"""F or H beyond which a stray is none (Fenmist's own)."""

STRAY_LABELS = {
    "across_f": "C across each resistor", "joint_f": "C from each joint to the box", "lead_h": "L of each lead",
    "output_f": "C from the output to the box", "trim_f": "C of the trim wire",
}  # fmt: skip
"""Of `Strays`, in words."""


@dataclass(frozen=True)
class Strays:
    """Capacitances in F, inductance in H, all >= 0; 0 leaves one out."""

    across_f: float = 0.05e-12  # across each resistor; 0.05 to 0.3 pF are met (common practice)
    joint_f: float = 0.2e-12  # from each joint of a stack to the box; a tight build has less, a wide one 0.5 pF
    lead_h: float = 5e-9  # in series with each resistor: about 1 nH a millimetre (common practice)
    output_f: float = 0.0  # from the output to the box
    trim_f: float = 0.0  # of the trim wire, from the line to the output

    def __post_init__(self) -> None:
        """Raises OutOfRangeError for one below 0, or without end."""
        for name, said in STRAY_LABELS.items():
            if not 0.0 <= getattr(self, name) <= LARGEST:
                raise OutOfRangeError(f"{said} of {getattr(self, name):g} makes no sense.", "It is 0 or above.")
        if 0.0 < self.lead_h < LEAST_H:
            raise OutOfRangeError(f"A lead of {self.lead_h:g} H is none.", "Type 0 nH for none, or for example 5 nH.")


USUAL = Strays()
"""What is met in a box that was built with some care."""

NONE = Strays(0.0, 0.0, 0.0)
"""Parts as they are drawn."""


def ladder(stack: Stack, near: str, far: str, name: str, strays: Strays) -> Iterator[Branch]:
    """A stack between two nodes with its strays.

    Parameters
    ----------
    stack : Stack
        Its pieces become resistors named `name.1`, `name.2`, in the order of `Stack.leaves`.
    near, far : str
        Nodes; a joint to the box is only counted inside.
    """
    yield from _Ladder(name, strays).put(stack, near, far)


class _Ladder:
    """Numbers pieces and joints as they come."""

    def __init__(self, name: str, strays: Strays) -> None:
        self._name, self._strays = name, strays
        self._pieces = self._joints = 0

    def put(self, stack: Stack, near: str, far: str) -> Iterator[Branch]:
        if stack.piece is not None:
            yield from self._piece(stack.piece.ohm, near, far)
        elif stack.how is How.PARALLEL:
            for part in stack.parts:
                yield from self.put(part, near, far)
        else:
            for part in stack.parts[:-1]:
                self._joints += 1
                joint = f"{self._name} joint {self._joints}"
                if self._strays.joint_f > 0.0:
                    yield Branch(f"{joint} C", BranchKind.CAPACITOR, (joint, GROUND), self._strays.joint_f)
                yield from self.put(part, near, joint)
                near = joint
            yield from self.put(stack.parts[-1], near, far)

    def _piece(self, ohm: float, near: str, far: str) -> Iterator[Branch]:
        self._pieces += 1
        name, begin = f"{self._name}.{self._pieces}", near
        if self._strays.lead_h > 0.0:
            begin = f"{name} lead"
            yield Branch(f"{name} L", BranchKind.INDUCTOR, (near, begin), self._strays.lead_h)
        yield Branch(name, BranchKind.RESISTOR, (begin, far), ohm)
        if self._strays.across_f > 0.0:
            yield Branch(f"{name} C", BranchKind.CAPACITOR, (near, far), self._strays.across_f)
