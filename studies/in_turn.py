"""Jobs that are read on several hook-ups, or with several waveforms, in turn; all of what is read is on a wire."""

from dataclasses import replace

from fenmist.calibration.job import Job
from fenmist.calibration.planning import points_at
from fenmist.hookup.templates import OF_LOSS, OF_MATCH, OF_MODULATION, OF_STEPS, Template, from_template
from fenmist.kit.part import Part
from fenmist.procedures.modulation.make import visits
from fenmist.procedures.table import room_of
from fenmist.simulation.scenarios import scenario
from studies.builders import WHEN
from studies.ladders import quiet_sensor, steps_part
from studies.losses import device as lossy_pad
from studies.matches import end
from studies.substitution import generator

PLACES = {
    # room: frequencies, watts
    "reflection": ((7e6,), (20.0,)), "loss": ((7e6,), (50.0,)), "linearity": ((10e6,), (5e-3,)),
    "modulation": ((7e6,), (50.0,)),
}  # fmt: skip

SENT = ("carrier", "two-tone", "dots 20 Hz", "carrier again")


def bench_in_turn(room: str) -> tuple[Template, tuple[Part, ...], Part]:
    """A template of the room, what it takes of the kit, and the device."""
    sender, load, knot = scenario("live").parts()[:3]
    if room == "reflection":
        ends = tuple(end(f"r{ohm}", float(ohm)) for ohm in (25, 100, 150))
        return _named(OF_MATCH, "known mismatches in turn", knot), (sender, knot, *ends), knot
    if room == "loss":
        device, other = lossy_pad(3.0, 1.1), replace(knot, id="ruff", label="Ruff 200", serial="D-2")
        return _named(OF_LOSS, "two meters in line", device), (sender, load, knot, other, device), device
    if room == "linearity":
        device = steps_part()
        own = (generator(), device, quiet_sensor())
        return _named(OF_STEPS, "an attenuator's steps, generator to sensor", device), own, device
    return _named(OF_MODULATION, "waveforms in turn into a load", knot), (sender, load, knot), knot


def _named(templates: tuple[Template, ...], label: str, device: Part) -> Template:
    return next(item for item in templates if item.label == label and item.stated is device.kind)


def job_in_turn(room: str, job_id: str = "turn") -> Job:
    """A job of the room, planned."""
    template, parts, device = bench_in_turn(room)
    made = room_of(room).begin(job_id, room, from_template(template, parts, "bench", device), device.id, WHEN)
    if room == "modulation":
        made = replace(made, legs=visits(made.bench.id, SENT))
    return replace(made, plan=points_at(made, *PLACES[room]))
