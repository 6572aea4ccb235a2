"""The demonstration: made by the code that users run, its truth known."""

import math
import os
import shutil
import subprocess
import sys
from dataclasses import replace
from datetime import date
from pathlib import Path

import pytest

from fenmist.demo.buttons import DECAY_S
from fenmist.demo.world import BENCH, WORKSHOP, make_demo, true_bittern_error_db
from fenmist.kit.due import State, due
from fenmist.measurand import Detector
from fenmist.procedures.reflection.findings import by_level
from fenmist.reading.event import Slot, struck
from fenmist.session.captures import CaptureRequest
from fenmist.session.session import Session
from fenmist.session.summaries import summary
from fenmist.units.moment import moment_from_text
from studies.builders import job
from support.desk import DEMO_JOBS


@pytest.fixture(scope="module")
def session(tmp_path_factory, demo_file):
    made = Session(Path(shutil.copy(demo_file, tmp_path_factory.mktemp("demo") / "demo.fenlog")))
    yield made
    made.close()


@pytest.fixture(scope="module")
def bittern(session):
    return session.open("demo-bittern")


def test_it_is_marked_and_has_a_read_job_and_one_to_try(session):
    assert session.is_demo
    assert session.workshop == WORKSHOP
    assert {job.id: job.points_read for job in session.summaries()} == {
        "demo-bittern": 12, "demo-teal": 0, "demo-knot": 0, "demo-dunlin": 4, "demo-godwit": 3,
        "demo-sanderling": 28, "demo-sandpiper": 4,
        "demo-bittern-2022": 4, "demo-bittern-2024": 4, "demo-whimbrel": 6, "demo-redshank": 4, "demo-dotterel": 6,
        "demo-shoveler": 3,
        "demo-phalarope": 8,
        "demo-merganser": 1,
        "demo-gadwall": 4, "demo-moorhen": 6, "demo-smew": 2, "demo-pintail": 3, "demo-grebe": 3,
    }  # fmt: skip


def test_a_tired_set_and_a_wet_line_are_told(session):
    """The one gives a ninth at any power; on the other a load in front is fine, and at the far end not."""
    smew, pintail = (session.open(name).view.page for name in ("demo-smew", "demo-pintail"))

    assert smew.headline.startswith("Most likely the transmitter (")
    assert pintail.headline == "It is the line (over 99\u202f%)."
    assert [row[2] for row in pintail.rows] == ["antenna", "load", "far load"]


def test_the_beacon_gives_less_than_its_own_meter_shows(session):
    """A fifth less of 20, 50 and 80 W, by an ammeter that is known to 1.5 %."""
    stated = session.open("demo-grebe").view.result.stated

    assert [item.value / item.point.target_w for item in stated] == pytest.approx([0.2] * 3, abs=0.05)
    assert all(item.value > item.expanded_u for item in stated)


def test_the_trap_is_caught_by_the_notes_and_the_half_read_job_goes_on_where_it_was_left(session):
    trap = {note.code: note for note in session.open("demo-sandpiper").view.notes}
    begun = session.open("demo-godwit")

    assert {"entry.wrong_form", "entry.decimal_slip", "entry.wrong_arc", "received.faults"} <= set(trap)
    assert trap["entry.wrong_form"].about.startswith("p1/2/0")
    assert begun.view.resume_slot() == Slot("p4", 1, 0)
    assert sum(1 for point in begun.job.plan if point.blocked) == 2
    assert "entry.doubted" in {note.code for note in begun.view.notes}


def test_part_of_the_kit_is_due_and_part_overdue(session):
    states = {part.label: due(part, date(2026, 11, 25)).state for part in session.kit}

    assert {State.FINE, State.DUE, State.OVERDUE, State.UNKNOWN} <= set(states.values())
    assert states["Avocet 60"] is State.OVERDUE


def test_the_bitterns_fall_at_the_top_is_a_drift_through_the_years(session):
    lines = {round(line.frequency_hz): line for line in session.drifts("bittern", "B2-0417")}

    worst = lines[16420000]
    truth = 10 ** (true_bittern_error_db(16.42e6) / 10) - 10 ** (0.4 * true_bittern_error_db(16.42e6) / 10)
    assert worst.per_year == pytest.approx(truth / 4.0, abs=2 * worst.u_per_year)
    assert (worst.since[:4], worst.latest_on[:4]) == ("2022", "2026")


def test_notes_asked_rule_by_rule_are_those_asked_at_once(session):
    """In every room, as found and as left: nothing is left out, and a rule that was asked isn't asked again."""
    for line in session.summaries():
        view = session.open(line.id).view
        at_once = view.procedure.judge(view.job, view.result, view.as_of.date(), view.phase, view.found)
        steps = list(view.judging())
        assert len(steps) > 20
        assert view.notes == at_once
        assert list(view.judging()) == []


