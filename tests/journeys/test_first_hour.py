"""The first hour, from the first page of an empty logbook, by keyboard alone."""

from fenmist.reading.event import Slot


def _readings(hands):
    standing = hands.shell.bench.job.job.ledger.standing
    return {slot: event.entry.raw_text for slot, event in standing.items()}


def test_from_the_first_page_to_a_round_moved_to_its_level(hands):
    """Every digit goes into the entry it was typed for, though the margin is made anew between them."""
    hands.type("Heron Quay")
    hands.tab_to("Start a job")
    hands.press("enter")
    hands.choose_bench()
    hands.press("alt+5")
    assert "in the step “plan”" in hands.shell.bench.step.headline.text()
    hands.press("alt+4")
    hands.type("7.1 MHz")
    hands.press("tab")
    hands.type("50 100 W")
    hands.tab_to("Add these points")
    hands.press("enter", "alt+5")

    hands.read("141", "49", "199", "97")
    first = {Slot("p1", 1, 0): "141", Slot("p1", 1, 1): "49"}
    assert _readings(hands) == {**first, Slot("p1", 2, 0): "199", Slot("p1", 2, 1): "97"}
    assert hands.shell.bench.job.job.answers == {}
    assert hands.shell.bench.margin.views[0].note.code == "round.other_level"

    hands.type("/7")
    assert _readings(hands) == {**first, Slot("p2", 1, 0): "199", Slot("p2", 1, 1): "97"}
