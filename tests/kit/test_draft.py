"""Parts as they are typed."""

from dataclasses import replace

import pytest

from fenmist.design.design import Ask, Design
from fenmist.design.part import part_of
from fenmist.design.shapes import Shape
from fenmist.kit.draft import blank_part, draft_from_part, fields_for, fields_of_part, part_from_draft
from fenmist.kit.generic import starter_shelf
from fenmist.kit.part import Part, PartKind, SpecKind
from fenmist.kit.snapshot import content_hash
from fenmist.measurand import Detector
from fenmist.rf.circuit import BranchKind
from support.designs import tap


@pytest.mark.parametrize("part", starter_shelf(), ids=lambda part: str(part.kind))
def test_a_part_survives_its_own_form(part):
    draft = draft_from_part(part)

    assert set(draft) <= {field.id for field in fields_of_part(part)}
    assert part_from_draft(part, draft) == part


@pytest.mark.parametrize(("kind", "field", "text"), [
    (PartKind.OSCILLOSCOPE, "bandwidth", "fast"), (PartKind.OSCILLOSCOPE, "bandwidth", ""),
    (PartKind.OSCILLOSCOPE, "accuracy", "300 %"), (PartKind.LEAD, "velocity_factor", "1.4"),
    (PartKind.LEAD, "length", "0.3 V"), (PartKind.INLINE_METER, "ranges", "-20 W"),
    (PartKind.INLINE_METER, "divisions", "4 4"), (PartKind.LOAD, "power", "1,250 W"),
    (PartKind.TRANSMITTER, "label", "  "), (PartKind.LOAD, "due", "next spring"),
])  # fmt: skip
def test_what_can_not_be_is_said_at_its_field(kind, field, text):
    part = blank_part("x", kind)

    problems = part_from_draft(part, {**draft_from_part(part), field: text})

    assert not isinstance(problems, Part)
    assert [problem.field for problem in problems] == [field]
    assert problems[0].what


KINDS = sorted({part.kind for part in starter_shelf()})


@pytest.mark.parametrize("kind", KINDS, ids=str)
def test_each_fact_goes_to_its_own_place(kind):
    """What is typed in one field moves no other one, comes back as it was understood, and can be typed again."""
    part = blank_part("x", kind)
    draft = draft_from_part(part)
    if "compared_by" in {field.id for field in fields_for(kind)}:
        draft |= {"compared_on": "2026-03-12", "compared_by": "a room", "due": "2027-03-12"}
    part = part_from_draft(part, draft)
    draft = draft_from_part(part)
    for field in fields_for(kind):
        for text in field.choices or (field.example or "4711",):
            made = part_from_draft(part, {**draft, field.id: text})
            if (kind, field.id) == (PartKind.SWR_METER, "shows") and text != "SWR":
                assert [item.field for item in made] == ["swr_marks"]  # an SWR arc fits nothing else
                continue
            assert isinstance(made, Part), (field.id, made)
            shown = draft_from_part(made)
            assert {name for name in shown if shown[name] != draft.get(name, "")} <= {field.id}, field.id
            if not field.id.endswith("_is") and not field.id.endswith("_are"):  # of nothing there is nothing to say
                assert shown[field.id], field.id
            assert part_from_draft(made, shown) == made, field.id


@pytest.mark.parametrize(("kind", "field", "text", "name", "value", "unit"), [
    (PartKind.TRANSMITTER, "power", "100 W", "power_w", 100.0, "W"),
    (PartKind.TRANSMITTER, "harmonic_2", "-50 dBc", "harmonic_2_dbc", -50.0, "dB"),
    (PartKind.TRANSMITTER, "harmonic_3", "-45 dBc", "harmonic_3_dbc", -45.0, "dB"),
    (PartKind.TRANSMITTER, "droop", "5 %", "droop", 0.05, ""),
    (PartKind.INLINE_METER, "loss", "0.1 dB", "loss_db", 0.1, "dB"),
    (PartKind.TEE, "arm", "20 mm", "arm_m", 0.02, "m"),
    (PartKind.TEE, "body", "1.5 pF", "capacitance_f", 1.5e-12, "F"),
    (PartKind.LEAD, "length", "30 cm", "length_m", 0.3, "m"), (PartKind.LEAD, "line", "75 Ω", "line_ohm", 75.0, "Ω"),
    (PartKind.PROBE, "ratio", "100", "ratio", 100.0, ""), (PartKind.PROBE, "setting", "1", "setting", 1.0, ""),
    (PartKind.PROBE, "ground", "150 mm", "ground_m", 0.15, "m"),
    (PartKind.PROBE, "knee", "2.5 MHz", "knee_hz", 2.5e6, "Hz"),
    (PartKind.OSCILLOSCOPE, "bandwidth", "200 MHz", "bandwidth_hz", 200e6, "Hz"),
    (PartKind.OSCILLOSCOPE, "noise", "0.5 %", "noise", 0.005, ""),
    (PartKind.LOAD, "nominal", "51.2 Ω", "nominal_ohm", 51.2, "Ω"),
    (PartKind.LOAD, "minutes", "5", "rated_time_s", 300.0, "s"),
    (PartKind.LOAD, "cooling", "15", "cooling_s", 900.0, "s"),
])  # fmt: skip
def test_a_property_is_kept_in_si(kind, field, text, name, value, unit):
    part = blank_part("x", kind)
    made = part_from_draft(part, {**draft_from_part(part), field: text})

    assert (made.properties[name].value, made.properties[name].unit) == (pytest.approx(value), unit)
    if name in part.properties:  # what it is known to was said elsewhere
        assert made.properties[name].spec == part.properties[name].spec


