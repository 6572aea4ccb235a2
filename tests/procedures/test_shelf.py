"""What a shelf can decide: the prediction holds for the reading that follows, and what can't be read says why."""

from dataclasses import replace
from datetime import UTC, date, datetime
from itertools import pairwise

import pytest

from fenmist.calibration.expected import expected_si
from fenmist.calibration.planning import points_at
from fenmist.calibration.prediction import predicted
from fenmist.errors import UnknownIdError
from fenmist.kit import generic, shelf
from fenmist.kit.generic import starter_shelf
from fenmist.kit.part import CalibrationRecord, PartKind, SpecKind, SpecTerm
from fenmist.procedures.benches import MOST_VARIANTS, candidates
from fenmist.procedures.shelf import (
    devices,
    first_bench,
    first_frequencies,
    looked_at,
    ranked,
    usual_frequencies,
    usual_level,
    usual_rounds,
)
from fenmist.procedures.table import room_of
from fenmist.reading.event import AS_FOUND, Slot
from studies.builders import enter

DAY, WHEN = date(2026, 11, 27), datetime(2026, 11, 27, 9, 0, tzinfo=UTC)
F = (3.6e6, 7.1e6, 14.2e6)
COMPARISON, OUTPUT = room_of("comparison"), room_of("output")
KIT = starter_shelf()
METER = next(part for part in KIT if part.id == "generic-wattmeter")
TRANSMITTER = next(part for part in KIT if part.id == "generic-transmitter")
GENERATOR = next(part for part in KIT if part.id == "generic-generator")


def labels(found):
    return [item.bench.hookup.label for item in found]


@pytest.fixture(scope="module")
def benches():
    return ranked(COMPARISON, KIT, METER, F, 50.0, DAY, WHEN)


def read_as_expected(job):
    """The job with one round read at its first point, each instrument showing what the bench leads to."""
    point = job.plan[0]
    for position, channel in enumerate(point.sequence):
        shows = job.indicator(channel)
        value = expected_si(job, point, channel)
        unit = {"dBm": "W", "": "W"}.get(shows.unit, shows.unit)
        text = f"{value * 1e3:#.3g} mW" if unit == "W" and value < 0.1 else f"{value:#.3g} {unit}"
        job = enter(job, Slot(point.id, 1, position), text)
    return job


def test_the_prediction_is_the_uncertainty_of_the_reading_that_follows(benches):
    """Of the same arithmetic put to what was typed: U of the error over the power, to a few per cent."""
    room = COMPARISON
    checked = 0
    for item in benches:
        if not item.free:
            continue
        job = read_as_expected(item.job)
        (stated,) = room.reduce(job, AS_FOUND, {}, None).stated
        near = 0.05 if stated.engine == "linear" else 0.18  # drawn: of a rectangle 95 % are 1.65 u, not 2
        assert stated.expanded_u_share == pytest.approx(item.points[0].expanded_u, rel=near), item.name
        checked += 1
    assert checked >= 6


def test_the_tolerance_is_what_the_device_states_of_its_range(benches):
    assert benches[0].points[0].tolerance == pytest.approx(0.05 * 200.0 / 50.0)
    assert [point.decides for point in benches[0].points] == [True] * 3


def test_benches_come_by_what_they_decide_and_then_by_u(benches):
    decided = [-sum(point.decides for point in item.points) for item in benches]
    assert decided == sorted(decided)
    assert len(set(decided)) > 1
    free = [item.worst for item in benches if len(item.free) == 3 and item.points[0].decides]
    assert all(after > before - 1e-3 for before, after in pairwise(free))


def test_each_instrument_has_its_best_pad_and_blocked_benches_say_by_what(benches):
    two = next(item for item in benches if item.bench.hookup.label == "sensor behind two pads")
    assert [part.id for part in two.bench.parts][2] == "generic-pad-30"  # bears 50 W; the other three don't
    alone = next(item for item in benches if item.bench.hookup.label == "sensor behind a pad")
    assert "its rating is" in alone.points[0].blocked
    level = next(item for item in benches if item.bench.hookup.label == "generator's own level")
    assert "gives 20\u202fmW" in level.points[0].blocked


