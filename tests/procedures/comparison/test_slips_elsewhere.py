"""The slips study on other benches: a sensor, an ammeter, a divider's voltmeter, a better meter in the line."""

import math
from collections import Counter
from dataclasses import replace
from datetime import date

import numpy as np
import pytest

from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.comparison.rules import judge
from fenmist.reading.event import Slot
from fenmist.simulation.netlist import draw
from studies import slips
from studies.builders import enter
from studies.references import BENCHES, DEVICE_DB, LEVEL, QUARTER_W, Drawn, shown

HERE = ("sensor behind a pad", "ammeter in the line", "voltmeter behind a divider", "better meter in line")
KINDS = ("decimal", "unit", "transposed digits")
AT = (1.0, 1.6, 2.5, 3.9)
"""Frequencies of a run, times that of the bench."""

UNITS = {"mW": "W", "V": "mV", "A": "mA", "": "mW"}
"""What a unit is typed as by a slip."""


def empty_job(name):
    job = BENCHES[name]()
    if "d" in job.parts:  # a divider of pieces that were measured
        pieces = tuple(
            replace(item, measured=item.nominal, u_measured=0.003 * item.nominal) if item.id.startswith("R") else item
            for item in job.part("d").components
        )
        job = job.with_part(replace(job.part("d"), components=pieces))
    first = job.plan[0]
    plan = tuple(
        replace(first, id=f"p{n}", frequency_hz=first.frequency_hz * times, repeats=2)
        for n, times in enumerate(AT, start=1)
    )
    return replace(job, plan=plan)


def texts(job, rng):
    """What would be typed, slot by slot, on a bench drawn for this run."""
    hookup = job.hookups[-1]
    true = draw(hookup, job.parts, rng)
    off = DEVICE_DB + rng.normal(0.0, 0.1)
    for point in job.plan:
        solved = true.solve(point.frequency_hz)
        _, out = solved.waves((hookup.stated.element, hookup.stated.port))
        for number in (1, 2):
            level = LEVEL * (1.0 + 0.03 * rng.standard_normal())
            bench = Drawn(true, solved, math.sqrt(level) / abs(out))
            seed = rng.integers(1 << 30) if number == 1 else seed  # noqa: F821  an instrument errs alike in both
            for position, channel in enumerate(point.sequence):
                text = shown(job, bench, channel, np.random.default_rng([int(seed), position]))
                if job.is_device(channel):
                    text = f"{level * 10.0 ** (off / 10.0) + rng.uniform(-QUARTER_W, QUARTER_W) / 4.0:.4g}"
                yield Slot(point.id, number, position), channel, text


def slipped(kind, text, rng):
    number, _, unit = text.partition(" ")
    if kind == "decimal":
        return f"{float(number) * (10.0 if rng.integers(2) else 0.1):.6g} {unit}".strip()
    if kind == "unit":
        return f"{number} {UNITS[unit]}"
    swapped = slips._transposed(number, rng)
    return None if swapped is None else f"{swapped} {unit}".strip()


def entered(job, typed):
    for slot, _, text in typed:
        job = enter(job, slot, text)
    return job


def named(notes, slot):
    return slips._names(notes, slot)


def planted(job, kind, rng):
    """Whether a slip counts, and whether it is named."""
    typed = list(texts(job, rng))
    while True:
        place = int(rng.integers(len(typed)))
        slot, channel, text = typed[place]
        wrong = slipped(kind, text, rng)
        if wrong is not None and wrong != text:
            break
    whole = entered(job, [*typed[:place], (slot, channel, wrong), *typed[place + 1 :]])
    found, clean = reduce(whole), reduce(entered(job, typed))
    return slips._counts(clean, found, slot), named(judge(whole, found, date(2026, 11, 27)), slot), f"{text} as {wrong}"


@pytest.mark.parametrize("name", HERE)
def test_slips_that_count_are_named_on_any_bench(name):
    job, missed, counted = empty_job(name), [], Counter()
    for kind in KINDS:
        for n in range(6):
            counts, said, what = planted(job, kind, np.random.default_rng([17, HERE.index(name), KINDS.index(kind), n]))
            counted[kind] += counts
            if counts and not said:
                missed.append((kind, what))
    assert len(missed) <= 1, missed
    assert min(counted["decimal"], counted["unit"]) >= 4


@pytest.mark.parametrize("name", HERE)
def test_clean_runs_on_any_bench_are_left_alone(name):
    job = empty_job(name)
    for n in range(4):
        whole = entered(job, list(texts(job, np.random.default_rng([18, HERE.index(name), n]))))
        notes = judge(whole, reduce(whole), date(2026, 11, 27))
        assert [note.code for note in notes if "/" in note.about and note.severity.rank <= 1] == []
