"""A meter of match with known ends behind it: what is stated, its window and ring, notes, coverage on drawn benches."""

import math
from dataclasses import replace

import numpy as np
import pytest
from scipy import stats

from fenmist.calibration.decision import Verdict
from fenmist.calibration.expected import expected_si
from fenmist.calibration.job import Rule
from fenmist.calibration.planning import points_at
from fenmist.errors import OutOfRangeError, UnknownIdError
from fenmist.hookup.templates import OF_MATCH, from_template
from fenmist.kit import generic, shelf
from fenmist.kit.characterisation import Characterisation
from fenmist.kit.impedance import IMPEDANCE
from fenmist.kit.matchsheet import swr_scale
from fenmist.kit.part import Indicator, PartKind, Port, Property, Range, SpecKind, SpecTerm
from fenmist.measurand import Kind
from fenmist.methods.match_shown import MeterClaim
from fenmist.procedures.page import Rings
from fenmist.procedures.procedure import Seen
from fenmist.procedures.reflection.alarms import alarms
from fenmist.procedures.reflection.bench import flaws, trouble
from fenmist.procedures.reflection.findings import balances, by_level
from fenmist.procedures.reflection.headline import expected_said, results_headline, short_headline, swr_of, window_said
from fenmist.procedures.reflection.make import begin, claimed
from fenmist.procedures.reflection.page import COLUMNS
from fenmist.procedures.reflection.reduction import predict, reduce
from fenmist.procedures.shelf import devices, ranked
from fenmist.procedures.table import room_of
from fenmist.reading.event import AS_FOUND, Slot
from fenmist.reports.pictures import height_of, picture_svg
from fenmist.session.present import entry_text
from fenmist.session.view import View
from fenmist.simulation.matchmeter import TrueMatchMeter
from fenmist.units.impedance import Known
from studies.builders import WHEN, enter
from studies.coverage import binomial_limits
from studies.matches import ENDS, drawn, end, match_job, study, swr_meter, typed, watt_meter
from studies.references import QUIET, load, pad, with_properties

ROOM = room_of("reflection")


def rho(value):
    return (value - 1) / (value + 1)


def notes(job, result=None):
    result = result or reduce(job)
    return {note.code: note for note in ROOM.judge(job, result, WHEN.date(), AS_FOUND, None)}


def read(job=None, null="1.05", r25="2.00", r100="2.00", r150="3.00"):
    return typed(job or match_job(), {"null": null, "r25": r25, "r100": r100, "r150": r150})


def test_an_error_is_what_is_shown_less_what_is_there():
    """100 Ω is ρ = 1/3; SWR 1.86 shows 0.3007: set 10 % too low it would (handbook 6, derived)."""
    result = reduce(read(r100="1.86"))
    item = next(one for one in result.points if one.point.leg == "r100")

    assert item.expected == pytest.approx(1 / 3, abs=1e-9)
    assert item.shown == pytest.approx(0.86 / 2.86)
    assert item.error == pytest.approx(0.86 / 2.86 - 1 / 3)
    assert item.window == pytest.approx((rho(1.747), rho(2.317)), abs=1e-3)
    assert item.stated.unit == "" and item.stated.share_unit == "%"
    assert item.tolerance == pytest.approx(item.expected - item.window[0])  # it lies low: the lower end counts
    assert item.is_inside and item.decision.verdict is Verdict.ACCEPT
    high = next(one for one in reduce(read(r100="2.10")).points if one.point.leg == "r100")
    assert high.tolerance == pytest.approx(high.window[1] - high.expected)


def test_budget_of_an_end():
    """1 % of 100 Ω, rectangular: dρ/dR = 2·50/150²; the display's last digit 0.01: dρ/dS = 2/9 at SWR 2."""
    result = reduce(read())
    point = next(item for item in result.job.plan if item.leg == "r100")
    rows = {row.influence.id: row.contribution for row in result.budget(point.id)}

    assert rows["r100.resistance"] == pytest.approx(100 / 150**2 / math.sqrt(3.0), rel=1e-4)
    assert rows["meter.reading"] == pytest.approx(2 / 9 * 0.01 / math.sqrt(12.0), rel=0.02)
    assert "repeat" not in rows  # one round
    u = result.of(point.id).u
    assert u == pytest.approx(math.hypot(*rows.values()), rel=1e-6)
    assert result.quantities["error"].value.size == 4
    assert result.budget("nowhere") == ()


def test_a_set_control_is_set_within_a_hundredth():
    item = next(row for row in reduce(read(match_job(swr_meter(has_set=True)))).budget("p3")
                if row.influence.id == "meter.set")  # fmt: skip
    assert item.influence.standard_u[0] == pytest.approx(0.01 / math.sqrt(3.0))
    assert item.contribution == pytest.approx(1 / 3 * 0.01 / math.sqrt(3.0), rel=1e-3)


def test_a_needle_is_read_to_a_quarter_division_where_it_stands():
    """Between 1.5 and 2 five divisions of 0.1: ±0.025 at 1.8, dρ/dS = 2/2.8²."""
    meter = swr_meter()
    arc = swr_scale((1.0, 1.2, 1.5, 2.0, 3.0, 5.0), (2, 3, 5, 5, 4))
    (shows,) = meter.indicators
    meter = replace(meter, indicators=(replace(shows, ranges=(Range("SWR", 5.0, "", arc),)),))
    result = reduce(typed(match_job(meter), {"r100": "1.8"}))
    row = next(row for row in result.budget("p3") if row.influence.id == "meter.reading")

    assert row.influence.standard_u[0] == pytest.approx(2 / 2.8**2 * 0.025 / math.sqrt(3.0), rel=0.02)


