"""Every column of the tables of results, compared with chosen numbers written out by hand."""

import csv
import io
import math
from dataclasses import replace
from datetime import date

import openpyxl
import pytest

from fenmist.calibration.decision import Decision, Verdict, Zone
from fenmist.calibration.history import Past
from fenmist.judgement.headline import budget_title
from fenmist.kit import generic
from fenmist.procedures.charts import history_chart
from fenmist.procedures.comparison.card import card
from fenmist.procedures.comparison.chart import error_chart
from fenmist.procedures.comparison.tables import RESULT_HEADINGS, result_rows, result_table
from fenmist.procedures.page import BENCH, LID
from fenmist.reading.event import AS_LEFT
from fenmist.reports.leveltable import LEVEL_HEADINGS, level_rows
from fenmist.reports.loadtable import LOAD_HEADINGS, load_table
from fenmist.reports.resultfile import csv_bytes, head_table, text_table, xlsx_bytes
from fenmist.reports.runsheet import headings, minutes
from studies.builders import WHEN, job
from support.results import point_result, results
from support.texts import spaced

REJECTED = Decision(Zone.OUTSIDE, Verdict.REJECT, 0.0004, 0.0004, 0.83)
OPEN = Decision(Zone.INSIDE_WITHIN, Verdict.CANNOT_DECIDE, 0.6, None, 0.5)


def cells(row) -> list[str]:
    return [spaced(cell) for cell in row]


def test_a_row_of_results_cell_by_cell():
    made = results(point_result(), point_result(at_id="p2", is_reference=False, ratio=1.25, error_w=12.5))
    first, second = (dict(zip(RESULT_HEADINGS, cells(row), strict=True)) for row in result_rows(made))

    assert first == {
        "frequency": "7.125 MHz", "level": "50 W", "reference ± U": "50.0 ± 1.1 W", "indicated": "49.0 W",
        "error ± U": "−1.0 ± 1.2 W", "per cent": "−2.0 ± 2.4", "dB": "−0.09", "factor": "1.020", "verdict": "accept",
    }  # fmt: skip
    assert (second["per cent"], second["dB"], second["factor"]) == ("+25.0 ± 2.4", "+0.97", "0.800")
    assert (second["error ± U"], second["verdict"]) == ("+12.5 ± 1.2 W", "accept (no reference)")


@pytest.mark.parametrize(("engine", "ending"), [("linear", ""), ("Monte Carlo", ", by Monte Carlo")])
def test_a_budget_is_headed_with_u_k_and_expanded_u(engine, ending):
    said = spaced(budget_title(point_result(engine=engine, k=2.13).stated, "error"))

    assert said == f"Uncertainty of the error at 7.125 MHz, 50 W: u = 600 mW, k = 2.13, U = 1.2 W{ending}"


WANTED = {
    "phase": "as found", "frequency / Hz": 7.125e6, "level planned / W": 50.0, "range": "200", "rounds": 3,
    "reference incident / W": 50.0, "U(reference) / W": 1.1, "net in the load / W": 49.8, "indicated / W": 49.0,
    "error / W": -1.0, "U(error) / W": 1.2, "error / %": -2.0, "error / dB": 10 * math.log10(0.98),
    "error low / dB": 10 * math.log10(0.956), "error high / dB": 10 * math.log10(1.004), "k": 2.0,
    "correction factor": 1 / 0.98, "tolerance / W": 10.0, "zone": "inside, but within the uncertainty",
    "verdict": "accept", "probability that the verdict is wrong": 0.03, "computed by": "linear",
    "is a reference": "yes", "waveform": "carrier", "statistic": "carrier",
}  # fmt: skip


def test_every_column_of_the_file_holds_its_own_value():
    heading, row = result_table(results(point_result()))

    assert dict(zip(heading, row, strict=True)) == {
        key: pytest.approx(value, rel=1e-9) if isinstance(value, float) else value for key, value in WANTED.items()
    }


def test_as_left_stands_below_as_found_and_no_risk_is_an_empty_cell():
    left = results(point_result(decision=OPEN, is_reference=False, engine="Monte Carlo"), phase=AS_LEFT)
    heading, _, row = result_table(results(point_result()), left)
    found = dict(zip(heading, row, strict=True))

    assert (found["phase"], found["verdict"], found["is a reference"]) == ("as left", "cannot decide", "no")
    assert (found["probability that the verdict is wrong"], found["computed by"]) == ("", "Monte Carlo")


