"""DC into a source against what comes out of it: no more comes out than goes in (conservation of energy)."""

from dataclasses import replace

import pytest

from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.rounds import readings_by_point
from fenmist.errors import OutOfRangeError
from fenmist.hookup.templates import OF_SOURCES, from_template
from fenmist.judgement.supply_rules import supplied, supply_notes
from fenmist.judgement.waveform_rules import waveform_notes
from fenmist.kit import shelf
from fenmist.kit.draft import draft_from_part, part_from_draft
from fenmist.kit.part import Part, PartKind
from fenmist.procedures.benchwork import with_read
from fenmist.procedures.output.reduction import reduce
from fenmist.procedures.table import procedure_of, room_of
from fenmist.reading.event import AS_FOUND, Slot
from studies.builders import WHEN, enter, job, read
from studies.references import pad, sensor
from support.texts import spaced


def supplied_source(drive: str = "", setting: str = "") -> Part:
    """15 V and amperes, each meter within 1 %."""
    part = shelf.transmitter("tx", "Plover 150", 150.0)
    typed = {"supply_volts": "1 %", "supply_amperes": "1 %", "drive": drive, "setting": setting, "own_meter": ""}
    made = part_from_draft(part, {**draft_from_part(part), **typed})
    assert isinstance(made, Part)
    return made


def made(source: Part, *rounds: list[str]) -> Job:
    template = next(item for item in OF_SOURCES if item.label == "sensor behind a pad" and item.stated is source.kind)
    bench = from_template(template, [source, pad("pad", 30.0), sensor("s")], "line")
    begun = room_of("output").begin("job", "a source", bench, source.id, WHEN)
    point = PlanPoint("p1", "line", 7.1e6, 100.0, "", begun.order, max(len(rounds), 1))
    return read(replace(begun, plan=(point,)), *rounds)


def notes(job: Job):
    return {note.code: note for note in supply_notes(job, reduce(job))}


def test_a_meter_is_compared_with_what_goes_into_the_source_read_last():
    meter = shelf.inline_meter("m", "Bittern", (200.0,), None, 0.05)
    comparison = room_of("comparison")
    template = next(item for item in comparison.templates if item.label == "sensor behind a pad")
    bench = from_template(template, [supplied_source(), meter, pad("pad", 30.0), sensor("s")], "line")
    begun = comparison.begin("job", "a meter", bench, "m", WHEN)

    assert begun.order == ("meter", "wattmeter", "transmitter, supply_volts", "transmitter, supply_amperes")


def test_half_of_what_goes_in_comes_out():
    """20 dBm behind 30 dB over a calibration factor of 0.97 is 103 W, of 15 V × 14 A = 210 W: 49 %, 107 W heat."""
    job = made(supplied_source(), ["20 dBm", "15.0", "14.00"])
    note = notes(job)["supply.efficiency"]

    assert job.order == ("meter", "transmitter, supply_volts", "transmitter, supply_amperes")
    assert note.evidence["least"] == pytest.approx(100 / 0.97 / 210, rel=0.01)
    assert note.evidence["heat_w"] == pytest.approx(210 - 100 / 0.97, rel=0.01)
    assert "49" in note.what


def test_of_two_points_both_ends_are_told_and_the_least_with_its_heat():
    """50 W of 15 V × 10 A beside 103 W of 210 W: 34 and 49 %."""
    job = made(supplied_source(), ["20 dBm", "15.0", "14.00"])
    job = replace(job, plan=(*job.plan, replace(job.plan[0], id="p2", frequency_hz=14e6, target_w=50.0)))
    for position, text in enumerate(("16.87 dBm", "15.0", "10.00")):
        job = enter(job, Slot("p2", 1, position), text)
    note = notes(job)["supply.efficiency"]

    assert note.evidence["least"] == pytest.approx(10**1.687 / 0.97 / 150, rel=0.01)
    assert note.evidence["most"] == pytest.approx(100 / 0.97 / 210, rel=0.01)
    assert "makes RF of 33 % to 49 % of" in spaced(note.what)
    assert "Least at 14 MHz" in spaced(note.why)


def test_the_mean_of_the_rounds_with_what_the_meters_allow():
    """15 V ± 1 % and 13 A and 15 A ± 1 %: 210 W; u = 210 W·√(2·(1 %/√3)² + digits)."""
    job = made(supplied_source("5 W"), ["20 dBm", "15.0", "13.00"], ["20 dBm", "15.0", "15.00"])
    (found,) = readings_by_point(job)
    into = supplied(job, found)

    assert (into.dc_w, into.drive_w) == (pytest.approx(210.0), pytest.approx(5.0))
    digits = (0.1 / 15.0) ** 2 / 12 + (0.01 / 14.0) ** 2 / 12
    assert into.u_w == pytest.approx(210.0 * (2 * 1e-4 / 3 + digits) ** 0.5, rel=1e-3)


@pytest.mark.parametrize(("drive", "codes"), [("", ["supply.more_out"]), ("60 W", ["supply.efficiency"])])
def test_more_than_goes_in_is_doubted_unless_the_drive_explains_it(drive, codes):
    """103 W from 15 V × 5 A = 75 W."""
    job = made(supplied_source(drive), ["20 dBm", "15.0", "5.00"])

    assert list(notes(job)) == codes
    assert "supply.more_out" not in codes or notes(job)["supply.more_out"].about == "p1"


def test_a_round_without_its_supply_is_not_complete_and_says_nothing_of_it():
    job = made(supplied_source(), ["20 dBm", "15.0"])

    assert readings_by_point(job)[0].rounds == ()
    assert notes(job) == {}


