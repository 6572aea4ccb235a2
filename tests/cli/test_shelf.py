"""`fenmist shelf`, as a shell sees it."""

import json
import re

import pytest

from fenmist.__main__ import main
from fenmist.session.session import Session


@pytest.fixture
def book(tmp_path):
    path = tmp_path / "log.fenlog"
    Session(path).close()
    return path


def test_benches_as_json(book, capsys):
    asked = ["--frequency", "3.6 7.1 14.2 MHz", "--power", "50 W"]
    assert main(["shelf", str(book), *asked, "--json"]) == 0
    made = json.loads(capsys.readouterr().out)

    assert made["device"] == "generic wattmeter"
    assert made["frequency_hz"] == [3.6e6, 7.1e6, 14.2e6]
    first, *_, last = made["benches"]
    assert len(first["expanded_u_percent"]) == len(first["blocked"]) == 3
    assert first["blocked"] == [None] * 3
    assert last["blocked"][0]


def test_benches_as_text_of_a_named_device(book, capsys):
    asked = ["--frequency", "7.1 MHz", "--power", "10 W", "--device", "transmitter"]
    assert main(["shelf", str(book), *asked]) == 0
    said = capsys.readouterr().out
    assert said.startswith("generic transmitter at 10")
    assert "sensor behind a pad: generic sensor" in said
    numbers = [int(number) for number in re.findall(r"^(\d+)  ", said, re.M)]
    assert numbers == list(range(1, len(numbers) + 1))
    assert said.startswith(f"generic transmitter at 10\u202fW: {len(numbers)} benches\n")
    assert "cannot decide" not in said  # nothing is claimed
    assert re.search(r"^   7\.1.MHz: U [\d.]+.%$", said, re.M)
    assert main(["shelf", str(book), "--frequency", "7.1 500 MHz", "--power", "10 W", "--device", "wattmeter"]) == 0
    said = capsys.readouterr().out
    assert re.search(r"^   7\.1.MHz: U [\d.]+.%, (cannot decide|decides) ±[\d.]+.%$", said, re.M)
    assert re.search(r"^   500.MHz: 500.MHz is outside the span of ", said, re.M)  # in words why it can't be read there


@pytest.mark.parametrize(
    ("more", "says"),
    [
        (["--frequency", "x", "--power", "1 W"], "x"), (["--frequency", "7 MHz", "--power", "-1 W"], "above 0"),
        (["--frequency", "7 MHz", "--power", "1 W", "--device", "Nobody"], "no device “Nobody”"),
        (["--frequency", "", "--power", "1 W"], "needed"), (["--frequency", "0 7 MHz", "--power", "1 W"], "above 0"),
    ],
)  # fmt: skip
def test_bad_input_is_one_line(book, capsys, more, says):
    assert main(["shelf", str(book), *more]) == 2
    assert says in capsys.readouterr().err


def test_a_logbook_that_isnt_there_is_not_made(tmp_path, capsys):
    path = tmp_path / "none.fenlog"
    assert main(["shelf", str(path), "--frequency", "7 MHz", "--power", "1 W"]) == 2
    assert not path.exists()
    assert "no logbook" in capsys.readouterr().err