def test_csv_and_xlsx_hold_the_same_numbers():
    table = result_table(results(point_result()))
    (heading, row) = csv.reader(io.StringIO(csv_bytes(table).decode("utf-8-sig")))
    sheet = openpyxl.load_workbook(io.BytesIO(xlsx_bytes(table, [["title", "a job"]], WHEN)))["results"]

    for place, (name, wanted) in enumerate(WANTED.items()):
        assert heading[place] == sheet.cell(1, place + 1).value == name
        if isinstance(wanted, str):
            assert row[place] == sheet.cell(2, place + 1).value == wanted
        else:
            assert float(row[place]) == pytest.approx(wanted, rel=1e-8)
            assert sheet.cell(2, place + 1).value == pytest.approx(wanted, rel=1e-12)


def test_the_workbook_says_when_by_whom_and_keeps_its_headings_in_sight():
    data = xlsx_bytes(result_table(results(point_result())), [["title", "a job"], ["n", 2.5]], WHEN)
    book = openpyxl.load_workbook(io.BytesIO(data))

    assert book.properties.creator == "Fenmist"
    assert book.properties.created == WHEN.replace(tzinfo=None)
    assert book["results"].freeze_panes == "A2"
    assert book["job"].freeze_panes is None
    assert (book["results"]["A1"].font.bold, book["results"]["A2"].font.bold) == (True, False)
    assert book["results"]["A1"].border.bottom.style == "thin"
    assert (book["job"]["A1"].font.bold, book["job"]["B2"].value) == (False, 2.5)
    assert book["results"].column_dimensions["A"].width >= 15
    assert book["results"].column_dimensions["A"].max == len(WANTED)


def test_a_number_that_is_none_is_an_empty_cell_and_nine_digits_are_kept():
    table = [["a", "b", "c"], [float("inf"), 123456789.0, 3]]

    assert csv_bytes(table).decode("utf-8-sig").splitlines()[1] == ",123456789,3"
    assert openpyxl.load_workbook(io.BytesIO(xlsx_bytes(table, [], WHEN)))["results"]["A2"].value is None


def test_the_head_says_what_the_results_belong_to():
    made = replace(job(), title="T", customer="C", place="P", technician="N", conditions="21 °C", demo=True, id="id-1")
    made = made.with_part(replace(made.dut_part, serial="S-1"))

    assert head_table(made, "abc") == [
        ["title", "T"], ["device", "Bittern"], ["serial", "S-1"], ["customer", "C"], ["place", "P"],
        ["technician", "N"], ["conditions", "21 °C"], ["job", "id-1"], ["record", "abc"], ["demonstration", "yes"],
    ]  # fmt: skip
    assert head_table(replace(made, demo=False), "")[-1] == ["demonstration", "no"]


def test_the_clipboards_table_is_rows_of_tabs():
    assert text_table([["a", "b"], ["c", "d"]]) == "a\tb\nc\td"


# the levels of a line


def test_a_row_of_levels_cell_by_cell():
    """100 W into a matched line: 70.71 V rms, 100 V peak; 3.0 dB up to 200 W; a fault doubles volts."""
    made = job(frequencies_hz=(7e6,), level_w=100.0, load="50")
    rows = {row[0]: dict(zip(LEVEL_HEADINGS, cells(row), strict=True)) for row in level_rows(made)}

    meter = rows["Bittern, out"]
    assert (meter["power"], meter["dBm"], meter["V rms"], meter["V peak"]) == ("100 W", "+50.0", "70.7 V", "100 V")
    assert (meter["SWR"], meter["rating"], meter["headroom"]) == ("1.00", "200 W", "+3.0 dB")
    assert (meter["worst case"], meter["fault"]) == ("+3.0 dB", "+3.0 dB")
    assert rows["Reedmace, in"]["headroom"] == "+1.8 dB"  # 150 W
    scope = rows["Sedge, in"]
    assert (scope["power"], scope["rating"], scope["headroom"]) == ("", "300 V peak", "+9.5 dB")  # 300 over 100 V
    assert scope["fault"] == "+3.5 dB"  # twice the volts
    assert rows["Plover, out"]["rating"] == rows["Plover, out"]["headroom"] == ""  # what it gives is no rating
    assert list(rows) == [
        "Plover, out", "Bittern, in", "Bittern, out", "tee, a", "tee, b", "Reedmace, in", "lead, a", "lead, b",
        "Sedge, in",
    ]  # fmt: skip


