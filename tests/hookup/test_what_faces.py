"""What a meter faces, what each influence says of itself, positions of many switches, ports in pairs."""

import itertools
import math
from dataclasses import replace

import numpy as np
import pytest

from fenmist.hookup.editing import exchanged, with_next_pair
from fenmist.hookup.levels import MOST_POSITIONS, line_levels
from fenmist.hookup.line import Element, HookUp, Joint
from fenmist.hookup.mismatch import mismatch_before
from fenmist.hookup.network import line_network
from fenmist.hookup.transfer import reflection_behind, transfer_of
from fenmist.kit import generic, shelf
from fenmist.kit.impedance import table_from_rows
from fenmist.kit.network import DEFAULT_SWR
from fenmist.kit.part import BYPASSED, Port, Property
from fenmist.kit.touchstone import Touchstone, characterisations_from
from fenmist.measurand import Kind, PlaneRef
from fenmist.procedures.comparison.reduction import reduce
from studies.builders import job, read
from studies.matches import end
from studies.references import BENCHES, pad, with_properties

F = np.array([14e6])


def line(*parts, stated=1):
    elements = tuple(Element(part.id, part.id) for part in parts)
    joints = tuple(Joint((a.id, a.ends[-1]), (b.id, b.ends[0])) for a, b in itertools.pairwise(parts))
    return HookUp("h", "h", elements, joints, PlaneRef("h", parts[stated].id, parts[stated].ends[-1])), {
        part.id: part for part in parts
    }


def behind(*parts, before=(), settings=None):
    meter = shelf.inline_meter("m", "m", (200.0,), None, 0.05)
    hookup, known = line(shelf.transmitter("tx", "tx", 100.0), *before, meter, *parts, stated=1 + len(before))
    set_so = settings or {}
    hookup = replace(
        hookup, elements=tuple(replace(item, settings=set_so.get(item.id, {})) for item in hookup.elements)
    )
    bench = transfer_of(hookup, known, F)
    waves = bench.waves({item.id: item.estimate for item in bench.influences})
    return reflection_behind(bench, waves, "m")


def test_what_follows_a_meter_is_the_end_through_its_losses_and_each_open_match_once():
    """25 Ω, ρ 1/3, behind 3 dB: a half. A pad of stated SWR 1.3 adds half its ceiling squared, as seen."""
    quiet = with_properties(pad("p", 3.0, 0.0), swr=Property(1.0, ""))
    assert behind(end("e", 25.0)) == pytest.approx([1 / 3])
    assert behind(quiet, end("e", 25.0)) == pytest.approx([10**-0.3 / 3], rel=1e-6)
    rho = 0.3 / 2.3
    poor = with_properties(pad("q", 3.0, 0.0), swr=Property(1.3, ""))
    alone = behind(poor, end("e", 50.0))
    assert alone == pytest.approx([math.sqrt(rho**2 / 2)], rel=1e-3)
    # behind 3 dB it is seen weakened there and back
    assert behind(quiet, poor, end("e", 50.0)) == pytest.approx([10**-0.3 * rho / math.sqrt(2)], rel=1e-3)
    measured = with_properties(pad("q", 3.0, 0.0), swr=Property(1.3, "", measured=True))
    assert behind(measured, end("e", 50.0)) == pytest.approx([rho], rel=1e-3)
    sensor = generic.power_meter("s", "s")
    unsaid = replace(sensor, properties={name: item for name, item in sensor.properties.items() if name != "swr"})
    at_most = (DEFAULT_SWR - 1) / (DEFAULT_SWR + 1)  # what is usual
    assert behind(unsaid) == pytest.approx([at_most / math.sqrt(2)])


