"""A job of the demonstration that nobody has read yet: one key reads it over the wires of a simulated bench."""

from collections.abc import Callable, Mapping
from dataclasses import replace

from fenmist.calibration.job import Job
from fenmist.calibration.planning import points_at
from fenmist.hookup.templates import TEMPLATES, from_template
from fenmist.kit.part import Part
from fenmist.procedures.comparison import make as comparison
from fenmist.session.session import Session


def add_wired(session: Session, kit: Mapping[str, Part], job_of: Callable[[Job], Job]) -> None:
    """Plan it: a digital meter and an oscilloscope, a transmitter that is keyed over the wire."""
    parts = [kit[name] for name in ("plover", "jumper", "tee", "lead", "sedge", "reedmace")]
    bench = from_template(TEMPLATES[0], parts, comparison.LINE, kit["knot"])
    made = comparison.begin("demo-knot", "Knot 200, to be read over the wire", bench, "knot", session.now())
    plan = points_at(made, (4.125e6, 8.291e6, 12.29e6), (20.0, 80.0), 2)
    session.logbook.add_job(job_of(replace(made, plan=plan)))
