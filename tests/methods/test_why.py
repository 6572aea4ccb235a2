"""Why a meter errs: planted shapes are found again within their U, the right one is named, or none is."""

import math

import numpy as np
import pytest
from scipy.optimize import least_squares
from scipy.stats import multivariate_normal

from fenmist.methods.why import FORMS, RIPPLES, SHAPES, explained, log_bessel, readings

BANDS = np.array([0.475e6, 1.8e6, 3.6e6, 7.1e6, 14.2e6, 21.2e6, 28.5e6])
LEVELS = np.array([5.0, 10.0, 25.0, 50.0, 100.0, 200.0])
FULL = 200.0


def coupler(f, corner):
    return -np.log(1.0 + (corner / f) ** 2)


def arm(f, corner):
    """ln of |(1 + H)/2|² with H = 1/(1 − j·f_L/f), as the handbook of the trade has it."""
    h = 1.0 / (1.0 - 1j * corner / f)
    return np.log(np.abs((1.0 + h) / 2.0) ** 2)


def arm_reflected(f, corner):
    h = 1.0 / (1.0 - 1j * corner / f)
    return np.abs((1.0 - h) / 2.0)


def diode(p, knee_w):
    """Detector of ln I₀, on a scale drawn for its straight law; SciPy-free, by the mean of e^{x·cos}."""
    phase = (np.arange(2000) + 0.5) * math.pi / 1000.0
    x = np.sqrt(np.asarray(p) / knee_w)
    return 2.0 * np.log(np.log(np.mean(np.exp(x[:, None] * np.cos(phase)), axis=1)) / x)


def seen(log_ratio, f=BANDS, p=50.0, u=0.01, shared=0.02, **more):
    n = np.size(log_ratio)
    return readings(f, p, log_ratio, np.eye(n) * u**2 + shared**2, full_scale_w=FULL, **more)


# facts of the trade


def test_a_third_at_475_khz_is_a_coupler_whose_corner_is_the_root_of_two_higher():
    """1/(1 + 2) = 1/3: f_L = √2·0.475 MHz = 0.672 MHz (derived; "about a third near 470 kHz": common practice)."""
    made = coupler(BANDS, math.sqrt(2.0) * 0.475e6)
    assert math.exp(made[0]) == pytest.approx(1.0 / 3.0)
    why = explained(seen(made))

    assert why.named is not None
    assert why.named.shape.id == "coupler"
    assert why.is_alone
    assert why.named.figure == pytest.approx(0.672e6, abs=0.5e3)


def test_a_half_with_a_sixth_reflected_is_one_arm():
    """At f_L/f = √2 forward reads a half, a sixth of the power is shown as reflected: SWR 3.73 (derived)."""
    corner = math.sqrt(2.0) * 0.475e6
    forward, back = arm(BANDS, corner), arm_reflected(BANDS, corner)
    assert math.exp(forward[0]) == pytest.approx(0.5)
    assert back[0] ** 2 == pytest.approx(1.0 / 6.0)
    rho = math.sqrt(back[0] ** 2 / math.exp(forward[0]))
    assert (1.0 + rho) / (1.0 - rho) == pytest.approx(3.73, abs=0.005)

    why = explained(seen(forward, reflected=back, u_reflected=0.06))
    assert why.named is not None
    assert why.named.shape.id == "arm"
    assert why.named.figure == pytest.approx(corner, rel=0.01)


def test_forward_alone_leaves_two_corners_and_reflected_power_decides():
    """A corner of the whole coupler shows nothing as reflected; one arm's does, at the same forward readings."""
    f, p = BANDS[1:], 50.0
    forward = arm(f, 1.5e6)
    alone = explained(seen(forward, f, p))
    assert alone.named is not None
    assert alone.named.kind == "corner"
    assert not alone.is_alone
    assert {fit.shape.id for fit in alone.likely} == {"coupler", "arm"}

    both = explained(seen(forward, f, p, reflected=arm_reflected(f, 1.5e6), u_reflected=0.06))
    none = explained(seen(forward, f, p, reflected=np.zeros(f.size), u_reflected=0.06))
    assert both.fits[0].shape.id == "arm"
    assert both.is_alone
    assert none.fits[0].shape.id == "coupler"


def test_a_third_reading_of_one_arm_alone_needs_twice_the_corner():
    """One third by one arm needs f_L/f = 2.83 (derived)."""
    assert math.exp(arm(np.array([1.0]), 2.0 * math.sqrt(2.0))[0]) == pytest.approx(1.0 / 3.0)


