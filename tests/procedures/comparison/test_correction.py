"""What a comparison found of a meter is its correction where it is the reference: by table, from a certificate."""

import math

import numpy as np
import pytest

from fenmist.kit.lookup import look_up
from fenmist.kit.tables import quantities_for
from fenmist.procedures.comparison.correction import correction_table
from fenmist.procedures.comparison.reduction import Result
from studies.builders import job
from support.results import point_result


def found(*points) -> Result:
    made = job()
    return Result(made, "as found", {}, (), points)


def point(f, ratio, level=50.0, u=0.02, is_reference=True):
    return point_result(
        at_id=f"{f}-{level}", at_frequency_hz=f, at_target_w=level, ratio=ratio, k=2.0,
        ratio_interval=(ratio - u, ratio + u), is_reference=is_reference,
    )  # fmt: skip


def test_a_meter_that_reads_two_per_cent_low_is_multiplied_by_its_inverse():
    table = correction_table(found(point(14e6, 0.98), point(7e6, 1.05)), "certificate 26-001", "2026-11-27")
    assert table.frequency_hz == (7e6, 14e6)
    assert table.real == pytest.approx((1 / 1.05, 1 / 0.98))
    assert table.u[1] == pytest.approx(0.02 / 0.98 / 2.0 / 0.98)
    assert (table.source, table.quantity) == ("certificate 26-001", "correction")
    at = look_up(table, np.array([7e6]))
    assert float(at.value[0]) == pytest.approx(1 / 1.05)


def test_levels_that_differ_make_it_less_certain_by_half_of_that():
    table = correction_table(found(point(7e6, 1.0), point(7e6, 1.1, level=100.0)), "x", "2026-11-27")
    factors = (1.0, 1 / 1.1)
    assert table.real[0] == pytest.approx(np.mean(factors))
    least = max(0.02 / 2.0, 0.02 / 1.1 / 2.0 / 1.1)
    assert table.u[0] == pytest.approx(math.hypot(least, (factors[0] - factors[1]) / 2.0 / math.sqrt(3.0)))


def test_what_was_no_reference_corrects_nothing():
    assert correction_table(found(point(7e6, 1.0, is_reference=False)), "x", "2026-11-27") is None
    assert correction_table(found(), "x", "2026-11-27") is None


def test_it_can_be_typed_for_a_meter_in_the_line_and_is_no_way_of_a_load():
    parts = job().parts
    assert "correction" in [item.id for item in quantities_for(parts["meter"])]
    assert "correction" not in [item.id for item in quantities_for(parts["load"])]
