"""Commands on an open job: records first, then memory, then one notice; undo leaves its trace."""

from datetime import UTC, datetime, timedelta

import pytest

from fenmist.calibration.edit import plan_with_cell
from fenmist.errors import UnknownIdError
from fenmist.reading.event import EventKind, Slot
from fenmist.session.planview import PlanState, plan_states
from fenmist.session.route import route
from fenmist.session.session import Session

SCOPE, METER = Slot("p1", 1, 0), Slot("p1", 1, 1)
SCOPE_TWO = Slot("p1", 2, 0)


class Clock:
    def __init__(self):
        self.now = datetime(2026, 11, 24, 10, 0, tzinfo=UTC)

    def __call__(self):
        self.now += timedelta(seconds=1)
        return self.now


@pytest.fixture
def session(tmp_path):
    made = Session(tmp_path / "book.fenlog", Clock())
    yield made
    made.close()


@pytest.fixture
def job(session):
    made = session.new_job("a job")
    made.edit(plan_with_cell(made.job, 0, 0, "7.125 MHz"), "plan")
    return made


def _kinds(job):
    return [event.kind for event in job.job.events]


def test_an_entry_is_on_disk_before_the_notice(session, job):
    told = []
    job.changed.listen(lambda: told.append(session.logbook.event_count(job.job.id)))

    job.enter(SCOPE, "102")

    assert told == [1]


def test_a_pair_of_entries_gives_a_result_and_the_next_slot(job):
    job.enter(SCOPE, "102")
    assert job.view.next_slot() == METER

    job.enter(METER, "25.6")

    assert len(job.view.result.points) == 1
    assert job.view.next_slot() is None


def test_a_draft_shows_what_would_be_and_keeps_nothing(session, job):
    job.enter(SCOPE, "102")

    view = job.draft(METER, "25.6")

    assert len(view.result.points) == 1
    assert job.view.result.points == ()
    assert session.logbook.event_count(job.job.id) == 1


def test_typing_again_strikes_the_former_entry_as_replaced(job):
    job.enter(SCOPE, "102")
    job.enter(SCOPE, "103")

    assert _kinds(job) == [EventKind.ENTER, EventKind.STRIKE, EventKind.ENTER]
    assert job.job.events[1].reason == "replaced"
    assert job.view.standing[SCOPE].entry.raw_text == "103"


def test_undo_of_an_entry_strikes_it_and_redo_restores_it(job):
    job.enter(SCOPE, "102")
    job.commands.undo()
    assert SCOPE not in job.view.standing
    assert _kinds(job) == [EventKind.ENTER, EventKind.STRIKE]

    job.commands.redo()

    assert job.view.standing[SCOPE].entry.raw_text == "102"
    assert _kinds(job)[-1] is EventKind.RESTORE


def test_undo_of_a_replacement_brings_the_former_entry_back(job):
    job.enter(SCOPE, "102")
    job.enter(SCOPE, "103")
    job.commands.undo()
    assert job.view.standing[SCOPE].entry.raw_text == "102"

    job.commands.redo()

    assert job.view.standing[SCOPE].entry.raw_text == "103"


def test_undo_of_an_edit_is_a_further_revision(session, job):
    job.edit(plan_with_cell(job.job, 0, 1, "50 W"), "plan")
    job.commands.undo()

    assert job.job.plan[0].target_w == 100.0
    assert session.logbook.job(job.job.id) == job.job


def test_edits_of_one_cell_are_undone_as_one(job):
    before = job.job.plan
    for text in ("50 W", "60 W", "70 W"):
        job.edit(plan_with_cell(job.job, 0, 1, text), "plan", merge="plan 0 1")
    assert job.job.plan[0].target_w == 70.0

    job.commands.undo()

    assert job.job.plan == before


def test_an_edit_that_changes_nothing_is_no_step(job):
    label = job.commands.undo_label
    told = []
    job.changed.listen(lambda: told.append(1))

    job.edit(job.job, "nothing")

    assert (job.commands.undo_label, told) == (label, [])


def test_strike_keeps_the_reason_and_can_be_undone(job):
    job.enter(SCOPE, "102")
    job.strike(SCOPE, "source moved")
    assert job.job.events[-1].reason == "source moved"

    job.commands.undo()

    assert SCOPE in job.view.standing
    with pytest.raises(UnknownIdError):
        job.strike(METER, "nothing there")


def test_an_answer_is_kept_with_its_evidence_and_can_be_undone(session, job):
    note = next(note for note in job.view.notes if note.code == "load.unknown_here")
    job.answer(note, "checked")
    assert session.logbook.job(job.job.id).answers[note.key].text == "checked"
    assert job.job.answers[note.key].holds_for(note)

    job.commands.undo()

    assert job.job.answers == {}


def test_a_listener_can_stop_listening(job):
    told = []
    end = job.changed.listen(lambda: told.append(1))
    end()

    job.enter(SCOPE, "102")

    assert told == []


def test_what_is_expected_decides_between_two_readings(job):
    assert job.expected_si(SCOPE) == pytest.approx(200.0, rel=0.01)  # 100 W in about 50 Ω
    assert job.interpret(SCOPE, "1,250").likeliest_text == "1250 Vpp"


