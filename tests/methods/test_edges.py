"""Small facts of the plain methods, each at the value where it changes."""

from dataclasses import replace

import numpy as np
import pytest

from fenmist.errors import FenmistError, FileFormatError
from fenmist.kit.characterisation import load_state
from fenmist.kit.impedance import table_from_rows
from fenmist.kit.part import SpecKind, SpecTerm
from fenmist.measurand import Kind
from fenmist.methods.against_time import AgainstTimeRequest
from fenmist.methods.limited import limited
from fenmist.methods.loss_from_pairs import LossRequest
from fenmist.methods.match import Match
from fenmist.methods.match_shown import MeterClaim
from fenmist.methods.on_waveform import MetersRequest
from fenmist.methods.physics_rules import load_notes, match_notes
from fenmist.methods.plateau import End, plateau
from fenmist.methods.power_from_volts import PowerRequest
from fenmist.methods.swr_seen import SwrRequest


def test_a_file_that_is_missing_is_said_as_a_file_and_one_of_another_ending_is_read_as_one(tmp_path):
    with pytest.raises(FenmistError, match=r"nowhere\.csv"):
        MetersRequest("nowhere.csv")()
    odd = tmp_path / "trace.dat"
    odd.write_text("time,volts\n0,1\n1,nothing\n")
    with pytest.raises(FileFormatError):
        MetersRequest(str(odd))()


def test_a_level_of_half_a_watt_is_a_level():
    assert AgainstTimeRequest("0 1 2", "1 2 3 W", "0.5 W")().above_s == pytest.approx(2.0)
    with pytest.raises(FenmistError, match="above 0"):
        AgainstTimeRequest("0 1 2", "1 2 3 W", "0 W")()


def test_a_tip_of_a_microfarad_is_the_most():
    PowerRequest("100 Vpp", "50", "10 kHz", probe="10", input_capacitance="1 uF", bandwidth="50 MHz")()
    with pytest.raises(FenmistError, match="input capacitance"):
        PowerRequest("100 Vpp", "50", "10 kHz", probe="10", input_capacitance="1.1 uF", bandwidth="50 MHz")()


def test_default_accuracy_says_where_it_comes_from_and_all_corrections_are_applied():
    answer = PowerRequest("100 Vpp", "50", "7 MHz", lead="0.3 m", bandwidth="50 MHz")()
    assert any("common practice" in text for text in answer.assumptions)
    assert all(item.applied for item in answer.corrections)


@pytest.mark.parametrize(("low", "said"), [(1.0, 0), (0.999, 1), (1.5, 0)])
def test_only_an_swr_that_would_fall_below_1_is_remarked_of(low, said):
    class Told(Match):
        linear_low = low
        swr, swr_interval = 1.1, (1.0, 1.2)

    assert len(match_notes("load", Told.__new__(Told))) == said


def test_the_lines_of_exchanged_pairs_say_which_were_exchanged():
    answer = LossRequest(("100 W 99 W",), ("100 W 80 W",), ("100 W 99 W",), ("100 W 81 W",))()
    assert [item.is_swapped for item in answer.pairs] == [False, True]


def test_of_a_load_held_past_its_table_the_least_known_frequency_is_said():
    """2 of 50 Ω at 8.5 MHz, 6 at 9: 12 %."""
    state = load_state(table_from_rows([(7e6, "50"), (8e6, "50")], 0.01), np.array([8.5e6, 9e6]), 50.0)
    notes = load_notes("load", np.array([8.5e6, 9e6]), replace(state, u_resistance_ohm=np.array([2.0, 6.0])), 50.0)
    (note,) = (note for note in notes if note.code == "load.unknown_here")

    assert note.evidence["spread"] == pytest.approx(6.0 / 50.0)


def test_a_load_held_past_its_table_at_one_frequency_only_is_said_beside_what_is_off_its_nominal():
    """60 Ω taken for 50: (60² + 0)/(60 · 50) − 1 is 20 % too much."""
    at = np.array([7e6, 9e6])
    held, off = load_notes("load", at, load_state(table_from_rows([(7e6, "60"), (8e6, "60")], 0.01), at, 50.0), 50.0)

    assert (held.code, held.evidence["count"]) == ("load.unknown_here", 1.0)
    assert off.code == "load.not_nominal"
    assert "+20" in off.why


def test_what_a_reactance_does_to_a_power_taken_with_the_nominal_ohms():
    """45 + j20 Ω taken for 50: |Z|²/(R·50) − 1 = 2425/2250 − 1, 7.8 % too much (derived)."""
    at = np.array([7e6, 8e6])
    (off,) = load_notes(
        "load", at, load_state(table_from_rows([(7e6, "45+j20"), (8e6, "45+j20")], 0.01), at, 50.0), 50.0
    )
    assert off.code == "load.not_nominal" and "+7.8" in off.why


