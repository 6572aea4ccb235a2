"""What `--help` of each plain command says: what it is for, and every argument in words."""

import re

import pytest

from fenmist.__main__ import COMMANDS, main


@pytest.mark.parametrize("name", sorted(COMMANDS))
def test_a_command_and_each_of_its_arguments_are_explained(name, capsys):
    assert main([name, "--help"]) == 0
    usage, purpose, *sections = capsys.readouterr().out.split("\n\n")

    assert usage.startswith(f"usage: fenmist {name}")
    assert purpose[0].isupper() and purpose.rstrip().endswith((".", ")"))
    listed = "\n".join(section for section in sections if re.match(r"[a-z ]+:\n", section))
    entries = re.findall(r"^  (\S.*(?:\n {6,}.*)*)", listed, re.M)  # an argument, and what is said of it
    assert entries
    for entry in entries:
        assert re.search(r"(?: {2,}|\n +)[\w±]", entry), entry


@pytest.mark.parametrize(("arguments", "lacks"), [
    (["agree"], "--value"), (["constants"], "--volts, --watts"), (["meters"], "--waveform"), (["pad"], "--loss"),
    (["plateau"], "--gain, --power"), (["shelf", "b.fenlog"], "--frequency, --power"), (["trim"], "--reading"),
    (["power"], "--volts, --load, --frequency"), (["table", "j.json"], "-o/--output"), (["reduce"], "JOB.json"),
])  # fmt: skip
def test_what_a_command_can_not_do_without_is_named(arguments, lacks, capsys):
    assert main(arguments) == 2
    assert f"the following arguments are required: {lacks}." in capsys.readouterr().err


@pytest.mark.parametrize("name", sorted(COMMANDS))
def test_half_an_option_is_none(name, capsys):
    """What is guessed today may mean something else in the next edition."""
    assert main([name, "--hel"]) == 2
    assert capsys.readouterr().out == ""
