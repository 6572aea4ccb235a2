"""A job as it is looked at: what was worked out is built on."""

from fenmist.reading.event import Slot
from fenmist.session.view import View
from studies.builders import WHEN, enter, job


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