def test_the_law_of_a_diode_against_the_mean_of_its_exponential():
    """ln I₀(x) = ln of the mean of e^{x·cos φ}: x²/4 near nothing, x less a drop far up."""
    x = np.array([1e-3, 0.1, 1.0, 5.0, 20.0])
    phase = (np.arange(4000) + 0.5) * math.pi / 2000.0
    by_mean = np.log(np.mean(np.exp(x[:, None] * np.cos(phase)), axis=1))

    assert log_bessel(x) == pytest.approx(by_mean, rel=1e-5)
    assert float(log_bessel(np.array([1e-6]))[0]) == pytest.approx(2.5e-13)
    assert float(log_bessel(np.array([1e4]))[0]) == pytest.approx(1e4 - 0.5 * math.log(2e4 * math.pi), rel=1e-7)


@pytest.mark.parametrize(("factor", "name"), list(FORMS.items()))
def test_a_right_meter_over_volts_taken_wrongly(factor, name):
    """8 = (2√2)²: rms typed as peak to peak; 4 and 2 likewise. A meter that is off by such a gain can't be told."""
    made = np.full(BANDS.size, math.log(factor))
    why = explained(seen(made, reads_volts=True))

    assert why.fits[0].shape.id == "volts"
    assert FORMS[why.fits[0].shape.factor] == name
    assert why.fits[0].weight > 2.0 * why.fits[1].weight
    assert explained(seen(made)).fits[0].shape.id == "gain"


# fits


@pytest.mark.parametrize(("times_u", "counts"), [(1.9, False), (2.1, True)])
def test_a_gain_counts_from_two_of_its_standard_deviations_on(times_u, counts):
    """Seven readings of 1 % with 2 % in common: u = √(0.01²/7 + 0.02²)."""
    fits = explained(seen(np.full(BANDS.size, times_u * math.sqrt(0.01**2 / 7 + 0.02**2)))).fits

    assert next(fit.counts for fit in fits if fit.shape.id == "gain") is counts


@pytest.mark.parametrize("fall", [0.02, 0.025, 0.03, 0.035])
def test_one_figure_more_counts_where_it_takes_four_off(fall):
    """Beside a gain it has one more: Akaike's 2 for it are in its loss already, so 2 are left to take off."""
    read = seen(0.08 - fall * np.sqrt(BANDS / BANDS.max()))
    fits = {fit.shape.id: fit for fit in explained(read).fits}
    less = {name: fits["gain"].loss - fits[name].loss for name in ("root", "square")}

    assert {name: fits[name].counts for name in less} == {name: value > 2.0 for name, value in less.items()}
    assert 0.0 < less["root"] < 5.0


def _bent(kind, f, p, figure):
    return {
        "coupler": lambda: coupler(f, figure),
        "arm": lambda: arm(f, figure),
        "square": lambda: figure * (f / f.max()) ** 2,
        "root": lambda: figure * np.sqrt(f / f.max()),
        "zero": lambda: np.log(1.0 + figure * FULL / p),
        "diode": lambda: diode(p, figure**2 * p.max()),
        "scale": lambda: figure * np.log(p / FULL),
        "gain": lambda: 0.0 * f,
        "right": lambda: 0.0 * f,
    }[kind]()


OVER_LEVEL = ("zero", "diode", "scale")


def _drawn(kind, random):
    """A figure whose effect is several U, as a meter might have it."""
    return {
        "coupler": lambda: random.uniform(0.4, 1.2) * BANDS[0],
        "arm": lambda: random.uniform(0.8, 2.5) * BANDS[0],
        "square": lambda: random.choice([-1, 1]) * random.uniform(0.15, 0.4),
        "root": lambda: random.choice([-1, 1]) * random.uniform(0.2, 0.4),
        "zero": lambda: random.choice([-0.5, 1.0]) * random.uniform(0.4, 0.9) * LEVELS[0] / FULL,
        "diode": lambda: random.uniform(0.05, 0.3),
        "scale": lambda: random.choice([-1, 1]) * random.uniform(0.07, 0.2),
        "gain": lambda: 0.0,
        "right": lambda: 0.0,
    }[kind]()


def simulated(kind, random, ripple, u=0.01, size=1.0):
    """A meter that errs in one way, its gain some per cent off, beside a ripple that is nobody's shape."""
    f = np.full(LEVELS.size, 14.2e6) if kind in OVER_LEVEL else BANDS
    p = LEVELS if kind in OVER_LEVEL else np.full(BANDS.size, 50.0)
    figure = size * _drawn(kind, random)
    gain = {"right": 0.0, "gain": random.choice([-1, 1]) * random.uniform(0.15, 0.4)}.get(kind, random.normal(0, 0.03))
    made = gain + _bent(kind, f, p, figure)
    made = made + random.normal(0, 0.02) + random.normal(0, u, f.size) + random.normal(0, ripple, f.size)
    return figure, explained(seen(made, f, p, u))


