"""Constants of a home-built meter: planted laws come back within their U, arms and bands apart, files made of them."""

import json
import math
import re
from dataclasses import replace

import numpy as np
import pytest

from fenmist.calibration.job import Job
from fenmist.calibration.planning import BY_FREQUENCY, points_at, with_points
from fenmist.errors import OutOfRangeError, UnknownIdError
from fenmist.hookup.templates import OF_HOME_BUILT, from_template
from fenmist.kit.detectorsheet import BOTH, COUNTS, ONE
from fenmist.kit.draft import draft_from_part, fields_for, part_from_draft
from fenmist.kit.generic import starter_shelf
from fenmist.kit.part import Indicator, Part
from fenmist.measurand import Kind
from fenmist.procedures.constants.asked import in_use, is_together, job_draft, job_from_draft, law_of
from fenmist.procedures.constants.bench import flaws, trouble
from fenmist.procedures.constants.make import SHARES, begin, most_w
from fenmist.procedures.constants.page import EXPORTS
from fenmist.procedures.constants.reduction import predict, reduce
from fenmist.procedures.constants.room import CONSTANTS
from fenmist.procedures.constants.rules import judge, judge_entries
from fenmist.procedures.procedure import Seen
from fenmist.procedures.shelf import levels_asked
from fenmist.reading.event import AS_FOUND, Slot
from fenmist.units.display import percent
from studies.builders import WHEN, enter

KIT = tuple(starter_shelf())
METER = next(part for part in KIT if part.id == "generic-home-built")
LEVELS = (1.0, 2.0, 5.0, 10.0, 30.0, 100.0)
ACROSS, TURNED = "oscilloscope across the load", "oscilloscope across the load, then the meter turned round"


def begun(label=ACROSS, device=METER, frequencies=(7.1e6,), levels=LEVELS, **asked):
    template = next(item for item in OF_HOME_BUILT if item.label == label)
    kit = tuple(device if part.id == device.id else part for part in KIT)
    made = begin("j", "meter", from_template(template, kit, "line", device), device.id, WHEN)
    made = with_points(made, points_at(made, frequencies, levels), BY_FREQUENCY)
    if asked:
        made = job_from_draft(made, {**job_draft(made), **asked})
        assert isinstance(made, Job), made
    return made


def quadratic(watts, _arm, _f):
    """P = 4·V² + 1.6·V: the volts that a power gives."""
    return (-1.6 + math.sqrt(1.6**2 + 16.0 * watts)) / 8.0


def read_through(made, law=quadratic, gain=1.0, digits=5):
    """Each point read once: volts across 50 Ω, and what the detector gives."""
    for point in made.plan:
        for position, name in enumerate(point.sequence):
            arm = made.channel(name).indicator
            volts = gain * math.sqrt(8.0 * 50.0 * point.target_w)
            text = (
                f"{volts:.6g} Vpp"
                if made.is_reference(name)
                else f"{law(point.target_w, arm, point.frequency_hz):.{digits}f}"
            )
            made = enter(made, Slot(point.id, 1, position), text)
    return made


def seen(made):
    return Seen(made, AS_FOUND, reduce(made))


# what is found


def test_planted_constants_come_back():
    """The oscilloscope's 1 MΩ takes 0.005 % of the power; what is left is what volts of five decimals can't say."""
    (fit,) = reduce(read_through(begun())).fits

    assert fit.answer.coefficients == pytest.approx([4.0, 1.6, 0.0], abs=0.02)
    assert (fit.arm, fit.answer.volts.size, fit.answer.enough_points) == ("forward", 6, True)
    assert np.max(np.abs(fit.answer.residuals)) < 2e-3


def test_what_all_powers_share_moves_the_constants_and_no_residual():
    """The load's 8 % and the oscilloscope's 3 % stand in each power: u(a)/a is no less, though the fit is perfect."""
    made = reduce(read_through(begun()))
    (fit,) = made.fits
    relative = made.power.points[0].u_w / made.power.points[0].power_w

    assert fit.u_shared > 0.08
    assert float(fit.answer.standard_u[0]) / 4.0 == pytest.approx(fit.u_shared, rel=0.1)
    assert np.max(np.abs(fit.answer.in_u)) < 0.5
    assert fit.u_shared <= relative


