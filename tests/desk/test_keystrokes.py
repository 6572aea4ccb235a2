"""How many keys a run costs: thirty points from the numeric pad, with two slips that are struck and typed again."""

import numpy as np

from fenmist.kit.generic import starter_shelf
from fenmist.procedures.comparison.make import cross_check, plan_points
from fenmist.reading.event import struck
from fenmist.units.moment import moment_from_text

POINTS = 30
SLIPS = {13: "9.95", 40: "210"}
"""Number of the entry that is typed wrong first, and how."""

MOST = 1.10
"""Keys over the sum of (length typed + 1): what an issue asks for."""


def test_a_thirty_point_run_with_two_slips_costs_hardly_more_keys_than_its_figures(hands):
    rng = np.random.default_rng(30)
    plan = plan_points(np.linspace(2e6, 28e6, POINTS), [100.0], "200")
    made = cross_check("job", "keys", starter_shelf(), plan, created_at=moment_from_text("2026-11-25T09:00:00+01:00"))
    hands.session.logbook.add_job(made)
    hands.shell.open_job("job")
    hands.press("alt+5")
    wanted = [f"{volts:.1f}" if n % 2 == 0 else f"{rng.uniform(95, 104):.1f}"
              for n, volts in enumerate(rng.uniform(196, 204, 2 * POINTS))]  # fmt: skip
    keys = 0

    def pad(text):
        nonlocal keys
        hands.pad(text)
        keys += len(text) + 1

    for number, text in enumerate(wanted):
        if number in SLIPS:
            pad(SLIPS[number])
            hands.type("/1")  # strikes the last entry and goes back to it
            keys += 2
        pad(text)

    job = hands.shell.bench.job
    kept = [event.entry.raw_text for event in job.view.standing.values()]
    assert sorted(kept) == sorted(wanted)
    assert len(struck(job.job.events)) == len(SLIPS)
    assert job.view.result.complete
    assert keys / sum(len(text) + 1 for text in wanted) <= MOST
