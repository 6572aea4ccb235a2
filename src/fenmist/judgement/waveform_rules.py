"""What a waveform that isn't a steady carrier does to what is planned: who shows what of it, and where nobody knows."""

from collections.abc import Iterator

from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.sent import mean_part, share_at, waveform_said
from fenmist.findings.note import Note, Severity
from fenmist.judgement.entry_rules import at_point
from fenmist.measurand import OF_MATCH, Detector
from fenmist.methods.modulated import UNKNOWN, Share, stands
from fenmist.units.display import opening, percent, plain

REMEDY = "Use a steady carrier at the same setting."

OPEN = 0.1
"""± of a share, over it, from which the answer hangs on the waveform (Fenmist's own, no source)."""


def waveform_notes(job: Job) -> Iterator[Note]:
    """For each waveform of the plan once: what can't be decided, what averages volts, what hangs on its shape."""
    sent = {point.waveform: point for point in job.to_read if not stands(point.waveform)}
    for point in sent.values():
        if point.waveform == UNKNOWN:
            yield _undecided(point, "What is sent isn't known, and each kind of meter shows another part of it")
            continue
        shares = _shares(job, point)
        unknown = [label for label, _, share in shares if share is None]
        if unknown:
            yield _undecided(point, f"Nobody knows what {unknown[0]} shows of {waveform_said(point.waveform)}")
        yield from _averaging(point, shares)
        yield from _hangs_on_shape(point, shares)
        if any(job.is_supply(name) for name in point.sequence):
            yield _mean_dc(point)


def _shares(job: Job, point: PlanPoint) -> list[tuple[str, Detector, Share | None]]:
    """Each instrument that shows a power there, its detector, and the part of PEP that it shows."""
    return [
        (job.part_read(name).label, job.indicator(name).detector, share_at(job, point, name))
        for name in dict.fromkeys(point.sequence)
        if not job.is_supply(name) and job.channel(name).measurand.kind not in OF_MATCH
    ]


def _undecided(point: PlanPoint, why: str) -> Note:
    return Note(
        "waveform.cannot_decide", Severity.DOUBT, point.id, f"Nothing can be decided {at_point(point)}.",
        f"{why}: PEP and mean can't be told from each other.",
        f"{REMEDY} Or say in the plan what is sent, and in the kit the times of a meter that holds.",
        {"waveform": point.waveform},
    )  # fmt: skip


def _averaging(point: PlanPoint, shares: list[tuple[str, Detector, Share | None]]) -> Iterator[Note]:
    for label, detector, share in shares:
        if detector is Detector.AVERAGE and share is not None:
            said = waveform_said(point.waveform)
            yield Note(
                "waveform.averages", Severity.WATCH, point.id,
                f"{opening(label)} averages volts: it shows {percent(share.value)} of the PEP of {said}.",
                f"Its scale squares that, so it is no power. PEP is taken as {plain(1.0 / share.value, '', 3)} times "
                "what it shows, which holds for this waveform alone.",
                REMEDY, {"share": share.value},
            )  # fmt: skip
            return


def _hangs_on_shape(point: PlanPoint, shares: list[tuple[str, Detector, Share | None]]) -> Iterator[Note]:
    off = max((abs(share.off) / share.value for _, _, share in shares if share is not None), default=0.0)
    if off >= OPEN:
        yield Note(
            "waveform.shape", Severity.WATCH, point.id,
            f"How {waveform_said(point.waveform)} goes is known to ±{percent(off)} of what is shown.",
            "A voice, a depth or a duty varies, and with it what a meter that averages shows of the same PEP.",
            f"{REMEDY} Or say after ± how well it is known, such as “speech ± 10 %”.", {"off": off},
        )  # fmt: skip


def _mean_dc(point: PlanPoint) -> Note:
    part = mean_part(point) or 0.0
    return Note(
        "waveform.mean_dc", Severity.GOOD_TO_KNOW, point.id,
        f"DC into the source is a mean: it is held against {percent(part)} of PEP {at_point(point)}.",
        "Volts times amperes say what goes in on average; what comes out on average is the mean power.",
        "Don't divide PEP by it.", {"mean": part},
    )  # fmt: skip
