"""A loss from pairs of powers, through `fenmist loss`."""

import json
import math
import statistics

import pytest
from scipy import stats

from fenmist.__main__ import main


def answer(capsys, *arguments):
    code = main(["loss", *arguments])
    return code, capsys.readouterr()


def pairs(name, *texts):
    return [item for text in texts for item in (name, text)]


def test_a_loss_from_two_pairs_each(capsys):
    """ln ratios averaged: u² = s_d²/2 + s_t²/2 of logarithms, k of Student's t by Welch and Satterthwaite."""
    code, said = answer(
        capsys,
        *pairs("--direct", "104.00 W 104.60 W", "103.00 103.90"),
        *pairs("--through", "104.00 83.10", "102.00 W 81.90 W"),
        "--json",
    )
    made = json.loads(said.out)
    direct = [math.log(104.6 / 104), math.log(103.9 / 103)]
    through = [math.log(83.1 / 104), math.log(81.9 / 102)]
    parts = [statistics.stdev(some) / math.sqrt(2) for some in (direct, through)]
    u = 10 / math.log(10) * math.hypot(*parts)
    dof = sum(p**2 for p in parts) ** 2 / sum(p**4 for p in parts)

    assert code == 0
    assert made["loss_db"] == pytest.approx(10 / math.log(10) * (statistics.mean(direct) - statistics.mean(through)))
    assert made["expanded_u_db"] == pytest.approx(stats.t.ppf(0.97725, dof) * u)
    assert made["bound_db"] == pytest.approx(made["loss_db"] + stats.t.ppf(0.95, dof) * u)
    assert made["coupler_ratio"] == pytest.approx(math.exp(statistics.mean(direct)))
    assert made["efficiency_percent"] == pytest.approx(100 * 10 ** (-made["loss_db"] / 10))
    assert made["notes"] == []


def test_one_pair_each_is_known_to_its_last_digits(capsys):
    """0.1 W of 104 W and so on, rectangular, k = 2; the bound is 1.645·u above (95 % of a normal distribution)."""
    _, said = answer(capsys, *pairs("--direct", "104.0 104.6"), *pairs("--through", "104.0 W 104.5 W"), "--json")
    made = json.loads(said.out)
    u = 10 / math.log(10) * 0.1 / math.sqrt(12) * math.sqrt(2 / 104.0**2 + 1 / 104.6**2 + 1 / 104.5**2)

    assert made["expanded_u_db"] == pytest.approx(2 * u, rel=1e-3)
    assert made["bound_db"] == pytest.approx(max(made["loss_db"] + stats.norm.ppf(0.95) * u, 0.0), rel=1e-6)
    assert [note["code"] for note in made["notes"]] == ["loss.unseen", "loss.once"]


def test_of_pairs_read_to_different_digits_the_coarsest_counts(capsys):
    """1 W of 104 and 105 W, rectangular, over √2, beside two pairs read to 0.1 W."""
    _, said = answer(
        capsys,
        *pairs("--direct", "104.0 104.6", "104 105"),
        *pairs("--through", "104.0 104.5", "104.0 104.6"),
        "--json",
    )
    coarse, fine = (math.hypot(digit / 104, digit / out) / math.sqrt(24) for digit, out in ((1, 105), (0.1, 104.55)))
    fine = max(fine, statistics.stdev([math.log(104.5 / 104), math.log(104.6 / 104)]) / math.sqrt(2))

    assert json.loads(said.out)["expanded_u_db"] >= 2 * 10 / math.log(10) * math.hypot(coarse, fine) * 0.999


def test_more_out_than_in_is_doubted_and_the_bound_is_not_below_nothing(capsys):
    _, said = answer(capsys, *pairs("--direct", "104.0 83.0"), *pairs("--through", "104.0 104.0"), "--json")
    made = json.loads(said.out)

    assert made["loss_db"] < -0.9 and made["bound_db"] == 0.0
    assert made["notes"][0]["code"] == "loss.gain"


