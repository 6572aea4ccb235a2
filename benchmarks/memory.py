"""Memory of a window in which job after job is opened and read, and certificates are set; against the tenth job's."""

import gc
import os
import tempfile
from dataclasses import replace
from pathlib import Path

from benchmarks.growth import FRESH

JOBS, POINTS, CERTIFICATES, SETTLED = 100, 20, 40, 10
"""Each job has two readings a point: 4,000 entries in all. Growth is counted from the tenth job on."""


def lines() -> list[str]:
    """One line."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtCore import QCoreApplication, QEvent, QSettings
    from PySide6.QtWidgets import QApplication

    from fenmist.desk.shell import Shell
    from fenmist.desk.stepnumbers import READINGS, RESULTS
    from fenmist.desk.theme import ThemeHolder, load_fonts
    from fenmist.kit.generic import starter_shelf
    from fenmist.procedures.comparison.make import cross_check, plan_points
    from fenmist.reading.event import Slot
    from fenmist.session.paper import issue, to_issue
    from fenmist.session.session import Session

    application = QApplication.instance() or QApplication([])
    load_fonts()
    if not isinstance(application, QApplication):
        raise SystemExit("no application")
    seen: list[float] = []
    with tempfile.TemporaryDirectory() as folder:
        session = Session(Path(folder) / "book.fenlog", second_folder=Path(folder))
        settings = QSettings(str(Path(folder) / "s.ini"), QSettings.Format.IniFormat)
        shell = Shell(session, ThemeHolder(application), settings)
        shell.show()
        plan = plan_points([2e6 + 1.2e6 * n for n in range(POINTS)], [100.0], "200")
        first = cross_check("job", "bench", starter_shelf(), plan, created_at=FRESH)
        for number in range(JOBS):
            session.logbook.add_job(replace(first, id=f"job{number}", title=f"bench {number}"))
            shell.open_job(f"job{number}")
            job = session.open_job
            if job is None:
                raise SystemExit("no job")
            shell.go_step(READINGS)
            for point in plan:
                job.enter(Slot(point.id, 1, 0), "200")
                job.enter(Slot(point.id, 1, 1), "99.5")
                application.processEvents()
            shell.go_step(RESULTS)
            application.processEvents()
            if number < CERTIFICATES:
                request = to_issue(session, job.view)
                issue(session, request, request())
            del job
            QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)  # as an event loop does by itself
            gc.collect()
            seen.append(_resident_mb())
        shell.close()
        session.close()
    settled = seen[min(SETTLED, len(seen)) - 1]
    return [
        f"memory over {JOBS} jobs, {2 * POINTS * JOBS} entries and {min(CERTIFICATES, JOBS)} certificates: "
        f"{settled:.0f} MB after {min(SETTLED, JOBS)} jobs, {seen[-1]:.0f} MB at the end: "
        f"{100.0 * (seen[-1] / settled - 1.0):+.1f} % (aim 5 % at most)"
    ]


def _resident_mb() -> float:
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 1e6