def test_without_a_plan_there_are_no_levels():
    assert level_rows(replace(job(), plan=())) == []


def test_resistors_inside_a_part_have_a_row_each():
    """100 W across 2460 Ω and 50 Ω in series: 5000/2510² A² is 0.794 mA²; 1.95 W in the one, 39.7 mW in the other."""
    from fenmist.hookup.templates import TEMPLATES, from_template
    from fenmist.procedures.benchwork import with_new_hookup

    template = next(item for item in TEMPLATES if "tap" in item.label)
    kit = [part for part in generic.starter_shelf() if "transformer" not in part.label and "gap tap" not in part.label]
    made = with_new_hookup(job(frequencies_hz=(1e6,), level_w=100.0, load="50"), from_template(template, kit, "x"))
    made = replace(made, plan=tuple(replace(point, hookup="line 2") for point in made.plan))
    rows = {row[0]: cells(row) for row in level_rows(made, "line 2")}
    (name,) = [row for row in rows if row.endswith(", R1")]

    assert float(rows[name][1].split()[0]) == pytest.approx(5000.0 / 2510.0**2 * 2460.0, rel=0.01)
    limit = float(rows[name][6].split()[0])
    watts = float(rows[name][1].split()[0])
    assert float(rows[name][7].split()[0].replace("−", "-")) == pytest.approx(10 * math.log10(limit / watts), abs=0.06)
    assert rows[name][2:6] == ["", "", "", ""]


# the load


@pytest.mark.parametrize(
    ("typed", "shown", "swr"),
    [
        ("45+j12", "45.0 + j12.0 Ω", "1.32"), ("45-j12", "45.0 − j12.0 Ω", "1.32"), ("57.7", "57.7 Ω", "1.15"),
        ("|57.7|", "|Z| 57.7 Ω", ""), ("60+j0", "60.0 Ω", "1.20"),
    ],
)  # fmt: skip
def test_a_load_as_typed_and_what_it_comes_to(typed, shown, swr):
    """SWR by hand: 45+j12 gives |Γ| = |−5+j12|/|95+j12| = 13/95.75 = 0.1358, so 1.314."""
    rows = load_table(job(load=[(7.125e6, typed)]))
    row = dict(zip(LOAD_HEADINGS, cells(rows[0]), strict=True))

    assert (row["frequency"], row["as shown"], row["R and X"]) == ("7.125 MHz", typed, shown)
    assert row["SWR"] == ({"1.32": "1.31"}.get(swr, swr))


def test_a_load_known_by_magnitude_and_swr_has_an_open_sign():
    row = load_table(job(load=[(7.125e6, "|57.7| swr 1.4")]))[0]

    assert " ± j" in row[3]
    assert row[4] == "1.40"


# the card


def test_a_card_cell_by_cell():
    points = [
        point_result(at_id=f"p{n}", at_frequency_hz=f, at_target_w=w, at_range_id=used, ratio=ratio)
        for n, (f, w, used, ratio) in enumerate(
            [(7e6, 50.0, "200", 0.8), (7e6, 10.0, "20", 1.25), (14e6, 50.0, "200", 0.5), (14e6, 10.0, "20", 1.0)]
        )
    ]
    made = results(*points)
    of = replace(made.job, place="the workshop", demo=True)
    found = card(of.with_part(replace(of.dut_part, serial="S-1")), made, LID, "26-001")

    assert (found.width_mm, found.height_mm) == (85.6, 54.0)  # ISO/IEC 7810 ID-1: 85.60 mm by 53.98 mm
    assert found.title == "Bittern: multiply the reading by"
    assert found.under == "S-1 · 2026-11-24 · No. 26-001 · the workshop"
    assert cells(found.columns) == ["at", "10 W, range 20", "50 W, range 200"]
    assert [cells(row) for row in found.rows] == [["7 MHz", "0.80", "1.25"], ["14 MHz", "1.00", "2.0"]]
    assert spaced(found.foot).startswith("each ± at most 2.4 % (95 %)")
    assert (found.left_out, found.demo) == ("", True)