def test_what_stands_in_front_of_a_meter_is_nothing_that_it_faces():
    """A pad of open phase, or a tuner at work, before it: behind it is the end alone; a tuner behind hides the end."""
    kit = {part.id: part for part in generic.generics()}
    tuner = replace(kit["generic-tuner"], id="t")
    poor = with_properties(pad("q", 3.0, 0.0), swr=Property(1.3, "", measured=True))

    assert behind(end("e", 25.0), before=(poor,)) == pytest.approx([1 / 3])
    assert behind(end("e", 25.0), before=(tuner,)) == pytest.approx([1 / 3])
    at_work = {"t": {"tuner": "in line"}}
    assert behind(end("e", 25.0), before=(tuner,), settings=at_work) == pytest.approx([1 / 3])
    assert behind(tuner, end("e", 25.0), settings=at_work) == pytest.approx([0.2 / math.sqrt(2)])  # its own SWR 1.5


def test_across_a_tuner_at_work_nothing_faces():
    """Two pads of open phase beside it face each other while it is bypassed; at work each faces the tuner alone."""
    one, other = (with_properties(pad(name, 1.0, 0.0), swr=Property(1.3, "")) for name in "ab")
    tuner = replace(next(part for part in generic.generics() if part.id == "generic-tuner"), id="t")
    hookup, known = line(shelf.transmitter("tx", "tx", 100.0), one, tuner, other, end("e", 25.0), stated=0)
    read = ((Kind.INCIDENT, PlaneRef("h", "e", "in")),)
    for setting, faces in ((BYPASSED, True), ("in line", False)):
        elements = tuple(
            replace(item, settings={"tuner": setting} if item.id == "t" else {}) for item in hookup.elements
        )
        bench = transfer_of(replace(hookup, elements=elements), known, F, read)
        names = {item.id for item in bench.influences}
        assert ("a.out~b.in.mismatch" in names) is faces, sorted(names)
        assert "t.out~b.in.mismatch" in names


def test_what_stands_before_a_tee_faces_what_is_open_behind_it_too():
    """Volts on a tee: a pad in front faces the tee with all that is known behind it, and the open pad there alone; two
    in front face each other as well. Each pair counts once.
    """
    one, other, first = (with_properties(pad(name, 1.0, 0.0), swr=Property(1.3, "")) for name in "abc")
    assert pairs_at_a_tee((one,), other) == ["a.out~b.in", "a.out~tee.a"]
    assert pairs_at_a_tee((first, one), other) == [
        "a.out~b.in", "a.out~tee.a", "c.out~a.in", "c.out~b.in", "c.out~tee.a",
    ]  # fmt: skip
    assert pairs_at_a_tee((first, one)) == ["a.out~tee.a", "c.out~a.in", "c.out~tee.a"]
    assert pairs_at_a_tee((), other) == []


def pairs_at_a_tee(before, *after):
    """Pairs that count for volts on a tee in a line that ends in 25 Ω."""
    tee, scope = shelf.tee("tee", "tee"), shelf.oscilloscope("o", "o", 1e9)
    hookup, known = line(shelf.transmitter("tx", "tx", 100.0), *before, tee, *after, end("e", 25.0), stated=0)
    (side,) = (port.id for port in tee.ports if port.id not in tee.ends)
    hookup = replace(
        hookup,
        elements=(*hookup.elements, Element("o", "o")),
        joints=(*hookup.joints, Joint(("tee", side), ("o", scope.ports[0].id))),
    )
    read = ((Kind.VOLTAGE, PlaneRef("h", "o", scope.ports[0].id)),)
    bench = transfer_of(hookup, {**known, "o": scope}, F, read)
    found = bench.mismatches.get((Kind.VOLTAGE, "o", scope.ports[0].id), ())
    assert len({item.id for item in bench.influences}) == len(bench.influences)
    return sorted(item.id.removesuffix(".mismatch") for item in found)


def test_a_pair_that_is_nothing_at_the_lowest_frequency_counts_at_the_others():
    """A piece of line of 35 Ω, 3 cm long, is nothing at 1 kHz; at 100 MHz an open pad faces it."""
    other = with_properties(pad("b", 1.0, 0.0), swr=Property(1.3, ""))
    hookup, known = line(
        shelf.transmitter("tx", "tx", 100.0), generic.adapter("ad", "ad", 0.03, 35.0), other, end("e", 50.0), stated=0
    )
    bench = transfer_of(hookup, known, np.array([1e3, 1e8]), [(Kind.INCIDENT, PlaneRef("h", "e", "in"))])
    (pair,) = (item for item in bench.influences if item.id == "ad.b~b.in.mismatch")

    assert pair.standard_u[0] < 1e-6 < 1e-3 < pair.standard_u[1]


