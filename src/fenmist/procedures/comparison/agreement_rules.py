"""Whether the references of a comparison agree."""

import math
from collections.abc import Iterator

from fenmist.calibration.job import Job
from fenmist.findings.note import Note
from fenmist.judgement.agreement_rules import agreement_notes
from fenmist.judgement.entry_rules import at_point
from fenmist.procedures.comparison.reduction import PointResult, Result


def references_agree(job: Job, result: Result) -> Iterator[Note]:
    """Whether the references of a point agree: said once, of the point at which they do so least."""
    several = [item for item in result.points if item.agreement is not None and len(item.agreement.weights) > 1]
    if not several:
        return
    worst = min(several, key=lambda item: item.agreement.probability if item.agreement else 1.0)
    used = _used(worst)
    names = [job.part_read(channel).label for channel in used]
    found = worst.agreement
    if found is None:
        return
    ratios = [math.exp(apart) for apart in found.apart]
    about = job.channel(used[found.odd]).element if found.odd is not None else "job"
    yield from agreement_notes(found, names, ratios, about, f" {at_point(worst.point)}")


def _used(point: PointResult) -> list[str]:
    """Channels that an agreement is between: those that are references, or all where none is."""
    trusted = [item.channel for item in point.references if item.is_reference]
    return trusted or [item.channel for item in point.references]
