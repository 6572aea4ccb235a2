"""What lies behind the totals: covariance of any sharing, shapes of draws, intervals, steps; each a second way."""

import numpy as np
import pytest

from fenmist.errors import OutOfRangeError
from fenmist.uncertainty.coverage import coverage_factor
from fenmist.uncertainty.estimate import covariance_between, joined
from fenmist.uncertainty.influence import Distribution, Inputs, each_point, influence, standard_u_from_limit
from fenmist.uncertainty.montecarlo import monte_carlo, seed_of
from fenmist.uncertainty.propagation import bends, propagate
from fenmist.uncertainty.whatif import with_known


def _mixed() -> Inputs:
    """Three points: one error for all, one each, one for the first two; two of them correlated."""
    return Inputs(
        (
            influence("all", "all", [1.0, 2.0, 3.0], [0.1, 0.2, 0.3], points=3),
            influence("own", "own", 0.0, [0.5, 0.6, 0.7], points=3, sharing=each_point(3)),
            influence("pair", "pair", 0.0, [0.2, 0.4, 0.8], points=3, sharing=[7, 7, 3]),
            influence("mate", "mate", 0.0, [0.3, 0.1, 0.2], points=3, sharing=[7, 7, 3]),
        ),
        {("pair", "mate"): 0.4, ("all", "own"): -0.3},
    )


def _model(x):
    return {"y": x["all"] * 2.0 + x["own"] - 3.0 * x["pair"] + x["mate"], "z": x["all"] - x["pair"]}


SLOPES = {"all": 2.0, "own": 1.0, "pair": -3.0, "mate": 1.0}


def _by_hand(inputs: Inputs, slopes: dict[str, float]) -> np.ndarray:
    """Σ c_i c_j r_ij u_i(p) u_j(q) over all inputs, where p and q share the draw of both."""
    total = np.zeros((3, 3))
    for a in inputs.influences:
        for b in inputs.influences:
            r = 1.0 if a is b else inputs.correlations.get((a.id, b.id), inputs.correlations.get((b.id, a.id), 0.0))
            for p in range(3):
                for q in range(3):
                    joined = a.sharing[p] == b.sharing[q] if a is b or r else False
                    total[p, q] += slopes[a.id] * slopes[b.id] * r * a.standard_u[p] * b.standard_u[q] * joined
    return total


def test_covariance_of_any_sharing_is_the_sum_written_out():
    inputs = _mixed()
    made = propagate(_model, inputs, {"y": ("y", ""), "z": ("z", "")})
    covariance = made["y"].covariance()
    by_hand = _by_hand(inputs, SLOPES)

    assert covariance[0, 1] == pytest.approx(by_hand[0, 1])
    assert covariance[0, 2] == pytest.approx(by_hand[0, 2])
    assert covariance == pytest.approx(covariance.T)
    # u counts all correlations at a point, as GUM (13) does
    u2 = sum(
        SLOPES[a.id] * SLOPES[b.id] * a.standard_u * b.standard_u * inputs.correlation([a.id, b.id])[0, 1]
        for a in inputs.influences
        for b in inputs.influences
        if a is not b
    ) + sum(SLOPES[a.id] ** 2 * a.standard_u**2 for a in inputs.influences)
    assert made["y"].u ** 2 == pytest.approx(u2)
    assert covariance_between(made["y"], made["y"]) == pytest.approx(u2)


def test_covariance_between_two_quantities_has_their_shared_inputs():
    plain = Inputs(_mixed().influences)
    made = propagate(_model, plain, {"y": ("y", ""), "z": ("z", "")})
    u = {item.id: item.standard_u for item in plain.influences}

    assert covariance_between(made["y"], made["z"]) == pytest.approx(2.0 * u["all"] ** 2 + 3.0 * u["pair"] ** 2)
    joined = propagate(_model, _mixed(), {"y": ("y", ""), "z": ("z", "")})
    extra = -1.0 * 1.0 * 0.4 * u["mate"] * u["pair"] + 1.0 * 1.0 * -0.3 * u["own"] * u["all"]
    assert covariance_between(joined["y"], joined["z"]) == pytest.approx(
        2.0 * u["all"] ** 2 + 3.0 * u["pair"] ** 2 + extra
    )


