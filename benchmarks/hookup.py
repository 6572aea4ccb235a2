"""A hook-up: an edit of a long line until the window is painted, against a frame; two-ports against scikit-rf."""

import os
import statistics
import tempfile
import time
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

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

if TYPE_CHECKING:
    from PySide6.QtWidgets import QApplication

    from fenmist.desk.shell import Shell

FRAME_S = 1.0 / 60.0
POINTS, PARTS = 300, 12
FREQUENCIES_PLANNED = (30, 300, 1000)
EDITS = 5
"""Of each of two kinds."""

BLOCKS, FREQUENCIES = 5, 201


def lines() -> list[str]:
    """Edit and repaint; cascades."""
    return [*_editing(), *_cascading()]


def _job(tones: int) -> Job:
    """A line of a dozen parts, a tap with a switched sensor among them, under a plan of 300 points."""
    kit = starter_shelf()
    frequencies = np.linspace(1.8e6, 30e6, tones)
    plan = plan_points(frequencies, list(np.linspace(1.0, 5.0, max(POINTS // tones, 1))), "20")
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
    """From the edit to the painted window: levels, notes, what is kept on disk."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtCore import QSettings
    from PySide6.QtWidgets import QApplication

    from fenmist.desk.shell import Shell
    from fenmist.desk.stepnumbers import HOOKUP
    from fenmist.desk.theme import ThemeHolder, load_fonts
    from fenmist.session.session import Session

    application = QApplication.instance() or QApplication([])
    load_fonts()
    if not isinstance(application, QApplication):
        raise SystemExit("no application")
    spent: dict[int, float] = {}
    for tones in FREQUENCIES_PLANNED:
        with tempfile.TemporaryDirectory() as folder:
            session = Session(Path(folder) / "book.fenlog", second_folder=Path(folder))
            session.logbook.add_job(_job(tones))
            settings = QSettings(str(Path(folder) / "s.ini"), QSettings.Format.IniFormat)
            shell = Shell(session, ThemeHolder(application), settings)
            shell.show()
            shell.open_job("job")
            shell.go_step(HOOKUP)
            made = [_edit(application, shell, turned) for turned in (False, True) * EDITS]
            spent[tones] = statistics.median(made[2:] or made)
            shell.close()
            session.close()
    first = spent[FREQUENCIES_PLANNED[0]]
    return [
        f"an edit of a line of {PARTS} parts in the window, {tones} frequencies planned: {1e3 * taken:.0f} ms of "
        f"processor time to painted levels and notes = {taken / FRAME_S:.1f} frames, {taken / first:.1f}x that at "
        f"{FREQUENCIES_PLANNED[0]} (aim 16, 25, 60 ms)"
        for tones, taken in spent.items()
    ]


def _edit(application: "QApplication", shell: "Shell", turned: bool) -> float:
    job = shell.session.open_job
    if job is None:
        raise SystemExit("no job")
    hookup = job.job.hookups[0]
    made = with_turned(job.job, hookup, "cable") if turned else with_switched(job.job, hookup, "attenuator")
    begun = time.process_time()
    job.edit(made, "edit")
    application.processEvents()  # what has changed is painted by that
    return time.process_time() - begun


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
