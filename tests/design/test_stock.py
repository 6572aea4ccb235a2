"""Preferred values as printed, what a drawer says, and the search against looking at everything."""

import itertools
from functools import cache

import numpy as np
import pytest

from fenmist.design.preferred import SERIES, members
from fenmist.design.stack import MOST_PIECES, How, Wanted, banks, beside, joined, one, search
from fenmist.design.stock import Piece, stock_from_text
from fenmist.errors import FenmistError

E24 = "1.0 1.1 1.2 1.3 1.5 1.6 1.8 2.0 2.2 2.4 2.7 3.0 3.3 3.6 3.9 4.3 4.7 5.1 5.6 6.2 6.8 7.5 8.2 9.1"
E96 = (
    "1.00 1.02 1.05 1.07 1.10 1.13 1.15 1.18 1.21 1.24 1.27 1.30 1.33 1.37 1.40 1.43 1.47 1.50 1.54 1.58 "
    "1.62 1.65 1.69 1.74 1.78 1.82 1.87 1.91 1.96 2.00 2.05 2.10 2.15 2.21 2.26 2.32 2.37 2.43 2.49 2.55 "
    "2.61 2.67 2.74 2.80 2.87 2.94 3.01 3.09 3.16 3.24 3.32 3.40 3.48 3.57 3.65 3.74 3.83 3.92 4.02 4.12 "
    "4.22 4.32 4.42 4.53 4.64 4.75 4.87 4.99 5.11 5.23 5.36 5.49 5.62 5.76 5.90 6.04 6.19 6.34 6.49 6.65 "
    "6.81 6.98 7.15 7.32 7.50 7.68 7.87 8.06 8.25 8.45 8.66 8.87 9.09 9.31 9.53 9.76"
)


@pytest.mark.parametrize(
    ("name", "printed"),
    [("E3", "1.0 2.2 4.7"), ("E6", "1.0 1.5 2.2 3.3 4.7 6.8"),
     ("E12", "1.0 1.2 1.5 1.8 2.2 2.7 3.3 3.9 4.7 5.6 6.8 8.2"), ("E24", E24), ("E96", E96)],
)  # fmt: skip
def test_members_are_those_printed(name, printed):
    """IEC 60063, from memory."""
    assert [f"{value:g}" for value in SERIES[name]] == [f"{float(word):g}" for word in printed.split()]


def test_the_finest_series_contain_the_coarser_and_one_printed_exception():
    """E48 is every other of E96, E96 of E192; E192 prints 9.20 where its rule gives 9.19 (IEC 60063, from memory)."""
    assert SERIES["E192"][::2] == SERIES["E96"] and SERIES["E96"][::2] == SERIES["E48"]
    assert 9.20 in SERIES["E192"] and 9.19 not in SERIES["E192"]
    assert {name: len(values) for name, values in SERIES.items()} == {
        name: int(name[1:]) for name in ("E3", "E6", "E12", "E24", "E48", "E96", "E192")
    }
    assert members("E6", 0.47, 10.0) == (0.47, 0.68, 1.0, 1.5, 2.2, 3.3, 4.7, 6.8, 10.0)
    with pytest.raises(FenmistError, match="no series “E7”"):
        members("E7", 1.0, 10.0)


# a drawer


def test_a_drawers_line_says_values_counts_and_ratings():
    stock = stock_from_text("820 Ω 5 % 2 W 350 V × 6; 4 x 100 Ω 250 mW\n470 1k 10 kΩ; measured 820.3 818.9 Ω 0.2%")
    found = [
        (item.ohm, item.tolerance, item.power_w, item.volts, item.count, item.is_measured) for item in stock.pieces
    ]

    assert found == [
        (820.0, 0.05, 2.0, 350.0, 6, False), (100.0, 0.05, 0.25, None, 4, False),
        (470.0, 0.05, None, None, None, False),
        (1000.0, 0.05, None, None, None, False), (10e3, 0.05, None, None, None, False),
        (820.3, 0.002, None, None, 1, True), (818.9, 0.002, None, None, 1, True),
    ]  # fmt: skip


def test_a_series_brings_its_usual_tolerance_and_reaches_around_the_value():
    stock = stock_from_text("E24 3 W; E96")
    pieces = stock.around(2460.0)

    assert {(item.tolerance, item.power_w) for item in pieces} == {(0.05, 3.0), (0.01, None)}
    assert min(item.ohm for item in pieces) < 30.0 and max(item.ohm for item in pieces) > 200e3
    assert len(stock_from_text("E192").around(50.0)) <= 400


