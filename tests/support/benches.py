"""Benches of any parts in a row, beside the one that is read."""

from fenmist.calibration.benchwork import with_new_hookup
from fenmist.calibration.job import Job
from fenmist.hookup import editing
from fenmist.hookup.line import HookUp
from fenmist.kit import shelf
from fenmist.kit.part import Part
from fenmist.measurand import PlaneRef
from support.builders import job

SOURCE = shelf.transmitter("source", "Plover", 120.0)
LOAD = shelf.dummy_load("dummy", "Reedmace", 150.0)


def bench(*parts: Part, hang: tuple[Part, Part] | None = None, source: Part = SOURCE, **plan) -> Job:
    """A job with a second hook-up of these parts in a row."""
    made = HookUp("x", "bench", (editing.Element("tx", source.id),), (), PlaneRef("x", "tx", source.ports[0].id))
    at, known = ("tx", source.ports[0].id), {source.id: source}
    names = {}
    for part in parts:
        known[part.id] = part
        names[part.id] = editing.free_name(made, part)
        made = editing.inserted(made, *at, part)
        at = (names[part.id], part.ends[-1])
    if hang:
        on, what = hang
        port = editing.free_side_port(made, known, names[on.id])
        made = editing.inserted(made, names[on.id], port, what)
        known[what.id] = what
    return with_new_hookup(job(**{"level_w": 100.0, **plan}), made, tuple(known.values()))