def test_a_transmitters_power_is_what_its_port_gives():
    part = blank_part("x", PartKind.TRANSMITTER)
    made = part_from_draft(part, {**draft_from_part(part), "power": "20 W"})

    assert (made.ports[0].power_limit_w, made.properties["power_w"].value) == (20.0, 20.0)


def test_all_harmonics_are_measured_or_none():
    part = blank_part("x", PartKind.TRANSMITTER)
    draft = {**draft_from_part(part), "harmonic_2": "-50", "harmonic_3": "-45", "harmonics_are": "as measured"}
    made = part_from_draft(part, draft)

    assert [made.properties[f"harmonic_{order}_dbc"].measured for order in (2, 3)] == [True, True]
    back = part_from_draft(made, {**draft_from_part(made), "harmonics_are": "at most"})
    assert [back.properties[f"harmonic_{order}_dbc"].measured for order in (2, 3)] == [False, False]


def test_a_dial_is_typed_as_it_is_printed():
    part = blank_part("x", PartKind.INLINE_METER)
    texts = {"ranges": "200 W; 20 W", "marks": "0 50 100 200", "divisions": "5 5 10", "law": "0.5", "accuracy": "5 %"}
    made = part_from_draft(part, {**draft_from_part(part), **texts})
    ranges = made.indicators[0].ranges

    assert [(item.id, item.full_scale, item.unit) for item in ranges] == [("20", 20.0, "W"), ("200", 200.0, "W")]
    assert {item.scale.marks for item in ranges} == {(0.0, 50.0, 100.0, 200.0)}
    assert {(item.scale.divisions, item.scale.law) for item in ranges} == {((5, 5, 10), 0.5)}
    assert [(term.kind, term.value) for item in ranges for term in item.spec] == [(SpecKind.OF_RANGE, 0.05)] * 2
    assert [port.power_limit_w for port in made.ports[:2]] == [200.0, 200.0]
    bare = part_from_draft(made, {**draft_from_part(made), "marks": "", "divisions": ""})
    assert [item.scale for item in bare.indicators[0].ranges] == [None, None]


def test_who_compared_it_is_not_lost_for_want_of_a_day():
    part = blank_part("x", PartKind.LOAD)

    for field in ("compared_by", "due"):
        problems = part_from_draft(part, {**draft_from_part(part), field: "2027-01-01"})
        assert [problem.field for problem in problems] == ["compared_on"]


def test_a_new_comparison_is_added_to_the_history_and_the_old_one_stays():
    part = blank_part("x", PartKind.OSCILLOSCOPE)
    first = part_from_draft(part, {**draft_from_part(part), "compared_on": "2025-03-01", "compared_by": "room"})
    assert isinstance(first, Part)

    second = part_from_draft(first, {**draft_from_part(first), "compared_on": "2026-03-01"})

    assert isinstance(second, Part)
    assert [item.on for item in second.history] == ["2025-03-01", "2026-03-01"]


def test_the_hash_moves_with_anything_that_is_stated():
    part = blank_part("x", PartKind.LEAD)
    other = part_from_draft(part, {**draft_from_part(part), "length": "0.31 m"})

    assert isinstance(other, Part)
    assert content_hash(part) == content_hash(blank_part("x", PartKind.LEAD)) != content_hash(other)


def test_a_meter_bears_the_power_of_its_highest_range():
    part = blank_part("x", PartKind.INLINE_METER)
    made = part_from_draft(part, {**draft_from_part(part), "ranges": "20 W; 500 W"})

    assert [port.power_limit_w for port in made.ports] == [500.0, 500.0]
    assert [item.full_scale for item in made.indicators[0].ranges] == [20.0, 500.0]