def test_stated_uncertainties_of_the_constants_cover_what_the_reference_is_wrong_by():
    """40 jobs whose oscilloscope is wrong by up to its stated 3 % of volts: k is covered, by a fifth of U it isn't."""
    random = np.random.default_rng(4)
    base = begun(law="detector")

    def law(watts, _arm, _f):
        x = math.sqrt(watts / 4.0) / 0.05
        return 0.05 * (x - 0.5 * math.log(2.0 * math.pi * x) + math.log1p(1.0 / (8.0 * x)))  # ln I₀ far up

    away, u = [], 0.0
    for _ in range(40):
        (fit,) = reduce(read_through(base, law, gain=1.0 + 0.03 * random.uniform(-1.0, 1.0))).fits
        u = float(fit.answer.standard_u[0])
        away.append(abs(float(fit.answer.coefficients[0]) - 4.0) / u)

    assert max(away) < 2.0
    assert np.mean(np.array(away) < 0.2) < 0.9
    assert u / 4.0 > 0.034  # 3 % of volts, rectangular, is 3.5 % of power


def test_arms_have_constants_of_their_own_and_their_imbalance_is_told():
    """The reflected arm gives 3 % less volts: of one output it stands for 1/0.97² − 1 = 6.3 % more."""

    def law(watts, arm, _f):
        return math.sqrt(watts / 4.0) * (0.97 if arm == "reflected" else 1.0)

    made = read_through(begun(TURNED), law)
    found = reduce(made)
    assert [fit.name for fit in found.fits] == ["forward, 7.1\u202fMHz", "reflected, 7.1\u202fMHz"]
    note = next(item for item in judge(made, found, WHEN.date()) if item.code == "constants.arms")
    assert note.evidence["off"] == pytest.approx(0.97**-2 - 1.0, abs=2e-3)
    assert "+6.3\u202f% against the forward arm" in note.what
    assert any("reflected arm stands for +6.3" in text for text in CONSTANTS.page(seen(made)).statements)


def test_each_frequency_has_constants_of_its_own_or_all_have_them_together():
    def law(watts, _arm, f):
        return math.sqrt(watts / (4.0 if f < 10e6 else 4.4))

    apart = reduce(read_through(begun(frequencies=(7.1e6, 14.2e6)), law))
    together = reduce(read_through(begun(frequencies=(7.1e6, 14.2e6), bands="all frequencies together"), law))

    assert [float(fit.answer.coefficients[0]) for fit in apart.fits] == pytest.approx([4.0, 4.4], abs=0.03)
    assert len(together.fits) == 1
    assert together.fits[0].answer.volts.size == 12
    assert np.max(np.abs(together.fits[0].answer.residuals)) > 0.03


def test_counts_of_a_converter_are_taken_as_they_are():
    """10 bits over 5 V, 4.88 mV a count: k of counts is k of volts times the step's square."""
    counting = part_from_draft(METER, {**draft_from_part(METER), "shows": COUNTS})
    assert isinstance(counting, Part)
    step = 5.0 / 1024.0
    made = read_through(begun(device=counting), lambda w, *_: math.sqrt(w / 4.0) / step, digits=0)
    (fit,) = reduce(made).fits

    assert float(fit.answer.coefficients[0]) == pytest.approx(4.0 * step**2, rel=0.02)
    assert fit.answer.step_effect == pytest.approx(2.0 / (0.5 / step), rel=0.2)  # twice in power


# what is said


def test_constants_in_use_are_held_against_the_readings():
    made = read_through(begun(in_use="4 1.2 0"))
    found = reduce(made)
    (fit,) = found.fits
    note = next(item for item in judge(made, found, WHEN.date()) if item.code == "constants.in_use")

    assert in_use(made) == (4.0, 1.2, 0.0)
    assert float(np.min(fit.answer.checked)) == pytest.approx(-0.4 * quadratic(1.0, "", 0.0) / 1.0, abs=0.01)
    assert note.evidence["off"] == pytest.approx(float(np.min(fit.answer.checked)))
    right = read_through(begun(in_use="4 1.6 0"))
    assert not [item for item in judge(right, reduce(right), WHEN.date()) if item.code == "constants.in_use"]