def test_a_card_takes_the_highest_levels_and_the_lowest_frequencies():
    """Four levels, three fit on a lid; the lowest is named as left out, and of ten frequencies the highest."""
    points = [
        point_result(at_id=f"p{n}{w}", at_frequency_hz=(n + 1) * 1e6, at_target_w=w, expanded_u_w=0.1,
                     ratio_interval=(0.979, 0.981))
        for n in range(10) for w in (5.0, 10.0, 20.0, 50.0)
    ]  # fmt: skip
    made = results(*points)
    lid, bench = card(made.job, made, LID), card(made.job, made, BENCH)

    assert cells(lid.columns) == ["at", "10 W", "20 W", "50 W"]
    assert spaced(lid.left_out) == "not on this card: 5 W, 10 MHz"
    assert lid.rows[0][1] == "1.020"  # known to better than half a per cent: a digit more
    assert (bench.width_mm, bench.height_mm) == (148.0, 105.0)  # ISO 216, A6
    assert (len(bench.columns), len(bench.rows), bench.left_out) == (5, 10, "")


# the chart


def test_a_chart_has_a_series_for_each_level_with_bars_and_corridor():
    found = results(
        point_result(at_id="a", at_frequency_hz=14e6, at_target_w=20.0),
        point_result(at_id="b", at_frequency_hz=7e6, at_target_w=20.0),
        point_result(at_id="c", at_frequency_hz=7e6, at_target_w=100.0, ratio=1.5, ratio_interval=(1.4, 1.6)),
    )
    chart = error_chart(found.job, found)
    low, high = chart.series

    assert [spaced(text) for _, text in chart.groups] == ["20 W", "100 W"]
    assert [(point.point_id, point.x) for point in low.points] == [("b", 7.0), ("a", 14.0)]
    point = low.points[0]
    assert (point.value, point.low, point.high) == pytest.approx((-2.0, -4.4, 0.4))
    assert point.tolerance == pytest.approx(20.0)  # 10 W of 50 W
    assert (high.group, high.points[0].value) == (1, pytest.approx(50.0))
    assert (chart.places, chart.phases_said, chart.axis_title) == ((7.0, 14.0), "", "frequency in MHz")
    assert chart.reach == pytest.approx(60.0)
    assert spaced(chart.said_at(point)) == "7 MHz: −2.0 % (−4.4 to +0.4), tolerance ±20.0 %"
    assert low.between == high.between == ()


def test_over_level_each_frequency_is_a_series():
    found = results(point_result(at_target_w=20.0), point_result(at_id="b", at_target_w=100.0))
    chart = error_chart(found.job, found, over="level")

    assert [spaced(text) for _, text in chart.groups] == ["7.125 MHz"]
    assert [point.x for point in chart.series[0].points] == [20.0, 100.0]
    assert spaced(chart.said_at(chart.series[0].points[1])).startswith("100 W: ")
    assert chart.axis_title == "level in W, as planned"


def test_as_found_is_hollow_beside_as_left():
    found = results(point_result())
    chart = error_chart(found.job, found, results(point_result(ratio=1.0), phase=AS_LEFT))

    assert [(line.solid, line.points[0].value) for line in chart.series] == [
        (False, pytest.approx(-2.0)), (True, pytest.approx(0.0)),
    ]  # fmt: skip
    assert chart.phases_said == "hollow: as found, solid: as left"
    assert chart.groups == ((0, chart.series[0].label),)


def test_a_curve_goes_through_three_points_of_one_range_and_not_through_two_of_them():
    three = [point_result(at_id=f"p{n}", at_frequency_hz=(n + 1) * 2e6, ratio=1 - 0.1 * n) for n in range(3)]
    made = results(*three)
    between = error_chart(made.job, made, curves=True).series[0].between

    assert [between[0], between[-1]] == [(2.0, pytest.approx(0.0)), (6.0, pytest.approx(-20.0))]
    assert dict(between)[4.0] == pytest.approx(-10.0)
    assert len(between) == 2 * 24 + 1
    assert error_chart(made.job, made).series[0].between == ()
    for others in (three[:2], [*three[:2], replace(three[2], is_reference=False)],
                   [*three[:2], replace(three[2], point=replace(three[2].point, range_id="20"))]):  # fmt: skip
        made = results(*others)
        assert error_chart(made.job, made, curves=True).series[0].between == ()


