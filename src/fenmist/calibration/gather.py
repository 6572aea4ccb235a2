"""What every room asks of the bench that is read: its load, and where power is stated."""

from fenmist.calibration.job import HEAT, Job
from fenmist.errors import UnknownIdError
from fenmist.hookup.line import main_way
from fenmist.kit.characterisation import LoadState, load_state
from fenmist.kit.impedance import HOT_IMPEDANCE, IMPEDANCE
from fenmist.kit.part import Part, PartKind
from fenmist.uncertainty.influence import FloatArray


def load_at(job: Job, frequency_hz: FloatArray, end: str = "") -> tuple[Part, LoadState]:
    """The job's load and its impedance at frequencies of shape (n,).

    Parameters
    ----------
    job : Job
        With a load in its hook-up.
    frequency_hz : array, shape (n,)
        In Hz.
    end : str
        Part id of another end of a line that is read.

    Returns
    -------
    Part, LoadState
        The load, and its impedance there.

    Raises
    ------
    UnknownIdError
        Where the hook-up has no load.
    """
    part = end_part(job, end)
    nominal = part.properties["nominal_ohm"]
    heat = job.method.parameters.get(HEAT)
    tables = part.characterisation(IMPEDANCE), part.characterisation(HOT_IMPEDANCE)
    return part, load_state(tables[0], frequency_hz, nominal.value, tables[1], heat, nominal.u)


def stated_at_input(job: Job) -> bool:
    """Whether power is stated where it enters the meter, rather than where it leaves it."""
    hookup = job.bench
    here = (hookup.stated.element, hookup.stated.port)
    return any((stop.element, stop.entry) == here for stop in main_way(hookup, job.parts))


def end_part(job: Job, end: str = "") -> Part:
    """What ends a line that is read, by part id, or the load; raises UnknownIdError where something else does."""
    found = job.part(end) if end else load_of(job)
    if found is None:
        raise UnknownIdError("No load ends this line.", "Put one at its end in the step “hook-up” (Alt+2).")
    return found


def ends_of(job: Job) -> tuple[Part, ...]:
    """Loads and mismatches that end the lines that are read, each once, in the order of the visits."""
    made: dict[str, Part] = {}
    for leg in job.visits:
        hookup = job.hookup(leg.hookup)
        stops = main_way(hookup, job.parts)
        last = job.part(hookup.element(stops[-1].element).part) if stops else None
        if last is not None and last.kind in (PartKind.LOAD, PartKind.MISMATCH):
            made[last.id] = last
    return tuple(made.values())


def load_of(job: Job) -> Part | None:
    """The load that ends the line that is read; none where something else does."""
    hookup = job.bench
    stops = main_way(hookup, job.parts)
    last = job.part(hookup.element(stops[-1].element).part) if stops else None
    return last if last is not None and last.kind is PartKind.LOAD else None
