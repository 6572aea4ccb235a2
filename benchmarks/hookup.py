"""A hook-up: an edit of a long line until it is painted, against a frame; two-ports in a row against scikit-rf."""

import os
from collections.abc import Iterator
from dataclasses import replace
from itertools import cycle

import numpy as np

from benchmarks.clock import median_seconds
from fenmist.calibration.job import Job
from fenmist.hookup.editing import inserted
from fenmist.kit import generic
from fenmist.kit.generic import starter_shelf
from fenmist.procedures.benchwork import with_switched, with_turned
from fenmist.procedures.comparison.make import cross_check, plan_points
from fenmist.rf.twoport import cascaded
from fenmist.units.moment import moment_from_text

FRAME_S = 1.0 / 60.0
POINTS, PARTS = 300, 12
FREQUENCIES_PLANNED = (30, 300)
BLOCKS, FREQUENCIES = 5, 201


def lines() -> list[str]:
    """Edit and repaint; cascades."""
    return [*_editing(), *_cascading()]


def _job(tones: int) -> Job:
    """A line of a dozen parts, a tap with a switched sensor among them, under a plan of 300 points."""
    kit = starter_shelf()
    frequencies = np.linspace(1.8e6, 30e6, tones)
    plan = plan_points(frequencies, list(np.linspace(1.0, 5.0, POINTS // tones)), "20")
    made = cross_check("job", "a long line", kit, plan, created_at=moment_from_text("2026-11-25T09:00:00+01:00"))
    hookup, kind = made.hookups[0], "50 Ω, 5 mm, solid polyethylene"
    parts = [generic.cable(f"c{n}", f"cable {n}", kind, 0.5) for n in range(3)]
    tap = generic.resistive_tap("tap", "tap", 2460.0, 50.0)
    step = generic.attenuator("s", "steps", 0, 0.3, 1.0, positions=(0, 10, 20, 30))
    sensor = generic.power_meter("sensor", "sensor")
    for part in (*parts, tap):
        hookup = inserted(hookup, "meter", "out", part)
    hookup = inserted(hookup, "tap", "side", step)
    hookup = inserted(hookup, "attenuator", "out", sensor)
    if len(hookup.elements) < PARTS:
        raise SystemExit(f"the line has {len(hookup.elements)} parts only")
    return replace(made, kit=(*made.kit, *parts, tap, step, sensor), hookups=(hookup,))


def _editing() -> list[str]:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtWidgets import QApplication

    from fenmist.calibration.levels import planned_levels
    from fenmist.desk.theme import ThemeHolder, load_fonts
    from fenmist.desk.widgets.line_view import LineView
    from fenmist.desk.widgets.staircase_view import StaircaseView
    from fenmist.hookup.staircase import staircase

    application = QApplication.instance() or QApplication([])
    load_fonts()
    if not isinstance(application, QApplication):
        raise SystemExit("no application")
    themes = ThemeHolder(application)
    line, stairs = LineView(themes), StaircaseView(themes)
    for widget in (line, stairs):
        widget.resize(1000, widget.height())
    found = []
    for tones in FREQUENCIES_PLANNED:
        job = _job(tones)
        hookup = job.hookups[0]
        states = [with_switched(job, hookup, "attenuator"), with_turned(job, hookup, "cable")]
        turns = cycle(states)

        def edit(turns: Iterator[Job] = turns) -> None:
            made = replace(next(turns))
            line.show_job(made)
            levels = planned_levels(made)[made.hookups[0].id]
            stairs.show_stairs(staircase(made.hookups[0], made.parts, levels.highest))
            line.grab()
            stairs.grab()

        edit()
        spent = median_seconds(edit, 15)
        found.append(
            f"an edit of a line of {len(hookup.elements)} parts, {POINTS} points at {tones} frequencies, to painted "
            f"levels and staircase: {1e3 * spent:.0f} ms = {spent / FRAME_S:.1f} frames (aim 1)"
        )
    return found


def _cascading() -> list[str]:
    import skrf

    random = np.random.default_rng(3)
    shape = (FREQUENCIES, 2, 2)
    blocks = [np.asarray(0.3 * random.normal(size=shape) + 0.1j, complex) for _ in range(BLOCKS)]
    frequency = skrf.Frequency.from_f(np.linspace(1, 500, FREQUENCIES), unit="MHz")
    networks = [skrf.Network(frequency=frequency, s=block, z0=50.0) for block in blocks]
    ours = median_seconds(lambda: cascaded(blocks), 200)
    theirs = median_seconds(lambda: skrf.network.cascade_list(networks), 20)
    return [
        f"{BLOCKS} two-ports of {FREQUENCIES} points in a row: {1e6 * ours:.0f} µs; scikit-rf {1e3 * theirs:.1f} ms: "
        f"{theirs / ours:.0f}x faster (aim 4x)"
    ]