def test_levels_and_text(capsys):
    code, said = answer(capsys, *pairs("--direct", "50.0 dBm 50.0 dBm"), *pairs("--through", "50.0 dBm 47.0 dBm"))
    text = said.out.replace("\u202f", " ")

    assert code == 0
    assert "Loss         3.0" in text and "Through      50 %" in text


@pytest.mark.parametrize(("arguments", "says"), [
    (["--direct", "104 103"], "pairs are needed"), (["--direct", "104", "--through", "1 2"], "isn't a pair"),
    (["--direct", "104 x", "--through", "1 2"], "isn't a pair"),
    (["--direct", "0 1", "--through", "1 2"], "nothing or less"),
])  # fmt: skip
def test_what_is_no_pair_is_said(capsys, arguments, says):
    code, said = answer(capsys, *arguments)

    assert code != 0
    assert says in said.err


def test_both_instruments_exchanged_are_averaged_in_db(capsys):
    """A part of 0.5 dB whose neighbours make 0.56 dB of it, and 0.44 dB with A and B exchanged."""
    through, exchanged = (f"100.00 W {100.0 * 10 ** (-db / 10):.2f} W" for db in (0.56, 0.44))
    code, said = answer(
        capsys, *pairs("--direct", "100.00 W 100.00 W"), *pairs("--through", through),
        *pairs("--swapped-direct", "100.00 W 100.00 W"), *pairs("--swapped-through", exchanged), "--json",
    )  # fmt: skip
    found = json.loads(said.out)

    assert code == 0
    assert found["loss_db"] == pytest.approx(0.5, abs=1e-3)
    # half the difference counts as the half-width of a rectangle: 0.06/sqrt(3), k = 2
    assert found["expanded_u_db"] == pytest.approx(2 * 0.06 / math.sqrt(3), rel=2e-2)


def test_alike_both_ways_u_shrinks_by_the_root_of_two(capsys):
    alone = json.loads(answer(capsys, *pairs("--direct", "100 99"), *pairs("--through", "100 50"), "--json")[1].out)
    both = json.loads(answer(
        capsys, *pairs("--direct", "100 99"), *pairs("--through", "100 50"), *pairs("--swapped-direct", "100 99"),
        *pairs("--swapped-through", "100 50"), "--json",
    )[1].out)  # fmt: skip

    assert both["expanded_u_db"] == pytest.approx(alone["expanded_u_db"] / math.sqrt(2), rel=1e-3)


def test_exchanged_pairs_come_both_ways(capsys):
    code, said = answer(
        capsys, *pairs("--direct", "100 99"), *pairs("--through", "100 50"), *pairs("--swapped-direct", "100 99")
    )
    assert code != 0 and "exchanged, too" in said.err


def test_exchanged_with_more_pairs_on_one_side_says_nothing_of_once(capsys):
    one = ("100.0 99.0", "100.1 99.1")
    codes = {}
    for n, through in (("both", ("100.0 50.0", "100.1 50.1")), ("once", ("100.0 50.0",))):
        said = answer(capsys, *pairs("--direct", *one), *pairs("--through", *through), "--json")[1].out
        codes[n] = [note["code"] for note in json.loads(said)["notes"]]

    assert "loss.once" in codes["once"]
    assert "loss.once" not in codes["both"]


def test_pairs_that_fall_together_are_no_better_than_their_digits(capsys):
    """Alike to the last digit they scatter by nothing: ±half a digit of each counts."""
    said = answer(capsys, *pairs("--direct", "100 99", "100 99"), *pairs("--through", "100 50", "100 50"), "--json")[
        1
    ].out
    u = 10 / math.log(10) / math.sqrt(12) * math.sqrt((2 / 100**2 + 1 / 99**2 + 1 / 50**2) / 2)

    assert json.loads(said)["expanded_u_db"] >= 2 * u * 0.99


def test_milliwatts_are_powers_too(capsys):
    code, said = answer(capsys, "--direct", "0.5 W 0.4 W", "--through", "0.5 W 0.36 W", "--json")

    assert code == 0
    assert json.loads(said.out)["loss_db"] == pytest.approx(10.0 * math.log10(0.4 / 0.36))
