"""Before anyone keys: spans, the load itself, the probe's switch."""

from dataclasses import replace

import pytest

from fenmist.findings.note import Severity
from fenmist.kit import shelf
from fenmist.kit.part import Port
from studies.builders import job
from support.noted import notes


@pytest.mark.parametrize(("f", "count"), [(1.8e6, 0), (1.79e6, 1), (30e6, 0), (30.1e6, 1), (7e6, 0)])
def test_a_frequency_outside_the_meters_span_is_doubted(f, count):
    found = notes(job(frequencies_hz=(f,)), "part.span")

    assert [note.about for note in found] == ["meter"] * count


def test_a_part_without_a_stated_span_says_nothing():
    made = job(frequencies_hz=(50e6,))
    meter = replace(made.part("meter"), ports=(Port("in"), Port("out")))

    assert notes(made.with_part(meter), "part.span") == []


@pytest.mark.parametrize(
    ("load", "severity"),
    [("50+j5", None), ("74", None), ("76", Severity.WATCH), ("99", Severity.WATCH), ("101", Severity.DOUBT),
     ("20-j40", Severity.DOUBT)],
    ids=["good", "SWR 1.48", "SWR 1.52", "SWR 1.98", "SWR 2.02", "an antenna"],
)  # fmt: skip
def test_a_load_that_is_none_is_told(load, severity):
    found = notes(job(load=load), "load.poor")

    assert [note.severity for note in found] == ([severity] if severity else [])


def test_a_load_that_was_not_measured_is_not_accused():
    assert notes(job(load=None), "load.poor") == []


@pytest.mark.parametrize(
    ("ratio", "setting", "count"), [(10, 10, 0), (10, 1, 1), (1, 10, 1), (10, 10.4, 0), (10, 10.6, 1)]
)
def test_a_probe_whose_switch_and_setting_differ_is_doubted(ratio, setting, count):
    """x1 for x10 is a factor of 100 in power."""
    probe = shelf.probe("probe", "probe", ratio=ratio, setting=setting)

    assert len(notes(job(probe=probe), "probe.setting")) == count


def test_a_lead_has_no_setting():
    assert notes(job(lead_m=0.3), "probe.setting") == []