def test_a_history_holds_each_stated_number_on_its_day_its_leg_and_as_found_or_left(session):
    """The Dunlin was adjusted; Pintail asks which one is wrong, each end by itself; Shoveler's are groups in dB."""

    def kept(job_id, phase):
        job = session.open(job_id)
        rows = [
            (on.on, on.unit, on.leg, on.question, *row)
            for on in session.history(job.job.dut, job.job.dut_part.serial)
            if on.job == job_id and on.as_left is (phase == "left")
            for row in zip(on.frequency_hz, on.level_w, on.error, on.expanded_u, on.tolerance, strict=True)
        ]
        result = job.view.left if phase == "left" else job.view.found
        numbers = [
            (item.point.frequency_hz, item.point.target_w, item.share, item.expanded_u_share, item.share_tolerance)
            for item in result.stated
        ]
        assert [row[4:] for row in rows] == numbers
        return [row[:4] for row in rows]

    assert kept("demo-dunlin", "found") == kept("demo-dunlin", "left") == [("2026-11-20", "%", "", "comparison")] * 4
    legs = ("antenna", "load", "far load")
    assert kept("demo-pintail", "found") == [("2026-11-23", "%", leg, "triage") for leg in legs]
    assert kept("demo-shoveler", "found") == [("2026-11-23", "dB", "", "loss")] * 3


def test_a_point_read_on_another_day_is_known_as_of_that(tmp_path):
    first, second = (moment_from_text(f"2026-11-2{day}T10:00:00+00:00") for day in (4, 7))
    made = job([[("141", "22")], [("141", "23")], [("141", "24")]], frequencies_hz=(7e6, 14e6, 21e6))
    events = [replace(item, at=second if item.entry.slot.point == "p2" else first) for item in made.events]

    _, past, _ = summary(replace(made, events=tuple(events)))

    assert [(on.on, list(on.frequency_hz)) for on in past] == [("2026-11-24", [7e6, 21e6]), ("2026-11-27", [14e6])]


def test_every_stated_error_holds_the_truth_within_its_uncertainty(bittern):
    """12 intervals of about 95 %: at most two may miss; with shared errors they miss or hold together."""
    misses = 0
    for point in bittern.view.result.points:
        truth = 10 ** (true_bittern_error_db(point.point.frequency_hz) / 10)
        misses += abs(point.ratio - truth) > point.expanded_u_ratio

    assert misses <= 2


def test_the_wattmeter_reads_low_at_the_top_of_its_span(bittern):
    worst = min(bittern.view.result.points, key=lambda item: item.error_db)

    assert worst.point.frequency_hz == 16.42e6
    assert worst.error_db == pytest.approx(true_bittern_error_db(16.42e6), abs=0.25)


def test_a_slip_was_struck_with_its_reason_and_is_still_on_record(bittern):
    assert "misread" in struck(bittern.job.events).values()


def test_the_lead_is_what_the_notes_speak_of(bittern):
    assert "lead.stub" in [note.code for note in bittern.view.notes]


def test_an_adjusted_meter_was_read_as_found_and_as_left(session):
    view = session.open("demo-dunlin").view

    assert [round(item.error_db, 1) for item in view.found.points] == pytest.approx([-0.75] * 4, abs=0.4)
    assert max(abs(item.error_db) for item in view.left.points) < 0.4
    assert "adjust.worse" not in [note.code for note in view.notes]
    for phase, truth in ((view.found, -0.75), (view.left, 0.05)):
        inside = [abs(p.ratio - 10 ** (truth / 10)) <= p.expanded_u_ratio for p in phase.points]
        assert sum(inside) >= 3


def test_the_last_reading_came_from_a_capture_that_is_still_there(bittern):
    entry = next(e.entry for e in reversed(bittern.job.events) if e.entry is not None)

    assert entry.attached_name == "bittern-16420kHz.csv"
    assert bittern.attached_capture(entry).trace("CH1").usable


def test_captures_to_try_lie_beside_the_logbook(demo_file):
    good, bad = (
        CaptureRequest(demo_file.parent / "captures to try" / f"teal-2182kHz-10W{which}.csv", expected_hz=2.182e6)()
        for which in ("", "-clipped")
    )

    assert good.trace.usable
    assert [note.code for note in bad.trace.notes] == ["capture.clipped"]


def test_the_truth_differs_from_what_the_workshop_believes():
    assert BENCH.scope_gain != 1.0
    assert math.isfinite(BENCH.scope_bandwidth_hz)


_KILLED = """
import os, sys
from pathlib import Path
from fenmist.demo import world
world._godwit = lambda *given: os._exit(9)
world.make_demo(Path(sys.argv[1]))
"""