def test_shares_sum_to_one_and_tell_which_error_all_points_have_in_common():
    made = propagate(_model, Inputs(_mixed().influences), {"y": ("y", "")})["y"]
    parts = np.array([2.0 * 0.1, 0.5, 3.0 * 0.2, 0.3]) ** 2

    assert made.shares()[:, 0] == pytest.approx(parts / parts.sum())
    assert made.shares().sum(axis=0) == pytest.approx([1.0] * 3)
    assert list(made.shared_by_all()) == [True, False, False, False]
    budget = made.budget(0)
    assert [row.influence.id for row in budget] == ["pair", "own", "mate", "all"]
    assert [row.sensitivity for row in budget] == pytest.approx([-3.0, 1.0, 1.0, 2.0])
    assert [row.contribution for row in budget] == pytest.approx([0.6, 0.5, 0.3, 0.2])


def test_lines_of_one_share_stand_by_name():
    inputs = Inputs(tuple(influence(name, name, 0.0, 1.0, points=1) for name in "cab"))
    made = propagate(lambda x: {"y": x["a"] + x["b"] + x["c"]}, inputs, {"y": ("y", "")})["y"]

    assert [row.influence.id for row in made.budget()] == ["a", "b", "c"]


def test_what_never_moves_has_no_u_and_endless_degrees_of_freedom():
    inputs = Inputs((influence("a", "a", 2.0, 0.0, points=2),))
    made = propagate(lambda x: {"y": x["a"] ** 2}, inputs, {"y": ("y", "")})["y"]

    assert (list(made.value), list(made.u), made.budget()) == ([4.0, 4.0], [0.0, 0.0], ())
    assert np.isinf(made.dof).all()
    assert not bends(lambda x: {"y": x["a"] ** 2}, inputs, {"y": made})[0]


def test_an_ensemble_counts_with_its_fewest_degrees_of_freedom():
    parts = (
        influence("a", "a", 0.0, 1.0, points=1, dof=9, ensemble="e"),
        influence("b", "b", 0.0, 1.0, points=1, dof=4, ensemble="e"),
        influence("c", "c", 0.0, 1.0, points=1, dof=8),
    )
    made = propagate(lambda x: {"y": x["a"] + x["b"] + x["c"]}, Inputs(parts), {"y": ("y", "")})["y"]

    # Welch-Satterthwaite: u^4 = 9 over (2²/4 + 1²/8)
    assert made.dof[0] == pytest.approx(9.0 / (4.0 / 4.0 + 1.0 / 8.0))
    assert made.k[0] == pytest.approx(float(coverage_factor(made.dof[0])))
    assert made.expanded_u[0] == pytest.approx(made.k[0] * 3**0.5)


@pytest.mark.parametrize(("x", "u", "model", "slope"), [
    (1.0, 10.0, np.log, 1.0), (1.0, 1e-13, np.exp, np.e), (1e9, 1e-3, np.sqrt, 0.5 / 1e9**0.5),
    (0.0, 2.0, np.sin, 1.0), (0.0, 1e-9, np.exp, 1.0), (5.0, 300.0, np.sqrt, 0.5 / 5**0.5),
    (1e-12, 1e-14, np.log, 1e12),
])  # fmt: skip
def test_slopes_are_right_however_large_or_small_u_is_against_the_value(x, u, model, slope):
    inputs = Inputs((influence("x", "x", x, u, points=1),))
    made = propagate(lambda v: {"y": model(v["x"])}, inputs, {"y": ("y", "")})["y"]

    assert made.sensitivities["x"][0] == pytest.approx(slope, rel=2e-5)


def test_a_point_with_u_0_beside_one_with_u_has_a_slope_all_the_same():
    inputs = Inputs((influence("x", "x", [0.0, 3.0], [0.0, 0.1], points=2),))
    made = propagate(lambda v: {"y": v["x"] ** 2 + v["x"]}, inputs, {"y": ("y", "")})["y"]

    assert list(made.sensitivities["x"]) == pytest.approx([1.0, 7.0], rel=1e-6)


