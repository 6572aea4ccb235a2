"""Plain commands on a job's file."""

import csv
import json
import re
from dataclasses import replace

import pytest

from fenmist.__main__ import main
from fenmist.procedures.comparison.reduction import reduce
from fenmist.records.jobfile import job_to_bytes
from fenmist.records.store import Logbook
from studies.builders import job


@pytest.fixture
def path(tmp_path):
    made = job([[("102", "25.6"), ("101", "25.2")], [("104", "2.64")]], frequencies_hz=(7e6, 14e6))
    at = tmp_path / "job.json"
    at.write_bytes(job_to_bytes(made, lambda _: b""))
    return at


def test_reduce_says_the_headline_and_the_table(path, capsys):
    assert main(["reduce", str(path)]) == 0

    said = capsys.readouterr().out
    assert "Bittern" in said.splitlines()[0]
    assert "reference ± U" in said
    table = [line for line in said.splitlines() if "  " in line.strip()][:3]
    places = [{found.start() for found in re.finditer(r"(?<=  )\S", line)} for line in table]
    assert len(set.intersection(*places)) == len(places[0]) > 5  # each column begins at one place


def test_reduce_as_json_gives_what_the_core_gives(path, capsys):
    assert main(["reduce", str(path), "--json"]) == 0

    found = json.loads(capsys.readouterr().out)
    result = reduce(job([[("102", "25.6"), ("101", "25.2")], [("104", "2.64")]], frequencies_hz=(7e6, 14e6)))
    assert [p["error / W"] for p in found["points"]] == pytest.approx([p.error_w for p in result.points])
    assert found["rounds_missing"] == 1


def test_notes_name_the_slip(path, capsys):
    assert main(["notes", str(path), "--json", "--as-of", "2026-11-25"]) == 0
    codes = {note["code"] for note in json.loads(capsys.readouterr().out)}
    assert "entry.decimal_slip" in codes

    assert main(["notes", str(path)]) == 0
    assert "slipped decimal point" in capsys.readouterr().out


def test_certificate_is_written_as_a_draft(path, tmp_path, capsys):
    out = tmp_path / "c.pdf"

    assert main(["certificate", str(path), "-o", str(out)]) == 0

    assert out.read_bytes().startswith(b"%PDF")
    assert str(out) in capsys.readouterr().out


def test_export_writes_csv_and_xlsx(path, tmp_path):
    for suffix in (".csv", ".xlsx"):
        assert main(["export", str(path), "-o", str(tmp_path / f"r{suffix}")]) == 0

    rows = list(csv.reader((tmp_path / "r.csv").read_text(encoding="utf-8-sig").splitlines()))
    assert len(rows) == 3
    assert (tmp_path / "r.xlsx").read_bytes().startswith(b"PK")


@pytest.mark.parametrize("name", ["table", "runsheet"])
@pytest.mark.parametrize(("suffix", "begins"), [(".pdf", b"%PDF"), (".csv", b"\xef\xbb\xbf")])
def test_tables_and_run_sheets_are_written_as_what_they_are_named(name, suffix, begins, path, tmp_path, capsys):
    out = tmp_path / f"made{suffix}"
    assert main([name, str(path), "-o", str(out)]) == 0
    assert capsys.readouterr().out == f"written: {out}\n"
    assert out.read_bytes().startswith(begins)


def test_import_and_export_lead_into_a_logbook_and_out_again(path, tmp_path, capsys):
    book, again = tmp_path / "b.fenlog", tmp_path / "again.json"

    assert main(["import", str(path), str(book)]) == 0
    assert main(["export", str(book), "-o", str(again)]) == 0

    assert again.read_bytes() == path.read_bytes()
    made = Logbook(book)
    assert list(made.job_stamps()) == ["job"]
    made.close()


@pytest.mark.parametrize(
    "arguments",
    [
        ["reduce"], ["reduce", "nowhere.json"], ["reduce", "{path}", "--what"], ["notes", "{bad}"],
        ["notes", "{path}", "--as-of", "tomorrow"], ["certificate", "{path}"],
        ["certificate", "{path}", "-o", "{folder}/x.txt"], ["table", "{path}", "-o", "{folder}/x.txt"],
        ["export", "{path}", "-o", "{folder}/x.doc"], ["export", "{folder}/none.fenlog", "-o", "{folder}/x.json"],
        ["import", "{bad}", "{folder}/b.fenlog"], ["import", "{path}", "{folder}/b.txt"],
    ],
)  # fmt: skip
def test_bad_input_is_said_in_one_line_with_exit_code_2(arguments, path, tmp_path, capsys):
    bad = tmp_path / "bad.json"
    bad.write_text("no json")
    given = [item.format(path=path, bad=bad, folder=tmp_path) for item in arguments]

    assert main(given) == 2

    said = capsys.readouterr()
    assert said.out == ""
    assert len(said.err.strip().splitlines()) == 1
    assert said.err.startswith("fenmist ")
    assert not (tmp_path / "b.fenlog").exists()


def test_a_job_that_was_blocked_everywhere_reduces_to_nothing(tmp_path, capsys):
    made = job(frequencies_hz=(7e6,))
    made = replace(made, plan=tuple(replace(point, blocked="no") for point in made.plan))
    at = tmp_path / "job.json"
    at.write_bytes(job_to_bytes(made, lambda _: b""))

    assert main(["reduce", str(at)]) == 0
    assert "before there is an error to state" in capsys.readouterr().out
