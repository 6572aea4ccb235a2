"""`fenmist constants`: constants of a home-built meter, from its detector's volts and a reference's watts."""

import math
from collections.abc import Sequence

import numpy as np

from fenmist.cli.command import Parser, notes_json, print_rows
from fenmist.cli.terminal import print_json
from fenmist.methods.constants import LAWS, ConstantsAnswer, ConstantsRequest
from fenmist.session.constants import as_c, as_json, as_table, constants_headline, constants_rows
from fenmist.units.display import percent

_FORMS = {"c": as_c, "json": as_json, "table": as_table}


def _parser() -> Parser:
    parser = Parser(
        prog="fenmist constants", allow_abbrev=False,
        description="Constants that make watts of a detector's volts or counts, by one of three laws.",
    )  # fmt: skip
    parser.add_argument("--volts", required=True, metavar="LIST", help="as read, such as “0.4 0.9 1.6 V”; counts too")
    parser.add_argument("--watts", required=True, metavar="LIST", help="of the reference at each, such as “1 5 20 W”")
    parser.add_argument("--u-watts", default="", metavar="SHARE", help="their uncertainty, k = 2, such as “3 %%”")
    parser.add_argument("--u-volts", default="", metavar="VOLTS", help="that of the volts, k = 2, such as “2 mV”")
    parser.add_argument("--law", choices=list(LAWS), default="quadratic", help="quadratic where nothing is said")
    parser.add_argument("--step", default="", metavar="VOLTS", help="of the converter that reads them")
    parser.add_argument(
        "--check", default="", metavar="LIST", help="constants that are in use: held against the readings"
    )
    parser.add_argument("--as", dest="form", choices=list(_FORMS), help="print the constants alone, for a firmware")
    parser.add_argument("--json", action="store_true", help="print the answer as JSON")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run the command; returns the exit code. Raises FenmistError for bad input."""
    options = _parser().parse_args(arguments)
    request = ConstantsRequest(
        options.volts, options.watts, options.u_watts, options.u_volts, options.law, options.step, options.check
    )
    answer = request()
    if options.json:
        print_json(_values(answer))
    elif options.form:
        print(_FORMS[options.form](answer), end="")
    else:
        checked = answer.checked
        in_use = () if checked is None else (("in use", f"off by up to {percent(float(np.max(np.abs(checked))))}"),)
        print(constants_headline(answer))
        print_rows((*constants_rows(answer), *in_use), answer.notes)
    return 0


def _values(answer: ConstantsAnswer) -> dict[str, object]:
    names = answer.law.names
    return {
        "law": answer.law.id,
        "coefficients": dict(zip(names, answer.coefficients.tolist(), strict=True)),
        "standard_u": dict(zip(names, map(_finite, answer.standard_u.tolist()), strict=True)),
        "covariance": [[_finite(value) for value in row] for row in answer.covariance.tolist()],
        "residual_percent": (100.0 * answer.residuals).tolist(),
        "residual_u": answer.in_u.tolist(),
        "leverage": answer.leverage.tolist(),
        "enough_points": answer.enough_points,
        "digits": answer.digits,
        "step_percent": 100.0 * answer.step_effect,
        "checked_percent": None if answer.checked is None else (100.0 * answer.checked).tolist(),
        "notes": notes_json(answer.notes),
    }


def _finite(value: float) -> float | None:
    """None where nothing is known."""
    return value if math.isfinite(value) else None
