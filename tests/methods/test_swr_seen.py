"""What a reading of a match means, through `fenmist swr`: against any handbook's table of SWR and of lossy lines."""

import json
import math
import re

import pytest
import skrf

from fenmist.__main__ import main


def made(capsys, *arguments):
    assert main(["swr", *arguments, "--json"]) == 0
    return json.loads(capsys.readouterr().out)


def said(capsys, *arguments):
    code = main(["swr", *arguments])
    return code, capsys.readouterr()


@pytest.mark.parametrize(("swr", "loss", "percent"), [
    ("1.1", 26.4, 0.227), ("1.2", 20.8, 0.826), ("1.5", 14.0, 4.0), ("2", 9.54, 11.1), ("3", 6.02, 25.0),
    ("5", 3.52, 44.4),
])  # fmt: skip
def test_the_table_of_any_handbook(capsys, swr, loss, percent):
    """SWR, return loss, reflected power (any handbook of radio, from memory)."""
    found = made(capsys, "--swr", swr)

    assert found["return_loss_db"] == pytest.approx(loss, abs=0.05)
    assert found["reflected_percent"] == pytest.approx(percent, rel=5e-3)
    assert found["rho"] == pytest.approx((float(swr) - 1) / (float(swr) + 1))
    assert (found["net_w"], found["swr_other_end"], found["line_total_loss_db"]) == (None, None, None)


@pytest.mark.parametrize(("load", "swr"), [("75", 1.5), ("25", 2.0), ("250", 5.0), ("50+j50", 2.618), ("50", 1.0)])
def test_a_load_is_what_it_reflects(capsys, load, swr):
    assert made(capsys, "--load", load)["swr"] == pytest.approx(swr, abs=1e-3)


def test_watts_there_and_back(capsys):
    found = made(capsys, "--forward", "100 W", "--reflected", "4 W")

    assert (found["swr"], found["net_w"]) == (pytest.approx(1.5), 96.0)


@pytest.mark.parametrize(("load", "low", "high"), [("60", 1.07, 1.35), ("100", 1.77, 2.28)])
def test_what_a_directivity_of_25_db_lets_a_meter_show(capsys, load, low, high):
    """Derived in handbook 6, to first order."""
    found = made(capsys, "--load", load, "--directivity", "25")
    assert found["swr_window"] == pytest.approx([low, high], abs=6e-3)


def test_a_set_control_a_tenth_off_shows_186_of_2(capsys):
    found = made(capsys, "--load", "100", "--set-error", "10")
    assert found["swr_window"] == [pytest.approx(1.857, abs=1e-3), pytest.approx((1 + 1.1 / 3) / (1 - 1.1 / 3))]
    read = made(capsys, "--swr", "1.857143", "--set-error", "10")
    assert read["swr_window"][1] == pytest.approx(2.0, abs=1e-5)  # what was read may be a 2


@pytest.mark.parametrize(("swr", "loss", "seen", "total"), [
    ("3", "1", 2.32, None), ("3", "3", 1.67, 3.97), ("5", "3", 2.00, None), ("1", "3", 1.0, 3.0),
])  # fmt: skip
def test_a_line_hides_and_loses(capsys, swr, loss, seen, total):
    """Handbook 3, and back again."""
    found = made(capsys, "--swr", swr, "--line-loss", loss)

    assert found["swr_other_end"] == pytest.approx(seen, abs=6e-3)
    if total is not None:
        assert found["line_total_loss_db"] == pytest.approx(total, abs=6e-3)
    back = made(capsys, "--swr", str(found["swr_other_end"]), "--line-loss", loss, "--at", "transmitter")
    assert back["swr_other_end"] == pytest.approx(float(swr), rel=1e-9)
    assert back["line_total_loss_db"] == pytest.approx(found["line_total_loss_db"], rel=1e-9)


def test_a_lossy_line_as_a_network_library_has_it(capsys):
    """scikit-rf: a matched pad of 2.3 dB before 120 + 40j Ω; power that goes in over power in the load."""
    gamma = (120 + 40j - 50) / (120 + 40j + 50)
    a = 10 ** (-2.3 / 20)
    frequency = skrf.Frequency(7, 7, 1, "MHz")
    pad = skrf.Network(frequency=frequency, s=[[[0, a], [a, 0]]], z0=50)
    load = skrf.Network(frequency=frequency, s=[[[gamma]]], z0=50)
    seen = abs((pad**load).s[0, 0, 0])
    found = made(capsys, "--load", "120+j40", "--line-loss", "2.3 dB")

    assert found["swr_other_end"] == pytest.approx((1 + seen) / (1 - seen), rel=1e-9)
    lost = 10 * math.log10((1 - seen**2) / (a**2 * (1 - abs(gamma) ** 2)))
    assert found["line_total_loss_db"] == pytest.approx(lost, rel=1e-9)