def test_outside_of_the_devices_span_nothing_can_be_said():
    found = ranked(COMPARISON, KIT, METER, [7.1e6, 50e6], 50.0, DAY, WHEN)
    assert all("outside the span" in item.points[1].blocked for item in found)


def test_an_instrument_off_its_scale_or_no_reference_is_blocked():
    small = replace(generic.ammeter("a", "ammeter 0.1 A", 0.1), ports=tuple(
        replace(port, power_limit_w=None) for port in generic.ammeter("a", "a", 0.1).ports
    ), components=())  # fmt: skip
    slow = shelf.oscilloscope("slow", "scope 10 MHz", 10e6)
    kit = [*(part for part in KIT if part.kind is not PartKind.OSCILLOSCOPE), small, slow]
    found = ranked(COMPARISON, kit, METER, F, 50.0, DAY, WHEN)
    amperes = next(item for item in found if "ammeter 0.1 A" in item.name)
    scope = next(item for item in found if "scope 10 MHz" in item.name)

    assert "off its scale" in amperes.points[0].blocked
    assert [bool(point.blocked) for point in scope.points] == [True] * 3
    assert "no reference at 3.6" in scope.points[0].blocked


def test_a_source_is_asked_without_a_meter_under_test():
    found = ranked(OUTPUT, KIT, TRANSMITTER, F, 10.0, DAY, WHEN)
    assert found[0].points[0].tolerance == 0.0
    assert not found[0].points[0].decides
    assert all(item.job.dut == TRANSMITTER.id for item in found)
    claimed = ranked(OUTPUT, KIT, GENERATOR, F, 0.001, DAY, WHEN)
    assert claimed[0].points[0].tolerance == pytest.approx(10.0**0.1 - 1.0, rel=1e-6)  # 1 dB is stated
    assert labels(claimed)[0] == "sensor on the output"


def test_what_is_overdue_is_named_but_not_the_device_itself():
    late = replace(
        next(p for p in KIT if p.id == "generic-scope"), history=(CalibrationRecord("2020-01-01", "x", "2021-01-01"),)
    )
    meter = replace(METER, history=late.history)
    kit = [late if part.id == late.id else meter if part.id == meter.id else part for part in KIT]
    found = ranked(COMPARISON, kit, meter, F, 50.0, DAY, WHEN)
    scope = next(item for item in found if labels([item]) == ["oscilloscope across the load"])
    assert scope.overdue == (late.label,)


def test_no_more_variants_are_looked_at_than_is_said_and_none_takes_a_part_twice():
    pads = tuple(generic.attenuator(f"p{n}", f"pad {n}", 10.0 + n, 0.2, 100.0) for n in range(9))
    for benches in candidates(COMPARISON.templates, [*KIT, *pads], METER):
        assert len(benches) <= MOST_VARIANTS
        for bench in benches:
            names = [item.part for item in bench.hookup.elements]
            assert len(set(names)) == len(names)
            assert METER.id in names


def test_retired_parts_stay_on_the_shelf():
    kit = [replace(part, retired=part.kind is PartKind.OSCILLOSCOPE) for part in KIT]
    assert "oscilloscope across the load" not in labels(ranked(COMPARISON, kit, METER, F, 50.0, DAY, WHEN))
    assert METER not in devices(OUTPUT, KIT)


def test_a_kit_that_allows_nothing_says_what_it_lacks():
    with pytest.raises(UnknownIdError, match="The kit has no transmitter"):
        first_bench(room_of("comparison"), [METER])