def test_what_is_known_behind_an_open_part_stands_where_it_reflects():
    """A load of 50 Ω at 7 MHz and 25 Ω at 14 MHz behind an open pad of 1 dB: 2·ρ/√2, weaker by 2 dB there and back."""
    other = with_properties(pad("b", 1.0, 0.0), swr=Property(1.0, ""))
    two = replace(end("e", 50.0), characterisations=(table_from_rows([(7e6, "50"), (14e6, "25")], 0.01),))
    hookup, known = line(shelf.transmitter("tx", "tx", 100.0), other, two, stated=0)
    bench = transfer_of(hookup, known, np.array([7e6, 14e6]), [(Kind.VOLTAGE, PlaneRef("h", "tx", "out"))])
    (standing,) = (item for item in bench.influences if item.id == "e.in.standing")
    assert standing.standard_u == pytest.approx([0.0, 2.0 / 3.0 / math.sqrt(2.0) * 10**-0.1], abs=1e-6)


def told_by_its_side(part):
    """u of what faces the pad of open phase (ρ 0.13 at most) behind a part whose side port a sensor reads, over ρ."""
    sensor = generic.power_meter("s", "s")
    other = with_properties(pad("b", 1.0, 0.0), swr=Property(1.3, ""))
    hookup, known = line(shelf.transmitter("tx", "tx", 100.0), part, other, end("e", 50.0))
    side, arm = next(port.id for port in part.ports if port.id not in part.ends), sensor.ports[0].id
    hookup = replace(
        hookup,
        elements=(*hookup.elements, Element("s", "s")),
        joints=(*hookup.joints, Joint((part.id, side), ("s", arm))),
    )
    bench = transfer_of(hookup, {**known, "s": sensor}, F, [(Kind.INCIDENT, PlaneRef("h", "s", arm))])
    (pair,) = (item for item in bench.influences if item.id == f"{part.id}.out~b.in.mismatch")
    return float(pair.standard_u[0]) / (0.3 / 2.3)


def test_what_is_told_by_a_side_port_faces_the_rest_with_gamma_ge():
    """A resistive tap holds the volts of its line: −1. A splitter of three times 6 dB: 0 − 0.5·0.5/0.5. A coupler of
    open phase and SWR 1.15 at most: half of its ρ², and its directivity of 25 dB anywhere in a disc, u 0.0281 each way.
    """
    assert told_by_its_side(generic.resistive_tap("c", "c", 100.0, 50.0)) == pytest.approx(1.0, rel=1e-6)
    s = np.full((2, 3, 3), 0.5 + 0j)
    s[:, range(3), range(3)] = 0.0
    table = characterisations_from(Touchstone(np.array([1e6, 30e6]), s, 50.0), "splitter.s3p")
    splitter = replace(generic.resistive_tap("c", "c", 100.0, 50.0), characterisations=table)
    assert told_by_its_side(splitter) == pytest.approx(0.5, rel=1e-6)
    coupler = generic.coupler("c", "c", 30.0, 25.0, 0.1, 100.0)
    leak = 10 ** (-25 / 20) / 2.0
    assert told_by_its_side(coupler) == pytest.approx(math.sqrt((0.15 / 2.15) ** 2 / 2 + 2 * leak**2), rel=1e-6)


