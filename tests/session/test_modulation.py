"""What the modulation tools say: which kind of meter one would be, and where a power stops rising."""

from dataclasses import replace

import pytest

from fenmist.methods.on_waveform import MetersRequest
from fenmist.methods.plateau import PlateauRequest
from fenmist.session.modulation import meters_rows, plateau_rows, told_of


@pytest.mark.parametrize(
    ("waveform", "shown", "said", "pep"),
    [
        ("two-tone", 50.0, "50 W is about what a thermal meter shows.", 100),  # half of PEP
        ("two-tone", 0.95, "950 mW is about what a thermal meter shows.", 2),
        ("two-tone", 40.0, "40 W is about what an averaging needle shows.", 100),  # (2/π)² of it: 40.5 %
        ("two-tone", 97.0, "97 W is about what a hold or a true peak meter shows.", 100),
        ("two-tone", 70.0, "70 W is what none of the four shows here.", 100),
        ("carrier", 100.0, "", 100), ("two-tone", 0.0, "", 100), ("two-tone", None, "", 100),
    ],
)  # fmt: skip
def test_a_meter_is_told_by_what_it_shows_of_a_pep_unless_all_show_the_same(waveform, shown, said, pep):
    assert told_of(MetersRequest(waveform, pep=f"{pep} W")(), shown).replace("\u202f", " ") == said


@pytest.mark.parametrize(
    ("powers", "says"),
    [
        ("10 20 30 40 50 60 60 60 60 60", "10 W for each step of gain"),  # 10 W a step, then 60 W
        ("0.6 2.4 5.4 9.6 15 21.6 21.6 21.6 21.6 21.6", "the power rises as the square of the gain"),  # 0.6 g²
    ],
)
def test_below_a_knee_power_rises_with_the_gain_or_its_square(powers, says):
    found = dict(plateau_rows(PlateauRequest("1 2 3 4 5 6 7 8 9 10", powers)()))
    assert found["Below it"].replace("\u202f", " ") == says


@pytest.mark.parametrize(("low", "high", "said"), [
    (48.0, 50.1, "; swings between 48 W and 50 W"), (48.0, 49.9, ""), (0.09, 50.0, "; swings between 0 W and 50 W"),
])  # fmt: skip
def test_a_needle_is_said_to_swing_beyond_a_fiftieth_of_100_w_pep(low, high, said):
    answer = MetersRequest("two-tone", pep="100 W")()
    shows = {**answer.shows, "averaging": replace(answer.shows["averaging"], low=low, high=high)}
    row = dict(meters_rows(replace(answer, shows=shows)))["Averaging needle"]

    assert row.replace("\u202f", " ").partition(";")[1:] == ((";", said[1:]) if said else ("", ""))
