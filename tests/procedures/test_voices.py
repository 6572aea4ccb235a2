"""How the references of a point agree: the odd one left out, what two share, budgets of each."""

import math
from dataclasses import replace

import numpy as np
import pytest

from fenmist.calibration.decision import Verdict
from fenmist.calibration.outcome import by_part
from fenmist.errors import OutOfRangeError
from fenmist.kit.part import Property
from fenmist.procedures.benchwork import with_deciding
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.comparison.rules import judge
from fenmist.procedures.comparison.tables import result_rows, result_table
from fenmist.reading.event import Slot
from studies.builders import WHEN, enter
from studies.references import BENCHES, drawn, shown


def read(times: dict[str, float] | None = None, only: tuple[str, ...] = ("o", "e", "s", "m")):
    """The bench of three references read once, some of them off by a factor of power."""
    job = BENCHES["three at once"]()
    rng = np.random.default_rng(3)
    bench = drawn(job, rng)
    job = replace(job, order=only, plan=tuple(replace(point, sequence=only) for point in job.plan))
    for position, channel in enumerate(only):
        text, factor = shown(job, bench, channel, rng), (times or {}).get(channel, 1.0)
        number, _, unit = text.partition(" ")
        by = math.sqrt(factor) if unit == "Vpp" else factor
        job = enter(job, Slot("p1", 1, position), f"{float(number) * by:.4g} {unit}".strip())
    return job


def codes(job, result):
    return [note.code for note in judge(job, result, WHEN.date())]


def test_references_that_agree_are_weighed_and_decide():
    job = read()
    result = reduce(job)
    (point,) = result.points
    assert point.is_reference
    assert all(item.weight > 0.05 for item in point.references)
    assert sum(item.weight for item in point.references) == pytest.approx(1.0)
    assert "agreement.odd" not in codes(job, result)


def test_the_odd_one_has_no_weight_and_the_others_decide_as_if_it_were_not_there():
    odd, without = reduce(read({"s": 10.0})), reduce(read(only=("o", "e", "m")))
    (point,), (alone,) = odd.points, without.points
    weights = {item.channel: item.weight for item in point.references}

    assert weights["s"] == 0.0
    assert point.reference_w == pytest.approx(alone.reference_w, rel=1e-9)
    assert point.reference_u_w == pytest.approx(alone.reference_u_w, rel=1e-6)
    assert point.is_reference
    assert "agreement.odd" in codes(odd.job, odd)


def test_two_that_disagree_decide_nothing_and_a_named_one_does():
    job = read({"e": 2.0}, only=("o", "e", "m"))
    (point,) = reduce(job).points
    assert not point.is_reference
    assert point.decision.verdict is Verdict.CANNOT_DECIDE
    assert "agreement.apart" in codes(job, reduce(job))
    assert result_rows(reduce(job))[0][-1] == "cannot decide (references disagree)"

    named = replace(job, reference="o")
    (point,) = reduce(named).points
    (alone,) = reduce(read(only=("o", "m"))).points
    assert point.is_reference
    assert point.reference_w == pytest.approx(alone.reference_w, rel=1e-9)
    (again,) = reduce(named, former=reduce(job)).points
    assert again.reference_w == point.reference_w  # what was worked out before another one decided doesn't stand


def test_what_is_no_reference_has_no_weight_and_the_others_decide():
    """An oscilloscope of 10 MHz at 7.1 MHz: above a third of its bandwidth."""
    job = read()
    scope = job.part("o")
    slow = replace(scope, properties={**scope.properties, "bandwidth_hz": Property(10e6, "Hz")})
    (point,) = reduce(job.with_part(slow)).points
    weights = {item.channel: item.weight for item in point.references}

    assert [item.is_reference for item in point.references] == [False, True, True]
    assert weights["o"] == 0.0
    assert weights["e"] + weights["s"] == pytest.approx(1.0)
    assert point.is_reference
    alone = read(only=("o", "m"))
    (point,) = reduce(alone.with_part(slow)).points
    assert not point.is_reference


def test_the_rounds_of_each_reference_and_what_a_drift_leaves_stand_in_its_budget():
    """Two rounds 2 % apart in the sensor: s/√2 of ln(device/reference), one degree of freedom; a drift unseen is 0."""
    job = read(only=("e", "m"))
    job = replace(job, plan=(replace(job.plan[0], repeats=2),))
    texts = [job.standing[Slot("p1", 1, place)].entry.raw_text for place in (0, 1)]
    number, _, unit = texts[0].partition(" ")
    for place, text in enumerate((f"{float(number) * 1.02:.6g} {unit}", texts[1])):
        job = enter(job, Slot("p1", 2, place), text)
    rows = {row.influence.id: row for row in reduce(job).budget("p1")}
    repeat = rows["repeat"].influence

    assert float(repeat.standard_u[0]) == pytest.approx(math.log(1.02) / math.sqrt(2.0) / math.sqrt(2.0), rel=1e-4)
    assert (float(np.ravel(repeat.dof)[0]), repeat.kind) == (1.0, "A")
    assert not any(name.endswith(".drift") for name in rows)  # without times none can be seen


