"""The certificate of a job whose results are given, as the session would have it made."""

from fenmist.calibration.job import Job
from fenmist.calibration.outcome import Outcome
from fenmist.findings.note import Note
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.procedure import Seen
from fenmist.procedures.table import procedure_of
from fenmist.reports.certificate import Certificate, certificate


def page_of(
    made: Job,
    found: Outcome | None = None,
    notes: tuple[Note, ...] = (),
    record: str = "0123456789abcdef",
    left: Outcome | None = None,
) -> Certificate:
    """The page of results as found, or as left where they are given."""
    found = found or reduce(made)
    return certificate(procedure_of(made), Seen(made, (left or found).phase, found, left), notes, record)
