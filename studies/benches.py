"""Benches of any parts in a row, beside the one that is read."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from fenmist.calibration.job import Channel, Job
from fenmist.calibration.planning import range_for
from fenmist.hookup import editing
from fenmist.hookup.line import Element, HookUp
from fenmist.hookup.templates import Bench
from fenmist.kit import shelf
from fenmist.kit.part import Part
from fenmist.measurand import Kind, Measurand, PlaneRef, Statistic
from fenmist.procedures.benchwork import with_new_hookup
from fenmist.reading.event import Slot
from studies.builders import enter, job

SOURCE = shelf.transmitter("source", "Plover", 120.0)
LOAD = shelf.dummy_load("dummy", "Reedmace", 150.0)


def bench(*parts: Part, hang: tuple[Part, Part] | None = None, source: Part = SOURCE, **plan: Any) -> Job:
    """A job with a second hook-up of these parts in a row."""
    made = HookUp("x", "bench", (Element("tx", source.id),), (), PlaneRef("x", "tx", source.ports[0].id))
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
    return with_new_hookup(job(**{"level_w": 100.0, **plan}), Bench(made, tuple(known.values()), ()))


def read_on(made: Job, read: Mapping[str, tuple[str, Kind]], rounds: Sequence[Mapping[str, str]] = ()) -> Job:
    """A job whose second hook-up is read: channel -> (part, kind), the device last; rounds of texts by channel."""
    hookup = made.hookups[-1]
    element = {item.part: item.id for item in hookup.elements}
    device = made.part(list(read.values())[-1][0])
    stated = PlaneRef(hookup.id, element[device.id], device.ends[-1])
    channels = tuple(
        Channel(
            name, element[part], made.part(part).indicators[0].id,
            Measurand(kind, Statistic.CARRIER, stated if part == device.id else PlaneRef(
                hookup.id, element[part], made.part(part).ports[0].id
            )),
        )
        for name, (part, kind) in read.items()
    )  # fmt: skip
    order = tuple(read)
    plan = tuple(
        replace(point, hookup=hookup.id, sequence=order, repeats=max(len(rounds), 1),
                range_id=range_for(device.indicators[0].ranges, point.target_w))
        for point in made.plan
    )  # fmt: skip
    made = replace(
        made, dut=device.id, channels=channels, order=order, plan=plan, stated=channels[-1].measurand,
        hookups=(*made.hookups[:-1], replace(hookup, stated=stated)),
    )  # fmt: skip
    for point in plan:
        for number, texts in enumerate(rounds, start=1):
            for position, name in enumerate(order):
                if name in texts:
                    made = enter(made, Slot(point.id, number, position), texts[name])
    return made
