"""A job as it is looked at: what was worked out is built on."""

from fenmist.reading.event import Slot
from fenmist.session.paper import certificate_of
from fenmist.session.view import View
from studies.builders import WHEN, enter, job

BENDS = {"load": [(3e6, "|57.7| swr 1.9"), (28e6, "|57.7| swr 1.9")], "lead_m": 0.3}
"""Of the load's reactance the sign is open: what follows is drawn."""


def test_the_next_view_builds_on_whatever_was_worked_out_last():
    made = job([[("102", "25.6")]], frequencies_hz=(7e6, 14e6))
    first = View(made, WHEN)
    unread = first.after(enter(made, Slot("p2", 1, 0), "101"), WHEN)
    assert first.latest is None and unread.former is None

    at_once = first.at_once
    assert first.after(made, WHEN).former is at_once
    whole = first.result
    later = first.after(enter(made, Slot("p2", 1, 0), "101"), WHEN)
    assert later.former is whole
    assert later.after(enter(later.job, Slot("p2", 1, 1), "25.3"), WHEN).former is whole  # nobody looked in between


def test_a_view_that_draws_one_point_at_a_time_ends_where_one_that_draws_all_does():
    made = job([[("102", "25.6")]] * 3, frequencies_hz=(14e6, 21e6, 28e6), **BENDS)
    whole, step = View(made, WHEN), View(made, WHEN, most=1)
    assert (whole.to_draw, whole.whole) == (0, whole)

    left = [step.to_draw]
    certificate = certificate_of(step)
    while step.to_draw:
        step = step.further()
        left.append(step.to_draw)

    assert left == [3, 2, 1, 0]
    assert step.whole is step
    assert step.result.stated == whole.result.stated
    assert step.notes == whole.notes
    assert certificate == certificate_of(whole)  # paper is never for now
    after = step.after(enter(made, Slot("p1", 1, 1), "25.7"), WHEN)
    assert after.most == 1
    assert after.to_draw == 0  # the only one that changed was drawn


def test_what_if_is_asked_of_a_point_alone():
    made = job([[("102", "25.6")]] * 2, frequencies_hz=(7e6, 14e6), load="50")
    view = View(made, WHEN)
    known = view.what_if({"scope.gain": 0.5}, "p2")

    assert [row.point.id for row in known.stated] == ["p2"]
    assert known.stated[0].u < 0.8 * view.result.stated[1].u