def test_a_load_that_is_off_at_one_frequency_of_two_is_said_to_be():
    at = np.array([7e6, 8e6])
    table = table_from_rows([(7e6, "50"), (8e6, "60")], 0.01)
    (off,) = load_notes("load", at, load_state(table, at, 50.0), 50.0)
    assert (off.code, off.evidence["resistance_ohm"]) == ("load.not_nominal", 60.0)


def test_of_a_load_of_which_only_the_size_is_known_nothing_says_that_its_nominal_value_is_wrong():
    at = np.array([7e6, 8e6])
    sized = load_notes("load", at, load_state(table_from_rows([(7e6, "|60|"), (8e6, "|60|")], 0.01), at, 50.0), 50.0)
    assert [note.code for note in sized] == ["load.phase_unknown"]
    assert load_notes("load", at, load_state(table_from_rows([(7e6, "50"), (8e6, "50")], 0.01), at, 50.0), 50.0) == ()


@pytest.mark.parametrize(
    ("typed", "part", "is_assumed"), [("50 W ± 5 %", 0.05, False), ("2 W ± 0.1 W", 0.05, False), ("50 W", 0.2, True)]
)
def test_a_limit_is_assumed_only_where_none_was_typed(typed, part, is_assumed):
    value = limited(typed, "W", "power", "50 W", 0.2)
    assert (value.limit, value.is_assumed) == (pytest.approx(part), is_assumed)


def test_a_gigawatt_is_the_most_that_a_meter_shows():
    SwrRequest(forward="1e9", reflected="1e6")()
    with pytest.raises(FenmistError, match="Forward"):
        SwrRequest(forward="1.1e9", reflected="1e6")()


def test_a_meter_that_may_show_everything_says_so_in_words():
    """0.5 Ω is SWR 100; a meter of 10 % may show anything up to ∞."""
    (note,) = (n for n in SwrRequest(swr="50", load="0.5", set_error="10 %")().notes if n.code == "swr.explained")
    assert note.what.endswith("to ∞.")


def test_an_end_told_by_its_swr_alone_has_no_phase():
    assert not SwrRequest(load="|57.7| swr 1.2")().has_phase


@pytest.mark.parametrize(
    ("swr", "at", "known"), [("1.5", "load", True), ("1.5", "transmitter", False), ("", "transmitter", True)]
)
def test_the_phase_of_a_load_is_known_where_nothing_was_read_or_it_was_read_there(swr, at, known):
    assert SwrRequest(swr=swr, at=at, load="45+j12", line_loss="1 dB")().has_phase is known


@pytest.mark.parametrize(("rise", "end"), [(1.0, End.STANDS), (4.0, End.RISES)])
def test_a_rise_behind_a_plateau_counts_from_a_part_of_the_plateau(rise, end):
    """Without scatter: from 3 % of 60 W over what lies beyond the knee."""
    gain = np.arange(1.0, 13.0)
    power = np.minimum(10.0 * gain, 60.0) + rise * np.maximum(gain - 6.0, 0.0) / 6.0
    assert plateau(gain, power, 1e-3, 1.0).end is end


def test_a_fall_behind_a_plateau_is_told_from_scatter_by_what_scatters():
    gain = np.arange(1.0, 13.0)
    stands = np.minimum(10.0 * gain, 60.0) + 0.05 * (-1.0) ** gain
    assert plateau(gain, stands, 0.1, 1.0).end is End.STANDS
    falls = stands - 0.5 * np.maximum(gain - 6.0, 0.0)
    assert plateau(gain, falls, 0.1, 1.0).end is End.FALLS


def test_what_comes_back_at_a_load_behind_a_line_cant_be_more_than_all():
    """1 dB of line hides 2 dB there and back: ρ 0.79 at the meter is all of it at the load, 0.82 is none."""
    assert SwrRequest(swr="8.5", line_loss="1 dB", at="transmitter")()
    with pytest.raises(FenmistError, match=r"8\.7"):  # (1 + 10^−0.1)/(1 − 10^−0.1)
        SwrRequest(swr="9", line_loss="1 dB", at="transmitter")()


@pytest.mark.parametrize(("digits", "db"), [(1.0, 0.1), (3.0, 0.3)])
def test_digits_of_a_return_loss_are_so_many_of_its_last(digits, db):
    """20 dB ± so many tenths: ρ from 10^(−(20 + db)/20) to 10^(−(20 − db)/20), no leak."""
    claim = MeterClaim(Kind.RETURN_LOSS, 200.0, (SpecTerm(SpecKind.DIGITS, digits),), digit=np.array([0.1]))
    low, high = claim.shows(np.array([0.1]))
    assert (low[0], high[0]) == pytest.approx((0.1 * 10 ** (-db / 20), 0.1 * 10 ** (db / 20)), rel=1e-6)