def test_rounds_scatter_and_their_mean_counts():
    job = match_job(rounds=3)
    for number, text in enumerate(("1.90", "2.00", "2.10"), start=1):
        job = enter(job, Slot("p3", number, 0), text)
    (item,) = reduce(job).points
    each = [rho(1.9), rho(2.0), rho(2.1)]
    row = next(row for row in reduce(job).budget("p3") if row.influence.id == "repeat")

    assert item.shown == pytest.approx(np.mean(each))
    assert row.influence.standard_u[0] == pytest.approx(np.std(each, ddof=1) / math.sqrt(3.0))
    assert item.k == pytest.approx(stats.t.ppf(0.97725, 2), rel=0.1)  # nearly all of it is scatter


def test_watts_tell_a_match():
    """4 W of 100 W: ρ = 0.2, SWR 1.5 (SWR table); ±5 % of 20 W reflected and ±5 % of 200 W forward make its window."""
    job = match_job(watt_meter(), (end("r75", 75.0),), levels=(50.0,))
    job = enter(enter(job, Slot("p1", 1, 0), "100"), Slot("p1", 1, 1), "4.0 on 20")
    (item,) = reduce(job).points

    assert item.kind is Kind.REFLECTED
    assert item.shown == pytest.approx(0.2)
    assert (item.forward_w, item.reflected_w) == (100.0, 4.0)
    leak = 10**-1.25
    low, high = (0.2 - leak) / (1 + 0.2 * leak), (0.2 + leak) / (1 - 0.2 * leak)
    assert item.window[0] == pytest.approx(math.sqrt((low**2 * 100 - 1.0) / 110.0), abs=1e-4)
    assert item.window[1] == pytest.approx(math.sqrt((high**2 * 100 + 1.0) / 90.0), abs=1e-4)


def test_reflected_power_is_read_on_the_forward_range_unless_another_is_said():
    job = match_job(watt_meter(), (end("r75", 75.0),), levels=(50.0,))
    job = enter(enter(job, Slot("p1", 1, 0), "100"), Slot("p1", 1, 1), "4.0")
    entry = job.standing[Slot("p1", 1, 1)].entry

    assert entry.range_id == "200"


def test_nothing_coming_back_is_a_reading():
    job = match_job(watt_meter(), (ENDS[0],))
    job = enter(enter(job, Slot("p1", 1, 0), "10.0"), Slot("p1", 1, 1), "0.00")
    (item,) = reduce(job).points

    assert item.shown == 0.0
    assert 0.0 < item.u_shown < 0.1
    assert item.engine == "Monte Carlo"


def test_near_a_match_the_plane_is_drawn():
    """Γ = 0 known to 0.0058 on both axes: |Γ| is Rayleigh, mean σ·√(π/2), 95.45 % between its quantiles."""
    (item,) = reduce(typed(match_job(ends=(end("null", 50.0, 0.02),)), {"null": "1.00"})).points
    sigma = 0.02 * 50 / math.sqrt(3.0) / 100.0

    assert item.engine == "Monte Carlo"
    assert item.expected == pytest.approx(sigma * math.sqrt(math.pi / 2), rel=0.02)
    tails = [sigma * math.sqrt(-2 * math.log(1 - p)) for p in (0.02275, 0.97725)]
    assert item.expected_interval == pytest.approx(tails, rel=0.05)
    assert item.error == pytest.approx(-item.expected)
    assert expected_said(item).startswith("at most 1.0")


def test_the_same_readings_give_the_same_digits():
    first, second = (reduce(read()).points[0] for _ in range(2))
    assert first == second


@pytest.mark.parametrize(("shown", "rule", "verdict"), [
    ("2.30", Rule.SIMPLE, Verdict.ACCEPT), ("2.34", Rule.SIMPLE, Verdict.REJECT),
    ("2.31", Rule.GUARDED, Verdict.REJECT),
])  # fmt: skip
def test_the_window_decides(shown, rule, verdict):
    """25 dB at SWR 2: up to 2.317."""
    job = replace(match_job(ends=(ENDS[2],)), rule=rule)
    item = reduce(typed(job, {"r100": shown})).points[0]

    assert item.decision.verdict is verdict
    normal = stats.norm(item.error, item.u)
    inside = normal.cdf(item.window[1] - item.expected) - normal.cdf(item.window[0] - item.expected)
    assert item.decision.conformance_probability == pytest.approx(inside, abs=1e-9)


def test_an_end_of_which_nothing_is_known_decides_nothing():
    """A nominal 50 Ω: 45 to 58 Ω are met, SWR up to 1.16 and more with a reactance."""
    plain = shelf.dummy_load("load", "load", 100.0)
    job = typed(match_job(ends=(plain,), label="known ends of the line in turn"), {"load": "1.1"})
    result = reduce(job)

    assert result.points[0].decision.verdict is Verdict.CANNOT_DECIDE
    assert "not known well enough" in results_headline(job, result)
    found = notes(job, result)
    assert {"reflection.end_unknown"} <= set(found)
    assert not {"load.unknown_here", "load.not_nominal"} & set(found)
    assert "reflection.end_unknown" not in notes(read())


def test_directivity_found_is_said_against_what_is_claimed():
    """A leak of 0.1 (20 dB) drawn into the readings of a meter that claims 25 dB."""
    rng = np.random.default_rng(3)
    job, _, _ = drawn(match_job(), rng, TrueMatchMeter(leak=0.1 * np.exp(0.7j)))
    result = reduce(job)
    (level,) = by_level(result)

    low, high = level.directivity_db
    assert low < 20.0 < high < 25.0
    note = notes(job, result)["reflection.directivity"]
    assert note.severity == "doubt" and "25" in note.what
    assert note.evidence["claimed_db"] == 25.0
    assert "directivity is" in results_headline(job, result)
    good, _, _ = drawn(match_job(), rng, TrueMatchMeter(leak=0.02))
    assert "reflection.directivity" not in notes(good)
    assert "reflection.directivity_seen" in notes(good)


def test_a_null_alone_bounds_it():
    bad = notes(typed(match_job(ends=(ENDS[0],)), {"null": "1.30"}))
    good = notes(typed(match_job(ends=(ENDS[0],)), {"null": "1.03"}))

    assert "at most" in bad["reflection.directivity"].what
    assert "at least" in good["reflection.directivity_seen"].what


