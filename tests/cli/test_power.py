"""The plain command, as a shell sees it."""

import json
import subprocess
import sys

import pytest

from fenmist.__main__ import main

GIVEN = ["power", "--volts", "102 Vpp", "--load", "57.7", "--frequency", "7.125 MHz"]


def test_json_has_all_that_was_promised(capsys):
    assert main([*GIVEN, "--lead", "0.3 m", "--json"]) == 0

    said = json.loads(capsys.readouterr().out)
    assert said["power_w"] == pytest.approx(22.33, abs=0.005)
    assert set(said) >= {
        "power_w", "expanded_u_w", "coverage_factor", "vrms_v", "corrections", "assumptions", "notes"
    }  # fmt: skip
    assert set(said["notes"][0]) == {"code", "severity", "what", "why", "remedy"}


def test_text_says_the_power_with_its_uncertainty_and_what_it_rests_on(capsys):
    assert main(GIVEN) == 0

    said = capsys.readouterr().out.replace("\u202f", " ")
    assert "22.5 ± 1.7 W" in said
    assert "oscilloscope, vertical gain" in said
    assert "good to know: The load is 57.7 Ω" in said


@pytest.mark.parametrize("arguments", [
    ["power"], [*GIVEN[:-1], "fast"], [*GIVEN, "--lead", "long"], [*GIVEN, "--colour", "red"],
    ["power", "--volts", "1,250 Vpp", "--load", "50", "--frequency", "7 MHz"], ["--nonsense"],
    ["a.fenlog", "b.fenlog"], ["notes.txt"],
])  # fmt: skip
def test_bad_input_is_one_line_and_exit_two(arguments, capsys):
    try:
        code = main(arguments)
    except SystemExit as stopped:
        code = stopped.code

    said = capsys.readouterr()
    assert code == 2
    assert said.out == ""
    assert len(said.err.strip().splitlines()) == 1
    assert said.err.startswith("fenmist")


def test_help_and_version(capsys):
    assert main(["--help"]) == 0
    assert main(["--version"]) == 0
    assert "Fenmist" in capsys.readouterr().out


def test_without_a_display_one_line_is_said(monkeypatch, capsys):
    monkeypatch.delenv("QT_QPA_PLATFORM", raising=False)
    monkeypatch.delenv("DISPLAY", raising=False)
    monkeypatch.delenv("WAYLAND_DISPLAY", raising=False)

    assert main(["--demo"]) == 1
    assert len(capsys.readouterr().err.strip().splitlines()) == 1


def test_the_command_brings_no_interface_and_no_heavy_library_with_it():
    code = (
        "import sys; from fenmist.__main__ import main; main(['--version']); "
        "print([n for n in ('PySide6', 'scipy', 'matplotlib', 'pyqtgraph', 'typst', 'numpy') if n in sys.modules])"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)

    assert done.stdout.splitlines()[-1] == "[]"
