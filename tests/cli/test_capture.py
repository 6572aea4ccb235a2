"""`fenmist capture`, as a shell sees it."""

import json

import numpy as np
import pytest

from fenmist.__main__ import main


@pytest.fixture
def trace_file(tmp_path):
    t = np.arange(2000) * 1e-9
    volts = np.round(50 * np.cos(2 * np.pi * 14.2e6 * t) / 0.1) * 0.1
    path = tmp_path / "trace.csv"
    path.write_text("time,CH1\ns,V\n" + "\n".join(f"{a:.9g},{b:.4g}" for a, b in zip(t, volts, strict=True)))
    return path


def test_json_says_what_the_trace_holds(trace_file, capsys):
    assert main(["capture", str(trace_file), "--json"]) == 0

    said = json.loads(capsys.readouterr().out)
    assert said["fitted_vrms"] == pytest.approx(50 / np.sqrt(2), rel=1e-3)
    assert said["true_vrms"] == pytest.approx(50 / np.sqrt(2), rel=1e-3)
    assert said["frequency_hz"] == pytest.approx(14.2e6, rel=1e-5)
    assert said["usable"] is True
    assert said["harmonics_move_power_by"]["fundamental only"] == [0.0, 0.0]
    assert [item["order"] for item in said["harmonics"]] == [2, 3, 4, 5]


def test_text_has_each_fact_with_its_unit(trace_file, capsys):
    assert main(["capture", str(trace_file), "--frequency", "14.2"]) == 0

    said = capsys.readouterr().out.replace("\u202f", " ")
    assert "35.36" in said
    assert "14.2 MHz" in said
    assert "dBc" in said
    assert "average of the rectified volts: ±" in said


def test_a_trace_that_gives_no_reading_says_why(trace_file, capsys):
    assert main(["capture", str(trace_file), "--frequency", "7.1"]) == 1

    assert "No reading may be taken" in capsys.readouterr().out


@pytest.mark.parametrize(("arguments", "words"), [
    (["none.csv"], "can't be read"), (["{}", "--channel", "CH9"], "It has CH1"),
    (["{}", "--step", "banana"], "time step"), (["{}", "--frequency", "banana"], "--frequency"), ([], "file"),
], ids=["missing", "channel", "step", "frequency", "nothing"])  # fmt: skip
def test_bad_input_is_one_line_and_exit_2(trace_file, arguments, words, capsys):
    try:
        code = main(["capture", *(item.format(trace_file) for item in arguments)])
    except SystemExit as stopped:
        code = stopped.code

    said = capsys.readouterr().err.strip()
    assert code == 2
    assert words in said
    assert len(said.splitlines()) == 1
