"""The table of what readings stand for: against the bench's own closed forms, and what stands on paper."""

import csv
import io
import math
from dataclasses import replace

import pytest
from pypdf import PdfReader

from fenmist.calibration.edit import plan_with_cell
from fenmist.errors import UnknownIdError
from fenmist.kit import generic
from fenmist.kit.impedance import table_from_rows
from fenmist.kit.part import Property
from fenmist.procedures.comparison.reduction import reduce
from fenmist.reading.event import Slot
from fenmist.reports.paper import sheet_pdf
from fenmist.reports.readingtable import MOST_COLUMNS, MOST_ROWS, reading_tables, tables_csv
from studies.builders import enter, job
from studies.losses import loss_job
from studies.references import BENCHES, with_properties

DAY = "2026-11-28"


def by_channel(name):
    made = BENCHES[name]()
    return made, reading_tables(made, (), DAY).tables[0]


def test_volts_behind_a_divider_stand_for_their_square_over_the_load():
    """P = (V·ratio)²/R: doubling the volts is four times the power (any radio handbook)."""
    _, table = by_channel("voltmeter behind a divider")
    watts = dict(table.values)

    assert table.shown == "Vrms"
    assert watts[6.0] / watts[3.0] == pytest.approx(4.0)
    assert len(table.rows) <= MOST_ROWS
    assert [row[0] for row in table.rows][:2] == ["0.5\u202fV", "1\u202fV"]
    assert table.rows[-1][1] == f"{watts[7.0]:.1f}\u202fW"
    level, shown = table.levels[0]  # 80 W lie where the square says so
    assert level == "80\u202fW"
    assert float(shown.split("\u202f")[0]) == pytest.approx(7.0 * (80.0 / watts[7.0]) ** 0.5, abs=5e-3)


def into_fifty_ohms(name, *parts):
    made = BENCHES[name]()
    for part in parts:
        made = made.with_part(part)
    end = made.part("end")
    exact = table_from_rows([(1e5, "50"), (1e8, "50")], 1e-6)
    return dict(reading_tables(made.with_part(replace(end, characterisations=(exact,))), (), DAY).tables[0].values)


def test_one_ampere_in_fifty_ohms_is_fifty_watts():
    """Common practice, no source: 1 A in 50 Ω is 50 W; the heater's 0.2 Ω in front of it take 0.2 W."""
    assert into_fifty_ohms("ammeter in the line")[1.0] == pytest.approx(50.2, abs=0.02)


def test_ten_kilohms_and_one_divide_by_eleven_and_a_meter_of_100_kilohms_makes_it_more():
    """Handbook 4, common practice: 11:1, not 10:1. With 100 kΩ across the 1 kΩ it is 1 + 10/0.9901 = 11.1: 5 V are
    55.5 V, 61.6 W in 50 Ω, and 0.28 W in the divider in front of it.
    """
    divider = generic.divider("d", "divider", 10e3, 1e3)
    volts = 5.0 * (1.0 + 10e3 / (1e3 * 1e5 / 101e3))
    watts = volts**2 / 50.0 + volts**2 / (10e3 + 990.1)

    assert into_fifty_ohms("voltmeter behind a divider", divider)[5.0] == pytest.approx(watts, rel=1e-3)


def test_a_table_says_what_the_same_reading_says_when_it_is_typed():
    for name in ("sensor behind a pad", "voltmeter behind a divider", "ammeter in the line", "better meter in line"):
        made, table = by_channel(name)
        shown, watts = table.values[-2]
        unit = "V" if table.shown == "Vrms" else table.shown
        point = made.plan[0]
        for place, channel in enumerate(point.sequence):
            if made.is_device(channel):
                made = enter(made, Slot(point.id, 1, place), "50")
        place = next(n for n, channel in enumerate(point.sequence) if made.is_reference(channel))
        made = enter(made, Slot(point.id, 1, place), f"{shown} {unit}{'rms' if unit == 'V' else ''}")
        assert reduce(made).points[0].reference_w == pytest.approx(watts, rel=2e-3), name