def test_files_for_a_firmware_hold_every_set_with_the_figures_it_needs():
    of = seen(read_through(begun(TURNED)))
    sets = json.loads(EXPORTS[".json"](of))
    in_c = EXPORTS[".c"](of).decode()
    numbers = [[float(text) for text in row.split(", ")] for row in re.findall(r"\{([-\d.e+, ]+)\}", in_c)]

    assert [(item["arm"], item["band"], item["law"]) for item in sets] == [
        ("forward", "7.1 MHz", "quadratic"), ("reflected", "7.1 MHz", "quadratic")
    ]  # fmt: skip
    assert numbers == [[item["a"], item["b"], item["c"]] for item in sets]
    assert "watts = (a * volts + b) * volts + c; a, b, c" in in_c
    assert "quadratic_constants[2][3]" in in_c
    table = EXPORTS[".tsv"](of).decode().splitlines()
    assert table[0].split("\t") == ["arm", "band", "a", "b", "c"]
    assert [float(text) for text in table[2].split("\t")[2:]] == numbers[1]
    with pytest.raises(OutOfRangeError, match="no constants yet"):
        EXPORTS[".c"](seen(begun()))


def test_a_page_has_a_row_for_each_reading_and_the_constants_as_facts():
    of = seen(read_through(begun()))
    page = CONSTANTS.page(of)
    table = CONSTANTS.table(of)

    assert len(page.rows) == len(of.found.stated) == len(LEVELS)
    assert [text.replace("\u202f", " ") for text in page.rows[-1][:4]] == ["7.1 MHz", "100 W", "forward", "4.804 V"]
    name, said = page.facts[-1]
    assert name == "constants, forward, 7.1\u202fMHz"
    assert said.startswith("a = 4.0") and ", b = 1.6" in said
    assert page.below[0].startswith("Forward, 7.1\u202fMHz: a = 4.0")
    assert len(table) == 1 + len(LEVELS) and len(table[1]) == len(table[0])
    assert table[1][-1] == " ".join(f"{value:.{of.found.fits[0].answer.digits}g}"
                                    for value in of.found.fits[0].answer.coefficients)  # fmt: skip
    assert "follows a quadratic law to 0." in page.headline
    assert CONSTANTS.cards(of, "1")[0].title.endswith("its detector gives")
    assert CONSTANTS.short(of.found).startswith("one set of constants, within ")


@pytest.mark.parametrize(
    ("levels", "said", "codes"),
    [((100.0,), "has no constants yet: forward, 7.1", set()),
     ((1.0, 10.0, 100.0), "too few readings", {"constants.few"}),
     ((50.0, 60.0, 70.0, 80.0, 100.0), "too few readings", {"constants.narrow"})],
)  # fmt: skip
def test_two_points_are_no_calibration(levels, said, codes):
    made = read_through(begun(levels=levels))
    found = reduce(made)

    assert said in CONSTANTS.page(seen(made)).headline
    assert codes <= {item.code for item in judge(made, found, WHEN.date())}
    assert not any(item.usable for item in found.stated)


# what is asked, and what a job needs


def test_law_bands_and_constants_in_use_are_typed_and_come_back():
    made = begun(law="detector", bands="all frequencies together", in_use="4 0.05")

    assert (law_of(made).id, is_together(made), in_use(made)) == ("detector", True, (4.0, 0.05))
    assert {name: job_draft(made)[name] for name in ("law", "bands", "in_use")} == {
        "law": "detector", "bands": "all frequencies together", "in_use": "4 0.05"
    }  # fmt: skip
    (problem,) = job_from_draft(made, {**job_draft(made), "in_use": "4"})
    assert (problem.field, problem.what) == ("in_use", "The law has 2 constants: k, v.")
    (problem,) = job_from_draft(made, {**job_draft(made), "in_use": "4 much"})
    assert problem.field == "in_use"
    (problem,) = job_from_draft(made, {**job_draft(made), "in_use": "4 -0.05"})
    assert problem.what == "Constants of a detector are above 0."
    assert in_use(job_from_draft(made, {**job_draft(made), "in_use": ""})) == ()