def test_what_lies_far_outside_does_not_stretch_the_chart():
    """Sixty per cent, or three tolerances, are drawn; beyond stands at the edge. Nothing is drawn smaller than 1 %."""
    far = results(point_result(ratio=9.0, ratio_interval=(8.0, 10.0)))
    assert error_chart(far.job, far).reach == 75.0
    wide = results(point_result(ratio=9.0, ratio_interval=(8.0, 10.0), tolerance_w=20.0))
    assert error_chart(wide.job, wide).reach == pytest.approx(120.0)
    near = results(point_result(ratio=1.0, ratio_interval=(0.999, 1.001), tolerance_w=0.01))
    assert error_chart(near.job, near).reach == 1.0


def test_a_point_through_the_years_has_its_days_bars_and_this_job():
    """2024-07-02 is the 184th day: 183/366 of the leap year, exactly a half."""
    past = [
        Past.of_rows("2026-01-01", False, "b", [(7e6, 50.0, -0.03, 0.02, 0.1)]),
        Past.of_rows("2024-07-02", False, "a", [(7e6, 50.0, 0.05, 0.01, 0.2)]),
        Past.of_rows("2026-02-01", True, "c", [(7e6, 50.0, 0.0, 0.02, 0.1)]),
    ]
    chart = history_chart(past, [point_result().stated], date(2026, 12, 31))
    found, left, now = chart.series

    assert [(line.label, line.solid, line.group) for line in chart.series] == [
        ("as found", False, 0),
        ("as left", True, 0),
        ("this job", True, 1),
    ]
    assert [(point.point_id, point.x) for point in found.points] == [("a", 2024.5), ("b", 2026.0)]
    first = found.points[0]
    assert (first.value, first.low, first.high, first.tolerance) == pytest.approx((5.0, 4.0, 6.0, 20.0))
    assert left.points[0].x == pytest.approx(2026.0 + 31 / 366)
    assert now.points[0].x == pytest.approx(2026.0 + 364 / 366)
    assert (now.points[0].value, chart.over) == (pytest.approx(-2.0), "years")
    assert spaced(chart.said_at(first)) == "2024-07: +5.0 % (+4.0 to +6.0), tolerance ±20.0 %"
    assert history_chart([], [], date(2026, 1, 1)).series == ()


@pytest.mark.parametrize(("part", "room"), [(0, "+3.0 dB"), (1, "+1.2 dB")], ids=["power", "volts"])
def test_headroom_is_up_to_the_nearer_limit(part, room):
    """A load of 200 W (+3.0 dB of 100 W) that stands 115 V peak (+1.2 dB of 100 V)."""
    made = job(frequencies_hz=(7e6,), level_w=100.0, load="50")
    load = made.part("load")
    limits = {"power_limit_w": 200.0} | ({"volts_limit_vpk": 115.0} if part else {})
    made = made.with_part(replace(load, ports=(replace(load.ports[0], **limits),)))
    row = next(cells(row) for row in level_rows(made) if row[0] == "Reedmace, in")

    assert row[7] == room
    assert row[6] == ("200 W, 115 V peak" if part else "200 W")


def test_a_runs_columns_are_those_of_its_longest_round():
    made = job(frequencies_hz=(7e6, 14e6))
    longer = replace(made.plan[1], sequence=("scope", "meter", "scope"))
    made = replace(made, plan=(made.plan[0], longer))

    assert headings(made) == ("1. Sedge, Vpp", "2. Bittern, W", "3. Sedge, Vpp")
    assert headings(replace(made, plan=())) == ()


@pytest.mark.parametrize(
    ("seconds", "said"),
    [(5.4, "5 s"), (89.0, "89 s"), (90.0, "2 min"), (5399.0, "90 min"), (5400.0, "1.5 h"), (math.inf, "no limit")],
)
def test_a_duration_is_said_as_people_say_it(seconds, said):
    assert minutes(seconds) == said
