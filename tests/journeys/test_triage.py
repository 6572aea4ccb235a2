"""Which one is wrong: a dead set, from an empty logbook to the customer's page, by keyboard."""

from dataclasses import replace

import pytest

from fenmist.kit import shelf
from fenmist.kit.part import Indicator, SpecKind, SpecTerm
from fenmist.measurand import Kind
from support.journeys import begin, headline, on_paper


@pytest.fixture
def set_(hands):
    """A transmitter with a meter of its own in the kit."""
    own = Indicator("own_meter", "its own meter", Kind.INCIDENT, "W", spec=(SpecTerm(SpecKind.OF_READING, 0.1),))
    hands.shell.session.save_part(replace(shelf.transmitter("smew", "Smew 100", 100.0, "S-88"), indicators=(own,)))
    return hands


def test_a_dead_set_to_the_customers_page(set_, tmp_path):
    hands = set_
    begin(hands, "Transmitter, line or meter: which one is wrong?", "Smew 100",
          "its own meter and one behind it: generic digital", "7 MHz", "100 W")  # fmt: skip
    job = hands.shell.bench.job
    assert [point.leg for point in job.job.plan] == ["load"]
    for step in range(1, 9):
        hands.press(f"alt+{step}")
        assert headline(hands)

    hands.press("alt+5")
    assert headline(hands) == "Sighted into load, 100 W set: read Smew 100 and generic digital wattmeter."
    hands.read("11", "10.8", "1.04")
    assert headline(hands) == (
        "Not sure yet: the transmitter (43 %) or the supply (29 %). Next: read again at a tenth of the power."
    )
    hands.press("alt+6")
    step = hands.shell.bench.step
    assert step.next_button.toolTip() == "read again at a tenth of the power"
    assert "The supply: 29" in step.aside.text()
    step.next_button.setFocus()
    hands.press("enter")  # planned, and the keyboard stands where it is read
    assert [(point.leg, point.target_w) for point in job.job.plan] == [("load", 100.0), ("load", 10.0)]
    assert hands.shell.bench.step.point_in_hand == job.job.plan[-1].id
    order = hands.shell.bench.step.order.text()
    assert "rated 100\u00a0W for 10\u00a0W" in order and "right way round" in order and "Stop at an SWR of 2" in order
    hands.read("1.1", "1.09", "1.03")
    hands.press("alt+6")
    assert step.next_button.toolTip().startswith("set it to CW or FM")
    step.next_button.setFocus()
    hands.press("enter")
    assert job.job.plan[-1].leg == "load, new mode"
    assert [leg.id for leg in job.job.legs] == ["load", "load, new mode"]
    assert "Set CW or FM" in hands.shell.bench.step.order.text()
    hands.read("11", "10.8", "1.03")
    assert headline(hands) == "It is the transmitter (over 99 %)."

    hands.press("alt+6")
    assert headline(hands) == "It is the transmitter (over 99 %)."
    assert hands.shell.bench.step.picture.isVisible()
    assert hands.shell.bench.step.table.texts(0)[2:7] == ["load", "11\u202fW", "10.8\u202fW", "11\u202f%", "1.04"]
    on_paper(
        hands, tmp_path, "What is wrong", "It is the transmitter (over 99 %)", "a tired or damaged output stage",
        "by someone qualified: valve sets hold lethal DC", "odds by Bayes", "how often each is met",
        "From what is set to what arrives", "load, new mode",
    )  # fmt: skip
