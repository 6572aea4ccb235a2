"""The uncertainty engine against a general-purpose calculator, and Monte Carlo against drawing the same numbers."""

import numpy as np

from benchmarks.clock import median_seconds
from fenmist.uncertainty.influence import FloatArray, Inputs, each_point, influence
from fenmist.uncertainty.montecarlo import monte_carlo
from fenmist.uncertainty.propagation import propagate

POINTS, INFLUENCES, TRIALS = 300, 12, 1_000_000


def lines() -> list[str]:
    """One line per comparison."""
    return [_against_gtc(), _growth(), _against_draws()]


def _model(x: dict[str, FloatArray]) -> dict[str, FloatArray]:
    top = x["i0"] * x["i1"] * x["i2"] / x["i3"]
    return {"y": top * np.exp(-x["i4"]) + x["i5"] * x["i6"] ** 2 + x["i7"] / (x["i8"] + x["i9"]) + x["i10"] * x["i11"]}


def _against_gtc() -> str:
    import GTC

    rng = np.random.default_rng(1)
    values = rng.uniform(1.0, 2.0, (INFLUENCES, POINTS))

    def ours() -> float:
        made = propagate(
            _model,  # type: ignore[arg-type]
            Inputs(
                tuple(
                    influence(
                        f"i{k}", "x", values[k], 0.01, points=POINTS, dof=10.0,
                        sharing=each_point(POINTS) if k % 2 else None,
                    )
                    for k in range(INFLUENCES)
                )
            ),
            {"y": ("y", "")},
        )["y"]  # fmt: skip
        total = float(made.u.sum() + made.dof.sum() + made.covariance().sum())
        return total + sum(row.share for point in range(POINTS) for row in made.budget(point))

    def theirs() -> float:
        shared = [GTC.ureal(1.5, 0.01, 10) for _ in range(INFLUENCES)]
        results = []
        for n in range(POINTS):
            x = [
                GTC.ureal(values[k, n], 0.01, 10) if k % 2 else shared[k] + (values[k, n] - 1.5)
                for k in range(INFLUENCES)
            ]
            top = x[0] * x[1] * x[2] / x[3]
            results.append(top * GTC.exp(-x[4]) + x[5] * x[6] ** 2 + x[7] / (x[8] + x[9]) + x[10] * x[11])
        total = sum(r.u + r.df for r in results)
        total += sum(line.u for r in results for line in GTC.rp.budget(r))
        return float(total + sum(GTC.get_covariance(a, b) for n, a in enumerate(results) for b in results[n:]))

    a, b = median_seconds(ours, 7), median_seconds(theirs, 1)
    return (
        f"{POINTS} points x {INFLUENCES} influences with u, dof, budget, covariance: {1e3 * a:.1f} ms, "
        f"GTC {1e3 * b:.0f} ms: {b / a:.0f}x (aim 50x and 16 ms)"
    )


def _growth() -> str:
    """Ten times the points: everything but the covariance between them, which is a square by nature."""

    def work(points: int) -> float:
        values = np.random.default_rng(1).uniform(1.0, 2.0, (INFLUENCES, points))
        inputs = Inputs(
            tuple(influence(f"i{k}", "x", values[k], 0.01, points=points, dof=10.0) for k in range(INFLUENCES))
        )
        made = propagate(_model, inputs, {"y": ("y", "")})["y"]  # type: ignore[arg-type]
        return float(made.u.sum() + made.dof.sum()) + sum(len(made.budget(point)) for point in range(points))

    a, b = median_seconds(lambda: work(POINTS), 5), median_seconds(lambda: work(10 * POINTS), 3)
    return f"growth of u, dof and budget from {POINTS} to {10 * POINTS} points: {b / a:.1f}x for 10x (aim linear)"


def _against_draws() -> str:
    inputs = Inputs(tuple(influence(f"i{k}", "x", 1.5, 0.01, points=1) for k in range(INFLUENCES)))

    def draws() -> None:
        rng = np.random.default_rng(1)
        for _ in range(INFLUENCES):
            rng.standard_normal(TRIALS)

    a = median_seconds(lambda: monte_carlo(_model, inputs, ["y"], trials=TRIALS, seed=1), 3)  # type: ignore[arg-type]
    b = median_seconds(draws, 3)
    return f"Monte Carlo, a million trials: {1e3 * a:.0f} ms, the draws alone {1e3 * b:.0f} ms: {a / b:.2f}x (aim 2x)"
