"""What every room asks of the bench that is read: its load, and where power is stated."""

from fenmist.calibration.job import HEAT, Job
from fenmist.errors import UnknownIdError
from fenmist.hookup.line import main_way
from fenmist.kit.characterisation import LoadState, load_state
from fenmist.kit.impedance import HOT_IMPEDANCE, IMPEDANCE
from fenmist.kit.part import Part, PartKind
from fenmist.uncertainty.influence import FloatArray


def load_at(job: Job, frequency_hz: FloatArray) -> tuple[Part, LoadState]:
    """The job's load and its impedance at frequencies of shape (n,).

    Parameters
    ----------
    job : Job
        With a load in its hook-up.
    frequency_hz : array, shape (n,)
        In Hz.

    Returns
    -------
    Part, LoadState
        The load, and its impedance there.

    Raises
    ------
    UnknownIdError
        Where the hook-up has no load.
    """
    part = load_of(job)
    if part is None:
        raise UnknownIdError("No load ends this line.", "Put one at its end in the step “hook-up” (Alt+2).")
    nominal = part.properties["nominal_ohm"]
    heat = job.method.parameters.get(HEAT)
    tables = part.characterisation(IMPEDANCE), part.characterisation(HOT_IMPEDANCE)
    return part, load_state(tables[0], frequency_hz, nominal.value, tables[1], heat, nominal.u)


def stated_at_input(job: Job) -> bool:
    """Whether power is stated where it enters the meter, rather than where it leaves it."""
    hookup = job.bench
    here = (hookup.stated.element, hookup.stated.port)
    return any((stop.element, stop.entry) == here for stop in main_way(hookup, job.parts))


def load_of(job: Job) -> Part | None:
    """The load that ends the line that is read; none where something else does."""
    hookup = job.bench
    stops = main_way(hookup, job.parts)
    last = job.part(hookup.element(stops[-1].element).part) if stops else None
    return last if last is not None and last.kind is PartKind.LOAD else None