def test_a_job_opened_again_is_where_it_was(session, job):
    job.enter(SCOPE, "102")

    again = session.open(job.job.id)

    assert again.job == job.job
    assert again.view.next_slot() == METER


def test_the_list_says_what_came_of_each_job(session, job):
    job.enter(SCOPE, "200")
    job.enter(METER, "100")

    summary = session.summaries()[0]

    assert (summary.points_read, summary.points) == (1, 1)
    assert "high" in summary.headline or "low" in summary.headline or "right" in summary.headline


def test_the_route_fills_as_the_job_goes_on(job):
    assert [state.fill for state in route(job.view)] == [0.0, 1.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0]

    job.enter(SCOPE, "200")
    assert route(job.view)[4].fill == 0.5
    job.enter(METER, "100")

    fills = [state.fill for state in route(job.view)]
    assert fills[4:6] == [1.0, 1.0]
    assert route(job.view)[7].needs == "2 unanswered"
    for note in job.view.notes:
        job.answer(note, "seen")
    assert (route(job.view)[7].fill, route(job.view)[7].needs) == (1.0, "")
    job.edit(plan_with_cell(job.job, 1, 0, "14 MHz"), "plan")
    for note in job.view.notes:
        job.answer(note, "seen")
    assert (route(job.view)[7].fill, route(job.view)[7].needs) == (0.5, "")


def test_parts_changed_in_the_kit_leave_a_job_as_it_was(session, job):
    from dataclasses import replace

    lead = next(part for part in session.kit if part.id == "generic-lead")
    session.save_part(replace(lead, label="another lead"))

    assert session.open(job.job.id).job.part("generic-lead").label == "generic lead"


@pytest.fixture
def crossed(job):
    """Two levels planned, 50 W and 100 W; the second round of the first was read at the other (P = Vpp²/8R)."""
    for row, level in enumerate(("50", "100")):
        job.edit(plan_with_cell(job.job, row, 0, "7.125 MHz"), "plan")
        job.edit(plan_with_cell(job.job, row, 1, level), "plan")
    for text, slot in (
        ("141", SCOPE), ("49", METER),
        ("199", SCOPE_TWO), ("97", Slot("p1", 2, 1)),
    ):  # fmt: skip
        job.enter(slot, text)
    return job


def _standing(job):
    return {slot: event.entry.raw_text for slot, event in job.ledger.standing.items()}


def test_a_round_read_at_another_level_goes_there_and_leaves_its_trace(session, crossed):
    made = crossed.job.ledger.at("p1")[SCOPE_TWO]

    assert crossed.move_round(Slot("p1", 2, 1)) == Slot("p2", 1, 0)

    held = session.logbook.job(crossed.job.id)
    assert _standing(held) == {
        SCOPE: "141", METER: "49", Slot("p2", 1, 0): "199", Slot("p2", 1, 1): "97",
    }  # fmt: skip
    assert held.ledger.standing[Slot("p2", 1, 0)].entry.observed_at == made.entry.observed_at
    assert [event.reason for event in crossed.job.events if event.kind is EventKind.STRIKE] == ["moved to p2"] * 2


def test_a_moved_round_is_undone_and_redone_as_one_step(crossed):
    before = _standing(crossed.job)
    crossed.move_round(SCOPE_TWO)
    moved = _standing(crossed.job)

    crossed.commands.undo()
    assert _standing(crossed.job) == before
    crossed.commands.redo()
    assert _standing(crossed.job) == moved


def test_a_moved_round_takes_the_first_free_round_of_its_point(crossed):
    crossed.enter(Slot("p2", 1, 0), "200")

    assert crossed.move_round(SCOPE_TWO) == Slot("p2", 2, 0)


def test_a_round_that_fits_where_it_is_does_not_move(crossed):
    with pytest.raises(UnknownIdError, match="No planned point"):
        crossed.move_round(SCOPE)


def test_when_the_first_digit_was_typed_is_kept_with_entries_of_that_point_alone(session, crossed):
    crossed.begin_entry(Slot("p2", 1, 0))
    crossed.enter(Slot("p1", 2, 0), "199")
    crossed.begin_entry(Slot("p2", 1, 0))
    crossed.enter(Slot("p2", 1, 0), "199")

    elsewhere, there = (event.entry for event in crossed.job.events[-2:])
    assert elsewhere.begun_at is None
    assert there.begun_at < there.observed_at


def test_entries_on_disk_are_all_that_were_made_struck_ones_too(job):
    assert job.entries_on_disk == 0
    job.enter(SCOPE, "102")
    job.strike(SCOPE, "slip")
    job.enter(SCOPE, "101")
    assert job.entries_on_disk == 2


def test_a_point_is_to_be_repeated_for_an_open_entry_or_a_doubt(crossed):
    """p1 holds a round read at another level; at p2 nothing stands until a text that nobody can read."""
    assert plan_states(crossed.view) == {"p1": PlanState.TO_REPEAT, "p2": PlanState.PLANNED}
    crossed.move_round(SCOPE_TWO)
    assert plan_states(crossed.view)["p1"] is not PlanState.TO_REPEAT
    crossed.enter(Slot("p2", 2, 0), "abc")
    assert plan_states(crossed.view)["p2"] is PlanState.TO_REPEAT
