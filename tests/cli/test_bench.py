"""`fenmist bench` and `fenmist ask`, as a shell sees them."""

import json
import subprocess
import sys

import pytest

from fenmist.__main__ import main
from fenmist.records.jobfile import job_to_bytes
from fenmist.simulation.faults import FAULTS
from fenmist.simulation.scenarios import SCENARIOS
from studies.builders import job
from studies.in_turn import job_in_turn


def started(*arguments):
    """A bench in a process of its own; the process, and what it named."""
    process = subprocess.Popen(
        [sys.executable, "-m", "fenmist", "bench", *arguments, "--json", "--minutes", "0.5"],
        stdout=subprocess.PIPE, text=True,
    )  # fmt: skip
    return process, json.loads(process.stdout.readline())


@pytest.fixture
def live():
    process, named = started("--scenario", "live", "--seed", "4")
    yield {item["id"]: item for item in named["instruments"]}
    process.kill()
    process.communicate()


def asked(capsys, *arguments):
    code = main(["ask", *arguments])
    return code, capsys.readouterr()


def test_the_list_names_every_bench_and_fault(capsys):
    assert main(["bench", "--list"]) == 0
    said = capsys.readouterr().out
    assert all(f"  {item.name}" in said for item in SCENARIOS)
    assert all(item.title in said and item.seen in said for item in FAULTS)
    assert main(["bench", "--list", "--json"]) == 0
    known = json.loads(capsys.readouterr().out)
    assert [item["name"] for item in known["scenarios"]] == [item.name for item in SCENARIOS]
    assert {item["name"]: item["usual"] for item in known["faults"]}["wet"] == 150.0


def test_a_bench_names_its_instruments_and_they_answer(live, capsys):
    assert {item["kind"] for item in live.values()} == {"generator", "line meter", "oscilloscope", "DC supply"}
    scope = live["oscilloscope"]["address"]
    assert scope.startswith("TCPIP::127.0.0.1::")
    code, said = asked(capsys, scope)
    assert (code, said.out) == (0, "SIMULATED,OSCILLOSCOPE,S200-31,1.0\n")
    code, said = asked(capsys, live["transmitter"]["address"], "OUTP ON")
    assert (code, said.out) == (0, "\n")
    code, said = asked(capsys, scope, "MEAS:VOLT:AC?", "--json")
    answer = json.loads(said.out)
    assert (answer["address"], answer["sent"]) == (scope, "MEAS:VOLT:AC?")
    assert 40.0 < float(answer["reply"]) < 65.0  # 50 W in 51.4 Ω are 50.7 V
    code, said = asked(capsys, live["wattmeter"]["address"], "--listen")
    assert said.out.startswith("F=")
    code, said = asked(capsys, scope, "NO:SUCH?", "--timeout", "0.3")
    assert code == 1
    assert "No reply within 0.3 s" in said.err


def test_the_bench_of_a_jobs_file_is_served(tmp_path):
    file = tmp_path / "one.fenjob.json"
    file.write_bytes(job_to_bytes(job([], load="50"), lambda _: b""))
    process, named = started("--job", str(file))
    process.kill()
    process.communicate()

    assert named["bench"] == "one.fenjob.json"
    assert {item["label"] for item in named["instruments"]} == {"Plover", "Sedge", "supply"}


def test_a_bench_is_plugged_together_anew_by_who_types(tmp_path):
    """What is typed into it is done, or told in one line; the carrier has to be off."""
    file = tmp_path / "loss.fenjob.json"
    file.write_bytes(job_to_bytes(job_in_turn("loss"), lambda _: b""))
    process = subprocess.Popen(
        [sys.executable, "-m", "fenmist", "bench", "--job", str(file), "--json", "--minutes", "0.5"],
        stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
    )  # fmt: skip

    def typed(line, stream):
        process.stdin.write(f"{line}\n")
        process.stdin.flush()
        return stream.readline()

    named = json.loads(process.stdout.readline())
    assert named["arranged"] == {"plug": "bench", "send": ""}
    assert {item["part"] for item in named["instruments"]} == {"plover", "knot", "ruff", ""}
    assert json.loads(typed("plug bench direct", process.stdout)) == {"arranged": {"plug": "bench direct", "send": ""}}
    assert json.loads(typed("send dots 20 Hz", process.stdout))["arranged"]["send"] == "dots 20 Hz"
    assert "no hook-up “nowhere”" in typed("plug nowhere", process.stderr)
    assert "can't send “noise”" in typed("send noise", process.stderr)
    assert "says nothing to a bench" in typed("hello", process.stderr)
    assert json.loads(typed("send", process.stdout))["arranged"] == {"plug": "bench direct", "send": ""}
    process.stdin.close()
    sender = next(item["address"] for item in named["instruments"] if item["kind"] == "generator")
    assert main(["ask", sender, "*IDN?"]) == 0  # it goes on when nobody types any more
    process.kill()
    process.wait()
    process.stdout.close()
    process.stderr.close()


def test_a_bench_ends_by_itself():
    process = subprocess.run(
        [sys.executable, "-m", "fenmist", "bench", "--scenario", "pad", "--minutes", "0.005"],
        capture_output=True, text=True, timeout=30.0, check=False,
    )  # fmt: skip

    assert process.returncode == 0
    assert "Ends by itself after 0.005 minutes" in process.stdout


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        ("", "--scenario or by --job"), ("--scenario x", "no bench “x”"), ("--scenario live --job y", "--job"),
        ("--scenario live --fault x", "no fault “x”"), ("--scenario live --fault wet=x", "no number"),
        ("--scenario live --fault switch", "no part for"), ("--scenario live --trouble 2", "0 to 1"),
        ("--scenario live --minutes 0", "1440"), ("--scenario live --seed -1", "0 or more"),
    ],
)  # fmt: skip
def test_what_cant_be_served_is_one_line(arguments, says, capsys):
    assert main(["bench", *arguments.split()]) == 2
    said = capsys.readouterr().err
    assert says in said
    assert said.count("\n") == 1


@pytest.mark.parametrize(("arguments", "code"), [("nowhere", 2), ("127.0.0.1:1", 1), ("127.0.0.1:1 --timeout 0", 2)])
def test_what_cant_be_asked_is_one_line(arguments, code, capsys):
    assert main(["ask", *arguments.split()]) == code
    assert capsys.readouterr().err.count("\n") == 1
