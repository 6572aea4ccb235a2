"""What came of a job's points is kept, and given again as long as record and program are the same."""

import os
import shutil
import sqlite3
import zlib
from contextlib import closing
from dataclasses import replace
from operator import is_

import pytest

import fenmist
from fenmist.calibration.answers import Answers
from fenmist.procedures.comparison import reduction
from fenmist.procedures.table import rooms
from fenmist.reading.event import AS_LEFT, Slot
from fenmist.session import worked
from fenmist.session.session import Session
from studies.builders import job
from studies.ladders import ladder_job, typed

READ = [[("102 Vpp", "25.6")], [("99 Vpp", "24.1"), ("99.4 Vpp", "24.3")]]
BENDS = {"load": [(3e6, "|57.7| swr 1.9"), (28e6, "|57.7| swr 1.9")], "lead_m": 0.3}
"""Of the load's reactance the sign is open: what follows is drawn."""


@pytest.fixture
def session(tmp_path):
    made = Session(tmp_path / "book.fenlog", second_folder=tmp_path)
    yield made
    made.close()


@pytest.fixture
def unable(monkeypatch):
    """Nothing can be worked out any more."""

    def fail(*_):
        raise AssertionError("it was worked out")

    monkeypatch.setattr(reduction, "_made_alike", fail)
    monkeypatch.setattr(reduction, "_sampled", fail)


def add(session, readings=READ, **bench):
    session.logbook.add_job(job(readings, frequencies_hz=(14e6, 21e6), **bench))


def test_what_is_kept_of_any_job_is_what_comes_of_it(demo_file, tmp_path):
    """Of every room whose outcome is answers to points, as found and as left; budgets follow from it."""
    path = tmp_path / "demo.fenlog"
    shutil.copy(demo_file, path)
    session = Session(path, second_folder=tmp_path)
    session.logbook.add_job(typed(ladder_job(), {"0 dB": "4.7 mW", "10 dB": "0.46 mW", "20 dB": "0.047 mW"}))
    seen, phases = set(), set()
    for line in session.summaries():
        view = session.open(line.id).view
        fresh = view.procedure.reduce(view.job, view.phase, {}, None)
        assert (view.former is None) is not isinstance(fresh, Answers)
        if view.former is None:
            continue
        assert view.result.points == fresh.points
        assert all(map(is_, view.result.points, view.former.points))  # nothing was worked out
        assert [item.stated for item in view.result.points] == list(fresh.stated)
        assert (view.result.missing, view.result.complete) == (fresh.missing, fresh.complete)
        for item in fresh.points[:1]:
            rows, wanted = (
                {row.influence.id: row.contribution for row in one.budget(item.point.id)}
                for one in (view.result, fresh)
            )
            assert rows == pytest.approx(wanted)
        seen.add(line.question)
        phases.add(view.phase)
    session.close()

    assert seen == {room.id for room in rooms() if room.outcome is not None}
    assert AS_LEFT in phases
    assert len(seen) == 6


def test_a_job_that_was_worked_out_for_the_list_stands_at_once_until_something_is_read(session, monkeypatch, request):
    add(session)
    before = session.open("job")
    assert before.view.former is None
    fresh = before.view.result
    session.summaries()
    request.getfixturevalue("unable")
    again = session.open("job")
    assert again.view.result.points == fresh.points
    assert len(again.view.result.points) == 2
    monkeypatch.undo()

    again.enter(Slot("p1", 2, 1), "25.9")
    again.enter(Slot("p1", 2, 0), "102.5 Vpp")
    now = again.view.result
    assert now.points[1] is again.view.former.points[1]  # only what changed was worked out
    anew = reduction.reduce(again.job)
    assert [item.error_w for item in now.points] == pytest.approx([item.error_w for item in anew.points])
    assert now.error.u == pytest.approx(anew.error.u)
    assert (now.points[0].rounds, fresh.points[0].rounds) == (2, 1)
    assert session.open("job").view.former is None  # nobody has listed it since

    session.summaries()
    assert session.open("job").view.former.points == anew.points