@pytest.mark.parametrize("kind", ["coupler", "arm", "zero", "diode", "square", "root", "scale"])
def test_a_planted_figure_is_found_within_its_u(kind):
    """Of 60 simulated meters about 95 % within two standard uncertainties; claimed four times smaller they aren't."""
    random = np.random.default_rng(15)
    away = []
    for _ in range(60):
        figure, why = simulated(kind, random, 0.01)
        fit = next(item for item in why.fits if item.shape.id == kind)
        away.append(abs(fit.figure - figure) / fit.u_figure)

    assert np.mean(np.array(away) < 2.0) > 0.89
    assert np.mean(np.array(away) < 0.5) < 0.75  # a control: four times smaller


@pytest.mark.parametrize("kind", ["right", "gain", "coupler", "arm", "zero", "diode", "square", "root", "scale"])
def test_the_right_shape_is_named_where_it_exceeds_u(kind):
    random = np.random.default_rng(16)
    wanted = "corner" if kind in ("coupler", "arm") else kind
    named = [why.named.kind if why.named else "" for _, why in (simulated(kind, random, 0.005) for _ in range(40))]

    assert named.count(wanted) >= 0.87 * len(named)
    assert sum(item not in (wanted, "") for item in named) <= 0.05 * len(named)


@pytest.mark.parametrize("kind", ["square", "root", "coupler", "zero"])
def test_a_shape_within_u_is_not_named(kind):
    """A twentieth of the size is below what was read: right, or a gain, or nothing is named; rarely anything else."""
    random = np.random.default_rng(17)
    named = [why.named.kind if why.named else "" for _, why in (simulated(kind, random, 0.01, size=0.05)
                                                                for _ in range(40))]  # fmt: skip

    assert sum(item not in ("right", "gain", "") for item in named) <= 0.06 * len(named)


def test_a_fit_is_what_scipy_finds_with_the_same_weights():
    random = np.random.default_rng(18)
    made = 0.02 + coupler(BANDS, 0.5e6) + random.normal(0.0, 0.01, BANDS.size)
    covariance = np.diag(np.linspace(0.01, 0.02, BANDS.size) ** 2)
    fit = next(item for item in explained(readings(BANDS, 50.0, made, covariance)).fits if item.shape.id == "coupler")
    at_most = least_squares(
        lambda x: (made - x[0] - coupler(BANDS, x[1])) / np.sqrt(np.diag(covariance) + fit.ripple**2), [0.0, 0.4e6],
        x_scale=[1.0, 1e5],
    )  # fmt: skip

    assert fit.figure == pytest.approx(at_most.x[1], rel=2e-3)
    assert float(fit.gains[0]) == pytest.approx(at_most.x[0], abs=2e-3)


def test_a_reading_left_out_is_foretold_as_by_fitting_the_others():
    """The closed form against fitting without each reading in turn: a gain and a slope, no ripple to speak of."""
    made = 0.1 + 0.3 * (BANDS / BANDS.max()) ** 2 + np.array([1, -2, 1.5, 0, -1, 0.5, 0]) * 0.004
    fit = next(item for item in explained(seen(made, u=0.004, shared=0.0)).fits if item.shape.id == "square")
    columns = np.stack([np.ones(BANDS.size), (BANDS / BANDS.max()) ** 2], axis=1)
    missed = []
    for out in range(BANDS.size):
        keep = np.arange(BANDS.size) != out
        gain, slope = np.linalg.lstsq(columns[keep], made[keep], rcond=None)[0]
        missed.append(made[out] - gain - slope * columns[out, 1])

    assert fit.missed == pytest.approx(math.sqrt(np.mean(np.square(missed))), rel=0.02)


# ranges, places


def test_ranges_may_each_have_their_own_gain():
    f, ranges = np.tile(BANDS, 2), ("20",) * BANDS.size + ("200",) * BANDS.size
    p = np.repeat([15.0, 50.0], BANDS.size)
    made = np.where(p < 20.0, 0.08, -0.04)
    why = explained(readings(f, p, made, np.eye(f.size) * 1e-4, ranges=ranges, full_scale_w=np.where(p < 20, 20, 200)))

    assert why.named is not None
    assert why.named.by_range
    assert why.named.kind == "gain"
    assert why.named.gains == pytest.approx([0.08, -0.04], abs=0.001)
    both = explained(readings(f, p, made + coupler(f, 0.5e6), np.eye(f.size) * 1e-4, ranges=ranges))
    assert both.named is not None
    assert both.named.kind == "corner"
    assert both.named.by_range