def test_what_is_known_stands_in_no_unknown_phase_and_what_lies_before_every_plane_does_not_count():
    lossy = pad("a", 1.0, 0.1)
    for at, counts in (("in", True), ("out", False)):
        hookup, known = line(shelf.transmitter("tx", "tx", 100.0), lossy, end("e", 25.0))
        hookup = replace(hookup, stated=PlaneRef("h", "a", at))
        names = {
            item.id for item in transfer_of(hookup, known, F, [(Kind.VOLTAGE, PlaneRef("h", "e", "in"))]).influences
        }
        assert ("a.loss" in names) is counts
    hookup, known = line(shelf.transmitter("tx", "tx", 100.0), shelf.tee("tee", "tee"), end("e", 25.0), stated=0)
    volts = transfer_of(hookup, known, F, [(Kind.VOLTAGE, PlaneRef("h", "tee", "a"))])
    assert [item.id for item in volts.influences if item.id.endswith(".standing")] == []


def test_a_wave_that_stands_by_a_tenth_more_raises_volts_squared_and_lowers_amperes_squared_by_it():
    poor = with_properties(pad("q", 1.0, 0.0), swr=Property(1.3, ""))
    hookup, known = line(shelf.transmitter("tx", "tx", 100.0), poor, end("e", 50.0), stated=0)
    read = [(kind, PlaneRef("h", "tx", "out")) for kind in (Kind.VOLTAGE, Kind.CURRENT)]
    bench = transfer_of(hookup, known, F, read)
    x = {item.id: item.estimate for item in bench.influences}

    at_rest, moved = (bench.per_watt(values, read) for values in (x, {**x, "q.in.standing": np.array([0.1])}))
    assert [float(b[0] / a[0]) for a, b in zip(at_rest, moved, strict=True)] == pytest.approx([1.1, 0.9])


@pytest.mark.parametrize("name", list(BENCHES))
def test_every_influence_says_where_it_comes_from(name):
    """A part of the bench, a basis in words, and points that share it."""
    made = BENCHES[name]()
    bench = transfer_of(made.bench, made.parts, np.array([7e6, 14e6]))
    for item in bench.influences:
        assert item.basis, item.id
        assert item.source_id in made.parts, item.id
        assert item.sharing.shape == (2,)


def test_every_line_of_a_budget_has_its_basis():
    result = reduce(read(job([], load="57.7", lead_m=0.3, bandwidth_hz=100e6, noise=0.01), ("102 Vpp", "25.6")))
    for row in result.budget("p1"):
        assert row.influence.basis, row.influence.id


def steps(name, count):
    return generic.attenuator(name, name, 0.0, 0.1, 50.0, positions=tuple(float(n) for n in range(count)))


def test_all_positions_of_a_few_switches_are_looked_at_and_of_many_one_after_the_other():
    """Three of 3 are 27 together; of four with 6 positions (1,296) each by itself, the others as they are set."""
    tail = end("e", 50.0)

    def cases(*switched):
        hookup, parts = line(shelf.transmitter("tx", "tx", 100.0), *switched, tail)
        return [name for name, _ in line_levels(hookup, parts, F, np.array([10.0])).worst_positions]

    few = cases(steps("a", 3), steps("b", 3))
    assert len(few) <= 8 and all(" at " in name for name in few)
    many = cases(*(steps(name, 6) for name in "abcd"))
    assert MOST_POSITIONS < 6**4
    assert all("," not in name for name in many)  # one switch moved at a time


def test_a_part_of_two_pairs_goes_round_them_forwards_and_back():
    meter = shelf.inline_meter("m", "m", (200.0,), None, 0.05)
    three = replace(meter, ports=tuple(
        Port(f"{side}{pair}", pair=pair) for pair in ("hf", "vhf", "uhf") for side in ("in-", "out-")
    ))  # fmt: skip
    hookup, parts = line(shelf.transmitter("tx", "tx", 100.0), three, end("e", 50.0))

    def used(made):
        return next(joint.b[1] for joint in made.joints if joint.b[0] == "m")

    on = with_next_pair(hookup, parts, "m")
    assert (used(hookup), used(on), used(with_next_pair(on, parts, "m"))) == ("in-hf", "in-vhf", "in-uhf")
    assert used(with_next_pair(hookup, parts, "m", -1)) == "in-uhf"