def test_a_bench_needs_a_detector_in_the_arm_that_is_read():
    one = part_from_draft(METER, {**draft_from_part(METER), "arms": ONE})
    assert isinstance(one, Part) and [item.id for item in one.indicators] == ["forward"]
    with pytest.raises(UnknownIdError, match="no detector in its reflected arm"):
        begun(TURNED, device=one)
    made = begun()
    assert list(flaws(made)) == []
    assert trouble(made, made.bench) == ""
    unread = replace(made, plan=tuple(replace(point, sequence=("meter",)) for point in made.plan[:1]))
    assert list(flaws(unread)) == ["point “p1” reads nothing that tells the power"]
    blind = replace(made, plan=tuple(replace(point, sequence=("oscilloscope",)) for point in made.plan[:1]))
    assert list(flaws(blind)) == ["point “p1” reads no detector"]


def test_what_would_be_known_is_told_beforehand():
    made = read_through(begun())
    (first, *_) = predict(made)
    power = reduce(made).power.points[0]

    assert first.expanded_u_share == pytest.approx(power.expanded_u_w / power.power_w)
    assert first.share_tolerance == pytest.approx(0.05)


def test_each_row_says_what_its_own_reading_is_off():
    """One reading of six 5 % off its law: that row and no other says so, with its own leverage."""
    made = read_through(begun(), lambda w, *_: quadratic(w, "", 0.0) * (1.025 if w == 10.0 else 1.0))
    of = seen(made)
    (fit,) = of.found.fits
    rows = CONSTANTS.page(of).rows

    assert [row[6] for row in rows] == [percent(float(off), plus=True) for off in fit.answer.residuals]
    assert [row[8] for row in rows] == [f"{value:.2f}" for value in fit.answer.leverage]
    assert int(np.argmax(fit.answer.residuals)) == 3
    assert [item.share for item in of.found.stated] == pytest.approx(fit.answer.residuals.tolist())
    assert [float(row[9]) for row in CONSTANTS.table(of)[1:]] == pytest.approx((100.0 * fit.answer.residuals).tolist())


def test_what_a_detector_is_known_to_is_its_last_digit_and_its_scatter():
    """A tenth of a millivolt, rectangular: 0.1/√12 mV; 4 mV apart in two rounds: s/√2 is 2 mV."""
    once = read_through(begun(levels=(10.0,)), digits=4)
    assert reduce(once).read_there[0].u_volts == pytest.approx(1e-4 / math.sqrt(12.0), rel=1e-6)
    plan = tuple(replace(point, repeats=2) for point in once.plan)
    twice = replace(once, plan=plan)
    for number, shift in ((1, -0.002), (2, 0.002)):
        volts = f"{math.sqrt(8.0 * 50.0 * 10.0):.6g} Vpp"
        twice = enter(twice, Slot("p1", number, 0), volts)
        twice = enter(twice, Slot("p1", number, 1), f"{quadratic(10.0, '', 0.0) + shift:.4f}")
    assert reduce(twice).read_there[0].u_volts == pytest.approx(math.hypot(2e-3, 1e-4 / math.sqrt(12.0)), rel=0.03)


def test_the_run_tells_what_a_reading_stands_for_and_what_the_constants_are_off_so_far():
    made = read_through(begun())
    empty, some, whole = reduce(begun()), reduce(read_through(begun(levels=(100.0,)))), reduce(made)
    point = made.plan[0]

    assert CONSTANTS.readings_headline(begun(), empty, begun().plan[0]) == (
        "Read generic oscilloscope and generic home-built meter: the power appears once both are entered."
    )
    few = read_through(begun(levels=(100.0,)))
    assert CONSTANTS.readings_headline(few, some, few.plan[0]).endswith("; constants follow from more levels.")
    off = percent(whole.fit_of(point.id).off(point.id), plus=True)
    assert CONSTANTS.readings_headline(made, whole, point).endswith(f", by its constants so far {off} off.")
    assert CONSTANTS.figures(whole, point.id).second == off
    assert CONSTANTS.figures(some, few.plan[0].id).second == "—"
    assert CONSTANTS.figures(empty, "p1").value == "—"


