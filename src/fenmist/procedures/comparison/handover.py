"""Parts that the tool “power from volts” describes, put in the place of a job's own."""

from dataclasses import replace

from fenmist.calibration.gather import end_part
from fenmist.calibration.job import Job
from fenmist.kit import shelf
from fenmist.kit.impedance import IMPEDANCE, table_from_rows
from fenmist.kit.part import FEEDS, Part, PartKind, Property
from fenmist.methods.power_from_volts import PowerAnswer, PowerRequest
from fenmist.methods.scope_chain import Lead, Probe
from fenmist.units.moment import day_of


def _bench(job: Job) -> tuple[Part, ...]:
    """Parts of the hook-up that is read."""
    return tuple(job.part(item.part) for item in job.bench.elements)


def with_parts_of(job: Job, request: PowerRequest, answer: PowerAnswer) -> Job:
    """The job with the parts that a request describes in its snapshot; the kit's own stay as they are."""
    readings = answer.readings
    job = _with_scope(job, request, answer)
    feed = next(part for part in _bench(job) if part.kind in FEEDS)
    job = _with_feed(job, feed, readings.feed)
    frequency = float(readings.frequency_hz[0])
    load = end_part(job)
    u_relative = float(readings.load.u_resistance_ohm[0] / abs(complex(readings.load.resistance_ohm[0])))
    table = table_from_rows([(frequency, request.load)], u_relative, "typed in the tool", day_of(job.created_at))
    others = tuple(item for item in load.characterisations if item.quantity != IMPEDANCE)
    return job.with_part(replace(load, characterisations=(*others, table)))


def _with_scope(job: Job, request: PowerRequest, answer: PowerAnswer) -> Job:
    scope = next(part for part in _bench(job) if part.kind is PartKind.OSCILLOSCOPE)
    stated = answer.readings.scope
    made = shelf.oscilloscope(
        scope.id, scope.label, stated.bandwidth_hz, accuracy=stated.accuracy, model=str(stated.response),
        limit_vpk=scope.ports[0].volts_limit_vpk, serial=scope.serial, form=answer.readings.forms[0],
        noise=stated.noise_ratio,
    )  # fmt: skip
    properties = dict(made.properties)
    if not request.bandwidth:
        properties.pop("bandwidth_hz")
    feed = answer.readings.feed
    if isinstance(feed, Lead):
        properties["capacitance_f"] = replace(properties["capacitance_f"], value=feed.capacitance_f)
    return job.with_part(replace(made, properties=properties, history=scope.history))


def _with_feed(job: Job, place: Part, feed: Lead | Probe | None) -> Job:
    made: Part
    if isinstance(feed, Probe):
        made = shelf.probe(
            place.id, "probe from the tool", ratio=feed.ratio, capacitance_f=feed.capacitance_f,
            ground_m=feed.ground_m, bandwidth_hz=feed.bandwidth_hz if feed.bandwidth_hz < 1e12 else 1e12,
            setting=feed.setting,
        )  # fmt: skip
    elif isinstance(feed, Lead):
        made = shelf.lead(
            place.id, f"lead {feed.length_m:g} m", feed.length_m, feed.velocity_factor, feed.line_ohm,
            feed.cable.label if feed.cable else "",
        )  # fmt: skip
    else:
        bare = shelf.lead(place.id, "no lead", 0.0)
        known = Property(0.0, "m", shelf.limit(0.0, shelf.COMMON_PRACTICE))
        made = replace(bare, properties={**bare.properties, "length_m": known})
    return job.with_part(made)
