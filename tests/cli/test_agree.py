"""`fenmist agree`, as a shell sees it."""

import json

import pytest

from fenmist.__main__ import main


def answer(capsys, *arguments):
    code = main(["agree", *arguments])
    return code, capsys.readouterr()


def values(*texts):
    return [item for text in texts for item in ("--value", text)]


def test_two_values_as_json(capsys):
    """Weights 1/0.64 and 1: 23.71 W, u √(1/2.5625) = 0.625 W; En −3.1/2·√1.64."""
    code, said = answer(capsys, *values("22.5 W ± 1.6 W", "25.6 W ± 2 W"), "--json")
    made = json.loads(said.out)

    assert code == 0
    assert made["consensus_w"] == pytest.approx((22.5 / 0.64 + 25.6) / (1 / 0.64 + 1))
    assert made["expanded_u_w"] == pytest.approx(2.0 * (1 / 0.64 + 1) ** -0.5)
    assert made["chi_squared"] == pytest.approx(3.1**2 / 1.64)
    assert made["probability"] == pytest.approx(0.01549, abs=1e-5)
    assert made["pairs"] == [{"a": 1, "b": 2, "en": pytest.approx(-3.1 / (2.0 * 1.64**0.5))}]
    assert (made["odd"], made["without_odd"]) == (None, None)
    assert [note["code"] for note in made["notes"]] == ["agreement.apart"]


def test_the_odd_one_and_what_the_others_say_without_it(capsys):
    code, said = answer(capsys, *values("22.5 W ± 1.6 W", "22900 mW +/- 2", "45.8 W ± 0.3 dB"), "--json")
    made = json.loads(said.out)

    assert (code, made["odd"]) == (0, 3)
    assert made["without_odd"]["consensus_w"] == pytest.approx((22.5 / 0.64 + 22.9) / (1 / 0.64 + 1))
    assert "3\u202fdB" in made["notes"][0]["why"] or "3 dB" in made["notes"][0]["why"]


def test_what_two_share_is_counted_once(capsys):
    """0.7 W of the u of both: their difference is known to √(0.64 + 1 − 0.98), the consensus less well."""
    _, said = answer(capsys, *values("22.5 W ± 1.6 W", "23 W ± 2 W"), "--shared", "1 2 0.7 W", "--json")
    made = json.loads(said.out)

    assert made["pairs"][0]["en"] == pytest.approx(-0.5 / (2.0 * (1.64 - 0.98) ** 0.5))
    weight = (1.0 - 0.49) / (1.64 - 0.98)
    assert made["weights"] == pytest.approx([weight, 1.0 - weight])
    assert made["expanded_u_w"] == pytest.approx(2.0 * ((0.64 - 0.49**2) / (1.64 - 0.98)) ** 0.5)


def test_as_text(capsys):
    code, said = answer(capsys, *values("22.5 W ± 1.6 W", "25.6 W ± 2 W", "50 W ± 3 W"))
    lines = said.out.replace("\u202f", " ").splitlines()

    assert code == 0
    assert lines[0].startswith("Consensus    27.6 ± 1.2 W")
    assert "with 2 degrees of freedom" in lines[1]
    assert lines[1].endswith("probability less than 0.0001")
    assert "1   22.5 ± 1.6 W   weight 0.52" in lines
    assert "1 and 3   En −8.09" in lines
    _, said = answer(capsys, *values("22.5 W ± 1.6 W", "22.9 W ± 2 W", "50 W ± 3 W"))
    assert "Without 3    22.7 ± 1.2 W" in said.out.replace("\u202f", " ").splitlines()


@pytest.mark.parametrize(("arguments", "says"), [
    (values("22.5 W", "25 W ± 1 W"), "has no uncertainty"), (values("22.5 W ± 1 W"), "agrees with itself"),
    (values("22.5 W ± 0 W", "25 W ± 1 W"), "above 0"), (values("x ± 1 W", "25 W ± 1 W"), "“x”"),
    ([*values("22.5 W ± 1 W", "25 W ± 1 W"), "--shared", "1 3 0.2 W"], "doesn't name two of the 2 values"),
    ([*values("22.5 W ± 1 W", "25 W ± 1 W"), "--shared", "1 1 0.2 W"], "doesn't name two"),
    ([*values("22.5 W ± 1 W", "25 W ± 1 W"), "--shared", "1 2 2 W"], "More is shared"),
])  # fmt: skip
def test_what_is_wrong_is_one_line(capsys, arguments, says):
    code, said = answer(capsys, *arguments)

    assert code == 2
    assert says in said.err and said.err.count("\n") == 1
    assert said.out == ""
