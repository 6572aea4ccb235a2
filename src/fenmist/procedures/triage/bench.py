"""What a bench must have for what is wrong to be found."""

from collections.abc import Iterator

from fenmist.calibration.job import Job
from fenmist.procedures.triage.asked import problem_of


def flaws(job: Job) -> Iterator[str]:
    """What keeps a job from elsewhere from being one about what is wrong."""
    if said := problem_of([leg.id for leg in job.legs]):
        yield said
    names = {leg.id for leg in job.legs}
    for point in job.plan:
        if point.leg not in names:
            yield f"point “{point.id}” is of no sighting of this job"
        if not job.references_of(point):
            yield f"point “{point.id}” reads no meter behind the transmitter"
