"""What each channel shows of the waveform that is sent at a point: the part of its PEP, the device's as it claims."""

from collections.abc import Iterable, Iterator, Sequence

from fenmist.calibration.job import Job, PlanPoint
from fenmist.measurand import Statistic
from fenmist.methods.modulated import (
    UNKNOWN,
    WHOLE,
    Share,
    Shares,
    check,
    claimed_share,
    claimed_statistic,
    mean_share,
    share_of,
    stands,
)
from fenmist.reading.event import Reading
from fenmist.units.display import percent, plain

AGAIN = " again"
"""Ends the name of a waveform that is sent once more."""


def sent_at(job: Job, point: PlanPoint) -> str:
    """The waveform that is sent at a point, as it is typed; nothing where it is a steady carrier."""
    leg = next((item for item in job.legs if item.id == point.leg and item.is_waveform), None)
    typed = leg.id.removesuffix(AGAIN) if leg is not None else point.waveform
    return "" if stands(typed) else typed


def share_at(job: Job, point: PlanPoint, channel: str, form: str = "") -> Share | None:
    """The part of PEP, or none where nobody knows; `form` as volts are read, else as the indicator implies."""
    shows = job.indicator(channel)
    of = claimed_share if job.is_device(channel) or job.is_beside(channel) else share_of
    return of(point.waveform, shows, form or shows.unit)


def shares_at(job: Job, points: Sequence[PlanPoint], channel: str, forms: Sequence[str]) -> Shares:
    """The same at n points, with the form in which volts are read at each."""
    each = (share_at(job, point, channel, form) for point, form in zip(points, forms, strict=True))
    return Shares(tuple(point.waveform for point in points), tuple(each))


def part_shown(job: Job, point: PlanPoint, channel: str, reading: Reading | None = None) -> float:
    """The same as a number to reckon with: 1 where nobody knows."""
    if not point.waveform:
        return 1.0
    share = share_at(job, point, channel, (reading.form or reading.unit) if reading is not None else "")
    return share.value if share is not None else 1.0


def mean_part(point: PlanPoint) -> float | None:
    """Mean power over PEP of what is sent at a point; none where nobody knows."""
    return None if point.waveform == UNKNOWN else mean_share(point.waveform).value


def statistic_at(job: Job, point: PlanPoint) -> Statistic:
    """What the device's number is at a point; PEP where nothing claims to show something else."""
    shows = job.device_shows
    if shows is None:
        return claimed_statistic(point.waveform)
    return claimed_statistic(point.waveform, shows, shows.unit)


def waveform_said(waveform: str) -> str:
    """A waveform in words."""
    if waveform == UNKNOWN:
        return "a modulation that isn't known"
    if not waveform:
        return "a steady carrier"
    from fenmist.waveform.named import waveform_from_text

    return waveform_from_text(waveform).name


def waveform_typed(text: str) -> str:
    """What is sent, as it stands in a plan: nothing for a steady carrier.

    Raises
    ------
    UnreadableError, OutOfRangeError
        Where it is no waveform that is known; "unknown" stands for one of which nothing is known.
    """
    said = " ".join(text.split())
    if said.lower().strip("?") in (UNKNOWN, "unknown modulation", ""):
        return UNKNOWN if said else ""
    check(said)
    return "" if said.lower() in ("carrier", "steady carrier") else said


def carrier_said(points: Iterable[PlanPoint]) -> str:
    """What is sent at some points, as it stands on a certificate."""
    sent = {stands(point.waveform) for point in points}
    if sent == {False}:
        return "of the waveforms named"
    return "steady carrier; of a waveform where one is named" if False in sent else "steady carrier"


def sent_statements(job: Job, points: Iterable[PlanPoint]) -> Iterator[str]:
    """As what power is stated at each waveform that isn't a steady carrier, with the part of its PEP that this is."""
    for point in {item.waveform: item for item in points if not stands(item.waveform)}.values():
        share = share_at(job, point, job.device_channel.id) if job.device_shows is not None else WHOLE
        if point.waveform == UNKNOWN or share is None:
            yield f"A{waveform_said(point.waveform)[1:]}: nothing can be said of its power; use a steady carrier."
            continue
        statistic, said = statistic_at(job, point), waveform_said(point.waveform)
        part = "" if statistic is Statistic.PEP else f", {percent(share.value)} of its PEP"
        mean = mean_share(point.waveform)
        yield (
            f"{said[0].upper()}{said[1:]}: powers are stated as {statistic}{part}. Its mean power is "
            f"{percent(mean.value)} of PEP, known to ±{percent(abs(mean.off) / mean.value)} of that."
        )


def level_said(point: PlanPoint) -> str:
    """The level of a point: watts of a carrier, or PEP with what is sent."""
    watts = plain(point.target_w, "W")
    return watts if not point.waveform else f"{watts} PEP, {point.waveform}"


def stated_as(job: Job, point: PlanPoint) -> str:
    """Behind a level: as what the power there is stated, where that isn't the level itself."""
    statistic = statistic_at(job, point)
    return "" if statistic in (Statistic.CARRIER, Statistic.PEP) else f" ({statistic})"
