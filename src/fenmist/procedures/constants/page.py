"""Constants as a page: a row for each reading, constants as facts, files for a firmware, cards, tables."""

import json
from collections.abc import Callable, Iterator

import numpy as np

from fenmist.calibration.job import Job
from fenmist.calibration.outcome import Stated
from fenmist.calibration.sent import carrier_said, level_said
from fenmist.errors import OutOfRangeError
from fenmist.methods.constants import IN_C
from fenmist.procedures.cards import card_of
from fenmist.procedures.charts import stated_chart
from fenmist.procedures.constants.headline import constants_said, results_headline, rounded_constants
from fenmist.procedures.constants.reduction import Constants, Detected, Fitted
from fenmist.procedures.constants.rules import imbalance
from fenmist.procedures.page import BENCH, LEVEL, LID, Card, Cell, Chart, ResultPage
from fenmist.procedures.procedure import Seen
from fenmist.procedures.words import each_reference, method_in_words
from fenmist.reading.event import AS_FOUND, AS_LEFT
from fenmist.units.display import frequency, percent, plain, rounded, with_uncertainty

HEADINGS = ("frequency", "level", "arm", "detector", "power ± U", "by its constants", "off", "in u", "leverage")
"""Columns of the table."""


def page(seen: Seen[Constants]) -> ResultPage:
    """The page of the phase in hand."""
    job, result = seen.job, seen.in_hand
    sent = carrier_said(item.point for item in result.read_there)
    facts = [
        ("quantity", f"{job.stated.kind} at the meter's output, {sent}, {job.stated.z0_ohm:g}\u2009Ω"),
        ("method", method_in_words(job)),
        *((f"constants, {fit.name}", constants_said(fit)) for fit in result.fits),
    ]
    return ResultPage(
        results_headline(job, result, result.phase), HEADINGS,
        tuple(_row(job, fit, item, n) for item, fit, n in _each(result)), tuple(facts),
        (
            *_statements(result),
            *each_reference(
                job, ((item.power, item.power.power_w, item.power.expanded_u_w) for item in result.read_there)
            ),
        ),
        tuple(_below(result)),
    )  # fmt: skip


def _below(result: Constants) -> Iterator[str]:
    for fit in result.fits:
        yield f"{fit.name[:1].upper()}{fit.name[1:]}: {constants_said(fit)}"
    if result.fits:
        law = result.fits[0].answer.law
        yield f"{IN_C[law.id]}. Saved as .c, .json or .tsv they have the figures that a firmware needs."


def _each(result: Constants) -> Iterator[tuple[Detected, Fitted, int]]:
    """Readings that went into constants, with their place there, in the order of what is stated."""
    for item in result.read_there:
        fit = result.fit_of(item.point.id)
        if fit is not None:
            yield item, fit, next(n for n, one in enumerate(fit.read) if one is item)


def _row(job: Job, fit: Fitted, item: Detected, n: int) -> tuple[str, ...]:
    answer, unit = fit.answer, job.dut_part.indicator(item.arm).unit
    return (
        frequency(item.point.frequency_hz), level_said(item.point), item.arm, plain(item.volts, unit, 5),
        with_uncertainty(item.power.power_w, item.power.expanded_u_w, "W"), plain(float(answer.fitted_w[n]), "W", 4),
        percent(float(answer.residuals[n]), plus=True), rounded(float(answer.in_u[n]), 1, plus=True),
        rounded(float(answer.leverage[n]), 2),
    )  # fmt: skip


def _statements(result: Constants) -> Iterator[str]:
    for fit in result.fits:
        answer = fit.answer
        text = ", ".join(
            f"{name} = {value}" for name, value in zip(answer.law.names, rounded_constants(fit), strict=True)
        )
        span = f"{plain(float(answer.watts.min()), 'W', 3)} to {plain(float(answer.watts.max()), 'W', 3)}"
        yield (
            f"{fit.name[:1].upper()}{fit.name[1:]}: {IN_C[answer.law.id]}, with {text}; {answer.volts.size} readings "
            f"from {span}, followed to {percent(float(np.max(np.abs(answer.residuals))))}."
        )
    arms = {fit.band: [one for one in result.fits if one.band == fit.band] for fit in result.fits}
    for band, found in arms.items():
        off = imbalance(*found[:2]) if len(found) > 1 else np.nan
        if np.isfinite(off):
            said = percent(off, plus=True)
            yield f"Of one output the {found[1].arm} arm stands for {said} against the other ({band})."


