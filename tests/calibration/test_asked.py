"""What every job is asked, typed and read again: whose it is, tolerance, rule, order, its device, its look."""

from dataclasses import replace

import pytest

from fenmist.calibration.asked import (
    device_draft,
    device_fields,
    judged_draft,
    tolerance_draft,
    tolerance_from_draft,
    tolerance_problems,
    whose_draft,
    with_device,
    with_device_draft,
    with_judged,
    with_look,
    with_order,
    with_whose,
)
from fenmist.calibration.job import HEAT, Job, Rule
from fenmist.calibration.outcome import by_part
from fenmist.calibration.receipt import FINE, LOOK_OVER, NOT_FINE, NOT_THERE, Look
from fenmist.errors import UnreadableError
from fenmist.kit.part import PartKind, SpecKind
from fenmist.procedures.comparison.reduction import reduce
from fenmist.reading.event import Slot
from studies.builders import enter, job, read


def whole(made):
    return {**whose_draft(made), **judged_draft(made)}


def test_what_is_asked_of_every_job_comes_back_as_it_was_typed():
    made = job([])
    typed = {
        "title": "Bittern of the pilot boat", "customer": "its owner", "place": "bench 2", "technician": "workshop",
        "conditions": "21 °C", "next_due": "2027-11-25", "received_on": "2026-11-25", "inventory": "A-0417",
        "ports": "left faces the transmitter", "switches": "average", "condition": "works",
    }  # fmt: skip
    changed = with_whose(made, typed)
    assert isinstance(changed, Job)
    assert whose_draft(changed) == typed
    assert with_whose(made, {**typed, "title": "  "}).title == made.title  # a job has a name
    assert with_whose(made, {name: f" {text} " for name, text in typed.items()}) == changed


@pytest.mark.parametrize("field", ["received_on", "next_due"])
def test_a_day_that_is_none_is_said_by_its_field(field):
    made = job([])
    (problem,) = with_whose(made, {**whose_draft(made), field: "25.11.2026"})
    assert problem.field == field and "year-month-day" in problem.remedy
    both = with_judged(made, {**whole(made), field: "x", "tolerance": "y"})
    assert {item.field for item in both} == {field, "tolerance"}


@pytest.mark.parametrize(("text", "of", "kind", "value"), [
    ("5 %", "reading", SpecKind.OF_READING, 0.05), ("5", "full scale", SpecKind.OF_RANGE, 0.05),
    ("0.3", "dB", SpecKind.DB, 0.3), ("2,5 %", "reading", SpecKind.OF_READING, 0.025),
])  # fmt: skip
def test_a_tolerance_is_of_what_is_chosen_and_comes_back(text, of, kind, value):
    (term,) = tolerance_from_draft({"tolerance": text, "of": of})
    assert (term.kind, term.value, term.basis) == (kind, pytest.approx(value), "agreed")
    said = tolerance_draft(replace(job([]), tolerance=term))
    assert said["of"] == of and said["tolerance"] == (f"{value:g} dB" if kind is SpecKind.DB else f"{100 * value:g} %")


def test_a_tolerance_of_two_terms_is_said_whole():
    made = replace(job([]), tolerance_more=(), tolerance=tolerance_from_draft({"tolerance": "5 %", "of": "reading"})[0])
    terms = tolerance_from_draft({"tolerance": "3 % of reading + 1 digit", "of": "dB"})
    both = replace(made, tolerance=terms[0], tolerance_more=terms[1:])
    assert [term.kind for term in terms] == [SpecKind.OF_READING, SpecKind.DIGITS]
    assert "+" in tolerance_draft(both)["tolerance"]
    for text in ("", "unknown"):
        with pytest.raises(UnreadableError):
            tolerance_from_draft({"tolerance": text, "of": "reading"})
    assert tolerance_problems({"tolerance": "101 %", "of": "reading"})[0].field == "tolerance"
    assert tolerance_problems({"tolerance": "11", "of": "dB"}) and not tolerance_problems(
        {"tolerance": "9", "of": "dB"}
    )
    assert tolerance_problems({"tolerance": "100 %", "of": "full scale"}) == ()


