"""Small facts of parts and their sheets, each at the value where it changes."""

from dataclasses import replace

import numpy as np
import pytest

from fenmist.errors import FenmistError, OutOfRangeError
from fenmist.kit import generic, shelf
from fenmist.kit.characterisation import Footing, load_state
from fenmist.kit.draft import draft_from_part, part_from_draft
from fenmist.kit.generic import starter_shelf
from fenmist.kit.impedance import table_from_rows
from fenmist.kit.part import Part, PartKind, Position, Switch
from fenmist.kit.scale import Scale
from fenmist.kit.snapshot import content_hash
from fenmist.kit.spectext import spec_from_text

GENERICS = {part.kind: part for part in reversed(generic.generics())}


def typed(part, **fields):
    return part_from_draft(part, {**draft_from_part(part), **fields})


def test_whatever_is_common_practice_in_the_generic_kit_says_so():
    for part in generic.generics():
        terms = [term for item in part.indicators for term in (*item.spec, *(t for r in item.ranges for t in r.spec))]
        assert all(term.basis for term in terms), part.id


@pytest.mark.parametrize(("text", "fine"), [("99 %", True), ("100 %", False), ("1.5 dB", True), ("3 % + 120 %", False)])
def test_what_is_known_is_known_to_better_than_all_of_it(text, fine):
    assert isinstance(typed(GENERICS[PartKind.POWER_METER], cal_limit=text), tuple) is not fine
    assert isinstance(typed(shelf.oscilloscope("o", "o", 1e8), accuracy=text), tuple) is not fine


def test_a_sources_setting_stands_before_its_own_meter_whatever_was_typed_first():
    source = shelf.transmitter("t", "t", 100.0)
    first = typed(typed(source, own_meter="5 %"), setting="10 %")
    second = typed(typed(source, setting="10 %"), own_meter="5 %")
    assert [item.id for item in first.indicators][:2] == [item.id for item in second.indicators][:2] == [
        "setting", "own_meter",
    ]  # fmt: skip


def test_outputs_of_a_generator_leave_its_other_switches_alone():
    source = replace(GENERICS[PartKind.GENERATOR], switches=(Switch("band", (Position("low"), Position("high"))),))
    made = typed(source, outputs="front; rear")
    assert [item.id for item in made.switches] == ["band", made.switches[1].id]
    assert [item.id for item in typed(made, outputs="").switches] == ["band"]


def test_a_span_that_is_emptied_is_gone():
    part = typed(GENERICS[PartKind.COUPLER], span="1.8 to 30 MHz")
    assert {(p.frequency_min_hz, p.frequency_max_hz) for p in part.ports} == {(1.8e6, 30e6)}
    assert {(p.frequency_min_hz, p.frequency_max_hz) for p in typed(part, span="").ports} == {(None, None)}


@pytest.mark.parametrize("places", [(0.0, 0.5, 0.4, 1.0), (0.0, 0.5, 0.5, 1.0)])
def test_marks_of_a_dial_stand_one_behind_the_other(places):
    with pytest.raises(OutOfRangeError):
        Scale("s", (0.0, 5.0, 10.0, 20.0), (1, 1, 1), places=places)
    Scale("s", (0.0, 5.0, 10.0, 20.0), (1, 1, 1), places=(0.0, 0.3, 0.6, 1.0))


def test_one_term_of_nothing_beside_another_is_a_statement_and_nothing_alone_is_none():
    assert [term.value for term in spec_from_text("0 dB + 2 digits", "W")] == [0.0, 2.0]
    with pytest.raises(FenmistError, match="never wrong"):
        spec_from_text("0 %", "W")


def test_a_frequency_within_a_millionth_of_a_row_is_that_row():
    table = table_from_rows([(7e6, "50+j1"), (14e6, "51")], 0.01)
    f = 7e6 * np.array([1 + 0.9e-6, 1 + 2e-6, 1 - 0.9e-6, 2.0 * (1 + 0.9e-6)])
    state = load_state(table, f, 50.0)
    assert [item is Footing.MEASURED for item in state.footing] == [True, False, True, True]
    assert state.reactance_ohm[0] == state.reactance_ohm[2] == 1.0


def test_a_part_is_the_same_in_whatever_order_its_properties_were_typed():
    part = next(item for item in starter_shelf() if item.id == "generic-scope")
    turned = replace(part, properties=dict(reversed(part.properties.items())))

    assert len(part.properties) > 2
    assert content_hash(turned) == content_hash(part)
    assert content_hash(replace(part, label="other")) != content_hash(part)


@pytest.mark.parametrize(("text", "taken"), [("1e9", False), ("100", False), ("2 dB", True)])
def test_a_loss_is_known_to_better_than_a_hundred_decibels(text, taken):
    coupler = next(item for item in starter_shelf() if item.id == "generic-coupler")
    made = part_from_draft(coupler, {**draft_from_part(coupler), "loss_limit": text})

    assert isinstance(made, Part) is taken
    assert taken or made[0].what == "It is known to better than 100 dB."
