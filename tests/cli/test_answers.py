"""What the plain commands answer, as a shell sees it, against facts of the trade."""

import json
import re

import pytest

from fenmist.__main__ import main


def answered(capsys, *asked):
    """As JSON and as text."""
    assert main([*asked, "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert main([*asked]) == 0
    return found, capsys.readouterr().out


def test_a_twenty_fifth_of_the_power_back_is_an_swr_of_one_and_a_half(capsys):
    """ρ 0.2, 14.0 dB of return loss, 96 W delivered (any SWR table)."""
    found, said = answered(capsys, "swr", "--forward", "100 W", "--reflected", "4 W")

    assert [found[name] for name in ("swr", "rho", "return_loss_db", "reflected_percent", "net_w")] == pytest.approx(
        [1.5, 0.2, 13.979, 4.0, 96.0], abs=1e-3
    )
    assert said.splitlines()[0] == "SWR          1.5"
    assert all(re.match(r"\S.{11} \S", line) for line in said.splitlines())  # answers stand below each other


def test_all_of_it_back_has_no_number_in_json_and_nothing_back_no_return_loss(capsys):
    found, _ = answered(capsys, "swr", "--forward", "100 W", "--reflected", "100 W")
    assert (found["swr"], found["rho"], found["return_loss_db"]) == (None, 1.0, 0.0)
    found, _ = answered(capsys, "swr", "--forward", "100 W", "--reflected", "0 W")
    assert (found["swr"], found["return_loss_db"], found["expected_swr"], found["swr_shows"]) == (1.0, None, None, None)


def test_through_three_decibels_of_line_rho_is_halved(capsys):
    """0.2 at the transmitter is 0.4 at the load: SWR 1.4/0.6; another meter that reads 2.33 there agrees."""
    asked = ("swr", "--swr", "1.5", "--line-loss", "3.0103 dB", "--at", "transmitter", "--other-swr", "2.3333")
    found, _ = answered(capsys, *asked)

    assert found["swr_other_end"] == pytest.approx(1.4 / 0.6, rel=1e-5)
    assert found["swr_other_meter"] == pytest.approx([1.5, 1.5], rel=1e-3)


def test_the_worst_of_a_setting_is_the_largest_error_on_either_side(capsys):
    """9 for 10 W, 49 for 50 W, 103 for 100 W: −10, −2, +3 %; halved between −10 and +3 it is 6.7 %."""
    readings = [text for pair in ("10 W: 9 W", "50 W: 49 W", "100 W: 103 W") for text in ("--reading", pair)]
    found, _ = answered(capsys, "trim", *readings)

    assert (found["as_found"]["worst_percent"], found["as_found"]["worst_at_w"]) == (pytest.approx(10.0), 10.0)
    least = found["gain_minimax"]
    assert least["gain"] == pytest.approx(2.0 / (0.9 + 1.03))
    assert least["worst_percent"] == pytest.approx(100.0 * (1.03 - 0.9) / (0.9 + 1.03))
    in_db, _ = answered(capsys, "trim", *readings, "--measure", "db")
    assert in_db["as_found"]["worst_percent"] == pytest.approx(10.0)


def test_two_values_twenty_of_their_u_apart_have_no_probability(capsys):
    """χ² = (2/0.0707)² = 800 with one degree of freedom; En = 2/√(0.1² + 0.1²)."""
    found, said = answered(capsys, "agree", "--value", "10 W ± 0.1 W", "--value", "12 W ± 0.1 W")

    assert (found["chi_squared"], abs(found["pairs"][0]["en"])) == pytest.approx((800.0, 2.0 / 0.02**0.5))
    assert "1 degree of freedom, probability less than 0.0001\n" in said
    _, said = answered(capsys, "agree", "--value", "10 W ± 1 W", "--value", "11.75 W ± 1 W", "--value", "10 W ± 1 W")
    assert re.search(r"2 degrees of freedom, probability 0\.0\d\d?\n", said)


def test_a_bench_may_have_the_number_nought_and_ends_by_itself(capsys):
    assert main(["bench", "--scenario", "live", "--seed", "0", "--minutes", "0.001"]) == 0
    said = capsys.readouterr().out
    assert "Sedge 200 (oscilloscope)" in said
    assert "Ends by itself after 0.001 minutes" in said


@pytest.mark.parametrize("more", [("--seed", "-1"), ("--minutes", "0"), ("--first-port", "1023"), ("--trouble", "1.1")])
def test_what_a_bench_cant_be_asked_for_is_refused(more, capsys):
    assert main(["bench", "--scenario", "live", *more]) == 2
    assert more[0] in capsys.readouterr().err or more[0] == "--minutes"


def test_help_calls_what_is_typed_text(capsys):
    assert main(["power", "--help"]) == 0
    assert "--volts TEXT" in capsys.readouterr().out
