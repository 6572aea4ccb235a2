"""What one key in the readings step costs: draft reduced, judged and shown, at growing plans; against one frame."""

import os
import statistics
import tempfile
import time
from pathlib import Path

FRAME_MS = 16.0


def lines() -> list[str]:
    """A line per size of plan."""
    return [_line(points) for points in (12, 100, 300)]


def _line(points: int) -> str:
    import numpy as np

    from fenmist.calibration.make import cross_check, plan_points
    from fenmist.kit.shelf import starter_shelf
    from fenmist.reading.event import Role, Slot
    from fenmist.session.openjob import OpenJob
    from fenmist.session.session import Session

    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    with tempfile.TemporaryDirectory() as folder:
        session = Session(Path(folder) / "book.fenlog")
        plan = plan_points(np.linspace(2e6, 30e6, points), [100.0], "200")
        made = cross_check("job", "bench", starter_shelf(), plan, created_at="2026-01-01T00:00:00+00:00")
        session.logbook.add_job(made)
        job: OpenJob = session.open("job")
        for point in plan[:-1]:
            job.enter(Slot(point.id, 1, 0), Role.REFERENCE, "200")
            job.enter(Slot(point.id, 1, 1), Role.DUT, "99")
        job.enter(Slot(plan[-1].id, 1, 0), Role.REFERENCE, "200")
        spent = []
        for number in range(40):
            begun = time.perf_counter()
            view = job.draft(Slot(plan[-1].id, 1, 1), Role.DUT, f"9{number}")
            points_shown = len(view.result.points)
            spent.append(1e3 * (time.perf_counter() - begun))
        judged = time.perf_counter()
        notes = len(view.notes)
        judged = 1e3 * (time.perf_counter() - judged)
        session.close()
    p95 = statistics.quantiles(spent, n=20)[18]
    return (
        f"a key at {points_shown} points, {notes} notes: draft p95 {p95:.1f} ms = {p95 / FRAME_MS:.2f} of a frame; "
        f"notes after a rest {judged:.1f} ms"
    )