@pytest.mark.parametrize(("has_set", "cause"), [(True, "set"), (False, "arm")])
def test_too_little_of_everything_is_the_set_control(has_set, cause):
    """Set to 0.9 of full scale it shows ρ·0.9 (handbook 6)."""
    rng = np.random.default_rng(1)
    job, _, _ = drawn(match_job(swr_meter(has_set=has_set)), rng, TrueMatchMeter(leak=0.02j, set_to=0.9))
    note = notes(job)["reflection.scale"]

    assert note.evidence["scale"] == pytest.approx(0.9, abs=0.02)
    assert cause in note.why
    straight, _, _ = drawn(match_job(swr_meter(has_set=has_set)), rng, TrueMatchMeter(leak=0.02j))
    assert "reflection.scale" not in notes(straight)


def test_a_poor_end_that_looks_better_is_said():
    assert notes(read(r150="2.30"))["reflection.flatters"].evidence["expected"] == pytest.approx(0.5)
    assert "reflection.flatters" not in notes(read(r150="2.98"))
    assert "reflection.flatters" not in notes(read(r150="3.40"))


@pytest.mark.parametrize(("low", "high", "cause"), [
    ("1.60", "2.00", "floor"), ("2.00", "2.60", "heats"), ("2.40", "2.00", "forward detector"),
])  # fmt: skip
def test_swr_of_a_passive_end_does_not_depend_on_power(low, high, cause):
    job = match_job(ends=(ENDS[2],), levels=(1.0, 10.0))
    job = enter(enter(job, Slot("p1", 1, 0), low), Slot("p2", 1, 0), high)

    assert cause in notes(job)["reflection.power"].why
    same = enter(
        enter(match_job(ends=(ENDS[2],), levels=(1.0, 10.0)), Slot("p1", 1, 0), "2.00"), Slot("p2", 1, 0), "2.01"
    )
    assert "reflection.power" not in notes(same)
    near = match_job(ends=(ENDS[2],), levels=(5.0, 10.0))
    assert "reflection.power" not in notes(enter(enter(near, Slot("p1", 1, 0), low), Slot("p2", 1, 0), high))


def with_watts(forward, reflected, swr=None, leg="r100"):
    job = match_job(watt_meter((25.0, 100.0), swr is not None), ENDS, levels=(10.0,))
    return typed(job, {leg: (forward, reflected) if swr is None else (forward, reflected, swr)})


def test_more_that_comes_back_than_goes_out():
    note = notes(with_watts("1.1", "10.0"))["reflection.ports_swapped"]

    assert note.severity == "doubt"
    assert "exchanged" in note.remedy
    assert "entry.slip" not in notes(with_watts("1.1", "10.0"))
    assert "reflection.ports_swapped" not in notes(with_watts("10.0", "1.1"))


def test_three_numbers_that_do_not_belong_together():
    """1.11 W of 10 W are SWR 2.0 (SWR table)."""
    assert "reflection.three_numbers" not in notes(with_watts("10.00", "1.11", "2.00"))
    note = notes(with_watts("10.00", "1.11", "1.50"))["reflection.three_numbers"]
    assert note.evidence["from_watts"] == pytest.approx(1 / 3, abs=2e-3)
    assert "reflection.three_numbers" not in notes(with_watts("10.00", "1.11"))


def test_forward_power_that_directivity_spoils():
    """25 dB with SWR 3: (1 + 0.0562·0.5)² − 1 = 5.7 % (handbook 15.4's formula)."""
    note = notes(with_watts("10.0", "2.5", leg="r150"))["reflection.forward"]

    assert note.evidence["limit"] == pytest.approx((1 + 10**-1.25 * 0.5) ** 2 - 1)
    assert "reflection.forward" not in notes(with_watts("10.0", "0.02", leg="null"))
    assert "reflection.forward" not in notes(read())


@pytest.mark.parametrize(("text", "said"), [("20", "decimal point left out"), ("200", "left out")])
def test_a_slip_of_an_swr_is_asked_about(text, said):
    """SWR 2.0 typed as 20, 2.00 as 200."""
    assert said in notes(read(r100=text))["entry.slip"].why


@pytest.mark.parametrize(("text", "said"), [("4.44 on 100", "arc of range 25"), ("0.111", "decimal point"),
                                            ("1.11 mW", "mW for W")])  # fmt: skip
def test_a_slip_of_reflected_watts_is_asked_about(text, said):
    assert said in notes(with_watts("10.0", text))["entry.slip"].why


def test_what_is_inside_is_not_asked_about():
    assert "entry.slip" not in notes(read(r100="1.80"))
    assert "entry.slip" not in notes(read(r100="4.00"))  # far off, and no slip known that explains it
    assert "entry.slip" not in notes(read(r150="1.20"))


def test_what_an_entry_can_be_read_to_is_in_its_own_unit():
    """The last digit of an SWR is no watt; reflected power has the division of the range it was read on."""
    job = with_watts("10.00", "1.11", "2.00")
    view = View(job, WHEN)
    entries = {event.entry.channel: event.entry for event in job.standing.values()}

    assert {name: entry_text(view, entry).replace("\u202f", " ") for name, entry in entries.items()} == {
        "wattmeter, forward, line 3": "±5 mW", "wattmeter, reflected, line 3": "±5 mW",
        "wattmeter, swr, line 3": "±0.005",
    }  # fmt: skip


def test_only_meters_that_tell_of_a_match_are_offered():
    mute = replace(watt_meter(), id="mute", indicators=watt_meter().indicators[:1])
    assert [part.id for part in devices(ROOM, [mute, swr_meter(), *ENDS])] == ["meter"]
    assert [part.id for part in devices(ROOM, [watt_meter()])] == ["meter"]


def test_notes_come_as_soon_as_an_entry_is_kept():
    job = read(r100="20")
    found = ROOM.judge_entries(job, reduce(job), AS_FOUND, "p3")
    assert [note.code for note in found] == ["entry.slip"]
    assert ROOM.judge_entries(job, reduce(job), AS_FOUND, "p2") == ()