@pytest.mark.parametrize("texts", [("0", "14.0"), ("15.0", "0"), ("0", "0"), ("off scale", "5"), ("-1", "5")])
def test_a_supply_that_shows_nothing_bounds_nothing(texts):
    job = made(supplied_source(), ["20 dBm", *texts])

    assert notes(job) == {}
    room = procedure_of(job)
    assert room.judge(job, room.reduce(job, AS_FOUND, {}, None), WHEN.date(), AS_FOUND, None)


def test_volts_of_a_supply_are_no_slip_of_a_power():
    job = made(supplied_source(), ["20 dBm", "15.0", "14.00"])
    room = procedure_of(job)
    result = room.reduce(job, AS_FOUND, {}, None)

    assert not [note.code for note in room.judge_entries(job, result, AS_FOUND, "p1") if note.code.startswith("entry")]
    assert result.points[0].claims == ()
    assert [item.channel for item in result.points[0].references] == [job.order[0]]


def test_one_key_reads_the_supply_or_not():
    begun = made(supplied_source())
    without = with_read(begun, begun.bench, "transmitter")

    assert without.order == begun.order[:1]
    assert with_read(without, without.bench, "transmitter").order == begun.order
    with pytest.raises(OutOfRangeError, match="only reference"):
        with_read(begun, begun.bench, begun.order[0])


def test_a_meter_under_test_is_bound_by_the_supply_as_well():
    """A comparison on a transmitter with a supply reads it behind the rest."""
    part = supplied_source()
    plain = job([[("102 Vpp", "25.6")]])
    source = next(item for item in plain.kit if item.kind is PartKind.TRANSMITTER)
    fitted = plain.with_part(replace(source, indicators=part.indicators))
    read_too = with_read(fitted, fitted.bench, "source")

    assert read_too.order == ("scope", "meter", "source, supply_volts", "source, supply_amperes")
    assert read_too.references_of(replace(read_too.plan[0], sequence=read_too.order)) == ("scope",)


def test_a_mean_is_held_against_the_mean_of_a_waveform_not_against_its_pep():
    """103 W of mean power on a thermal sensor are 206 W PEP of two tones: 200 W of DC are enough for it."""
    job = made(supplied_source(), ["20 dBm", "15.0", "13.33"])
    tones = replace(job, plan=tuple(replace(point, waveform="two-tone") for point in job.plan))

    assert reduce(tones).power_at("p1")[1] == pytest.approx(2 * 100 / 0.97, rel=1e-3)
    assert notes(tones)["supply.efficiency"].evidence["least"] == pytest.approx(100 / 0.97 / 199.95, rel=0.01)
    unknown = replace(job, plan=tuple(replace(point, waveform="unknown") for point in job.plan))
    assert notes(unknown) == {}


# class, usual span, heat


def of(**typed: str) -> Part:
    part = supplied_source()
    found = part_from_draft(part, {**draft_from_part(part), **typed})
    assert isinstance(found, Part)
    return found


@pytest.mark.parametrize(
    ("typed", "amperes", "codes"),
    # 103 W of 15 V × 14 A are 49 %, of 7 A 98 %, of 40 A 17 %
    [({}, "14.00", {"supply.efficiency"}),
     ({"feeds": "its output stage", "class": "A"}, "14.00", {"supply.efficiency"}),  # half: not by more than U
     ({"feeds": "its output stage", "class": "A"}, "11.00", {"supply.above_class"}),
     ({"feeds": "its output stage", "class": "AB"}, "7.00", {"supply.above_class"}),
     ({"feeds": "its output stage", "class": "C"}, "7.50", {"supply.efficiency"}),
     ({"power": "120 W"}, "40.00", {"supply.below_usual", "supply.efficiency"}),
     ({"power": "200 W"}, "40.00", {"supply.efficiency"}),  # half of full power: less is usual
     ({"feeds": "its output stage"}, "40.00", {"supply.efficiency"}),  # of no class that is said
     ({"feeds": "its output stage", "class": "B"}, "14.00", {"supply.efficiency"}),
     ({"dissipation": "60 W"}, "14.00", {"supply.heat", "supply.efficiency"}),
     ({"dissipation": "110 W"}, "14.00", {"supply.efficiency"})],
)  # fmt: skip
def test_what_its_class_can_and_what_its_stage_may_take(typed, amperes, codes):
    assert set(notes(made(of(**typed), ["20 dBm", "15.0", amperes]))) == codes


def test_the_note_on_efficiency_says_what_is_usual():
    plain = notes(made(supplied_source(), ["20 dBm", "15.0", "14.00"]))["supply.efficiency"]
    unsaid = notes(made(of(feeds="its output stage"), ["20 dBm", "15.0", "14.00"]))["supply.efficiency"]

    assert "Usual is 30\u202f% to 50\u202f%" in plain.why
    assert "Usual" not in unsaid.why


@pytest.mark.parametrize(("waveform", "part"), [("two-tone", "50 %"), ("dots", "50 %"), ("AM 100 %", "38 %")])
def test_dc_is_held_against_the_mean_of_what_is_sent(waveform, part):
    """Half of PEP; of full AM 1.5 of 4 (ITU-R SM.326)."""
    begun = made(supplied_source())
    sent = replace(begun, plan=tuple(replace(point, waveform=waveform) for point in begun.plan))
    (note,) = (note for note in waveform_notes(sent) if note.code == "waveform.mean_dc")
    assert f"held against {part} of PEP" in spaced(note.what)