@pytest.mark.parametrize(("heat", "parameter"), [("in between", None), ("cold", 0.0), ("hot", 1.0)])
def test_heat_interval_rule_and_division(heat, parameter):
    made = job([])
    draft = {
        **whole(made), "heat": heat, "interval": "shortest", "rule": str(Rule.GUARDED),
        "part_of_division": "half a division", "tolerance": "7 %", "of": "reading",
    }  # fmt: skip
    changed = with_judged(made, draft)
    assert changed.method.parameters.get(HEAT) == parameter
    assert (changed.shortest_interval, changed.rule, changed.part_of_division) == (True, Rule.GUARDED, 0.5)
    assert judged_draft(changed) == {name: draft[name] for name in judged_draft(changed)}
    back = with_judged(changed, {**draft, "heat": "in between"})
    assert HEAT not in back.method.parameters
    assert with_judged(made, whole(made)).method is made.method  # nothing changed there


def test_another_order_holds_for_points_where_nothing_was_entered():
    made = job([], frequencies_hz=(7e6, 14e6))
    begun = enter(made, Slot("p1", 1, 0), "100 Vpp")
    turned = with_order(begun, ("meter", "scope"))
    assert [point.sequence for point in turned.plan] == [("scope", "meter"), ("meter", "scope")]
    assert turned.order == ("meter", "scope")


def test_the_device_is_described_anew_and_ranges_follow_the_level():
    made = job([])
    draft = device_draft(made)
    assert draft["label"] == "Bittern"
    changed = with_device_draft(made, {"label": "Bittern II", "ranges": "50 W; 100 W"})
    assert changed.dut_part.label == "Bittern II"
    assert [point.range_id for point in changed.plan] == ["50"]  # 25 W on the lowest that shows them
    same = with_device(made, replace(made.dut_part, serial="7"))
    assert [point.range_id for point in same.plan] == ["200"]
    assert isinstance(with_device_draft(made, {"ranges": "none"}), tuple)
    assert {field.id for field in device_fields(PartKind.INLINE_METER)} >= {"label", "serial", "ranges", "marks", "law"}


def test_each_item_of_the_look_goes_round_its_states_and_keeps_its_remark():
    made = job([])
    assert made.receipt.missing == tuple(LOOK_OVER)
    states = []
    for _ in range(4):
        made = with_look(made, "needle")
        states.append(made.receipt.look("needle").state)
    assert states == [FINE, NOT_FINE, NOT_THERE, ""]
    made = with_look(with_look(made, "needle"), "needle", "  sticks at 40 ")
    assert made.receipt.look("needle") == Look(FINE, "sticks at 40")
    assert "needle" not in made.receipt.missing and "case" in made.receipt.missing


def test_a_budget_by_part_sums_what_each_part_brings():
    result = reduce(read(job([], load="57.7"), ("102 Vpp", "25.6")))
    rows = result.budget("p1")
    parts = by_part(result.job, rows)
    assert sum(row.share for row in parts) == pytest.approx(1.0)
    scope = next(row for row in parts if row.influence.label == "Sedge")
    own = [row for row in rows if row.influence.source_id == "scope"]
    assert scope.contribution**2 == pytest.approx(sum(row.contribution**2 for row in own))
    assert scope.influence.basis == f"{len(own)} lines" if len(own) > 1 else "1 line"
    assert [row.share for row in parts] == sorted((row.share for row in parts), reverse=True)


def test_what_no_longer_holds_is_worked_out_anew():
    result = reduce(read(job([], load="57.7"), ("102 Vpp", "25.6")))
    made = result.job
    assert result.holds_for(made, "as found", {})
    for other in (
        replace(made, rule=Rule.GUARDED), replace(made, reference="scope"), replace(made, part_of_division=1.0),
        replace(made, shortest_interval=True), replace(made, dut="scope"),
        made.with_part(replace(made.part("load"), label="another")),
        made.with_hookup(replace(made.bench, label="another")),
    ):  # fmt: skip
        assert not result.holds_for(other, "as found", {})
    assert not result.holds_for(made, "as left", {}) and not result.holds_for(made, "as found", {"scope.gain": 0.5})
    assert result.holds_for(replace(made, title="another", technician="x"), "as found", {})
    assert result.worst is result.stated[0] and result.complete and result.missing_readings == 0
