"""A tap of the demonstration: designed from the drawer, built, measured, put on the shelf, and used in a job."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from fenmist.calibration.job import Job
from fenmist.calibration.planning import points_at
from fenmist.demo.benches import read_bench
from fenmist.design.proof import ANALYSERS
from fenmist.design.shapes import Shape
from fenmist.hookup.templates import TEMPLATES, from_template
from fenmist.kit.part import Part
from fenmist.procedures.comparison import make as comparison
from fenmist.rf.circuit import GROUND, Branch, BranchKind, solve_circuit
from fenmist.session.designer import Designer
from fenmist.session.session import Session

LABEL = "Moorhen tap 40 dB"
MOORHEN_NAME = "moorhen-tap.s2p"
DRAWER = "820 Ω 3 W × 6; 100 Ω 1 W × 8; 470 Ω 1 W × 4; 56 Ω 0.5 W × 4"

JOINT_F, ACROSS_F, WIRE_F, LEAD_H = 0.27e-12, 0.06e-12, 0.19e-12, 6e-9
"""What the strays of the build truly are."""

RIPPLE = 0.002
"""By which the analyser's readings scatter, relative: one of the bench."""


def _measured() -> bytes:
    """The tap as an analyser saw it: in, then side, the line going on into 50 Ω."""
    r, c, inductor = BranchKind.RESISTOR, BranchKind.CAPACITOR, BranchKind.INDUCTOR
    pieces, node = [], "in"
    for number, ohm in enumerate((823.0, 817.0, 826.0), start=1):
        far = "side" if number == 3 else f"joint {number}"
        pieces += [
            Branch(f"L{number}", inductor, (node, f"lead {number}"), LEAD_H),
            Branch(f"R{number}", r, (f"lead {number}", far), ohm), Branch(f"C{number}", c, (node, far), ACROSS_F),
        ]  # fmt: skip
        if far != "side":
            pieces.append(Branch(f"J{number}", c, (far, GROUND), JOINT_F))
        node = far
    pieces += [Branch("R", r, ("side", GROUND), 49.8), Branch("wire", c, ("in", "side"), WIRE_F)]
    pieces.append(Branch("end", r, ("in", GROUND), 50.0))
    f, random = np.geomspace(1e6, 600e6, 90), np.random.default_rng(11)
    s = solve_circuit(pieces, ("in", "side"), f).scattering
    lines = ["! Moorhen tap 40 dB, invented, measured 2026-10-18", "# MHz S RI R 50"]
    for at, matrix in zip(f, s, strict=True):
        scatter = 1.0 + RIPPLE * (random.standard_normal() + 1j * random.standard_normal())
        values = matrix[0, 0], matrix[1, 0] * scatter, matrix[0, 1] * scatter, matrix[1, 1]
        lines.append("  ".join([f"{at / 1e6:.5f}", *(f"{x.real:.6f} {x.imag:.6f}" for x in values)]))
    return ("\n".join(lines) + "\n").encode()


MOORHEN_FILE = _measured()
"""What the analyser wrote."""


def add_design(session: Session, kit: Mapping[str, Part], job_of: Callable[[Job], Job]) -> None:
    """Design the tap as its builder did, keep it as measured, and read a job with it."""
    designer = Designer(session)
    designer.turn_to(Shape.RESISTIVE_TAP)
    designer.type_field("stock", DRAWER)
    designer.type_field("band", "1.8 440 MHz")
    designer.take(designer.best_stacks()())
    designer.take_trim(designer.best_trim()())
    designer.analyser = ANALYSERS[1]
    with TemporaryDirectory() as folder:
        path = Path(folder) / MOORHEN_NAME
        path.write_bytes(MOORHEN_FILE)
        designer.open_file(path)
    tap = designer.put_on_shelf(LABEL)
    template = next(item for item in TEMPLATES if item.label == "tap and sensor")
    parts = [*(kit[name] for name in ("plover", "reedmace", "sallow", "snipe")), tap]
    bench = from_template(template, parts, comparison.LINE, kit["teal"])
    made = comparison.begin("demo-moorhen", "Teal 20 against the tap that was built", bench, "teal", session.now())
    made = replace(made, plan=points_at(made, (3.65e6, 8.291e6, 14.2e6), (10.0, 18.0)))
    session.logbook.add_job(job_of(made))
    read_bench(session.open(made.id), {"teal": lambda f: 1.03 - 0.001 * f / 1e6}, np.random.default_rng(40))