@pytest.mark.parametrize(
    ("text", "says"),
    [("", "Nothing is said"), ("three bananas", "is no resistor"), ("100 Ω × 0", "there is none"),
     ("-5 Ω", "is no resistor"), ("100 Ω 100 %", "is no rating"), ("E7 5 %", "is no resistor"),
     ("0 Ω", "is no resistor"),
     (" ".join(str(n) for n in range(1, 500)) + " Ω", "more than can be looked through")],
)  # fmt: skip
def test_what_is_no_stock_is_said(text, says):
    with pytest.raises(FenmistError, match=says):
        stock_from_text(text)


# stacks


def _pieces(*ohms, **more):
    return tuple(Piece(ohm, more.get("tolerance", 0.0), more.get("power_w")) for ohm in ohms)


def test_a_stack_says_what_it_is_and_shares_heat_and_volts():
    """1 kΩ + (220 Ω ∥ 470 Ω): 149.9 Ω take 13 % of the power, 220 Ω of it 68 %."""
    a, b, c = (one(piece) for piece in _pieces(1000.0, 220.0, 470.0, tolerance=0.05, power_w=1.0))
    stack = joined(How.SERIES, (a, joined(How.PARALLEL, (b, c))))
    inner = 220.0 * 470.0 / 690.0
    shares = {leaf.piece.ohm: (leaf.power_share, leaf.volts_share) for leaf in stack.leaves}

    assert stack.ohm == pytest.approx(1000.0 + inner)
    assert shares[1000.0] == pytest.approx((1000.0 / stack.ohm,) * 2)
    assert shares[220.0] == pytest.approx((inner / stack.ohm * 470.0 / 690.0, inner / stack.ohm))
    assert sum(power for power, _ in shares.values()) == pytest.approx(1.0)
    assert stack.bears_w == pytest.approx(stack.ohm / 1000.0)
    assert stack.said() == "1000\u202fΩ + (220\u202fΩ with 470\u202fΩ across it)"
    assert stack.tolerance == pytest.approx(0.05)


def test_by_how_much_a_stack_follows_a_piece_is_that_pieces_share_of_its_power():
    """d ln R = Σ p·d ln R_i, by moving each piece by a millionth."""
    ohms = (1000.0, 220.0, 470.0, 56.0)

    def made(values):
        a, b, c, d = (one(piece) for piece in _pieces(*values))
        return joined(How.PARALLEL, (joined(How.SERIES, (a, b)), joined(How.SERIES, (c, d))))

    shares = {leaf.piece.ohm: leaf.power_share for leaf in made(ohms).leaves}
    for place, ohm in enumerate(ohms):
        moved = list(ohms)
        moved[place] *= 1.0 + 1e-6
        assert (made(moved).ohm / made(ohms).ohm - 1.0) / 1e-6 == pytest.approx(shares[ohm], rel=1e-4)


def test_measured_resistors_make_the_value_by_what_they_are():
    """56 Ω with 470 Ω across it is 50.04 Ω (the issue's own example)."""
    best = search(Wanted(50.0), _pieces(56.0, 470.0, 39.0))[0]

    assert best.stack.said() == "56\u202fΩ with 470\u202fΩ across it"
    assert best.stack.ohm == pytest.approx(50.04, abs=0.005)


