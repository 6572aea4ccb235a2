"""Where marks stand on drawings."""

import time

from PySide6.QtTest import QTest

from fenmist.desk.plots.error_plot import ErrorPlot
from fenmist.desk.stepnumbers import HOOKUP
from fenmist.desk.theme import ThemeHolder
from fenmist.kit import generic
from fenmist.kit.part import PartKind
from fenmist.procedures.benchwork import with_exchanged, with_inserted
from fenmist.procedures.page import Chart
from support.ink import painted


def test_powers_against_time_rise_where_they_rise_and_stay_inside(demo, monkeypatch):
    demo.shell.open_job("demo-bittern")
    demo.press("alt+5")
    demo.shell.bench.step.toggle_series()
    demo.settle(0.1)
    view = demo.shell.bench.step.below.series
    view.limit.setFocus()
    demo.type("1 W")
    ink = painted(monkeypatch, view.drawing)

    assert ink.lie_inside(view.drawing)
    read = [one for item in view.drawing.series for one in zip(item.seconds, item.powers_w, strict=True)]
    assert len(ink.rings) == len(read) > 1
    for (t, watts), ring in zip(read, ink.rings, strict=True):
        for (later, more), other in zip(read, ink.rings, strict=True):
            assert (ring.x() < other.x()) is (t < later)
            assert (ring.y() > other.y()) is (watts < more)
    assert all(ring.y() < ink.lines[0][0].y() for ring in ink.rings)  # the limit is far below


def test_each_reading_has_a_column_with_its_error_as_found_and_as_it_would_be(demo, monkeypatch):
    demo.shell.open_job("demo-bittern")
    demo.press("alt+7")
    view = demo.shell.bench.step.turn.view
    places, ink = view.found.turnable.places, painted(monkeypatch, view)

    assert ink.lie_inside(view)
    assert len(ink.boxes) == len(places)
    found, now = ink.rings[::2], ink.rings[1::2]
    for place, box, before, after in zip(places, ink.boxes, found, now, strict=True):
        assert box.left() < before.x() < after.x() < box.right()
        error = view.found.error(place, view.setting)
        assert (box.top() <= after.y() <= box.bottom()) is (abs(error) <= place.tolerance)
        assert (before.y() > after.y()) is (place.indicated_w / place.reference_w - 1.0 < error)
    assert [box.left() for box in ink.boxes] == sorted(box.left() for box in ink.boxes)


def test_the_name_of_a_tee_finds_room_on_a_crowded_line(demo, monkeypatch):
    """Beside it as long as the wire is long enough, else under the part before it."""
    demo.shell.open_job("demo-teal")
    demo.shell.go_step(HOOKUP)
    job, view = demo.shell.session.open_job, demo.shell.bench.step.line
    tee = next(item.element for item in view.placed() if item.kind is PartKind.TEE)
    other = next(item for item in generic.starter_shelf() if item.kind is PartKind.TEE)
    job.edit(with_exchanged(job.job, job.job.hookups[0], tee, other), "a longer name")
    heights = []
    for number in range(6):
        ink = painted(monkeypatch, view)
        tee = next(item for item in view.placed() if item.kind is PartKind.TEE)
        name, others = ink.words[tee.label], [item.box for item in view.placed() if item is not tee]
        assert not any(name.intersects(box) for box in others)
        heights.append(name.top() - tee.box.center().y())
        before = view.placed()[view.placed().index(tee) - 1].element
        cable = generic.cable(f"more{number}", f"cable {number}", "50 Ω, 5 mm, solid polyethylene", 0.5)
        job.edit(with_inserted(job.job, job.job.hookups[0], before, cable), "cable")
    assert heights[0] < heights[-1]


def test_a_chart_that_is_asked_for_again_and_again_is_drawn_meanwhile_and_not_each_time(qt):
    """Readings by wire come every 20 ms: a chart that waited for the last of them would stand still for a whole run."""
    plot, made = ErrorPlot(ThemeHolder(qt)), []
    ends, asked = time.monotonic() + 0.8, 0
    while time.monotonic() < ends:
        plot.show_chart_soon(lambda number=asked: made.append(number) or Chart(()), lambda: None)
        asked += 1
        assert asked > 1 or made == []
        QTest.qWait(20)

    assert 1 < len(made) < asked / 2
    assert made == sorted(set(made))  # each is the latest that was asked for
    plot.deleteLater()