def test_killed_while_it_is_made_it_is_made_anew_and_the_same(bittern, tmp_path):
    path = tmp_path / "demo.fenlog"
    done = subprocess.run([sys.executable, "-c", _KILLED, str(path)], check=False)
    assert done.returncode == 9
    assert not path.exists()
    (left,) = tmp_path.glob(".fenmist-demo-*")
    os.utime(left, (0, 0))  # long ago

    make_demo(path)

    assert not list(tmp_path.glob(".fenmist-demo-*"))
    again = Session(path, second_folder=tmp_path)
    assert len(again.summaries()) == DEMO_JOBS
    texts = [event.entry.raw_text for event in again.open("demo-bittern").job.events if event.entry]
    assert texts == [event.entry.raw_text for event in bittern.job.events if event.entry]
    again.close()


def test_of_three_references_the_wrong_one_is_named_and_the_others_decide(session):
    view = session.open("demo-whimbrel").view
    notes = {note.code: note for note in view.notes}

    assert notes["agreement.odd"].evidence["name"] == "Snipe +10 dBm"
    assert "10 dB" in notes["agreement.odd"].why.replace("\u202f", " ")
    for point in view.result.points:
        weights = {item.channel: item.weight for item in point.references}
        assert weights["meter"] == 0.0
        truth = 0.985 - 0.0006 * point.point.frequency_hz / 1e6
        assert abs(point.ratio - truth) <= point.expanded_u_ratio


def test_below_one_megahertz_the_ordinary_meter_reads_a_third(session):
    lowest = session.open("demo-redshank").view.result.points[0]

    assert lowest.point.frequency_hz == 137e3
    assert lowest.ratio == pytest.approx(1.0 / 3.0, abs=lowest.expanded_u_ratio)
    assert str(lowest.decision.verdict) == "reject"


def test_a_milliwatt_of_the_generator_is_less_the_higher_the_frequency(session):
    view = session.open("demo-dotterel").view
    at_mw = [point for point in view.result.points if point.point.target_w == 1e-3]

    for point in at_mw:
        truth = 1e-3 * 10.0 ** (-(0.15 + 0.012 * point.point.frequency_hz / 1e6) / 10.0)
        assert abs(point.power_w - truth) <= point.expanded_u_w
    assert [point.power_w for point in at_mw] == sorted((point.power_w for point in at_mw), reverse=True)


def test_a_loss_below_what_can_be_seen(session):
    """Its sheet says 0.02 ± 0.015 dB; what comes out is a bound, with what is on record beside it."""
    job = session.open("demo-shoveler")
    points = job.view.result.points

    assert len(points) == 3 and job.view.result.complete
    assert not any(point.is_seen for point in points)
    assert all(abs(point.loss_db - 0.02) < 0.015 + point.expanded_u_db for point in points)
    assert "less than" in job.view.procedure.short(job.view.result)
    assert [point.leg for point in job.job.plan] == ["direct"] * 3 + ["through"] * 3 + ["direct again"] * 3


def test_an_swr_meter_that_flatters(session):
    """Its leak is 0.0888: 21.0 dB, where 25 are claimed."""
    job = session.open("demo-phalarope")
    notes = {note.code: note for note in job.view.notes}

    assert {"reflection.directivity", "reflection.flatters"} <= set(notes)
    assert not {"entry.slip", "reflection.scale", "reflection.power"} & set(notes)
    poor = [item for item in job.view.result.points if item.point.leg == "Stint 100 Ω"]
    assert all(item.shown < item.window[0] and item.decision.verdict == "reject" for item in poor)
    for level in by_level(job.view.result):
        low, high = level.directivity_db
        assert low - 0.3 < 21.03 < high + 0.3


def test_two_meters_and_a_tuner_are_both_right(session):
    job = session.open("demo-merganser")
    notes = {note.code for note in job.view.notes}

    assert "reflection.tuner_between" in notes
    assert not {"reflection.meters_apart", "entry.slip", "tur.low"} & notes
    (point,) = job.view.result.points
    assert point.shown < 0.1 and point.others[0].is_inside and point.others[0].shown > 0.45


def test_a_peak_button_that_is_only_a_hold_is_told_with_its_decay(session):
    """Its circuit's decay lies within what is said of it; the crest was seen, so PEP held counts no more."""
    job = session.open("demo-gadwall")
    ((_, told),) = job.view.result.told
    low, _, high = told.decay_s

    assert told.likeliest is Detector.HOLD and told.is_sure
    assert low < DECAY_S < high
    assert "modulation.only_a_hold" in {note.code for note in job.view.notes}
    assert not {row.influence.id for row in job.view.result.budget("p2")} & {"pep"}