@cache
def _everything(ohms):
    """All resistances that some pieces can make, each used once, by splitting them in two in every way."""
    if len(ohms) == 1:
        return frozenset(ohms)
    found = set()
    for size in range(1, len(ohms) // 2 + 1):
        for chosen in itertools.combinations(range(len(ohms)), size):
            left = _everything(tuple(ohms[n] for n in chosen))
            right = _everything(tuple(ohms[n] for n in range(len(ohms)) if n not in chosen))
            found |= {value for a in left for b in right for value in (a + b, a * b / (a + b))}
    return frozenset(found)


@pytest.mark.parametrize("seed", range(12))
def test_the_best_stack_is_the_best_of_all(seed):
    """Five values, one to four of them, each as often as wanted; and each but once."""
    random = np.random.default_rng(seed)
    ohms = tuple(sorted(random.choice([10.0, 22.0, 47.0, 56.0, 100.0, 220.0, 330.0, 470.0, 820.0, 2700.0], 5, False)))
    wanted = float(random.uniform(20.0, 3000.0))
    sets = [c for n in range(1, MOST_PIECES + 1) for c in itertools.combinations_with_replacement(ohms, n)]
    best = min(abs(value / wanted - 1.0) for chosen in sets for value in _everything(chosen))
    single = min(abs(v / wanted - 1.0) for c in sets if len(set(c)) == len(c) for v in _everything(c))

    assert abs(search(Wanted(wanted), _pieces(*ohms))[0].error) == pytest.approx(best, abs=1e-12)
    but_once = [Piece(ohm, 0.0, count=1) for ohm in ohms]
    assert abs(search(Wanted(wanted), but_once)[0].error) == pytest.approx(single, abs=1e-12)


def test_of_a_whole_series_the_best_of_three_is_found():
    """All of E24 from 100 Ω to 91 kΩ, by looking at each pair beside each single."""
    ohms = np.array(members("E24", 100.0, 91e3))
    i, j = np.triu_indices(ohms.size)
    pairs = np.concatenate([ohms[i] + ohms[j], ohms[i] * ohms[j] / (ohms[i] + ohms[j])])
    three = np.concatenate([np.add.outer(ohms, pairs).ravel(), (1 / np.add.outer(1 / ohms, 1 / pairs)).ravel()])
    for wanted in (2463.7, 51.23, 777.7, 4321.0, 99.07):
        found = search(Wanted(wanted, pieces=3), _pieces(*ohms))[0]
        assert abs(found.error) == pytest.approx(np.min(np.abs(three / wanted - 1.0)), abs=1e-12)


def test_of_a_whole_series_those_that_share_the_heat_are_found():
    """3.5 W in 2463 Ω from 2 W parts, half used: no piece may take more than 1/3.5 of it; four nearly alike."""
    pieces = stock_from_text("E24 2 W").around(2463.0)
    best = search(Wanted(2463.0, power_w=3.5), pieces)[0]

    assert best.holds and len(best.stack.leaves) == 4
    assert max(leaf.power_share for leaf in best.stack.leaves) <= 1.0 / 3.5
    assert abs(best.error) < 0.01


def test_what_bears_the_heat_comes_first_and_fewer_pieces_where_more_are_not_worth_it():
    """2 W in 2460 Ω from 1 W parts, half used: four that share it, not the one that is nearest."""
    pieces = _pieces(2400.0, 2460.0, 10e3, 620.0, 610.0, tolerance=0.05, power_w=1.0)
    hot, cold = search(Wanted(2460.0, power_w=2.0), pieces), search(Wanted(2460.0), pieces)

    assert hot[0].holds and len(hot[0].stack.leaves) == 4
    assert hot[0].heat == pytest.approx(max(leaf.power_share for leaf in hot[0].stack.leaves) * 2.0 / 0.5)
    assert cold[0].stack.said() == "2460\u202fΩ"
    near = search(Wanted(2460.0), _pieces(2450.0, 10.0, tolerance=0.05))
    assert near[0].stack.said() == "2450\u202fΩ"  # 0.4 % is less than a tenth of 5 %
    assert search(Wanted(2460.0), _pieces(2450.0, 10.0, tolerance=0.01))[0].stack.said() == "2450\u202fΩ + 10\u202fΩ"


def test_volts_over_a_rating_count_as_heat_does():
    low, high = Piece(1000.0, 0.05, 5.0, 50.0), Piece(500.0, 0.05, 5.0, 50.0)
    best = search(Wanted(1000.0, volts=90.0), (low, high))[0]

    assert best.stack.said() == "2 × 500\u202fΩ in series"
    assert best.volts == pytest.approx(45.0 / 50.0)
    assert beside(one(low), Wanted(1000.0, volts=90.0)).holds is False


def test_a_load_of_many_alike_shares_its_heat_evenly():
    """100 W in 3 W parts, half used: at least 67 of them."""
    best = banks(Wanted(50.0, power_w=100.0), _pieces(3300.0, 100.0, tolerance=0.05, power_w=3.0))[0]

    assert best.holds and len(best.stack.leaves) >= 67
    assert max(leaf.power_share for leaf in best.stack.leaves) == pytest.approx(1.0 / len(best.stack.leaves))
    assert best.stack.ohm == pytest.approx(50.0, rel=0.01)
    assert best.stack.said().endswith("in parallel")


@pytest.mark.parametrize(("ohm", "pieces"), [(0.0, 4), (-1.0, 4), (float("inf"), 4), (50.0, 5), (50.0, 0)])
def test_what_can_not_be_built_is_said(ohm, pieces):
    with pytest.raises(FenmistError):
        Wanted(ohm, pieces=pieces)
    with pytest.raises(FenmistError, match="nothing to build with"):
        search(Wanted(50.0), ())


def test_a_unit_at_the_end_of_a_list_holds_for_all_of_it():
    assert [piece.ohm for piece in stock_from_text("1.2 2,2 10 kΩ 1 W").pieces] == [1200.0, 2200.0, 10e3]
    assert [piece.ohm for piece in stock_from_text("820 and 100 ohm").pieces] == [820.0, 100.0]
    assert [piece.ohm for piece in stock_from_text("1M").pieces] == [1e6]


def test_a_bank_may_be_a_row_alone():
    found = {item.stack.said(): item for item in banks(Wanted(50.0), _pieces(10.0))}

    assert found["5 × 10\u202fΩ in series"].error == pytest.approx(0.0)
    assert "4 × (20 × 10\u202fΩ in series) in parallel" not in found  # no longer rows than eight
