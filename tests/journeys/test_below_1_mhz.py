"""5 W EIRP below 1 MHz: a beacon, from an empty logbook to the page for the licence, by keyboard."""

from dataclasses import replace

import pytest
from pypdf import PdfReader

from fenmist.kit import shelf
from fenmist.kit.part import Indicator, SpecKind, SpecTerm
from fenmist.measurand import Kind
from support.journeys import begin, headline, spaced, to_tool


@pytest.fixture
def beacon(hands):
    """A transmitter that says what it is set to."""
    setting = Indicator("setting", "its setting", Kind.INCIDENT, "W", spec=(SpecTerm(SpecKind.OF_READING, 0.1),))
    hands.shell.session.save_part(replace(shelf.transmitter("grebe", "Grebe", 100.0, "GB-1"), indicators=(setting,)))
    return hands


def typed(hands, tool, **texts):
    for name, text in texts.items():
        tool.form.inputs[name].setFocus()
        hands.press("ctrl+a")
        hands.type(text)
    hands.settle(0.1)


def text_of(path):
    return spaced(" ".join(" ".join(page.extract_text() for page in PdfReader(path).pages).split()))


def test_from_an_ammeter_at_the_load_to_the_power_at_which_the_licence_is_reached(beacon, tmp_path):
    hands = beacon
    begin(hands, "How much does this source give?", "Grebe", "ammeter before the load", "474 kHz", "50 W")
    job = hands.shell.bench.job
    assert [(point.frequency_hz, point.target_w) for point in job.job.plan] == [(474e3, 50.0)]

    hands.press("alt+5")  # the table hangs beside the bench: 1 A is 50 W
    hands.shell.bench.step.saving_tables.take(tmp_path / "amperes.pdf")
    table = text_of(tmp_path / "amperes.pdf")
    assert "A to watts" in table and "474 kHz" in table and "At the planned levels it should show" in table
    hands.read("50", "0.98")
    assert headline(hands).startswith("At 474 kHz Grebe gives 4")
    hands.press("alt+6")
    power = job.view.result.points[0].power_w
    assert 40.0 < power < 56.0

    tool = to_tool(hands, "Radiated power")  # the same power into the antenna, with its ammeter
    typed(hands, tool, power=f"{power:.3g} W ± 8 %", current="2 A ± 3 %", above="1.9 A ± 3 %", height="15 m",
          frequency="474 kHz", limit="5 W", people="120 m")  # fmt: skip
    assert "5 W EIRP is reached at " in spaced(tool.headline.text())
    tool.saving.take(tmp_path / "licence.pdf")
    page = text_of(tmp_path / "licence.pdf")
    for said in (
        spaced(tool.headline.text()), "e.m.r.p.", "Whole antenna", "Heat in coil and ground", "Current above its coil",
        "Field where people are", "the licence decides", "local law",
    ):  # fmt: skip
        assert said in page, said
