"""Certificates: the page of a job from its record to the PDF, by its length; the peer is the shortest one."""

import time

from benchmarks.growth import FRESH, long_job

POINTS = (12, 100, 300, 1000)
FIRST_PAGE_S = 1.2


def lines() -> list[str]:
    """A line for each length."""
    _spent(POINTS[0])  # typesetting and drawing are imported
    spent = {points: _spent(points) for points in POINTS}
    return [
        f"a certificate of {points} points: {1e3 * taken:.0f} ms of processor time = {taken / FIRST_PAGE_S:.2f} of the "
        f"{FIRST_PAGE_S:g} s after which progress is shown, {taken / spent[POINTS[0]]:.1f}x that of {POINTS[0]} points"
        for points, taken in spent.items()
    ]


def _spent(points: int) -> float:
    from fenmist.reports.paper import certificate_pdf
    from fenmist.session.paper import certificate_of
    from fenmist.session.view import View

    view = View(long_job(points, 1), FRESH)
    _ = view.notes
    begun = time.process_time()
    certificate_pdf(certificate_of(view), "a4")
    return time.process_time() - begun