def test_volts_are_read_as_chosen_on_the_first_trace_and_the_others_stay():
    part = blank_part("x", PartKind.OSCILLOSCOPE)
    two = replace(part, indicators=(*part.indicators, replace(part.indicators[0], id="other", unit="Vpk")))
    made = part_from_draft(two, {**draft_from_part(two), "form": "Vrms", "accuracy": "2 %"})

    assert [item.unit for item in made.indicators] == ["Vrms", "Vpk"]
    assert [item.spec[0].value for item in made.indicators] == [0.02, 0.03]


@pytest.mark.parametrize(("kind", "text", "full_scales"), [
    (PartKind.AMMETER, "2 A; 5 A", [2.0, 5.0]), (PartKind.VOLTMETER, "3 V; 30 V; 300 V", [3.0, 30.0, 300.0]),
    (PartKind.POWER_METER, "-10 dBm; 0 dBm", [1e-4, 1e-3]),
])  # fmt: skip
def test_ranges_are_typed_in_the_indicators_own_unit(kind, text, full_scales):
    part = blank_part("x", kind)
    made = part_from_draft(part, {**draft_from_part(part), "ranges": text})

    assert [item.full_scale for item in made.indicators[0].ranges] == pytest.approx(full_scales)
    assert draft_from_part(made)["ranges"] == text


def test_what_was_measured_is_told_from_what_is_at_most():
    part = blank_part("x", PartKind.ATTENUATOR)
    made = part_from_draft(part, {**draft_from_part(part), "swr": "1.3", "swr_is": "as measured"})
    assert made.properties["swr"].measured and made.properties["swr"].value == 1.3
    back = part_from_draft(made, {**draft_from_part(made), "swr_is": "at most"})
    assert not back.properties["swr"].measured
    choices = {
        field.id: field.choices for kind in KINDS for field in fields_for(kind) if field.id.endswith(("_is", "_are"))
    }
    assert set(choices) == {"swr_is", "foldback_is", "harmonics_are"}
    assert set(choices.values()) == {("at most", "as measured")}


@pytest.mark.parametrize("kind", [PartKind.INLINE_METER, PartKind.POWER_METER])
def test_its_detector_stands_behind_all_that_a_meter_shows(kind):
    part = blank_part("x", kind)
    draft = draft_from_part(part)
    assert draft["detector"] == ("averages volts" if kind is PartKind.INLINE_METER else "averages power")
    draft |= {"shows": "forward and reflected", "label": "Teasel", "detector": "shows the true peak"}
    made = part_from_draft(part, draft)
    assert {item.detector for item in made.indicators} == {Detector.PEAK}
    assert len(made.indicators) == (2 if kind is PartKind.INLINE_METER else 1)
    assert draft_from_part(made)["detector"] == "shows the true peak"
    rms = replace(part, label="Teasel", indicators=(replace(part.indicators[0], detector=Detector.RMS),))
    assert part_from_draft(rms, draft_from_part(rms)) == rms  # it averages power, too


@pytest.mark.parametrize("shape", [Shape.RESISTIVE_TAP, Shape.DIVIDER, Shape.PI_PAD, Shape.TRANSFORMER_TAP, Shape.STAR])
def test_a_designed_part_shows_its_own_pieces_and_is_renamed_as_any(shape):
    """No empty R1 that would be a second one beside the stack: its pieces are what can be typed."""
    part = part_of(Design(shape, Ask(6.0)), "made", "Made")
    fields, draft = [item.id for item in fields_of_part(part)], draft_from_part(part)
    renamed = part_from_draft(part, {**draft, "label": "Other"})

    assert {item.id.lower() for item in part.components if item.kind is not BranchKind.TURNS} <= set(fields)
    assert "r1" not in fields and "series" not in fields
    assert isinstance(renamed, Part), renamed
    by_id = [{item.id: item for item in made.components} for made in (part, renamed)]
    assert by_id[0] == by_id[1]
    assert replace(renamed, components=part.components) == replace(part, label="Other")


def test_a_piece_of_a_stack_is_typed_as_it_was_measured():
    part = part_of(tap(), "made", "Made")
    draft = draft_from_part(part)
    made = part_from_draft(part, {**draft, "r1.2_measured": "818 ± 1 Ω", "r1 joint 1 c": "0.3 pF"})

    assert (draft["r1.2"], draft["r1.2_tolerance"], draft["r1.2_power"]) == ("820 Ω", "5 %", "1 W")
    assert isinstance(made, Part)
    by_id = {item.id: item for item in made.components}
    assert (by_id["R1.2"].value, by_id["R1.2"].u) == (818.0, 1.0)
    assert by_id["R1 joint 1 C"].value == pytest.approx(0.3e-12)
    assert len(made.components) == len(part.components)