def test_notes_of_what_is_high_hidden_or_only_a_bound(capsys):
    high = made(capsys, "--swr", "3", "--line-loss", "3")
    assert [note["code"] for note in high["notes"]] == ["swr.high", "swr.hidden"]
    bound = made(capsys, "--swr", "1.05", "--directivity", "25 dB")
    assert [note["code"] for note in bound["notes"]] == ["swr.bound"]
    assert bound["swr_window"][0] == 1.0
    assert made(capsys, "--swr", "1.9")["notes"] == []
    assert [note["code"] for note in made(capsys, "--swr", "1.95")["notes"]] == ["swr.high"]  # above 10 %


def test_all_that_comes_back(capsys):
    found = made(capsys, "--forward", "10", "--reflected", "10", "--line-loss", "1")
    assert (found["swr"], found["net_w"], found["line_total_loss_db"]) == (None, 0.0, None)
    code, out = said(capsys, "--forward", "10", "--reflected", "10")
    assert code == 0 and "without end" in out.out


def test_the_answer_as_text(capsys):
    code, out = said(capsys, "--swr", "3", "--line-loss", "3 dB", "--directivity", "25 dB")
    text = re.sub(r"[ \u202f]+", " ", out.out)

    assert code == 0
    for line in (
        "SWR 3",
        "25 % of the power",
        "Window 2.6 to 3.51",
        "At the transmitter 1.67",
        "3.97 dB",
    ):
        assert line in text, line


@pytest.mark.parametrize(("arguments", "says"), [
    ([], "Nothing was read"), (["--other-swr", "2"], "Nothing was read"),
    (["--swr", "0.5"], "makes no sense"), (["--forward", "4", "--reflected", "100"], "More comes back"),
    (["--forward", "1.1e9", "--reflected", "1"], "makes no sense"),
    (["--load", "|57.7|"], "only the size"), (["--forward", "0", "--reflected", "0"], "Nothing goes out"),
    (["--swr", "3", "--line-loss", "6", "--at", "transmitter"], "no load shows"),
    (["--swr", "2", "--directivity", "x"], "directivity"), (["--swr", "2", "--set-error", "95"], "makes no sense"),
])  # fmt: skip
def test_what_can_not_be_is_said(capsys, arguments, says):
    code, out = said(capsys, *arguments)

    assert code != 0
    assert says in out.err


@pytest.mark.parametrize(("arguments", "code"), [
    (["--swr", "1.4", "--load", "75", "--directivity", "25"], "swr.explained"),  # it may show 1.34 to 1.69
    (["--swr", "1.3", "--load", "75", "--directivity", "25"], "swr.explained"),  # to its last digit
    (["--swr", "1.2", "--load", "75", "--directivity", "25"], "swr.unexplained"),
    (["--swr", "1.7", "--load", "75", "--directivity", "25"], "swr.explained"),
    (["--swr", "1.9", "--load", "75", "--directivity", "25"], "swr.unexplained"),
    (["--swr", "1.5", "--load", "75"], "swr.explained"), (["--swr", "1.3", "--load", "75"], "swr.unexplained"),
    (["--swr", "1.38", "--load", "75", "--set-error", "20"], "swr.explained"),  # 0.2 * 0.8 shows 1.381
    (["--swr", "1.36", "--load", "75", "--set-error", "20"], "swr.unexplained"),
])  # fmt: skip
def test_a_reading_beside_a_known_load(capsys, arguments, code):
    """Handbook 6: a true 1.5 behind 25 dB shows from (0.2 - 0.0562) to (0.2 + 0.0562) of rho, derived."""
    found = made(capsys, *arguments)

    assert found["expected_swr"] == pytest.approx(1.5)
    assert code in [note["code"] for note in found["notes"]]
    if "25" in arguments:
        assert found["swr_shows"] == pytest.approx([1.3358, 1.6890], abs=1e-4)


def test_what_would_explain_a_reading_is_said(capsys):
    """1.3 for 1.5: rho is 0.2 - 0.13043 = 0.0696 off, and 10^(-23.15/20) is as much."""
    (note,) = made(capsys, "--swr", "1.3", "--load", "75")["notes"]
    assert "ρ is 0.0696 off; a directivity of 23" in note["why"]


def test_a_load_is_carried_to_a_meter_at_the_transmitter(capsys):
    """SWR 3 behind 3 dB is 1.67 (handbook 3)."""
    found = made(capsys, "--swr", "1.67", "--load", "150", "--line-loss", "3", "--at", "transmitter")

    assert found["expected_swr"] == pytest.approx(1.67, abs=5e-3)
    assert "swr.explained" in [note["code"] for note in found["notes"]]