def test_power_stays_stated_at_a_part_that_takes_anothers_place():
    meter = shelf.inline_meter("m", "m", (200.0,), None, 0.05)
    hookup, parts = line(shelf.transmitter("tx", "tx", 100.0), meter, end("e", 50.0))
    other = replace(meter, id="n", ports=(replace(meter.ports[0], id="a"), replace(meter.ports[1], id="b")))
    changed = exchanged(hookup, parts, "m", other)
    assert changed.stated == PlaneRef("h", "m", "b") and changed.element("m").part == "n"
    elsewhere = exchanged(hookup, parts, "e", replace(end("f", 75.0), id="f"))
    assert elsewhere.stated == hookup.stated


def overloads(*parts, watts=100.0):
    hookup, known = line(shelf.transmitter("tx", "tx", 500.0), *parts, stated=0)
    levels = line_levels(hookup, known, F, np.array([watts]))
    made = levels.plan(known, watts)
    return {(over.element, over.what): over for over in (*made.overloads, *made.risks)}


def test_of_several_switch_positions_the_worst_for_a_part_is_told():
    """Pads of 0, 10, 20 dB in front of an end of 20 W: set to 20 dB nothing; at 10 dB 10 W, at 0 dB 100 W."""
    switched = generic.attenuator("a", "a", 0.0, 0.0, 500.0, positions=(20.0, 10.0, 0.0))
    tail = end("e", 50.0)
    tail = replace(tail, ports=(replace(tail.ports[0], power_limit_w=5.0, volts_limit_vpk=20.0),))
    found = overloads(switched, tail)
    assert found["e", "power"].planned == pytest.approx(100.0, rel=1e-6)
    assert "0 dB" in found["e", "power"].case and found["e", "power"].port == "in"
    assert found["e", "volts"].planned == pytest.approx(100.0, rel=1e-3)  # √(2·100·50) V peak
    assert found["e", "volts"].port == "in"


def test_uncertainty_of_what_arrives_counts_from_the_stated_plane_on():
    """A poor pad in front of the stated meter costs nothing there; one behind it faces the end."""
    meter = shelf.inline_meter("m", "m", (200.0,), None, 0.05)
    meter = with_properties(meter, swr=Property(1.0, "", measured=True))
    poor = with_properties(pad("q", 1.0, 0.0), swr=Property(1.5, "", measured=True))
    source = shelf.transmitter("tx", "tx", 100.0)

    def arriving(*parts):
        hookup, known = line(source, *parts)
        stated = next(n for n, part in enumerate(parts, start=1) if part.id == "m")
        hookup = replace(hookup, stated=PlaneRef("h", "m", parts[stated - 1].ends[-1]))
        network = line_network(hookup, known, F)
        return float(mismatch_before(hookup, known, network, "e")[0])

    assert arriving(poor, meter, end("e", 75.0)) == pytest.approx(0.0, abs=1e-9)
    # |1 − S22·Γ|² of both measured, phases open: 2·0.2·0.2, U-shaped
    assert arriving(meter, poor, end("e", 75.0)) == pytest.approx(2 * 0.2 * 0.2 / math.sqrt(2), rel=0.05)


def test_pairs_of_ports_that_are_not_in_use_change_nothing_of_the_pair_that_is():
    """A meter of three pairs on a line of three frequencies is that meter with the one pair."""
    meter = shelf.inline_meter("m", "m", (200.0,), None, 0.05)
    three = replace(meter, ports=tuple(
        Port(f"{side}{pair}", pair=pair) for pair in ("hf", "vhf", "uhf") for side in ("in-", "out-")
    ))  # fmt: skip
    shown = []
    for part in (meter, three):
        hookup, known = line(shelf.transmitter("tx", "tx", 100.0), part, end("e", 75.0), stated=0)
        read = [(Kind.INCIDENT, PlaneRef("h", "e", "in"))]
        bench = transfer_of(hookup, known, np.array([1e6, 7e6, 30e6]), read)
        shown.append(bench.per_watt({item.id: item.estimate for item in bench.influences}, read)[0])
    assert shown[0] == pytest.approx(shown[1])
