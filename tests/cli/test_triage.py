"""`fenmist triage`, as a shell sees it."""

import json

import pytest

from fenmist.__main__ import main


def test_a_dead_set_is_told_with_odds_and_the_next_test(capsys):
    given = ["triage", "--set", "15 W", "--own", "0.9 W", "--external", "1.5 W", "--swr", "1.0", "--into", "load"]
    assert main([*given, "--json"]) == 0
    said = json.loads(capsys.readouterr().out)
    assert said["suspects"][0]["what"] == "the transmitter"
    assert sum(item["odds"] for item in said["suspects"]) == pytest.approx(1.0)
    assert set(said["suspects"][0]) >= {"what", "odds", "why"}
    assert said["next_test"] == "read again at a tenth of the power"
    assert said["headline"].startswith("Most likely the transmitter (")

    assert main([*given, "--then", "set 1.5 W, own 0.09, external 0.15, swr 1.0"]) == 0
    text = capsys.readouterr().out.replace("\u202f", " ")
    assert "the transmitter: a tired or damaged output stage" in text
    assert "fold-back" not in text  # less power isn't given rightly either


def test_a_line_is_found_by_three_sightings(capsys):
    assert main([
        "triage", "--set", "100 W", "--own", "60", "--external", "55", "--swr", "4", "--into", "antenna",
        "--then", "set 100 W, own 101, external 99, swr 1.05, into load",
        "--then", "set 100 W, own 60, external 50, swr 3.1, into far load",
    ]) == 0  # fmt: skip
    text = capsys.readouterr().out.replace("\u202f", " ")

    assert text.startswith("It is the line (over 99 %).")
    assert "stop: SWR 3.1: key up" in text


@pytest.mark.parametrize("given", [[], ["--set", "15"], ["--set", "x", "--own", "1"], ["--set", "1", "--then", "x"]])
def test_nonsense_is_one_line_and_exit_two(given, capsys):
    assert main(["triage", *given]) == 2
    said = capsys.readouterr()
    assert said.out == ""
    assert said.err.count("\n") == 1