@pytest.mark.parametrize(("forward", "reflected", "swr", "belong"), [
    ("100", "4", "1.5", True), ("100", "4", "1.6", False), ("100", "4.0", "1.55", False), ("10", "1", "1.9", True),
])  # fmt: skip
def test_three_numbers_of_one_meter(capsys, forward, reflected, swr, belong):
    """SWR follows from forward and reflected; ±half a last digit of each: 10/1 is anything from 1.56 to 2.31."""
    codes = [note["code"] for note in made(
        capsys, "--forward", forward, "--reflected", reflected, "--swr", swr)["notes"]]  # fmt: skip
    assert ("swr.three_numbers" not in codes) is belong


@pytest.mark.parametrize(("here", "there", "more", "code"), [
    ("3", "2.3", (), "swr.two_agree"), ("3", "2.0", (), "swr.two_disagree"),
    ("3", "2.0", ("--directivity", "25"), "swr.two_agree"), ("3.0", "2.0", ("--directivity", "35"), "swr.two_disagree"),
    ("2.3", "3", ("--at", "transmitter"), "swr.two_agree"), ("2.3", "2.3", ("--at", "transmitter"), "swr.two_disagree"),
])  # fmt: skip
def test_two_meters_at_both_ends_of_a_line(capsys, here, there, more, code):
    """1 dB makes 3 into 2.32 (handbook 3)."""
    found = made(capsys, "--swr", here, "--other-swr", there, "--line-loss", "1 dB", *more)
    assert code in [note["code"] for note in found["notes"]]
    assert found["swr_other_meter"] is not None


def test_the_window_behind_leak_and_set_control_is_derived(capsys):
    """ρ = 1/3 read; shown between (ρ − δ)(1 − s) and (ρ + δ)(1 + s): so ρ lies from s⁻-freed less δ to it plus δ."""
    found = made(capsys, "--swr", "2.00", "--directivity", "30 dB", "--set-error", "5 %")
    leak, digit = 10 ** (-30 / 20), 0.0
    low = (1 / 3 - digit) / 1.05 - leak
    high = (1 / 3 + digit) / 0.95 + leak
    assert found["swr_window"] == pytest.approx([(1 + low) / (1 - low), (1 + high) / (1 - high)], rel=5e-3)


def test_the_worst_of_both_ends_of_a_line_raises_the_alarm(capsys):
    """1.7 at the transmitter is 3.16 at the load behind 3 dB."""
    found = made(capsys, "--swr", "1.7", "--line-loss", "3", "--at", "transmitter")
    assert "swr.high" in [note["code"] for note in found["notes"]]


def test_all_that_a_line_can_show_is_a_full_reflection(capsys):
    """Behind 3 dB an open shows ρ = 10^(-0.3): SWR 3.01; to rounding that is still a load."""
    rho = 10 ** (-0.3)
    found = made(capsys, "--swr", repr((1 + rho) / (1 - rho)), "--line-loss", "3", "--at", "transmitter")
    assert found["swr_other_end"] is None or found["swr_other_end"] > 1e8


def test_watts_of_one_digit_are_known_to_half_of_it(capsys):
    """4 W of 100 W: 4.5 of 99.5 at most; 1 of 1 may be all that there is."""
    codes = [n["code"] for n in made(capsys, "--forward", "1", "--reflected", "1", "--swr", "9")["notes"]]
    assert "swr.three_numbers" not in codes


@pytest.mark.parametrize(("swr", "loss", "hidden"), [("2", "0.9", False), ("2", "1", True), ("1.1", "3", False)])
def test_a_line_of_a_decibel_hides_what_is_behind_it(capsys, swr, loss, hidden):
    """SWR 1.1 behind 3 dB is 1.05: nobody is misled by that."""
    codes = [note["code"] for note in made(capsys, "--swr", swr, "--line-loss", loss)["notes"]]
    assert ("swr.hidden" in codes) is hidden


@pytest.mark.parametrize(("here", "there", "agree"), [("3", "2.7", False), ("3", "2.0", False), ("3", "2.32", True)])
def test_another_meter_above_or_below_what_the_line_explains_disagrees(capsys, here, there, agree):
    codes = [note["code"] for note in made(capsys, "--swr", here, "--other-swr", there, "--line-loss", "1 dB")["notes"]]
    assert ("swr.two_agree" in codes) is agree
    assert ("swr.two_disagree" in codes) is not agree


def test_what_only_another_meter_shows_is_no_reading_to_hold_against_it(capsys):
    found = made(capsys, "--load", "75", "--other-swr", "1.4", "--line-loss", "1 dB")
    assert found["net_w"] is None
    assert not [note for note in found["notes"] if note["code"].startswith("swr.two")]