def test_what_a_meter_claims():
    assert claimed(swr_meter(30.0)) == (SpecTerm(SpecKind.DB, 30.0, "dB", basis="data sheet"), ())
    first, _ = claimed(replace(swr_meter(), properties={}))
    assert (first.value, first.basis) == (20.0, "common practice")
    _, more = claimed(watt_meter(share=0.03))
    assert [(term.kind, term.value) for term in more] == [(SpecKind.OF_RANGE, 0.03)]


def test_a_meter_that_tells_nothing_of_a_match():
    mute = replace(watt_meter(), indicators=watt_meter().indicators[:1])
    with pytest.raises(OutOfRangeError, match="tells nothing of a match"):
        match_job(mute)
    template = next(item for item in OF_MATCH if item.stated is mute.kind)
    bench = from_template(template, [QUIET, *ENDS, shelf.dummy_load("l", "l", 100.0)], "line", mute)
    with pytest.raises(UnknownIdError, match="isn't on this bench"):
        begin("j", "t", bench, "nobody", WHEN)


def test_each_end_of_the_kit_is_visited_once():
    job = match_job()

    assert [leg.id for leg in job.visits] == ["null", "r25", "r100", "r150"]
    assert len({leg.hookup for leg in job.visits}) == 4
    assert all(point.group == "" for point in job.plan)
    assert job.answers_wanted == 4
    assert [expected_si(job, point, point.sequence[0]) for point in job.plan] == pytest.approx([1.0, 2.0, 2.0, 3.0])


def test_what_a_perfect_meter_shows_is_expected_of_each_channel():
    job = match_job(watt_meter(with_swr=True), (ENDS[2],))
    (point,) = job.plan
    assert [expected_si(job, point, name) for name in point.sequence] == pytest.approx([10.0, 10.0 / 9.0, 2.0])


def test_fields_come_back_as_they_are_typed():
    job = match_job()
    drafted = ROOM.draft(job)
    assert (drafted["tolerance"], drafted["scale"]) == ("25 dB", "")

    made = ROOM.from_draft(job, {**drafted, "tolerance": "30 dB", "scale": "10 % of reading"})
    assert made.tolerance.value == 30.0
    assert [(term.kind, term.value) for term in made.tolerance_more] == [(SpecKind.OF_READING, 0.1)]
    assert ROOM.draft(made)["scale"] == "10 % of reading"
    assert ROOM.from_draft(job, drafted) == job
    problems = ROOM.from_draft(job, {**drafted, "tolerance": "2 dB", "scale": "unknown"})
    assert [item.field for item in problems] == ["tolerance", "scale"]


def test_a_bench_whose_meter_was_taken_out_is_no_bench():
    job = match_job()
    assert trouble(job, job.bench) == ""
    other = replace(job.bench, stated=replace(job.bench.stated, port="in"))
    assert "leaves the meter" in trouble(job, other)
    assert list(flaws(job)) == []
    assert any("directivity" in item for item in flaws(replace(job, tolerance=SpecTerm(SpecKind.OF_READING, 0.1))))
    point = replace(job.plan[0], sequence=())
    assert any("nothing of a match" in item for item in flaws(replace(job, plan=(point,))))
    moved = replace(job.hookups[1], stated=replace(job.hookups[1].stated, port="in"))
    assert any("at the plane" in item for item in flaws(job.with_hookup(moved)))


def test_the_shelf_ranks_benches_by_their_worst_end():
    kit = [QUIET, *ENDS, shelf.dummy_load("load", "load", 100.0)]
    found = ranked(ROOM, kit, swr_meter(), [7e6, 14e6], 5.0, WHEN.date(), WHEN)

    names = [item.bench.hookup.label for item in found]
    assert set(names) == {"known mismatches in turn", "known ends of the line in turn"}
    assert names[0] == "known mismatches in turn"  # nobody measured the load
    assert all(len(item.points) == 2 for item in found)


def test_an_end_over_its_rating_is_left_out_alone():
    weak = replace(end("weak", 100.0), ports=(Port("in", power_limit_w=1.0),))
    kit = [QUIET, ENDS[0], weak]
    (best, *_) = ranked(ROOM, kit, swr_meter(), [14e6], 5.0, WHEN.date(), WHEN)
    assert not best.points[0].blocked


def test_prediction_is_what_perfect_readings_give():
    job = read()
    assert [item.point.id for item in predict(job)] == [item.point.id for item in reduce(job).stated]
    assert predict(match_job()) == ()


def seen(job):
    return Seen(job, AS_FOUND, reduce(job))


def test_page_and_table_say_the_same():
    job = read(r150="3.4")
    page, table = ROOM.page(seen(job)), ROOM.table(seen(job))
    result = reduce(job)

    assert page.headings[2] == "end" and len(page.rows) == 4
    assert [row[2] for row in page.rows] == ["null", "r25", "r100", "r150"]
    assert page.rows[3][4] == "3.40" and page.rows[2][5] == "1.75 to 2.32"
    assert dict(page.facts)["claims"] == "directivity 25\u202fdB"
    assert any("directivity of" in item for item in page.statements)
    assert table[0] == list(COLUMNS)
    cells = dict(zip(COLUMNS, table[3], strict=True))
    item = result.points[2]
    wanted = {
        "end": "r100", "what is judged": "SWR", "rho shown": item.shown, "SWR shown": pytest.approx(2.0),
        "rho expected": item.expected, "SWR expected": pytest.approx(2.0), "Re(Gamma) expected": item.gamma.real,
        "Im(Gamma) expected": item.gamma.imag, "window, low": item.window[0], "window, high": item.window[1],
        "ring, low": item.ring[0], "ring, high": item.ring[1], "error of rho": item.error, "k": item.k,
        "U(error)": (item.interval[1] - item.interval[0]) / 2.0, "directivity claimed / dB": 25.0,
        "verdict": str(item.decision.verdict), "zone": str(item.decision.zone), "rounds": 1, "engine": "linear",
        "rho expected, low": item.expected_interval[0], "rho expected, high": item.expected_interval[1],
        "frequency / Hz": 14e6, "level / W": 10.0, "phase": AS_FOUND, "forward / W": "", "reflected / W": "",
        "probability that the verdict is wrong": item.decision.risk, "other meter, rho shown": "",
        "other meter, carried, low": "", "other meter, carried, high": "",
    }  # fmt: skip
    assert cells == wanted


