"""Constants of a home-built meter in words and as source: desk and plain command say the same."""

import json

import numpy as np

from fenmist.methods.constants import IN_C, ConstantsAnswer
from fenmist.units.display import THIN, percent, plain


def rounded_constants(answer: ConstantsAnswer) -> tuple[str, ...]:
    """With as many figures as they need."""
    return tuple(f"{value:.{answer.digits}g}" for value in answer.coefficients)


def constants_headline(answer: ConstantsAnswer) -> str:
    """How well one law follows the meter, in a sentence."""
    worst = int(np.argmax(np.abs(answer.residuals)))
    said = f"The {answer.law.id} law follows the readings to {percent(abs(answer.residuals[worst]))}"
    return f"{said}, at worst at {plain(float(answer.watts[worst]), 'W')}; {answer.digits} figures are needed."


def constants_rows(answer: ConstantsAnswer) -> tuple[tuple[str, str], ...]:
    """Each constant with its u, then each reading: what the constants say, in per cent and in units of its u."""
    constants = (
        (name, f"{text}, u {u:.2g}")
        for name, text, u in zip(answer.law.names, rounded_constants(answer), answer.standard_u, strict=True)
    )
    readings = (
        (
            f"{plain(float(volts), 'V')}, {plain(float(watts), 'W')}",
            f"{plain(float(fitted), 'W', 4)}, {percent(float(residual), plus=True)}, {in_u:+.1f}{THIN}u, "
            f"leverage {leverage:.2f}",
        )
        for volts, watts, fitted, residual, in_u, leverage in zip(
            answer.volts, answer.watts, answer.fitted_w, answer.residuals, answer.in_u, answer.leverage, strict=True
        )
    )
    return (*constants, *readings)


def as_c(answer: ConstantsAnswer) -> str:
    """A C array of the constants, with what they mean."""
    names, values = ", ".join(answer.law.names), ", ".join(rounded_constants(answer))
    return (
        f"/* {IN_C[answer.law.id]}; {answer.volts.size} readings, {answer.watts.min():.4g} to "
        f"{answer.watts.max():.4g} W, within {100 * float(np.max(np.abs(answer.residuals))):.2g} % */\n"
        f"static const double {answer.law.id}_constants[{len(answer.law.names)}] = {{{values}}}; /* {names} */\n"
    )


def as_json(answer: ConstantsAnswer) -> str:
    """The constants by name, rounded as they may be."""
    values = dict(zip(answer.law.names, map(float, rounded_constants(answer)), strict=True))
    return json.dumps({"law": answer.law.id, **values}, indent=1) + "\n"


def as_table(answer: ConstantsAnswer) -> str:
    """Name and value, a line each, parted by a tab."""
    pairs = zip(answer.law.names, rounded_constants(answer), strict=True)
    return "".join(f"{name}\t{value}\n" for name, value in pairs)
