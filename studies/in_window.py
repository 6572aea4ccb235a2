"""The coverage study through the window: each drawn bench is a point of a plan, and its readings are typed as keys."""

from dataclasses import replace

import numpy as np

from fenmist.units.moment import moment_from_text
from studies.coverage import Studied, draw_bench, empty_job, standardised, texts
from support.desk import Hands

IN_A_JOB = 25


def study_in_window(hands: Hands, points: int, frequency_hz: float, accuracy: float = 0.03, seed: int = 7) -> Studied:
    """Type what `points` drawn benches show into the readings step of some jobs, and compare what the jobs then say."""
    rng, rows = np.random.default_rng(seed), []
    empty = empty_job(frequency_hz, accuracy)
    plan = tuple(replace(empty.plan[0], id=f"p{number}") for number in range(1, IN_A_JOB + 1))
    for number in range(points // IN_A_JOB):
        job = replace(
            empty, id=f"coverage-{number}", plan=plan, created_at=moment_from_text("2026-11-24T10:00:00+01:00")
        )
        hands.session.logbook.add_job(job)
        hands.shell.open_job(job.id)
        hands.press("alt+5")
        for _ in plan:
            hands.read(*texts(draw_bench(frequency_hz, rng), frequency_hz, rng))
        result = hands.shell.bench.job.view.result
        rows += [tuple(standardised(result, point)) for point in range(IN_A_JOB)]
    first, second = np.array(rows).T
    return Studied(first, second)