def test_the_picture_holds_each_the_consensus_and_what_two_share():
    result = reduce(read({"s": 10.0}))
    picture = result.voices("p1")
    (point,) = result.points

    assert [item.name for item in picture.voices] == ["Sedge", "sensor end", "sensor side"]
    assert [item.is_odd for item in picture.voices] == [False, False, True]
    assert (picture.low, picture.value, picture.high) == pytest.approx(
        (point.reference_w - point.reference_u_w, point.reference_w, point.reference_w + point.reference_u_w)
    )
    assert "10\u202fdB" in picture.said or "10 dB" in picture.said
    (tie,) = picture.ties
    assert (tie.a, tie.b) == (1, 2)
    assert "shared" in tie.by  # the pad before both sensors
    correlation = next(pair.correlation for pair in point.agreement.pairs if (pair.a, pair.b) == (1, 2))
    assert tie.correlation == pytest.approx(correlation, abs=0.02)


def test_one_reference_alone_has_no_picture():
    assert reduce(read(only=("o", "m"))).voices("p1") is None
    assert reduce(read()).voices("nowhere") is None


def test_every_reference_has_a_budget_of_its_own_and_the_consensus_one():
    result = reduce(read())
    found = result.budgets("p1")
    assert list(found) == ["error", "consensus", "Sedge", "sensor end", "sensor side"]
    assert [(r.influence.id, r.share) for r in found["error"]] == [
        (r.influence.id, r.share) for r in result.budget("p1")
    ]
    for rows in found.values():
        assert sum(row.share for row in rows) == pytest.approx(1.0)
    names = {row.influence.id for row in found["sensor end"] if row.share > 1e-6}
    assert any(name.startswith("big.") for name in names)
    assert not any(name.startswith("big.") for name in {r.influence.id for r in found["Sedge"] if r.share > 1e-6})
    assert list(reduce(read(only=("o", "m"))).budgets("p1")) == ["error", "reference"]


def test_a_budget_by_part_keeps_its_sum_and_names_parts():
    result = reduce(read())
    rows = result.budget("p1")
    parts = by_part(result.job, rows)
    assert sum(row.share for row in parts) == pytest.approx(sum(row.share for row in rows))
    labels = [row.influence.label for row in parts]
    assert "Sedge" in labels
    assert "rounds" in labels or "Plover" in " ".join(labels)
    assert len(set(labels)) == len(labels) < len(rows)
    assert [row.share for row in parts] == sorted((row.share for row in parts), reverse=True)
    own = [row for row in rows if row.influence.source_id == "o"]
    assert next(row.share for row in parts if row.influence.label == "Sedge") == pytest.approx(
        sum(row.share for row in own)
    )


# for other programs


def test_a_table_for_other_programs_has_columns_for_each_of_several_references():
    result = reduce(read({"s": 10.0}))
    headings, row = result_table(result)
    cells = dict(zip(headings, row, strict=True))
    (point,) = result.points
    assert cells["sensor end, power / W"] == point.references[1].power_w
    low, high = point.references[1].interval_w
    assert cells["sensor end, U / W"] == pytest.approx((high - low) / 2.0)
    assert cells["sensor side, weight"] == 0.0
    alone, _ = result_table(reduce(read(only=("o", "m"))))
    assert not any("Sedge" in heading for heading in alone)


def test_one_reference_may_be_named_to_decide_and_again_all_of_them():
    job = read({"e": 2.0})
    hookup = job.hookups[-1]
    element = {channel.id: channel.element for channel in job.channels}
    named = with_deciding(job, hookup, element["o"])
    assert named.reference == "o"
    assert with_deciding(named, hookup, element["o"]).reference == ""
    with pytest.raises(OutOfRangeError, match="isn't read as a reference"):
        with_deciding(job, hookup, element["m"])
    alone = read(only=("o", "m"))
    with pytest.raises(OutOfRangeError, match="only reference"):
        with_deciding(alone, alone.hookups[-1], element["o"])


def test_the_interval_of_each_reference_is_its_power_over_and_times_its_factor_of_u():
    """Known in per cent, an interval is a factor either way: low·high = P²; the budget's u makes it."""
    result = reduce(read())
    (point,) = result.points
    for item in point.references:
        low, high = item.interval_w
        assert low < item.power_w < high
        assert low * high == pytest.approx(item.power_w**2)
        name = result.job.part_read(item.channel).label
        u = math.sqrt(sum(row.contribution**2 for row in result.budgets("p1")[name]))
        assert high / item.power_w == pytest.approx(math.exp(2.0 * u), rel=2e-3)


def test_an_error_carries_its_sign_in_the_table():
    result = reduce(read(only=("o", "m")))
    (point,) = result.points
    sign = "+" if point.error_w > 0 else "\u2212"
    assert result_rows(result)[0][4].startswith(sign)
    high = replace(point, error_w=2.0, error_interval_w=(1.5, 2.5))
    assert result_rows(replace(result, points=(high,)))[0][4] == "+2.00 ± 0.50\u202fW"