def test_what_was_drawn_needs_not_be_drawn_again(session, request):
    add(session, **BENDS)
    session.summaries()
    drawn = session.open("job").view.result
    assert {point.engine for point in drawn.points} == {"Monte Carlo"}

    request.getfixturevalue("unable")
    again = session.open("job")
    again.draw_in_steps()
    assert again.view.to_draw == 0
    assert again.view.result.points == drawn.points


def test_another_definition_is_worked_out_anew(session):
    add(session)
    session.summaries()
    opened = session.open("job")
    opened.edit(replace(opened.job, title="another"), "title")
    assert session.open("job").view.former is None


def test_another_program_takes_nothing_from_this_one_and_makes_it_anew(session, monkeypatch):
    add(session)
    session.summaries()
    assert session.catch_up(0.0) == 0
    ours = session.logbook.worked_stamps()

    monkeypatch.setattr("fenmist.session.summaries.program", lambda: "another")
    assert session.open("job").view.former is None
    assert session.logbook.summary_lines("5/")  # its line is shown until it is made anew
    session.summaries()
    assert session.open("job").view.former is not None
    assert session.logbook.worked_stamps() != ours


@pytest.mark.parametrize("points", [b"", b"nothing of ours", zlib.compress(b"\xff"), zlib.compress(b"\x90")])
def test_what_can_not_be_read_is_worked_out(session, tmp_path, points):
    """Damaged, of another kind, or of fewer points than were read."""
    add(session)
    opened = session.open("job").job
    assert worked.outcome_of(opened, "as found", points) is None
    session.summaries()
    session.logbook._connection.execute("UPDATE worked SET points = ?", (points,))
    assert session.open("job").view.former is None


@pytest.mark.parametrize("forged", [False, True])
def test_a_flipped_bit_is_found_and_another_number(tmp_path, forged):
    path = tmp_path / "book.fenlog"
    session = Session(path, second_folder=tmp_path)
    add(session)
    session.summaries()
    session.close()
    with closing(sqlite3.connect(path)) as file:
        (found,) = file.execute("SELECT points FROM worked").fetchone()
        text = zlib.decompress(found)
        other = zlib.compress(text.replace(b"linear", b"Linear")) if forged else bytes([found[0] ^ 1]) + found[1:]
        assert other != found
        file.execute("UPDATE worked SET points = ?", (other,))
        file.commit()
    again = Session(path, second_folder=path.parent)
    assert again.open("job").view.former is None
    assert len(again.open("job").view.result.points) == 2
    again.close()


@pytest.mark.parametrize("column", ["job", "stamp", "points", "row_sha256"])
def test_bytes_that_are_no_text_keep_nobody_from_the_list_or_the_job(session, column):
    add(session)
    session.summaries()
    changed = "x'ff'" if column == "points" else "CAST(x'ff' AS TEXT)"
    session.logbook._connection.execute("PRAGMA foreign_keys = OFF")
    session.logbook._connection.execute(f"UPDATE worked SET {column} = {changed}")
    assert session.open("job").view.former is None
    assert len(session.summaries()) == 1
    made_anew = column in ("job", "stamp")
    assert (session.open("job").view.former is not None) is made_anew


def test_a_program_is_its_sources(tmp_path, monkeypatch):
    package = tmp_path / "fenmist"
    (package / "rf" / "__pycache__").mkdir(parents=True)
    source, other = package / "rf" / "line.py", package / "rf" / "__pycache__" / "line.py"
    source.write_text("c = 299792458.0\n")
    monkeypatch.setattr(fenmist, "__file__", str(package / "__init__.py"))

    def said():
        worked.program.cache_clear()
        return worked.program()

    first = said()
    other.write_text("")
    (package / "rf" / "readme.txt").write_text("")
    assert said() == first
    source.write_text("c = 299792459.0\n")
    second = said()
    facts = source.stat()
    source.write_text("c = 299792459\n")
    os.utime(source, ns=(facts.st_atime_ns, facts.st_mtime_ns))
    shorter = said()
    source.rename(package / "rf" / "lines.py")
    renamed = said()
    monkeypatch.setattr(worked, "ENGINES", ("numpy",))
    assert len({first, second, shorter, renamed, said()}) == 5
    monkeypatch.undo()
    worked.program.cache_clear()


def test_only_numbers_are_kept():
    with pytest.raises(NotImplementedError, match="a set can't be kept"):
        worked._parts_of({1})
