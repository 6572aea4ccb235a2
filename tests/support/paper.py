"""The certificate of a job whose results are given, as the session would have it made."""

from fenmist.calibration.job import Job
from fenmist.calibration.outcome import Outcome
from fenmist.findings.note import Note
from fenmist.procedures.comparison.reduction import reduce
from fenmist.procedures.page import Chart, ChartPoint, ChartSeries
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


def chart(*series: ChartSeries, over: str = "frequency") -> Chart:
    return Chart(series, over)


def points(*rows) -> tuple[ChartPoint, ...]:
    return tuple(ChartPoint(f"p{n}", *row) for n, row in enumerate(rows))


TWO = chart(
    ChartSeries("20 W", points((7.0, -2.0, -4.0, 0.0, 20.0), (14.0, 5.0, 3.0, 7.0, 20.0)), 0, True,
                ((7.0, -2.0), (10.0, 1.0), (14.0, 5.0))),
    ChartSeries("100 W", points((7.0, 40.0, 35.0, 45.0, 4.0), (14.0, 30.0, 20.0, 50.0, 4.0)), 1),
)  # fmt: skip