def chart(
    job: Job, result: Constants, left: Constants | None = None, over: str = LEVEL, _curves: bool = False
) -> Chart:
    """What the constants are off, over level or frequency."""
    return stated_chart(job, result, left, over, quantity="constants less power")


def cards(seen: Seen[Constants], number: str) -> tuple[Card, ...]:
    """Both sizes, of what the job ends with: the detector's output at each level."""
    result = seen.final
    volts = {item.point.id: item for item in result.read_there}

    def cell(item: Stated) -> str:
        found = volts[item.point.id]
        return plain(found.volts, seen.job.dut_part.indicator(found.arm).unit, 4)

    worst = max((item.expanded_u_share for item in result.stated), default=0.0)
    foot = f"powers ± at most {percent(worst)} (95 %); between levels by the constants"
    several = len({item.arm for item in result.read_there}) > 1

    def column(item: Stated) -> str:
        return f"{volts[item.point.id].arm}, {level_said(item.point)}"

    return tuple(
        card_of(seen.job, result.stated, size, number, "its detector gives", foot, cell, column if several else None)
        for size in (LID, BENCH)
    )


COLUMNS = (
    "phase", "frequency / Hz", "level planned / W", "arm", "detector", "u(detector)", "power / W", "U(power) / W",
    "by its constants / W", "off / %", "in u", "leverage", "law", "constants",
)  # fmt: skip


def table(seen: Seen[Constants]) -> list[list[Cell]]:
    """Headings and rows, as found and then as left."""
    phases = [(AS_FOUND, seen.found)] + ([(AS_LEFT, seen.left)] if seen.left is not None else [])
    rows: list[list[Cell]] = [
        [
            phase, item.point.frequency_hz, item.point.target_w, item.arm, item.volts, item.u_volts, item.power.power_w,
            item.power.expanded_u_w, float(fit.answer.fitted_w[n]), 100.0 * float(fit.answer.residuals[n]),
            float(fit.answer.in_u[n]), float(fit.answer.leverage[n]), fit.answer.law.id,
            " ".join(rounded_constants(fit)),
        ]
        for phase, result in phases
        for item, fit, n in _each(result)
    ]  # fmt: skip
    return [[*COLUMNS], *rows]


# for a firmware


def as_c(fits: tuple[Fitted, ...]) -> str:
    """A C array of all sets, a row each, with what they mean."""
    law = fits[0].answer.law
    rows = ",\n".join(f"    {{{', '.join(rounded_constants(fit))}}} /* {fit.name} */" for fit in fits)
    return (
        f"/* {IN_C[law.id]}; {', '.join(law.names)} */\n"
        f"static const double {law.id}_constants[{len(fits)}][{len(law.names)}] = {{\n{rows}\n}};\n"
    )


def as_json(fits: tuple[Fitted, ...]) -> str:
    """All sets by arm and band, rounded as they may be."""
    sets = [
        {"arm": fit.arm, "band": fit.band.replace("\u202f", " "), "law": fit.answer.law.id,
         **dict(zip(fit.answer.law.names, map(float, rounded_constants(fit)), strict=True))}
        for fit in fits
    ]  # fmt: skip
    return json.dumps(sets, indent=1) + "\n"


def as_table(fits: tuple[Fitted, ...]) -> str:
    """Arm, band and constants, a line each, parted by tabs."""
    heading = "\t".join(("arm", "band", *fits[0].answer.law.names))
    lines = ["\t".join((fit.arm, fit.band.replace("\u202f", " "), *rounded_constants(fit))) for fit in fits]
    return "\n".join((heading, *lines)) + "\n"


def _exported(made: Callable[[tuple[Fitted, ...]], str]) -> Callable[[Seen[Constants]], bytes]:
    def export(seen: Seen[Constants]) -> bytes:
        if not seen.final.fits:
            raise OutOfRangeError("There are no constants yet.", "Read more levels first.")
        return made(seen.final.fits).encode()

    return export


EXPORTS = {".c": _exported(as_c), ".json": _exported(as_json), ".tsv": _exported(as_table)}
"""The constants as files, by the ending of their names; each raises OutOfRangeError where there are none."""
