"""A corrected meter is the next job's reference: from an empty logbook, by keyboard, to the chain on its page."""

import pytest

from fenmist.kit.tables import CORRECTION
from fenmist.reports.certificate import certificate


def test_a_meter_is_compared_corrected_and_decides_about_another(hands):
    """The digital meter reads 10 % low against the oscilloscope; corrected it says so of no other meter."""
    hands.press("ctrl+n")
    page = hands.shell.places["begin"]
    hands.until(lambda: not page.is_looking)
    hands.pick(page.device, "generic digital wattmeter")
    hands.choose_bench("oscilloscope across the load", "7.1 14.2 MHz")
    bench = hands.shell.bench
    hands.press("alt+3")
    for _ in range(2):
        hands.type("50.2+j1")
        hands.press("enter", "down")
    level = bench.job.job.plan[0].target_w
    volts = f"{(8.0 * 50.0 * level) ** 0.5:.1f}"
    hands.press("alt+5")
    for point in bench.job.job.plan:
        hands.read(*[volts, f"{0.9 * level:.4g}"] * point.repeats)
    hands.press("alt+8", "enter")
    hands.until(lambda: bench.step.said.text().startswith("Issued: 26-001."))
    bench.step.save.wait()

    hands.press("ctrl+3")
    kit = hands.shell.places["kit"]
    rows = [kit.table.texts(row)[0] for row in range(kit.table.rowCount())]
    kit.table.setFocus()
    hands.press("home", *["down"] * rows.index("generic digital wattmeter"))
    kit.measured.setFocus()
    hands.press("enter")
    hands.choose(kit.tables.new, "from certificate 26-001")
    meter = next(part for part in hands.session.kit if part.label == "generic digital wattmeter")
    table = meter.characterisation(CORRECTION)
    assert table.real == pytest.approx([1.1, 1.1], abs=0.02)
    assert [link.label for link in table.leans_on] == ["generic load", "generic oscilloscope"]
    assert [record.reference for record in meter.history] == ["26-001"]

    hands.press("ctrl+n")
    hands.until(lambda: not page.is_looking)
    hands.pick(page.device, "generic wattmeter")
    hands.choose_bench("another meter in the line: generic digital wattmeter", "7.1 14.2 MHz")
    hands.press("alt+5")
    bench = hands.shell.bench
    for point in bench.job.job.plan:
        hands.read(*["45", "50"] * point.repeats)
    found = bench.job.view.result
    assert all(item.error_fraction == pytest.approx(0.01, abs=0.03) for item in found.points)  # 45 W stand for 50 W
    seen = bench.job.view
    statements = " ".join(certificate(seen.procedure, seen.seen, (), "").statements).replace("\u202f", " ")
    assert "generic digital wattmeter is taken with its correction, certificate 26-001: U up to" in statements
    assert "not a month old, how it moves through the years not known" in statements
    said = "It leans on generic load (no calibration on record) and generic oscilloscope (no calibration on record)."
    assert said in statements
    assert "not traceable: generic load and generic oscilloscope have no calibration on record" in statements