def test_one_more_reading_tells_where_two_shapes_part():
    """Square and root differ most beyond the top, and a reading at one that was made tells nothing new."""
    made = -0.15 * (BANDS / BANDS.max()) ** 2
    why = explained(seen(made))
    places = seen(np.zeros(3), np.array([14.2e6, 28.5e6, 50e6])).places
    at = type(places)(places.frequency_hz, places.power_w, places.full_scale_w, BANDS.max(), 50.0)
    apart = why.apart(at, ("", "", ""))

    assert why.fits[0].shape.id == "square"
    assert apart[2] > apart[0]
    assert apart[2] > 2.0


@pytest.mark.parametrize(
    ("f", "p", "missing"),
    [
        (np.full(6, 7.1e6), LEVELS, {"coupler", "arm", "square", "root"}),
        (BANDS, np.full(7, 50.0), {"zero", "diode", "scale"}),
        (np.array([14.0e6, 14.1e6, 14.2e6, 14.3e6]), np.full(4, 50.0), {"coupler", "zero"}),
    ],
)
def test_only_what_differs_can_show_a_shape(f, p, missing):
    tried = {fit.shape.id for fit in explained(readings(f, p, np.zeros(f.size), np.eye(f.size) * 1e-4)).fits}

    assert not missing & tried
    assert {"right", "gain"} <= tried


def test_scatter_that_nothing_explains_is_told():
    """Readings half and double: no shape foretells one that is left out."""
    made = np.log([1.0, 2.0, 0.5, 2.0, 0.5, 1.0, 2.0])
    why = explained(seen(made))

    assert not why.explains
    assert why.named is None


def test_many_readings_are_looked_at_in_even_steps():
    f = np.geomspace(1e6, 30e6, 400)
    why = explained(readings(f, 50.0, -0.2 * (f / 30e6) ** 2, np.eye(400) * 1e-4))

    assert why.fits[0].seen.log_ratio.size == 80
    assert why.fits[0].seen.places.frequency_hz[[0, -1]] == pytest.approx([1e6, 30e6])
    assert why.named is not None
    assert why.named.figure == pytest.approx(-0.2, abs=0.003)


def test_every_shape_says_what_it_is_over():
    assert {shape.over for shape in SHAPES} == {"", "frequency", "level"}


@pytest.mark.parametrize("times", [1.0, 10.0])
def test_without_ripple_the_criterion_and_what_is_foretold_are_those_of_the_normal_density(monkeypatch, times):
    """Referee: SciPy's density of all readings at the fit, and of each given the others, a gain wide open before."""
    monkeypatch.setattr("fenmist.methods.why.RIPPLES", (0.0,))
    random = np.random.default_rng(9)
    u = np.linspace(0.01, 0.03, BANDS.size)
    covariance = times**2 * (np.diag(u**2) + 0.02**2)  # ten times as much, and the gain's own width counts
    made = 0.1 + random.multivariate_normal(np.zeros(BANDS.size), covariance)
    fit = next(item for item in explained(readings(BANDS, 50.0, made, covariance)).fits if item.shape.id == "gain")
    rest = made - float(fit.gains[0])
    at_fit = multivariate_normal(np.zeros(BANDS.size), covariance).logpdf(rest)

    assert fit.loss == pytest.approx(-2.0 * at_fit - BANDS.size * math.log(2.0 * math.pi) + 2.0, abs=1e-6)
    whole = multivariate_normal(np.zeros(BANDS.size), covariance + 1.0)
    wanted = missed = 0.0
    for out in range(BANDS.size):
        keep = np.arange(BANDS.size) != out
        others = multivariate_normal(np.zeros(BANDS.size - 1), (covariance + 1.0)[np.ix_(keep, keep)])
        wanted += whole.logpdf(rest) - others.logpdf(rest[keep])
        inside = np.linalg.inv((covariance + 1.0)[np.ix_(keep, keep)])
        missed += (rest[out] - (covariance + 1.0)[out, keep] @ inside @ rest[keep]) ** 2
    assert fit.foretold == pytest.approx(wanted, abs=1e-4)
    assert fit.missed == pytest.approx(math.sqrt(missed / BANDS.size), rel=1e-4)
    ones = np.ones(BANDS.size)
    assert float(fit.covariance[0, 0]) == pytest.approx(1.0 / (ones @ np.linalg.inv(covariance) @ ones), rel=1e-6)