# drawing


def _draws(inputs: Inputs, trials: int = 4000, **how):
    """What monte_carlo says, and the draws it made."""
    seen = []

    def model(x):
        y = x["x"] + 0.0 * x["x"]
        seen.append(y.copy())
        return {"y": y}

    return monte_carlo(model, inputs, ["y"], trials=trials, seed=11, **how)["y"], np.concatenate(seen)


def test_mean_deviation_and_interval_are_those_of_the_draws():
    made, drawn = _draws(Inputs((influence("x", "x", [1.0, 5.0], [0.1, 2.0], points=2, sharing=each_point(2)),)))
    ordered = np.sort(drawn, axis=0)
    inside = round(0.9545 * 4000)

    assert made.trials == 4000
    assert made.mean == pytest.approx(drawn.mean(axis=0), rel=1e-12)
    assert made.u == pytest.approx(drawn.std(axis=0, ddof=1), rel=1e-12)
    assert made.low == pytest.approx(ordered[(4000 - inside) // 2])
    assert made.high == pytest.approx(ordered[(4000 - inside) // 2 + inside])
    assert made.half_width == pytest.approx((made.high - made.low) / 2)
    assert made.inside is None


def test_the_shortest_interval_is_shorter_than_every_other_window_of_as_many_draws():
    inputs = Inputs((influence("x", "x", 0.0, 1.0, points=2, sharing=each_point(2)),))
    seen = []

    def model(x):
        y = np.exp(x["x"] * [1.0, -0.5])
        seen.append(y)
        return {"y": y}

    made = monte_carlo(model, inputs, ["y"], trials=3000, seed=5, shortest=True)["y"]
    ordered, inside = np.sort(np.concatenate(seen), axis=0), round(0.9545 * 3000)
    for column in range(2):
        widths = [ordered[i + inside, column] - ordered[i, column] for i in range(3000 - inside)]
        assert made.high[column] - made.low[column] == pytest.approx(min(widths))
        assert (
            np.sum((ordered[:, column] >= made.low[column]) & (ordered[:, column] <= made.high[column])) == inside + 1
        )


def test_the_part_within_a_limit_is_counted():
    made, drawn = _draws(Inputs((influence("x", "x", 0.0, 1.0, points=1),)), within={"y": np.array([1.5])})

    assert made.inside == pytest.approx([np.mean(np.abs(drawn) <= 1.5)])
    assert made.inside[0] == pytest.approx(0.866, abs=0.02)  # normal, ±1.5σ


@pytest.mark.parametrize(("shape", "fourth", "largest"), [
    (Distribution.NORMAL, 3.0, np.inf), (Distribution.RECTANGULAR, 9 / 5, 3**0.5),
    (Distribution.TRIANGULAR, 12 / 5, 6**0.5), (Distribution.U_SHAPED, 3 / 2, 2**0.5), (Distribution.DISC, 2.0, 2.0),
    (Distribution.TWO_POINT, 1.0, 1.0),
])  # fmt: skip
def test_each_shape_has_its_fourth_moment_and_its_end(shape, fourth, largest):
    """Kurtosis by integration: rectangle 9/5, triangle 12/5, arcsine 3/2, disc's coordinate 2, two points 1."""
    _, drawn = _draws(Inputs((influence("x", "x", 0.0, 1.0, points=1, distribution=shape),)), 200_000)

    assert np.mean(drawn**4) == pytest.approx(fourth, rel=0.03)
    assert np.abs(drawn).max() <= largest + 1e-9
    assert np.abs(drawn).max() > 0.97 * min(largest, 4.0)
    assert np.mean(drawn**3) == pytest.approx(0.0, abs=0.05)


@pytest.mark.parametrize("sharing", [[0, 0, 1], [1, 0, 0], [2, 1, 0], [0, 1, 2], [5, 5, 5]])
def test_points_share_a_draw_as_stated(sharing):
    _, drawn = _draws(Inputs((influence("x", "x", 0.0, 1.0, points=3, sharing=sharing),)), 1000)

    for p in range(3):
        for q in range(3):
            same = bool(np.array_equal(drawn[:, p], drawn[:, q]))
            assert same is (sharing[p] == sharing[q])


def test_few_degrees_of_freedom_are_drawn_from_their_own_t():
    """Variance of a t is ν/(ν − 2): 5/3 for 5, 1 for infinitely many, at the point that has them."""
    item = influence("x", "x", 0.0, 1.0, points=2, sharing=each_point(2), dof=[5.0, np.inf])
    _, drawn = _draws(Inputs((item,)), 200_000)

    assert drawn.var(axis=0) == pytest.approx([5 / 3, 1.0], rel=0.03)


def test_correlated_inputs_are_drawn_with_their_correlation_and_shared_as_stated():
    parts = tuple(influence(name, name, 0.0, 1.0, points=2, sharing=each_point(2)) for name in "ab")
    seen = []

    def model(x):
        seen.append(np.stack([x["a"], x["b"]]))
        return {"y": x["a"]}

    monte_carlo(model, Inputs(parts, {("a", "b"): 0.6}), ["y"], trials=50_000, seed=3)
    drawn = np.concatenate(seen, axis=1)

    assert np.corrcoef(drawn[0, :, 0], drawn[1, :, 0])[0, 1] == pytest.approx(0.6, abs=0.02)
    assert np.corrcoef(drawn[0, :, 0], drawn[0, :, 1])[0, 1] == pytest.approx(0.0, abs=0.02)
    assert drawn.var(axis=1).ravel() == pytest.approx([1.0] * 4, rel=0.03)


def test_an_ensemble_of_few_observations_has_one_t_for_all_its_members():
    """Both are divided by one root of χ²/ν: E[x²y²]/(E[x²]·E[y²]) is (1 + 2r²)(ν − 2)/(ν − 4); without, 1 + 2r²."""
    parts = tuple(influence(name, name, 0.0, 1.0, points=1, dof=12.0) for name in "ab")
    seen = []

    def model(x):
        seen.append((x["a"], x["b"]))
        return {"y": x["a"]}

    monte_carlo(model, Inputs(parts, {("a", "b"): 0.1}), ["y"], trials=400_000, seed=5)
    a, b = (np.concatenate(drawn) ** 2 for drawn in zip(*seen, strict=True))

    assert np.mean(a * b) / (a.mean() * b.mean()) == pytest.approx(1.02 * 10 / 8, rel=0.05)


def test_points_in_any_order_keep_their_own_degrees_of_freedom():
    item = influence("x", "x", 0.0, 1.0, points=2, sharing=[1, 0], dof=[5.0, np.inf])
    _, drawn = _draws(Inputs((item,)), 200_000)

    assert drawn.var(axis=0) == pytest.approx([5 / 3, 1.0], rel=0.03)


def test_the_seed_moves_with_every_number_and_name():
    base = influence("x", "x", 1.0, 0.1, points=1)
    others = [
        influence("y", "x", 1.0, 0.1, points=1),
        influence("x", "x", 1.1, 0.1, points=1),
        influence("x", "x", 1.0, 0.2, points=1),
    ]

    seeds = {seed_of(Inputs((item,))) for item in (base, *others)}
    assert len(seeds) == 4 and 2**32 < max(seeds) < 2**64
    made = [
        monte_carlo(lambda x: {"y": x["x"]}, Inputs((base,)), ["y"], trials=1000, seed=s)["y"].mean for s in (1, 2, 1)
    ]
    assert made[0] != made[1] and made[0] == made[2]


def test_a_thousand_trials_are_enough_and_fewer_are_not():
    inputs = Inputs((influence("x", "x", 1.0, 0.1, points=1),))

    assert monte_carlo(lambda x: {"y": x["x"]}, inputs, ["y"], trials=1000)["y"].trials == 1000
    with pytest.raises(OutOfRangeError, match="999 trials"):
        monte_carlo(lambda x: {"y": x["x"]}, inputs, ["y"], trials=999)


# what can't be


@pytest.mark.parametrize(
    ("pair", "r"), [(("a", "x"), 0.1), (("x", "a"), 0.1), (("a", "b"), 1.1), (("a", "b"), -1.01), (("a", "b"), np.nan)]
)
def test_a_correlation_is_between_two_inputs_and_from_minus_one_to_one(pair, r):
    parts = tuple(influence(name, name, 0.0, 1.0, points=1) for name in "ab")

    with pytest.raises(OutOfRangeError, match="can't be used"):
        Inputs(parts, {pair: r})
    for fine in (-1.0, 1.0):
        assert Inputs(parts, {("a", "b"): fine}).correlation(["a", "b"])[1, 0] == fine


def test_the_correlation_of_some_inputs_is_a_part_of_the_whole():
    inputs = Inputs(
        tuple(influence(name, name, 0.0, 1.0, points=1) for name in "abc"), {("a", "b"): 0.5, ("b", "c"): -0.2}
    )

    assert inputs.correlation(["a", "b", "c"]).tolist() == [[1.0, 0.5, 0.0], [0.5, 1.0, -0.2], [0.0, -0.2, 1.0]]
    assert inputs.correlation(["c", "a"]).tolist() == [[1.0, 0.0], [0.0, 1.0]]


def test_two_of_one_name_are_refused():
    with pytest.raises(OutOfRangeError, match="same name"):
        Inputs((influence("a", "a", 0.0, 1.0, points=1), influence("a", "b", 0.0, 1.0, points=1)))


@pytest.mark.parametrize("values", [[1.0, 2.0, 3.0], [[1.0], [2.0]]])
def test_values_fit_the_points(values):
    with pytest.raises(ValueError):
        influence("a", "a", values, 0.1, points=2)


def test_scalars_are_spread_and_arrays_copied():
    given = np.array([1.0, 2.0])
    made = influence("a", "a", given, 0.1, points=2, dof=7)
    given[0] = 9.0

    assert (list(made.estimate), list(made.standard_u), list(made.dof)) == ([1.0, 2.0], [0.1, 0.1], [7.0, 7.0])
    assert (list(made.sharing), made.source_id) == ([0, 0], "a")
    assert list(influence("a", "a", [5.0], 0.1, points=3).estimate) == [5.0] * 3


def test_some_of_the_points_keep_all_that_is_said_of_them():
    inputs = _mixed()
    some = inputs.take(np.array([2, 0]))
    pair = some.by_id["pair"]

    assert (list(pair.standard_u), list(pair.sharing)) == ([0.8, 0.2], [3, 7])
    assert some.correlations == inputs.correlations


def test_known_better_is_a_factor_on_u_of_the_inputs_named():
    made = with_known(_mixed(), {"all": 0.5, "nobody": 0.0, "own": 0.0})

    assert list(made.by_id["all"].standard_u) == pytest.approx([0.05, 0.1, 0.15])
    assert list(made.by_id["own"].standard_u) == [0.0] * 3
    assert list(made.by_id["pair"].standard_u) == [0.2, 0.4, 0.8]
    for bad in (-0.1, np.inf, np.nan):
        with pytest.raises(OutOfRangeError):
            with_known(_mixed(), {"all": bad})


@pytest.mark.parametrize("dof", [1.0, 3.5, 30.0, 59.0, 75.0, 1000.0, np.inf])
def test_the_coverage_factor_holds_95_45_per_cent_of_students_t(dof):
    """SciPy as the referee."""
    from scipy.stats import t

    k = float(coverage_factor(dof))
    assert t.cdf(k, dof) - t.cdf(-k, dof) == pytest.approx(0.9545, abs=1e-6)


@pytest.mark.parametrize(
    ("estimate", "u", "step"),
    [(0.0, 1.0, 1 / 64), (1e3, 1.0, 1 / 64), (1.0, 1.0, 2**-14), (2**-10, 1.0, 2**-16), (1.0, 2**-20, 2**-17)],
)
def test_a_slope_is_taken_over_a_64th_of_u_held_small_against_the_estimate(estimate, u, step):
    """So small that a square over a logarithm is straight, so large that rounding doesn't count."""
    asked = []

    def model(x):
        asked.append(np.unique(np.abs(x["a"] - estimate)))
        return {"y": x["a"]}

    propagate(model, Inputs((influence("a", "a", estimate, u, points=1),)), {"y": ("y", "")})
    moved = np.unique(np.concatenate(asked))
    assert moved[moved > 0].min() == pytest.approx(step, rel=1e-6)


def test_what_is_straight_to_the_last_figure_isnt_bent_however_well_it_is_known():
    inputs = Inputs((influence("a", "a", 1.0, 1e-14, points=1), influence("b", "b", 1.0, 1e-14, points=1)))
    model = lambda x: {"y": x["a"] / 3.0 + x["b"] / 7.0}  # noqa: E731
    assert not bends(model, inputs, propagate(model, inputs, {"y": ("y", "")})).any()
    assert bends(lambda x: {"y": x["a"] ** 2 * 0.0 + np.where(x["a"] > 1.0, np.inf, 1.0)}, inputs,
                 propagate(model, inputs, {"y": ("y", "")})).all()  # fmt: skip


def test_limits_become_standard_uncertainties_by_their_shape():
    """JCGM 100, 4.3.7 and 4.3.9: √3, √6, √2 (U-shaped), 2 (a disc seen from its side), 1, and U of k = 2."""
    wanted = {
        Distribution.RECTANGULAR: 3**0.5, Distribution.TRIANGULAR: 6**0.5, Distribution.U_SHAPED: 2**0.5,
        Distribution.DISC: 2.0, Distribution.TWO_POINT: 1.0, Distribution.NORMAL: 2.0,
    }  # fmt: skip
    assert {shape: float(6.0 / standard_u_from_limit(6.0, shape)) for shape in wanted} == pytest.approx(wanted)


def test_degrees_of_freedom_of_an_ensemble_hold_at_each_point_by_itself():
    """One ensemble of two and an input beside it, at three points: Welch-Satterthwaite by hand (JCGM 100, G.2b)."""
    together = {"points": 3, "sharing": each_point(3), "dof": np.array([4.0, 5.0, 6.0]), "kind": "A"}
    u = np.array([[0.1, 0.2, 0.3], [0.2, 0.1, 0.2], [0.3, 0.3, 0.1]])
    inputs = Inputs((
        influence("a", "a", 1.0, u[0], ensemble="rounds", **together),
        influence("b", "b", 1.0, u[1], ensemble="rounds", **together),
        influence("c", "c", 1.0, u[2], **{**together, "dof": np.array([9.0, 8.0, 7.0])}),
    ))  # fmt: skip
    made = propagate(lambda x: {"y": x["a"] + x["b"] + x["c"]}, inputs, {"y": ("y", "")})["y"]
    pair = u[0] ** 2 + u[1] ** 2
    wanted = (pair + u[2] ** 2) ** 2 / (pair**2 / np.array([4, 5, 6]) + u[2] ** 4 / np.array([9, 8, 7]))
    assert made.dof == pytest.approx(wanted)


def test_an_interval_of_everything_reaches_from_the_least_to_the_most():
    inputs = Inputs((influence("a", "a", 0.0, 1.0, points=1, distribution=Distribution.TWO_POINT),))
    drawn = monte_carlo(lambda x: {"y": x["a"]}, inputs, ["y"], trials=1000, coverage=1.0)["y"]
    assert (float(drawn.low[0]), float(drawn.high[0])) == pytest.approx((-1.0, 1.0))


def test_estimates_and_their_places_go_in_pairs():
    inputs = Inputs((influence("a", "a", 1.0, 0.1, points=1),))
    made = propagate(lambda x: {"y": x["a"]}, inputs, {"y": ("y", "")})["y"]
    with pytest.raises(ValueError, match="shorter"):
        joined([made, made], [np.array([0])])
