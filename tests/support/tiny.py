"""A room of a few lines: how many volts are there? One channel, one quantity; nothing outside knows it."""

import math
from dataclasses import replace
from functools import cached_property

import numpy as np

from fenmist.calibration.asked import judged_draft, whose_draft, with_judged
from fenmist.calibration.channels import channel_on
from fenmist.calibration.job import Job, Method
from fenmist.calibration.outcome import Outcome, Stated
from fenmist.calibration.rounds import readings_by_point
from fenmist.findings.note import Note, Severity
from fenmist.frozen import dataclass
from fenmist.hookup.templates import Template
from fenmist.judgement.judge import Judge
from fenmist.kit.part import PartKind, SpecKind, SpecTerm, limit_u
from fenmist.procedures.cards import card_of
from fenmist.procedures.charts import stated_chart
from fenmist.procedures.page import BENCH, LID, Figures, ResultPage
from fenmist.procedures.procedure import Procedure
from fenmist.uncertainty.estimate import Estimate
from fenmist.uncertainty.influence import Inputs, each_point, influence
from fenmist.uncertainty.propagation import propagate
from fenmist.units.display import frequency, plain, with_uncertainty

K = PartKind
ACROSS = Template(
    "voltmeter across a load", (K.TRANSMITTER, K.TEE, K.LOAD), {K.TEE: (K.VOLTMETER,)}, K.VOLTMETER, (),
    (K.VOLTMETER,),
)  # fmt: skip


def begin(job_id, title, bench, device_id, created_at):
    hookup, parts = bench.hookup, {part.id: part for part in bench.parts}
    element = next(item.id for item in hookup.elements if item.part == device_id)
    volts = channel_on(hookup, element, parts[device_id])
    return Job(
        id=job_id, title=title, dut=device_id, kit=bench.parts, channels=(volts,), order=(volts.id,),
        hookups=(replace(hookup, stated=volts.measurand.plane),), stated=volts.measurand, question="volts",
        method=Method("volts", "volts", 1), plan=(), tolerance=SpecTerm(SpecKind.OF_READING, 0.1),
        created_at=created_at,
    )  # fmt: skip


@dataclass(frozen=True, eq=False)
class Volts(Outcome):
    volts: Estimate | None

    @cached_property
    def stated(self):
        read = [item for item in self.readings if item.rounds]
        return tuple(self._stated(item.point, n) for n, item in enumerate(read))

    def _stated(self, point, n):
        value, u, wide = (float(item[n]) for item in (self.volts.value, self.volts.u, self.volts.expanded_u))
        ends = (value - wide, value + wide)
        wanted = math.sqrt(50.0 * point.target_w)
        share = value / wanted - 1.0
        return Stated(
            point, value, ends, u, float(self.volts.k[n]), "V", 0.0, None, "linear", True, share,
            (ends[0] / wanted - 1.0, ends[1] / wanted - 1.0), 0.0,
        )  # fmt: skip

    @property
    def quantities(self):
        return {"volts": self.volts} if self.volts else {}

    def budget(self, point_id):
        ids = [item.point.id for item in self.stated]
        return self.volts.budget(ids.index(point_id)) if point_id in ids else ()


def reduce(job, phase, known, former):
    found = readings_by_point(job, phase)
    read = [item for item in found if item.rounds]
    if not read:
        return Volts(job, phase, known, found, None)
    means = [np.mean([taken.reading.value for one in item.rounds for taken in one.duts]) for item in read]
    gain = sum(limit_u(term, 1.0) ** 2 for term in job.device_shows.stated) ** 0.5
    n = len(read)
    inputs = Inputs((
        influence("volts.reading", "reading it", means, 0.005, points=n, unit="V", sharing=each_point(n)),
        influence("volts.gain", "accuracy", 1.0, gain * known.get("volts.gain", 1.0), points=n),
    ))  # fmt: skip
    made = propagate(lambda x: {"volts": x["volts.reading"] / x["volts.gain"]}, inputs, {"volts": (job.stated, "V")})
    return Volts(job, phase, known, found, made["volts"])


@Judge
def judge(job, result, as_of, phase, found):
    high = [item for item in result.stated if item.share > 0.5]
    yield [
        Note("volts.high", Severity.DOUBT, item.point.id, "That is half as much again.", "It is.", "Look.", {})
        for item in high[:1]
    ]


def said(result):
    return "; ".join(
        f"{with_uncertainty(item.value, item.expanded_u, 'V')} at {frequency(item.point.frequency_hz)}"
        for item in result.stated
    )


def figures(result, point_id):
    item, none = result.stated_at(point_id), Figures.NOTHING
    return Figures("volts so far", plain(item.value, "V") if item else none, none, none, "U", none, none)


def page(seen):
    result = seen.in_hand
    rows = [(frequency(item.point.frequency_hz), plain(item.value, "V"), "fine") for item in result.stated]
    return ResultPage(
        f"There are {said(result)}." if rows else "Nothing has been read yet.", ("frequency", "volts", "verdict"),
        tuple(rows), (("quantity", "rms volts"),), ("A tiny statement.",),
    )  # fmt: skip


VOLTS = Procedure(
    id="volts", question="How many volts are there?", title="Volts at a connector", quantity="voltage", kind="volts",
    version=1, devices=(K.VOLTMETER,), templates=(ACROSS,), begin=begin, line_fields=(), plan_fields=(),
    draft=lambda job: {**whose_draft(job), **judged_draft(job)}, from_draft=with_judged,
    trouble=lambda job, hookup: "", flaws=lambda job: iter(()), method=lambda job: "a voltmeter", reduce=reduce,
    judge=judge, judge_entries=lambda job, result, phase, point: (),
    readings_headline=lambda job, result, point: f"So far: {said(result)}." if result.stated else "Read the volts.",
    what_if=lambda job, before, after: f"U would be {after.expanded_u:.3f} V.",
    short=lambda result: said(result) or "—",
    figures=figures, entry_text=lambda result, entry: entry.raw_text, series=lambda result, point: (),
    chart=lambda job, found, left, over, curves: stated_chart(job, found, left, over, quantity="volts off"), page=page,
    cards=lambda seen, number: tuple(
        card_of(seen.job, seen.final.stated, size, number, "volts", "as read", lambda item: plain(item.value, "V"))
        for size in (LID, BENCH)
    ),
    table=lambda seen: [["frequency / Hz", "volts / V"]]
    + [[item.point.frequency_hz, item.value] for item in seen.final.stated],
)  # fmt: skip