def test_what_a_shape_says_of_a_place_is_known_to_its_figures_and_the_ripple(monkeypatch):
    """A gain and s·(f/f_top)² at 50 MHz: u² = JᵀCJ with J = (1, (50/28.5)²), and the ripple's square."""
    made = 0.05 - 0.2 * (BANDS / BANDS.max()) ** 2 + np.array([1, -1, 1, -1, 1, -1, 0]) * 0.01
    fit = next(item for item in explained(seen(made)).fits if item.shape.id == "square")
    at = type(fit.seen.places)(np.array([50e6]), np.array([50.0]), np.array([FULL]), BANDS.max(), 50.0)
    slopes = np.array([1.0, (50.0 / 28.5) ** 2])

    assert fit.ripple > 0.001
    assert float(fit.u_log_ratio(at, ("",))[0]) == pytest.approx(
        math.sqrt(slopes @ fit.covariance @ slopes + fit.ripple**2), rel=1e-6
    )
    assert float(fit.log_ratio(at, ("",))[0]) == pytest.approx(float(fit.values @ slopes), rel=1e-9)


@pytest.mark.long
def test_two_thousand_simulated_meters():
    """Planted figures of corner, diode and zero within U, a control that fails, and the right shape named."""
    random = np.random.default_rng(2027)
    away, named, small = [], [], []
    for number in range(2000):
        kind = ("coupler", "arm", "zero", "diode", "square", "root", "scale", "gain")[number % 8]
        figure, why = simulated(kind, random, 0.01)
        fit = next(item for item in why.fits if item.shape.id == kind)
        if kind in ("coupler", "arm", "zero", "diode"):
            away.append(abs(fit.figure - figure) / fit.u_figure)
        f, p = (np.full(LEVELS.size, 14.2e6), LEVELS) if kind in OVER_LEVEL else (BANDS, np.full(BANDS.size, 50.0))
        effect = float(np.ptp(_bent(kind, f, p, figure))) if kind != "gain" else 0.2
        told = why.named.kind if why.named is not None else ""
        wanted = "corner" if kind in ("coupler", "arm") else kind
        (named if effect >= 0.15 else small).append((told == wanted, told not in ("", wanted)))

    hit, wrong = np.mean(np.array(named), axis=0)
    assert np.mean(np.array(away) < 2.0) > 0.93
    assert np.mean(np.array(away) < 0.5) < 0.75
    assert hit >= 0.95
    assert wrong <= 0.01
    assert np.mean(np.array(small), axis=0)[1] <= 0.05


def test_what_a_corner_is_known_to_is_what_scipys_slopes_say(monkeypatch):
    """Without ripple: u(f_L)² is the last entry of (JᵀJ)⁻¹, J of the weighed residuals."""
    monkeypatch.setattr("fenmist.methods.why.RIPPLES", (0.0,))
    made = 0.02 + coupler(BANDS, 0.5e6) + np.array([1, -1, 1, -1, 1, 0, -1]) * 0.005
    fit = next(item for item in explained(seen(made, u=0.01, shared=0.0)).fits if item.shape.id == "coupler")
    found = least_squares(
        lambda x: (made - x[0] - coupler(BANDS, 1e6 * x[1])) / 0.01, [0.0, 0.4], jac="3-point", xtol=1e-15, ftol=1e-15
    )
    assert fit.figure == pytest.approx(1e6 * found.x[1], rel=1e-5)
    assert fit.u_figure == pytest.approx(1e6 * math.sqrt(np.linalg.inv(found.jac.T @ found.jac)[1, 1]), rel=1e-3)


def test_what_no_figure_foretells_is_the_density_of_each_reading_by_itself():
    """A shape without a figure: normal densities of ln(shown/reference), averaged over ripples by their likelihood."""
    f, y = np.geomspace(2e6, 30e6, 6), np.array([0.01, -0.02, 0.03, 0.0, -0.01, 0.02])
    fits = explained(readings(f, 50.0, y, np.diag(np.full(6, 0.015**2)))).fits
    right = next(fit for fit in fits if fit.shape.id == "right")
    spread = 0.015**2 + np.square(RIPPLES)[:, None]
    logs = -0.5 * np.sum(y**2 / spread + np.log(2.0 * np.pi * spread), axis=1)

    assert right.foretold == pytest.approx(np.log(np.sum(np.exp(logs) ** 2) / np.sum(np.exp(logs))))
    assert right.loss == pytest.approx(-2.0 * np.log(np.mean(np.exp(logs))) - 6.0 * np.log(2.0 * np.pi))
