"""Writes docs/method/coverage.md from the coverage study: through the core, through the window, and the control."""

import os
import sys
import tempfile
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
from studies import coverage, references

ROOT = Path(__file__).parent.parent

TRIALS, IN_WINDOW = 5000, 100
RUNS = (
    ("lead", 3.6e6), ("lead", 14.2e6), ("lead", 28.5e6), ("probe", 14.2e6), ("around", 14.2e6), ("capture", 14.2e6),
    ("hot", 14.2e6),
)  # fmt: skip
REFERENCES = tuple((name, 4.7e5 if "divider" in name else 7.125e6) for name in references.BENCHES)
SOURCES = tuple((f"{name}, source", f) for name, f in REFERENCES if name in references.SOURCES)
CONTROL = ("control", 14.2e6)
WINDOW = ("window", 14.2e6)

HEAD = """# Coverage: does the stated uncertainty hold?

Written by `studies/coverage_page.py`; `tests/methods/test_coverage.py`, `tests/calibration/test_reference_coverage.py`
and `tests/desk/test_coverage.py` run short forms always.

For each bench the truth is drawn from what the job states (load, gain, response, lead or probe, tee, jumper,
harmonics, needle; see `studies/coverage.py`), the circuit is solved by nodes in `simulation/`, what the
instruments show is typed, and the core reduces it. *Predicted* is Monte Carlo of the same budget: rectangular shares
make it exceed 95.45 %. *Observed* must lie within three binomial standard deviations of it, the standard deviation of
(stated − true)/u within 0.95 to 1.05, its mean within 0.05 (wider by three of their own deviations for the hundred
typed ones).

| way | what is read |
|---|---|
| lead | peak to peak over 0.3 m of cable |
| probe | peak to peak over a 10:1 probe with its ground lead |
| around | reference, meter, reference on a carrier that drifts by up to 6 % |
| capture | a sine fitted to an 8-bit record with noise |
| hot | a load somewhere between its cold and its hot table |
| window | as lead, typed key by key into the readings step |
| any other, source | the same bench, asked what its source gives |
| any other | that reference on a bench of its own (`studies/references.py`), parts of open phase in any phase |
| control | as lead, with half the scope's gain limit stated (±1.5 % for a truth of ±3 %): it must fail |
"""

TABLE = """
| way | frequency | quantity | benches | predicted | observed | allowed | std of error/u | mean | holds |
|---|---|---|---|---|---|---|---|---|---|
"""

TAIL = """
That halving an input's u moves U as its share predicts stands in `tests/calibration/test_curve.py`.

Limits: one level, one load, one round, truths drawn from exactly the stated shapes; a bench whose limits are stated
wrongly is not covered by any arithmetic.
"""


def _row(way: str, f: float, name: str, errors: object, estimate: object, trials: int) -> str:
    wanted = coverage.predicted(estimate)  # type: ignore[arg-type]
    low, high = coverage.binomial_limits(wanted, trials)
    seen, std, mean = coverage.observed(errors), errors.std(), errors.mean()  # type: ignore[attr-defined, arg-type]
    more = 0.0 if trials >= 1000 else 3.0 / trials**0.5
    holds = low <= seen <= high and abs(std - 1.0) <= 0.05 + more and abs(mean) <= 0.05 + more
    return (
        f"| {way} | {f / 1e6:g} MHz | {name} | {trials} | {100 * wanted:.2f} % | {100 * seen:.2f} % | "
        f"{100 * low:.2f} to {100 * high:.2f} % | {std:.3f} | {mean:+.3f} | {'yes' if holds else 'no'} |\n"
    )


def _rows(run: tuple[str, float]) -> str:
    """The lines of one run: reference and error."""
    way, f = run
    if way.endswith(", source"):
        name = way.removesuffix(", source")
        made = references.output_of(references.without_device(name), np.random.default_rng(1))
        return _row(way, f, "power", references.misses(name, TRIALS), made.quantities["power"], TRIALS)
    if way in references.BENCHES:
        sample = references.result_of(references.BENCHES[way](), np.random.default_rng(1))
        return _row(way, f, "reference", references.errors(way, TRIALS), sample.reference, TRIALS)
    scenario = way if way in coverage.SCENARIOS else "lead"
    sample = coverage.sample_result(f, scenario)
    if way == "window":
        found, trials = _in_window(f), IN_WINDOW
    else:
        accuracy = 0.015 if way == "control" else 0.03
        found, trials = coverage.study(TRIALS, f, accuracy=accuracy, scenario=scenario), TRIALS
    if sample.reference is None or sample.error is None:
        raise SystemExit("the sample has no result")
    text = _row(way, f, "reference", found.reference, sample.reference, trials)
    return text if way == "control" else text + _row(way, f, "error", found.error, sample.error, trials)


def _in_window(f: float) -> coverage.Studied:
    from PySide6.QtWidgets import QApplication

    from fenmist.desk.theme import load_fonts

    sys.path.insert(0, str(ROOT / "tests"))
    from studies.in_window import study_in_window
    from support.desk import Hands

    application = QApplication([])
    load_fonts()
    with tempfile.TemporaryDirectory() as folder:
        hands = Hands(application, Path(folder) / "book.fenlog")
        found: coverage.Studied = study_in_window(hands, IN_WINDOW, f)
        hands.close()
    return found


def main() -> None:
    """Run the study on all cores and write the page."""
    with ProcessPoolExecutor() as pool:
        rows = list(pool.map(_rows, (*RUNS, *REFERENCES, *SOURCES, WINDOW, CONTROL)))
    text = HEAD + TABLE + "".join(rows) + TAIL
    (ROOT / "docs" / "method" / "coverage.md").write_text(text, "utf-8")


if __name__ == "__main__":
    main()