def test_cards_have_a_column_for_each_end():
    lid, bench = ROOM.cards(seen(read(match_job(f=(7e6, 14e6)))), "12")

    assert lid.columns == ("at", "null", "r25", "r100") and lid.left_out == "not on this card: r150"
    assert bench.columns == ("at", "null", "r25", "r100", "r150")
    assert [row[0] for row in bench.rows] == ["7\u202fMHz", "14\u202fMHz"]
    assert bench.rows[0][3].startswith("2.00 for 2.0")
    assert "directivity 25" in bench.foot


def test_chart_has_a_series_for_each_end():
    chart = ROOM.chart(read(match_job(f=(7e6, 14e6))), reduce(read(match_job(f=(7e6, 14e6)))), None, "frequency", False)

    assert [line.label for line in chart.series] == ["null", "r25", "r100", "r150"]
    assert [point.x for point in chart.series[0].points] == [7.0, 14.0]
    assert chart.unit == "%"


def test_ring_and_spot():
    """The ring is where the truth may lie, the spot where it is known: they touch, or stand apart."""
    job = read(r100="2.60")
    result = reduce(job)
    picture = ROOM.picture(result, "p3")
    assert isinstance(picture, Rings)

    (spot,) = (item for item in picture.spots if item.is_here)
    assert (spot.x, spot.y) == pytest.approx((1 / 3, 0.0))
    assert spot.u_x == pytest.approx(2 * 100 / 150**2 / math.sqrt(3.0), rel=1e-3)
    assert len(picture.spots) == 4
    assert picture.low > spot.x and not picture.agrees
    assert "stand apart" in picture.said
    svg = picture_svg(picture)
    assert svg.count("<ellipse") == 1 and "stand apart" in svg
    assert f"0 0 {720 if False else svg.split('viewBox=')[1].split()[2]} {height_of(picture):g}" in svg
    touching = ROOM.picture(reduce(read()), "p3")
    assert touching.agrees and touching.low < 1 / 3 < touching.high
    assert touching.weight < picture.weight
    assert ROOM.picture(reduce(match_job()), "p3") is None


def test_sentences():
    job = read()
    result = reduce(job)
    assert results_headline(job, result).startswith("The meter shows SWR 1.05") or "shows SWR" in results_headline(
        job, result
    )
    assert "accept 4" in short_headline(result)
    assert short_headline(reduce(match_job())) == "nothing read yet"
    assert "missing before" in results_headline(match_job(), reduce(match_job()))
    empty = replace(match_job(), plan=())
    assert results_headline(empty, reduce(empty)).startswith("Points must be planned")
    assert (swr_of(0.2), swr_of(0.999), swr_of(-0.01)) == ("1.50", "above 99", "1.00")
    assert (window_said((0.0, 0.2)), window_said((0.2, 1 / 3))) == ("up to 1.50", "1.50 to 2.00")
    figures = ROOM.figures(result, "p3")
    assert (figures.value, figures.second) == ("2.00", "1.75 to 2.32")
    assert ROOM.figures(reduce(match_job()), "p3").value == "—"
    assert "1.75 to 2.32" in ROOM.readings_headline(job, result, job.point("p3"))


# coverage on drawn benches

BENCHES = {
    "null": lambda: match_job(ends=(ENDS[0],)),
    "loose null": lambda: match_job(ends=(end("null", 50.0, 0.05),)),
    "three ends": lambda: match_job(ends=ENDS[1:]),
    "watts": lambda: match_job(watt_meter(share=1e-9), ENDS[1:]),
}


@pytest.mark.parametrize("name", list(BENCHES))
def test_stated_errors_windows_and_rings_hold(name):
    """Meters anywhere within their directivity, ends within what is stated, solved by nodes."""
    found = study(BENCHES[name](), 150, 11)
    low, _ = binomial_limits(0.9545, found.errors.size)

    assert found.intervals >= low
    assert abs(np.mean(found.errors)) < 0.2
    assert 0.85 < np.std(found.errors) < 1.15
    assert found.rings > 0.97
    assert found.windows > 0.95


def test_a_wrong_statement_does_not_hold():
    """Control: a meter 6 dB worse than it claims, and an end twice as loose as is stated."""
    worse = study(match_job(), 100, 4, better_db=6.0)
    assert worse.rings < 0.9 and worse.windows < 0.9
    loose = study(match_job(ends=(end("r100", 100.0, 0.03),)), 150, 4, halved="r100.resistance")
    assert np.std(loose.errors) > 1.5 and loose.intervals < 0.9


# two meters in series


def in_series(first, second, where="right behind it", ends=ENDS[1:], setting=None, *more):
    """A meter with another one further on, read with 150 Ω (or what is given) behind both."""
    part = replace(watt_meter(with_swr=True), id="far", label="far meter")
    part = with_properties(replace(part, indicators=part.indicators[2:]), loss_db=Property(0.0, "dB"))
    template = next(
        item for item in OF_MATCH if item.label == f"another meter {where}" and item.stated is swr_meter().kind
        and item.read == (part.kind,)
    )  # fmt: skip
    made = begin("job", "two", from_template(template, [QUIET, part, *more, *ends], "line", swr_meter()), "meter", WHEN)
    if setting:
        elements = tuple(replace(e, settings=setting) if e.part == more[0].id else e for e in made.bench.elements)
        made = made.with_hookup(replace(made.bench, elements=elements))
    job = replace(made, plan=points_at(made, (14e6,), (10.0,)))
    for point in job.plan:
        for position, text in enumerate((first, second)):
            job = enter(job, Slot(point.id, 1, position), text)
    return job


