"""`fenmist agree`: whether values of one power agree, and what they say together."""

import re
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from fenmist.cli.command import Parser, note_lines, notes_json
from fenmist.cli.terminal import print_json
from fenmist.errors import UnreadableError
from fenmist.findings.note import Note
from fenmist.judgement.agreement_rules import agreement_notes
from fenmist.uncertainty.agreement import Agreement, K, agreement
from fenmist.uncertainty.influence import FloatArray
from fenmist.units.display import plain, signed, with_uncertainty
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS

_PLUS_MINUS = re.compile(r"\s*(?:±|\+/-|\+-)\s*")
_SHARED = re.compile(r"\s*([0-9]+)[\s,]+([0-9]+)[\s,]+(.+)")
_DECIBEL = re.compile(r"(.+?)\s*dB", re.I)


class Value(NamedTuple):
    """A power in W with its U, k = 2."""

    power_w: float
    expanded_u_w: float


class Answer(NamedTuple):
    """What the values say together."""

    values: tuple[Value, ...]
    found: Agreement
    rest: Agreement | None  # without the odd one
    notes: tuple[Note, ...]


def _parser() -> Parser:
    parser = Parser(
        prog="fenmist agree", description="Whether values of one power agree, and what they say together.",
        allow_abbrev=False,
    )  # fmt: skip
    parser.add_argument(
        "--value", action="append", default=[], required=True, metavar="TEXT",
        help="a power with its expanded uncertainty (k = 2), such as “22.5 W ± 1.6 W” or “+43.5 dBm ± 0.3 dB”; "
        "give it for each value",
    )  # fmt: skip
    parser.add_argument(
        "--shared", action="append", default=[], metavar="TEXT",
        help="numbers of two values and the standard uncertainty that they have in common, such as “1 2 0.7 W”",
    )  # fmt: skip
    parser.add_argument("--json", action="store_true", help="print the answer as JSON")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run the command; returns the exit code. Raises FenmistError for bad input."""
    options = _parser().parse_args(arguments)
    answer = _answer([_value(text) for text in options.value], options.shared)
    if options.json:
        print_json(_values(answer))
    else:
        print(_text(answer))
    return 0


def _value(text: str) -> Value:
    parts = _PLUS_MINUS.split(text.strip())
    if len(parts) != 2:
        raise UnreadableError(f"“{text}” has no uncertainty.", "Type for example “22.5 W ± 1.6 W”.")
    power = value_from_text(parts[0], UNITS["W"], "value", "22.5 W")
    decibel = _DECIBEL.fullmatch(parts[1])
    if decibel:
        share = value_from_text(decibel[1], UNITS["dB"], "uncertainty", "0.3 dB")
        expanded = power * (10.0 ** (share / 10.0) - 1.0)
    else:
        expanded = value_from_text(parts[1], UNITS["W"], "uncertainty", "1.6 W")
    if power <= 0 or expanded <= 0:
        raise UnreadableError(f"“{text}” is no power with an uncertainty.", "Both are above 0: “22.5 W ± 1.6 W”.")
    return Value(power, expanded)


def _answer(values: Sequence[Value], shared: Sequence[str]) -> Answer:
    if len(values) < 2:
        raise UnreadableError("One value agrees with itself.", "Give “--value” twice or more.")
    covariance = np.diag([(item.expanded_u_w / K) ** 2 for item in values])
    for text in shared:
        match = _SHARED.fullmatch(text)
        places = [int(match[number]) - 1 for number in (1, 2)] if match else []
        if match is None or len(set(places)) < 2 or not all(0 <= place < len(values) for place in places):
            raise UnreadableError(
                f"“{text}” doesn't name two of the {len(values)} values and what they share.", "Type “1 2 0.7 W”."
            )
        variance = value_from_text(match[3], UNITS["W"], "shared uncertainty", "0.7 W") ** 2
        one, other = places
        covariance[one, other] += variance
        covariance[other, one] += variance
    powers = np.array([item.power_w for item in values])
    found = agreement(powers, covariance)
    names = [f"Value {number}" for number in range(1, len(values) + 1)]
    others = [_without(powers, covariance, place) for place in range(len(values))]
    ratios = [float(power / other.value) for power, other in zip(powers, others, strict=True)]
    rest = None if found.odd is None else others[found.odd]
    return Answer(tuple(values), found, rest, tuple(agreement_notes(found, names, ratios, "values")))


def _without(powers: FloatArray, covariance: FloatArray, place: int) -> Agreement:
    """What the others say."""
    rest = np.delete(np.arange(powers.size), place)
    return agreement(powers[rest], covariance[np.ix_(rest, rest)])


def _values(answer: Answer) -> dict[str, object]:
    found = answer.found
    return {
        "consensus_w": found.value,
        "expanded_u_w": found.expanded_u,
        "chi_squared": found.chi_squared,
        "probability": found.probability,
        "pairs": [{"a": item.a + 1, "b": item.b + 1, "en": item.en} for item in found.pairs],
        "odd": None if found.odd is None else found.odd + 1,
        "weights": list(found.weights),
        "without_odd": answer.rest and {"consensus_w": answer.rest.value, "expanded_u_w": answer.rest.expanded_u},
        "notes": notes_json(answer.notes),
    }


def _text(answer: Answer) -> str:
    found = answer.found
    likely = plain(found.probability, "", 2) if found.probability >= 1e-4 else "less than 0.0001"
    lines = [
        f"Consensus    {with_uncertainty(found.value, found.expanded_u, 'W')}   (U, k = {K:g})",
        f"χ²           {plain(found.chi_squared, '', 3)} with {len(answer.values) - 1} "
        f"degree{'s' if len(answer.values) > 2 else ''} of freedom, "
        f"probability {likely}",
        *(
            [f"Without {(found.odd or 0) + 1}    {with_uncertainty(answer.rest.value, answer.rest.expanded_u, 'W')}"]
            if answer.rest
            else []
        ),
        "",
        *(
            f"{number}   {with_uncertainty(item.power_w, item.expanded_u_w, 'W')}   weight {plain(weight, '', 2)}"
            for number, (item, weight) in enumerate(zip(answer.values, found.weights, strict=True), start=1)
        ),
        "",
        *(f"{item.a + 1} and {item.b + 1}   En {signed(f'{item.en:.2f}', plus=True)}" for item in found.pairs),
        *note_lines(answer.notes),
    ]
    return "\n".join(lines)