def test_a_band_with_too_few_readings_is_told_beside_one_with_enough():
    made = begun(frequencies=(7.1e6,))
    extra = points_at(made, (14.2e6,), (10.0, 50.0, 100.0))
    made = read_through(with_points(made, extra, BY_FREQUENCY))
    headline = CONSTANTS.page(seen(made)).headline

    assert headline.startswith("The generic home-built meter follows")
    assert "too few readings" in headline
    left = replace(reduce(made), phase="as left")
    assert CONSTANTS.page(Seen(made, "as left", reduce(made), left)).headline.startswith("As left, ")


def test_a_bench_without_a_detector_or_a_reference_begins_no_job():
    template = next(item for item in OF_HOME_BUILT if item.label == ACROSS)
    bench = from_template(template, KIT, "line", METER)
    for wrong in (replace(bench, read=()), replace(bench, parts=tuple(
        replace(part, indicators=()) if part.id == METER.id else part for part in bench.parts
    ))):  # fmt: skip
        with pytest.raises(UnknownIdError, match="isn't on this bench"):
            begin("j", "meter", wrong, METER.id, WHEN)
    with pytest.raises(UnknownIdError, match="isn't on this bench"):
        begin("j", "meter", bench, "generic-digital", WHEN)


def test_a_sheet_keeps_what_else_a_meter_shows():
    """An SWR beside its detectors stays when their number and unit are typed anew."""
    swr = Indicator("swr", "SWR", Kind.SWR, "")
    counting = part_from_draft(
        replace(METER, indicators=(swr, *METER.indicators)),
        {**draft_from_part(METER), "arms": ONE, "shows": COUNTS},
    )
    assert [(item.id, item.unit) for item in counting.indicators] == [("swr", ""), ("forward", "")]
    assert draft_from_part(counting)["shows"] == COUNTS
    mixed = replace(METER, indicators=(METER.indicators[0], replace(METER.indicators[1], unit="")))
    assert draft_from_part(mixed)["shows"] == COUNTS


def test_the_headline_tells_of_the_set_that_is_farthest_off():
    """At 14.2 MHz one reading is 10 % off, at 7.1 MHz none is: that one is named, with its size."""

    def law(watts, _arm, f):
        return quadratic(watts, "", f) * (1.05 if f > 10e6 and watts == 10.0 else 1.0)

    made = read_through(begun(frequencies=(7.1e6, 14.2e6)), law)
    found = reduce(made)
    right, wrong = found.fits
    worst = float(np.max(np.abs(wrong.answer.residuals)))

    assert float(np.max(np.abs(right.answer.residuals))) < 0.01 < worst
    assert f"follows a quadratic law to {percent(worst)}, at worst at " in CONSTANTS.page(seen(made)).headline
    assert "forward, 14.2\u202fMHz; " in CONSTANTS.page(seen(made)).headline
    assert CONSTANTS.short(found) == f"two sets of constants, within {percent(worst)}"


def test_notes_of_a_fit_name_its_arm_and_band_and_those_of_entries_their_point():
    made = read_through(begun(TURNED, levels=(1.0, 10.0, 100.0)))
    about = {note.about for note in judge(made, reduce(made), WHEN.date()) if note.code == "constants.few"}
    assert about == {"constants, forward, 7.1\u202fMHz", "constants, reflected, 7.1\u202fMHz"}
    slipped = read_through(begun())
    for point in ("p1", "p4"):
        watts = slipped.point(point).target_w
        slipped = enter(slipped, Slot(point, 1, 0), f"{10.0 * math.sqrt(8.0 * 50.0 * watts):.6g} Vpp")
    found = judge_entries(slipped, reduce(slipped), AS_FOUND, "p4")
    assert {note.about.partition("/")[0] for note in found if "/" in note.about} == {"p4"}


def test_what_a_job_is_begun_with():
    """Seven levels up to what is asked for, two of them in the lowest tenth; at most 100 W (common practice)."""
    assert levels_asked(CONSTANTS, "50 W") == "0.5 1 2.5 5 10 25 50 W"
    assert levels_asked(CONSTANTS, "much") == "much"
    assert sum(share <= 0.1 for share in SHARES) >= 2
    assert most_w(begun()) == 100.0
    field = next(item for item in fields_for(METER.kind) if item.id == "arms")
    assert field.choices == (ONE, BOTH)
    assert all(leg.by_itself for leg in begun(TURNED).legs)