def lossy(db):
    return with_properties(pad("cable", db, 0.0), swr=Property(1.0, "", measured=True))


def test_two_meters_that_agree():
    job = in_series("2.9", "3.0", ends=(ENDS[3],))
    (item,) = reduce(job).points
    (other,) = item.others

    assert item.point.sequence == ("meter, swr", "wattmeter, swr")
    assert other.shown == pytest.approx(0.5)
    assert other.expected == pytest.approx(0.5)
    assert other.agrees_with(item.ring) and other.is_inside
    leak = 10**-1.25
    assert other.ring[0] <= (0.5 - leak) / (1 - 0.5 * leak) <= (0.5 + leak) / (1 - 0.5 * leak) <= other.ring[1] + 0.06
    assert "reflection.meters_agree" in notes(job)
    assert not {"reflection.meters_apart", "entry.slip"} & set(notes(job))


def test_loss_between_them_is_predicted_first():
    """Handbook 3: SWR 3 behind 1 dB shows as 2.32; two that show 3.0 and 2.32 there can both be right."""
    cable = replace(lossy(1.0), kind=PartKind.CABLE)
    job = in_series("2.32", "3.0", "behind a cable", (ENDS[3],), None, cable)
    (item,) = reduce(job).points
    (other,) = item.others

    assert other.loss_db == pytest.approx(1.0, abs=1e-6)
    assert other.shows_here == pytest.approx(rho(2.32), abs=2e-3)
    assert item.expected == pytest.approx(rho(2.32), abs=2e-3)
    assert "reflection.meters_agree" in notes(job)


def test_two_meters_that_can_not_both_be_right():
    job = in_series("1.2", "3.0", ends=(ENDS[3],))
    note = notes(job)["reflection.meters_apart"]

    assert note.evidence["first_inside"] == 0.0 and note.evidence["second_inside"] == 1.0
    assert "far meter is inside its window and meter is not" in note.why
    other = notes(in_series("3.0", "1.2", ends=(ENDS[3],)))["reflection.meters_apart"]
    assert "meter is inside its window and far meter is not" in other.why
    neither = notes(in_series("1.1", "9.0", ends=(ENDS[3],)))["reflection.meters_apart"]
    assert "neither is inside" in neither.why


def tuner():
    return next(part for part in generic.generics() if part.kind is PartKind.TUNER)


def test_with_a_tuner_between_them_both_can_be_right():
    job = in_series("1.1", "3.0", "behind a tuner", (ENDS[3],), {"tuner": "in line"}, tuner())
    result = reduce(job)
    (item,) = result.points

    assert item.tuned and item.others[0].carried == (0.0, 1.0)
    assert item.stated.decision is None and not item.stated.usable
    found = notes(job)
    assert "must differ" in found["reflection.tuner_between"].what
    assert not {"reflection.meters_apart", "reflection.flatters", "tur.low"} & set(found)
    assert "both can be right" in results_headline(job, result)
    assert ROOM.page(seen(job)).rows[0][3] == "as the tuner makes it"
    assert ROOM.picture(result, "p1") is None
    assert "tuner makes" in short_headline(result)


def test_a_tuner_that_is_bypassed_is_a_piece_of_line():
    job = in_series("2.9", "3.0", "behind a tuner", (ENDS[3],), None, tuner())
    (item,) = reduce(job).points

    assert not item.tuned
    assert "reflection.meters_agree" in notes(job)


def test_what_the_other_meter_shows_stands_on_paper_and_in_the_picture():
    job = in_series("2.9", "3.0", ends=(ENDS[3],))
    result = reduce(job)
    cells = dict(zip(COLUMNS, ROOM.table(seen(job))[1], strict=True))
    (other,) = result.points[0].others

    assert cells["other meter, rho shown"] == other.shown
    assert (cells["other meter, carried, low"], cells["other meter, carried, high"]) == other.carried
    assert any("far meter, further on, shows SWR 3.00" in item for item in ROOM.page(seen(job)).statements)
    picture = ROOM.picture(result, "p1")
    assert picture.other == other.carried
    assert any("far meter" in line for line in picture.lines)


def test_alarm_levels_as_this_meter_shows_them_at_this_line():
    """SWR 2 behind 1 dB arrives as ρ = 10^(−0.1)/3: SWR 1.72; the line loses 1.25 dB then (handbook 3's formulas)."""
    cable = replace(lossy(1.0), kind=PartKind.CABLE)
    job = typed(match_job(None, ENDS[1:2], (14e6,), (10.0,), 1, "known ends behind a cable", cable), {"r25": "1.7"})
    found = {item.name: item for item in alarms(job, 14e6)}
    two = found["SWR 2"]

    assert two.arrives == pytest.approx((10**-0.1 / 3,) * 2)
    a, size = 10**0.1, 1 / 3
    assert two.line_loss_db == pytest.approx(10 * math.log10((a**2 - size**2) / (a * (1 - size**2))))
    assert two.shows == pytest.approx(
        [float(end) for end in MeterClaim(Kind.SWR, 25.0, ()).shows(np.array(two.arrives[0]))]
    )
    assert found["10\u202f% reflected"].rho == pytest.approx(rho(1.92), abs=2e-3)  # handbook 6: 10 % is SWR 1.92
    facts = dict(ROOM.page(seen(job)).facts)
    assert "SWR 2 shows as" in facts["alarms at 14\u202fMHz"]
    assert facts["the line"].startswith("1\u2009dB") or facts["the line"].startswith("1\u202fdB")
    plain = dict(ROOM.page(seen(read())).facts)
    assert "the line" not in plain and "SWR 2 shows as 1.75 to 2.32" in plain["alarms at 14\u202fMHz"]


