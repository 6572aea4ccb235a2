"""`fenmist due`, as a shell sees it; the calendar file by the package that reads calendars."""

import json
import shutil
from dataclasses import replace
from datetime import date
from pathlib import Path

import pytest
from icalendar import Calendar

from fenmist.__main__ import main
from fenmist.session.session import Session


@pytest.fixture
def book(tmp_path, demo_file):
    return Path(shutil.copy(demo_file, tmp_path / "log.fenlog"))


def test_what_is_due_when_by_whose_word(book, capsys):
    session = Session(book)
    job = session.open("demo-bittern")
    job.edit(replace(job.job, next_due="2027-06-01"), "due")
    session.close()
    assert main(["due", str(book), "--json"]) == 0
    made = json.loads(capsys.readouterr().out)

    assert [item["due"] for item in made] == sorted(item["due"] for item in made)
    bittern = {item["why"].partition(" ")[0]: item for item in made if item["what"] == "Bittern 200 (B2-0417)"}
    assert set(bittern) == {"stated", "on", "by"}
    assert bittern["stated"]["due"] == "2026-11-12"
    assert (bittern["on"]["due"], bittern["on"]["why"]) == (
        "2027-06-01",
        "on the page of “Bittern 200 of the pilot boat”",
    )
    assert "with a chance of 5.0\u202f%, at 1" in bittern["by"]["why"]


def test_a_calendar_file_holds_each_as_a_whole_day(book, tmp_path, capsys):
    path = tmp_path / "dates.ics"
    assert main(["due", str(book), "--ics", str(path)]) == 0
    said = capsys.readouterr().out.splitlines()
    events = Calendar.from_ical(path.read_bytes()).walk("VEVENT")

    assert len(events) == len(said) > 4
    assert len({str(event["uid"]) for event in events}) == len(events)
    first = events[0]
    assert str(first["summary"]) == "Avocet 60 (A60-7) is due"
    assert first.decoded("dtstart") == date(2026, 6, 30)
    assert said[0] == f"2026-06-30  Avocet 60 (A60-7): {first['description']}"


def test_what_is_wrong_is_said(tmp_path, capsys):
    assert main(["due", str(tmp_path / "none.fenlog")]) == 2
    assert "There is no logbook" in capsys.readouterr().err
    path = tmp_path / "new.fenlog"
    Session(path).close()
    assert main(["due", str(path), "--ics", str(tmp_path / "dates.txt")]) == 2
    assert "doesn't end in .ics" in capsys.readouterr().err
    assert main(["due", str(path)]) == 0
    assert capsys.readouterr().out == "Nothing is due.\n"
