"""The whole job in the real window, from opening to PDF, by keyboard alone; the run by numeric pad alone."""

import pypdf
import pytest

from fenmist.calibration.decision import Verdict
from support.whole_job import whole_job


def test_from_opening_to_pdf(hands, tmp_path):
    path = tmp_path / "page.pdf"

    whole_job(hands, path)

    job = hands.shell.bench.job
    first = job.view.result.points[0]
    assert first.point.frequency_hz == 7.125e6
    assert first.decision.verdict in (Verdict.ACCEPT, Verdict.CANNOT_DECIDE)
    assert hands.session.logbook.job(job.job.id) == job.job
    text = " ".join(page.extract_text() for page in pypdf.PdfReader(path).pages)
    assert "generic wattmeter" in text
    assert "DEMO" not in text


@pytest.mark.parametrize("bad", ["nowhere/page.pdf", "page.txt"])
def test_a_page_that_can_not_be_written_says_why(hands, tmp_path, bad):
    hands.start_job()
    hands.press("alt+8", "tab", "ctrl+a")
    hands.type(str(tmp_path / bad))
    hands.press("enter")
    said = hands.shell.bench.step_at(7).save.said
    hands.until(lambda: said.text() != "Writing …")

    assert said.text()
    assert "Written" not in said.text()