def test_a_bound_where_marks_bunch_up_is_anything_from_a_match_up_to_it():
    """Below 1.10: ρ from 0 to 0.0476, SWR 1.05 ± 0.05 rectangular."""
    (item,) = reduce(typed(match_job(ends=(ENDS[0],)), {"null": "below 1.10"})).points
    row = next(row for row in reduce(typed(match_job(ends=(ENDS[0],)), {"null": "below 1.10"})).budget("p1")
               if row.influence.id == "meter.reading")  # fmt: skip

    assert item.shown == pytest.approx(rho(1.05))
    assert row.influence.standard_u[0] == pytest.approx(2 / 2.05**2 * 0.05 / math.sqrt(3.0), rel=0.02)
    job = match_job(watt_meter(), (ENDS[0],))
    job = enter(enter(job, Slot("p1", 1, 0), "10.0"), Slot("p1", 1, 1), "below 0.1")
    (item,) = reduce(job).points
    assert item.shown == pytest.approx(math.sqrt(0.05 / 10.0))
    (above,) = reduce(typed(match_job(ends=(ENDS[0],)), {"null": "above 1.10"})).points
    assert above.shown == pytest.approx((1 + rho(1.10)) / 2)  # from that up to where everything comes back


def test_an_inductive_end_lies_above_the_axis():
    """50 + j20 Ω: Γ = j20/(100 + j20) = 0.0385 + j0.192."""
    both = (Known.COMPLEX,) * 2
    table = Characterisation("z", IMPEDANCE, (1e6, 100e6), (50.0, 50.0), (20.0, 20.0), known=both, u_relative=0.01)
    job = typed(match_job(ends=(replace(ENDS[0], characterisations=(table,)),)), {"null": "1.50"})
    (item,) = reduce(job).points

    assert item.gamma == pytest.approx(20j / (100 + 20j), rel=1e-6)
    (spot,) = ROOM.picture(reduce(job), "p1").spots
    assert (spot.x, spot.y) == pytest.approx((0.0385, 0.1923), abs=1e-3)


def test_no_meter_shows_less_than_nothing_so_a_low_null_is_no_risk():
    """The window of a null reaches down to a match: only its top is a limit."""
    (item,) = reduce(typed(match_job(ends=(end("null", 50.0, 0.02),)), {"null": "1.00"})).points
    top = stats.norm.cdf((item.window[1] - item.expected - item.error) / item.u)

    assert item.window[0] == 0.0 and item.error < 0.0
    assert item.decision.conformance_probability == pytest.approx(top, abs=1e-9)
    assert item.tolerance == pytest.approx(item.window[1] - item.expected)


# turned round


def turned_job(*, f=(14e6,), level=10.0):
    return match_job(
        watt_meter((20.0, 200.0), with_swr=True), (load(),), f, (level,), 1,
        "a good load, then the meter turned round",
    )  # fmt: skip


def test_turned_round_what_it_calls_reflected_is_what_goes_out():
    job = turned_job()
    straight, turned = job.hookups
    channels = {
        item.hookup: {c.measurand.kind: c.indicator for c in job.channels if c.hookup == item.hookup}
        for item in job.channels
    }

    assert straight.mate("wattmeter", "out") == turned.mate("wattmeter", "in")  # the load follows its input
    assert (straight.stated.port, turned.stated.port) == ("out", "in")
    assert channels[straight.id] == {Kind.INCIDENT: "forward", Kind.REFLECTED: "reflected", Kind.SWR: "swr"}
    assert channels[turned.id] == {Kind.INCIDENT: "reflected", Kind.REFLECTED: "forward"}
    assert [leg.id for leg in job.legs] == ["Reedmace", "Reedmace, turned round"]
    assert trouble(job, turned) == ""
    with pytest.raises(OutOfRangeError, match="turned round it tells nothing"):
        match_job(swr_meter(), (load(),), label="a good load, then the meter turned round")


@pytest.mark.parametrize(("turned", "db", "code"), [
    ("10.00", 0.0, "reflection.balanced"), ("9.80", -0.0877, "reflection.balanced"),
    ("9.00", -0.4576, "reflection.balance"), ("11.20", 0.4922, "reflection.balance"),
])  # fmt: skip
def test_the_balance_of_both_arms(turned, db, code):
    """10·log10 of what both arms show of the same wave (definition of the decibel)."""
    job = typed(turned_job(), {
        "Reedmace": ("10.00", "0.05", "1.15"), "Reedmace, turned round": (turned, "0.05"),
    })  # fmt: skip
    result = reduce(job)
    (both,) = balances(result)

    assert both.db == pytest.approx(db, abs=1e-3)
    # 0.01 W as the last digit of both, rectangular: u = 0.01/√12 over the reading
    u = math.hypot(0.01 / math.sqrt(12) / 10.0, 0.01 / math.sqrt(12) / float(turned))
    assert both.expanded_u_db == pytest.approx(2 * 10 / math.log(10) * u, rel=1e-6)
    assert code in notes(job, result)
    said = " ".join(ROOM.page(Seen(job, AS_FOUND, result)).statements).replace("\u202f", " ")
    assert "turned round on Reedmace, its reflected arm shows" in said


def test_what_an_imbalance_does_to_an_swr():
    """Its reflected arm shows 0.8 of the watts: ρ by √0.8, so a true 2 (ρ = 1/3) shows as 1.85."""
    job = typed(turned_job(), {
        "Reedmace": ("10.00", "0.05", "1.15"), "Reedmace, turned round": ("8.00", "0.06"),
    })  # fmt: skip
    assert balances(reduce(job))[0].swr_2_shows == pytest.approx(math.sqrt(0.8) / 3)
    assert "A true SWR of 2 shows as 1.85" in notes(job)["reflection.balance"].why