def test_the_planned_level_is_shown_where_the_table_says_so():
    _, table = by_channel("sensor behind a pad")
    level, shown = table.levels[0]
    below, above = next(
        (a, b) for a, b in zip(table.values, table.values[1:], strict=False) if a[1] <= 80.0 <= b[1]
    )  # fmt: skip
    between = below[0] + 10.0 * math.log10(80.0 / below[1])

    assert level == "80\u202fW"
    assert [row[0] for row in table.rows][-1] == "29\u202fdBm" and len(shown.split("\u202f")[0].split(".")[1]) == 2
    assert float(shown.split("\u202f")[0]) == pytest.approx(between, abs=0.06)
    assert above[0] == below[0] + 1.0


def test_a_scale_ends_at_its_full_scale_and_steps_are_round():
    made = plan_with_cell(job(frequencies_hz=(7e6,)), 0, 1, "150 W")
    table = reading_tables(made, (), DAY).tables[0]
    steps = {round(b[0] - a[0], 9) for a, b in zip(table.values, table.values[1:], strict=False)}

    assert table.shown == "Vpp"
    assert len(steps) == 1
    assert f"{steps.pop():.0e}"[0] in "125"
    assert table.values[-1][1] >= 150.0


def test_more_frequencies_than_fit_go_on_another_page_and_known_less_well_at_the_bottom():
    many = job(frequencies_hz=tuple(1e6 * n for n in range(1, MOST_COLUMNS + 3)))
    tables = reading_tables(many, (), DAY).tables
    _, of_full_scale = by_channel("better meter in line")

    assert [len(item.frequencies) for item in tables] == [MOST_COLUMNS, 2]
    assert of_full_scale.known.count("±") >= 1
    pages = PdfReader(io.BytesIO(sheet_pdf(reading_tables(many, (), DAY)))).pages
    assert len(pages) == 2
    text = pages[1].extract_text()
    for said in (
        "V peak to peak to watts",
        "Incident power at Bittern",
        "At the planned levels it should show",
        "6 MHz",
    ):
        assert said in text.replace("\u202f", " ").replace("\u2009", " ")


def test_how_well_one_reading_is_known_is_that_of_the_worst_frequency():
    """A scope of 100 MHz is corrected at 30 MHz, and half of that is in its budget."""

    def known(*frequencies_hz):
        made = job(frequencies_hz=frequencies_hz)
        slow = with_properties(made.part_read("scope"), bandwidth_hz=Property(1e8, "Hz"))
        return reading_tables(made.with_part(slow), (), DAY).tables[0].known

    low, high = (float(known(f).split("±")[1].split("\u202f")[0]) for f in (2e6, 30e6))
    assert high > 1.2 * low
    assert known(2e6, 30e6) == known(30e6)


def test_for_other_programs_each_value_has_its_line():
    made, table = by_channel("voltmeter behind a divider")
    rows = list(csv.reader(io.StringIO(tables_csv(reading_tables(made, (), DAY)).decode("utf-8-sig"))))

    assert rows[0] == ["instrument", "shown", "unit", "frequency", "power / W"]
    assert len(rows) == 1 + len(table.values)
    assert rows[1][3] == "470 kHz"
    assert float(rows[3][4]) == pytest.approx(table.values[2][1])


def test_where_nothing_is_planned_there_is_no_table():
    with pytest.raises(UnknownIdError, match="no reading is planned"):
        reading_tables(job(frequencies_hz=()), (), DAY)


def test_of_several_hook_ups_each_table_says_which():
    made = loss_job("two couplers")
    labels = [item.label for item in reading_tables(made, (), DAY).tables]

    assert len(set(labels)) == len(labels)
    assert all(any(label.endswith(f", {hookup.label}") for hookup in made.hookups) for label in labels)