def test_a_device_read_to_a_quarter_of_a_wide_division_counts():
    """50 W on an arc of 10 W divisions at a quarter of one: ±2.5 W, u 2.9 %."""
    job = ranked(COMPARISON, KIT, METER, [7.1e6], 50.0, DAY, WHEN)[0].job
    fine = replace(job, part_of_division=0.01)
    (coarse,), (sharp,) = predicted(job), predicted(fine)
    used = job.device_range(job.plan[0])
    assert used is not None
    assert used.scale is not None
    assert coarse.expanded_u > sharp.expanded_u


def test_points_at_a_level_take_the_lowest_range_that_shows_it():
    job = ranked(COMPARISON, KIT, METER, [7.1e6], 50.0, DAY, WHEN)[0].job
    made = points_at(job, (14e6, 7e6), (100.0, 10.0), rounds=2)
    assert [(p.frequency_hz, p.target_w, p.range_id, p.repeats) for p in made] == [
        (7e6, 10.0, "20", 2), (7e6, 100.0, "200", 2), (14e6, 10.0, "20", 2), (14e6, 100.0, "200", 2),
    ]  # fmt: skip
    assert not {p.id for p in made} & {p.id for p in job.plan}


def test_what_is_claimed_of_the_source_is_judged_by_its_first_statement():
    spec = (SpecTerm(SpecKind.OF_READING, 0.1),)
    claims = replace(GENERATOR.indicators[0], spec=spec)
    device = replace(GENERATOR, indicators=(claims,))
    kit = [device if part.id == device.id else part for part in KIT]
    (first, *_) = ranked(OUTPUT, kit, device, [7.1e6], 0.001, DAY, WHEN)
    assert first.points[0].tolerance == pytest.approx(0.1)


def test_a_span_is_looked_at_in_equal_ratios_inside_of_it():
    """1.8 to 30 MHz in six: each (30/1.8)^(1/6) = 1.6 times the one before, half a step from either end."""
    found = usual_frequencies(METER)
    assert len(found) == 6
    assert 1.8e6 < found[0] < found[-1] < 30e6
    assert [after / before for before, after in pairwise(found)] == pytest.approx([1.6] * 5, rel=0.04)
    assert found[0] * found[-1] == pytest.approx(1.8e6 * 30e6, rel=0.05)


def test_the_usual_level_is_half_a_meters_scale_all_of_a_source_and_no_more_than_there_is():
    assert usual_level(COMPARISON, KIT, METER, WHEN) == 100.0
    assert usual_level(OUTPUT, KIT, GENERATOR, WHEN) == 0.02
    weak = [replace(part, ports=(replace(part.ports[0], power_limit_w=5.0),)) if part.id == TRANSMITTER.id else part
            for part in KIT]  # fmt: skip
    assert usual_level(COMPARISON, weak, METER, WHEN) == 5.0


def test_a_part_that_covers_nothing_that_is_asked_makes_no_bench_beside_one_that_does():
    """A coupler wound for 50 kHz to 2 MHz stands back at 7 MHz, and the ordinary one at 474 kHz."""
    kit, room = starter_shelf(), room_of("comparison")
    device = next(part for part in kit if part.kind is PartKind.INLINE_METER)

    def couplers(hertz, parts=kit):
        found = looked_at(room, parts, device, (hertz,), 50.0, WHEN.date(), WHEN)
        used = (part for item in found for part in item.bench.parts if part.kind is PartKind.COUPLER)
        return {part.id for part in used}

    assert couplers(7e6) == {"generic-coupler"}
    assert couplers(474e3) == {"generic-low-coupler"}
    assert couplers(474e3, [part for part in kit if part.id != "generic-low-coupler"]) == {"generic-coupler"}


def test_what_is_wrong_begins_with_one_reading_at_one_frequency():
    sender = next(part for part in starter_shelf() if part.kind is PartKind.TRANSMITTER)

    assert (usual_rounds(room_of("triage")), usual_rounds(room_of("output"))) == (1, 3)
    assert first_frequencies(room_of("output"), sender) == usual_frequencies(sender)
    (middle,) = first_frequencies(room_of("triage"), sender)
    assert middle in usual_frequencies(sender)[1:-1]
