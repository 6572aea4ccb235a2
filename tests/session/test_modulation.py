"""What the modulation tools say: which kind of meter one would be, and where a power stops rising."""

import pytest

from fenmist.methods.on_waveform import MetersRequest
from fenmist.methods.plateau import PlateauRequest
from fenmist.session.modulation import plateau_rows, told_of


@pytest.mark.parametrize(
    ("waveform", "shown", "said"),
    [
        ("two-tone", 50.0, "50 W is about what a thermal meter shows."),  # half of PEP
        ("two-tone", 40.0, "40 W is about what an averaging needle shows."),  # (2/π)² of it: 40.5 %
        ("two-tone", 97.0, "97 W is about what a hold or a true peak meter shows."),
        ("two-tone", 70.0, "70 W is what none of the four shows here."),
        ("carrier", 100.0, ""), ("two-tone", 0.0, ""), ("two-tone", None, ""),
    ],
)  # fmt: skip
def test_a_meter_is_told_by_what_it_shows_of_100_w_pep_unless_all_show_the_same(waveform, shown, said):
    assert told_of(MetersRequest(waveform, pep="100 W")(), shown).replace("\u202f", " ") == said


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