def test_a_drawn_meter_shows_its_balance_and_it_is_no_end_for_the_fit():
    rng = np.random.default_rng(4)
    found = []
    for gain in (1.0, 0.9):
        meter = TrueMatchMeter(leak=0.01 + 0.01j, forward_leak=-0.01j, reflected_gain=gain)
        made = turned_job()
        job, straight_gammas, _ = drawn(made, rng, meter)
        point = next(item for item in made.plan if "turned" in item.leg)
        ahead, back = meter.watts(straight_gammas[point.id] * math.sqrt(10.0), math.sqrt(10.0))  # arms exchanged
        for position, watts in enumerate((back, ahead)):
            job = enter(job, Slot(point.id, 1, position), f"{watts:.3f}")
        result = reduce(job)
        assert all(len(item.points) == 1 for item in by_level(result))
        found.append(balances(result)[0].db)

    assert found[0] == pytest.approx(0.0, abs=0.02)
    assert found[1] == pytest.approx(20 * math.log10(0.9), abs=0.02)


# a radio's own meter


def radio(directivity_db=20.0):
    made = replace(shelf.transmitter("radio", "radio", 100.0), indicators=(Indicator("own_swr", "SWR", Kind.SWR, ""),))
    return with_properties(made, directivity_db=Property(directivity_db, "dB"))


def radio_job(label, *more):
    own = radio()
    kinds = {part.kind for part in more}
    template = next(
        item for item in OF_MATCH
        if item.label == label and item.stated is PartKind.TRANSMITTER and kinds <= set(item.line)
    )  # fmt: skip
    made = begin("job", "a radio", from_template(template, [own, *more, *ENDS], "line", own), own.id, WHEN)
    return replace(made, plan=points_at(made, (14e6,), (10.0,)))


def test_a_radios_own_meter_is_held_against_known_ends_at_its_output():
    """20 dB let a true 3 (ρ = 1/2) show from (0.5 - 0.1)/(1 + 0.05) to (0.5 + 0.1)/(1 - 0.05)."""
    job = typed(radio_job("known ends at its output"), {"null": "1.10", "r25": "2.00", "r100": "2.00", "r150": "2.00"})
    result = reduce(job)
    by_end = {item.point.leg: item for item in result.points}

    assert by_end["r150"].window == (pytest.approx(0.4 / 1.05), pytest.approx(0.6 / 0.95))
    assert {name: item.decision.verdict for name, item in by_end.items()} == {
        "null": Verdict.ACCEPT, "r25": Verdict.ACCEPT, "r100": Verdict.ACCEPT, "r150": Verdict.REJECT,
    }  # fmt: skip
    assert results_headline(job, result).startswith("The radio shows SWR 2.00 where r150 is 3.0")
    assert trouble(job, job.bench) == "" and list(flaws(job)) == []


def test_a_meter_in_the_radio_and_one_in_the_line():
    meter = swr_meter()
    job = typed(radio_job("another meter right behind it", meter), {"r25": ("2.00", "2.05"), "r150": ("1.50", "3.00")})
    found = notes(job)

    assert job.part_read(job.order[0]).id == "radio"
    assert "radio and meter can't both be right" in found["reflection.meters_apart"].what
    agreed = typed(radio_job("another meter right behind it", meter), {"r25": ("2.00", "2.05")})
    assert "reflection.meters_agree" in notes(agreed)


def test_the_radio_of_which_no_meter_is_known_isnt_asked():
    assert [part.id for part in devices(ROOM, [radio(), QUIET, swr_meter()])] == ["radio", "meter"]


# open, short, and bounds at the other end of the scale


@pytest.mark.parametrize("shown", ["above 20", ">20", "99.9"])
def test_a_short_and_an_open_are_ends_like_others(shown):
    """They send everything back: SWR above 20 is ρ from 19/21 = 0.905 to 1, its middle 0.952."""
    ends = (end("short", 0.01), end("open", 1e5))
    job = typed(match_job(swr_meter(), ends), {"short": shown, "open": shown})
    points = reduce(job).points

    assert {item.point.leg: item.decision.verdict for item in points} == {
        "short": Verdict.ACCEPT, "open": Verdict.ACCEPT,
    }  # fmt: skip
    if "20" in shown:
        for item in points:
            assert item.shown == pytest.approx((1 + 19 / 21) / 2)
            assert item.u_shown == pytest.approx((1 - 19 / 21) / 2 / math.sqrt(3), rel=1e-6)
    assert "above above" not in results_headline(job, reduce(job))


def test_a_bound_above_that_is_no_match_is_rejected():
    """20 dB let a short (ρ = 1) show no less than 0.9/1.1 = 0.818, SWR 10: a meter that shows 3 is wrong."""
    job = typed(match_job(swr_meter(20.0), (end("short", 0.01), end("null", 50.0))), {"short": "3.0"})
    assert reduce(job).points[0].decision.verdict is Verdict.REJECT


def test_beyond_its_arc_an_swr_is_no_watt():
    meter = swr_meter()
    on_arc = replace(meter.indicators[0], ranges=(Range("SWR", 5.0, "", swr_scale()),))
    job = typed(match_job(replace(meter, indicators=(on_arc,))), {"r150": "7"})
    note = notes(job)["scale.off"]
    assert "The range ends at 5; the needle can't show 7." in note.why


@pytest.mark.parametrize(("rounds", "said"), [
    (("1.50", "1.60", "1.72"), True), (("1.50", "1.50", "1.51"), False), (("1.50", "1.72", "1.60"), False),
    (("1.72", "1.60", "1.50"), False), (("1.50", "1.72"), False),
])  # fmt: skip
def test_an_end_that_heats_shows_from_round_to_round(rounds, said):
    """A passive end reflects the same all the time (common practice, no source)."""
    job = match_job(ends=(end("r75", 75.0),), rounds=len(rounds))
    for number, text in enumerate(rounds, start=1):
        job = enter(job, Slot("p1", number, 0), text)
    assert ("reflection.time" in notes(job)) is said


def test_a_meter_that_is_set_is_set_before_it_is_read():
    job = match_job(swr_meter(has_set=True))
    said = ROOM.readings_headline(job, reduce(job), job.plan[0])
    assert said == "Set meter to full scale on forward, then read SWR with null behind it."
