"""Writes docs/method/coverage.md from the coverage study: 5,000 benches a frequency, and the control that must fail."""

import sys
from pathlib import Path

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT / "tests"))

from support import coverage  # noqa: E402

TRIALS = 5000
FREQUENCIES_HZ = (3.6e6, 14.2e6, 28.5e6)

HEAD = """# Coverage: does the stated uncertainty hold?

Written by `scripts/coverage_study.py`; `tests/methods/test_coverage.py` runs a short form always.

For each bench the truth is drawn from what the job states (load, gain, response, lead, jumper, needle; see
`tests/support/coverage.py`), the circuit is solved by nodes in `simulation/`, what the instruments show is typed, and
the core reduces it. *Predicted* is Monte Carlo of the same budget: rectangular shares make it exceed 95.45 %.
*Observed* must lie within three binomial standard deviations of it, the standard deviation of (stated − true)/u
within 0.95 to 1.05, its mean within 0.05.
"""

TABLE = """
| frequency | quantity | benches | predicted | observed | allowed | std of error/u | mean | holds |
|---|---|---|---|---|---|---|---|---|
"""

TAIL = """
The control states half the scope's gain limit (±1.5 % for a truth of ±3 %) and must fail.

Limits: one level, one load, one round, truths drawn from exactly the stated shapes; a bench whose limits are stated
wrongly is not covered by any arithmetic. The path through the window is driven by the desk's tests, not by this study.
"""


def _row(f: float, name: str, errors: object, estimate: object) -> str:
    wanted = coverage.predicted(estimate)  # type: ignore[arg-type]
    low, high = coverage.binomial_limits(wanted, TRIALS)
    seen, std, mean = coverage.observed(errors), errors.std(), errors.mean()  # type: ignore[attr-defined, arg-type]
    holds = low <= seen <= high and 0.95 <= std <= 1.05 and abs(mean) <= 0.05
    return (
        f"| {f / 1e6:g} MHz | {name} | {TRIALS} | {100 * wanted:.2f} % | {100 * seen:.2f} % | "
        f"{100 * low:.2f} to {100 * high:.2f} % | {std:.3f} | {mean:+.3f} | {'yes' if holds else 'no'} |\n"
    )


def main() -> None:
    """Run the study and write the page."""
    text = HEAD + TABLE
    for f in FREQUENCIES_HZ:
        found, sample = coverage.study(TRIALS, f), coverage.sample_result(f)
        if sample.power is None or sample.error is None:
            raise SystemExit("the sample has no result")
        text += _row(f, "reference", found.reference, sample.power.incident_at_meter)
        text += _row(f, "error", found.error, sample.error)
    control = coverage.study(TRIALS, 14.2e6, accuracy=0.015)
    sample = coverage.sample_result(14.2e6)
    if sample.power is not None:
        text += _row(14.2e6, "control", control.reference, sample.power.incident_at_meter)
    (ROOT / "docs" / "method" / "coverage.md").write_text(text + TAIL, "utf-8")


if __name__ == "__main__":
    main()
