"""Which kind of meter one would be, from what it showed on a waveform."""

import pytest

from fenmist.methods.on_waveform import MetersRequest
from fenmist.session.modulation import told_of


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
