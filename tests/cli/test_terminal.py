"""Plain commands among others: real processes with pipes that close, full devices and terminals that know little."""

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

from fenmist.calibration.job import Job
from fenmist.records.jobfile import job_to_bytes
from studies.builders import job

COMMAND = [sys.executable, "-m", "fenmist"]


@pytest.fixture(scope="module")
def path(tmp_path_factory):
    made: Job = job([[("102 Vpp", "25.6")]], load="52 @ -8")
    at = tmp_path_factory.mktemp("cli") / "job.json"
    at.write_bytes(job_to_bytes(made, lambda _: b""))
    return at


def run(arguments, **how):
    env = {**os.environ, **how.pop("env", {})}
    return subprocess.run([*COMMAND, *map(str, arguments)], capture_output=True, env=env, check=False, **how)


@pytest.mark.parametrize("arguments", [["reduce"], ["notes"], ["reduce", "--json"]])
def test_a_pipe_that_closes_ends_it_quietly(path, arguments):
    command = [*COMMAND, arguments[0], str(path), *arguments[1:]]
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE) as child:
        child.stdout.close()
        said = child.stderr.read()
        code = child.wait()

    assert (code, said) == (0, b"")


@pytest.mark.parametrize(
    "arguments", [["reduce", "JOB"], ["notes", "JOB"], ["--help"], ["--version"], ["power", "--help"]]
)
def test_a_full_device_is_said_in_one_line_with_exit_1(path, arguments):
    command = [*COMMAND, *(str(path) if item == "JOB" else item for item in arguments)]
    with Path("/dev/full").open("wb") as full:
        done = subprocess.run(command, stdout=full, stderr=subprocess.PIPE, text=True, check=False)

    assert done.returncode == 1
    assert "could not be written: No space left" in done.stderr
    assert done.stderr.count("\n") == 1


def test_an_output_that_can_not_be_written_is_said_with_exit_1(path, tmp_path):
    done = run(["certificate", path, "-o", tmp_path / "no" / "x.pdf"])

    assert done.returncode == 1
    assert done.stderr.count(b"\n") == 1
    assert b"could not be written" in done.stderr


@pytest.mark.parametrize("encoding", ["ascii", "latin-1"])
def test_a_terminal_that_knows_little_gets_replacements(path, encoding):
    done = run(["reduce", path], env={"PYTHONIOENCODING": encoding, "PYTHONUTF8": "0"})

    assert done.returncode == 0, done.stderr
    text = done.stdout.decode(encoding)
    assert "+/-" in text or "±" in text
    assert "MHz" in text
    assert "?" not in text.partition("\n\n")[2]


def test_json_on_such_a_terminal_means_the_same(path):
    plain = json.loads(run(["reduce", path, "--json"], env={"PYTHONIOENCODING": "ascii"}).stdout)
    utf = json.loads(run(["reduce", path, "--json"], env={"PYTHONIOENCODING": "utf-8"}).stdout)

    assert plain == utf
    assert "\u202f" in plain["headline"]


def test_closed_output_is_no_reason_for_a_traceback(path):
    command = f"{sys.executable} -m fenmist reduce {path} >&- 2>&1"
    done = subprocess.run(["bash", "-c", command], capture_output=True, text=True, check=False)

    assert "Traceback" not in done.stdout + done.stderr


@pytest.mark.parametrize("name", ["nowhere.json", "\udcff.json", "a\nb.json", "/dev/zero", "/"])
def test_names_of_files_that_are_none_are_one_line(name):
    done = run(["reduce", os.fsencode(name).decode("utf-8", "surrogateescape")])

    assert done.returncode == 2
    assert b"Traceback" not in done.stderr


def test_a_fault_of_ours_is_one_line_and_logged(tmp_path, monkeypatch, capsys):
    from fenmist.cli import terminal

    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))

    def broken():
        raise KeyError("what")

    assert terminal.run_plainly("fenmist test", broken) == terminal.FAULT
    said = capsys.readouterr().err
    assert said.startswith("fenmist test: a fault of Fenmist: KeyError.")
    assert said.count("\n") == 1
    assert "KeyError: 'what'" in (tmp_path / "fenmist" / "faults.log").read_text()


def test_ctrl_c_ends_it_without_a_word(capsys):
    from fenmist.cli import terminal

    def stopped():
        raise KeyboardInterrupt

    assert terminal.run_plainly("fenmist test", stopped) == terminal.STOPPED
    assert capsys.readouterr().err == ""


def test_every_command_of_the_usage_text_is_known():
    from fenmist.__main__ import COMMANDS, USAGE
    from fenmist.cli import terminal
    from fenmist.cli.job import NAMES

    alone = {path.stem for path in Path(terminal.__file__).parent.glob("*.py")}
    assert set(NAMES) | alone - {"__init__", "command", "job", "terminal"} == set(COMMANDS)
    assert all(name in USAGE for name in COMMANDS)
