"""The run sheet for those who write by hand: what to set, what to read, room for it; as a page and as a form in CSV.

A filled form comes back by its columns "point", "round" and "phase"; cells that stay empty are not read. Times are
unknown then, and that is said wherever it matters.
"""

import csv
import io
import math
import re
from collections.abc import Iterator, Mapping, Sequence
from itertools import islice

from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.schedule import Stint, schedule
from fenmist.calibration.sent import level_said
from fenmist.errors import FileFormatError, UnknownIdError
from fenmist.findings.note import Note, Severity
from fenmist.frozen import dataclass
from fenmist.procedures.page import Cell
from fenmist.reading.event import AS_FOUND, Slot
from fenmist.reports.linedrawing import line_svg
from fenmist.reports.resultfile import COMMA, csv_bytes
from fenmist.units.display import frequency

FIXED = ("point", "round", "phase", "frequency", "level", "range", "key down", "rest first")
MOST_ROWS = 20_000


@dataclass(frozen=True)
class SheetRow:
    """One round: what to set, and how many readings to write."""

    point: str
    round: int
    frequency: str
    level: str
    range: str
    key_down: str
    rest: str
    hookup: str
    cells: int


@dataclass(frozen=True)
class RunSheet:
    """Content of the page; texts ready to be set."""

    title: str
    device: str
    where: str
    date: str
    readings: tuple[str, ...]  # headings: which instrument, in which unit
    rows: tuple[SheetRow, ...]
    total: str
    cautions: tuple[str, ...]
    order: tuple[str, ...]  # what is done one after the other, where reading isn't all
    drawing: str  # SVG of the hook-up
    demo: bool


def run_sheet(job: Job, notes: tuple[Note, ...], date: str, order: tuple[str, ...] = ()) -> RunSheet:
    """The sheet of a job's plan; raises UnknownIdError where nothing is planned, or all of it left out."""
    laid_out = schedule(job)
    wanted = {point.id for point in job.to_read}
    stints = [item for item in laid_out.stints if item.point.id in wanted]
    if not stints:
        raise UnknownIdError(
            "Nothing is planned to be read: there is nothing to write on.",
            "Add a frequency and a level, or take away why a point is left out.",
        )
    return RunSheet(
        job.title, " ".join(text for text in (job.dut_part.label, job.dut_part.serial) if text), job.place, date,
        headings(job), tuple(_row(job, item) for item in stints),
        f"About {minutes(laid_out.carrier_s)} of carrier, {minutes(laid_out.rest_s)} of rest, "
        f"{minutes(laid_out.total_s)} in all.",
        cautions_of(notes), order, line_svg(job, job.bench), job.demo,
    )  # fmt: skip


def cautions_of(notes: Sequence[Note]) -> tuple[str, ...]:
    """What has to stand on paper beside a bench: what may hurt."""
    stops = [f"Stop: {note.what} {note.remedy}" for note in notes if note.severity is Severity.STOP]
    return (*stops, *(f"{note.what} {note.remedy}" for note in notes if note.code.startswith("caution.")))


def headings(job: Job) -> tuple[str, ...]:
    """A column for each reading of the longest round: instrument and unit."""
    longest = max((point.sequence for point in job.to_read), key=len, default=())
    found = []
    for number, channel in enumerate(longest, start=1):
        found.append(f"{number}. {job.part_read(channel).label}, {job.indicator(channel).unit}")
    return tuple(found)


def _row(job: Job, stint: Stint) -> SheetRow:
    point = stint.point
    return SheetRow(
        point.id, stint.round, frequency(point.frequency_hz), level_said(point), point.range_id,
        f"{stint.key_down_s:.0f} s", f"{minutes(stint.rest_s)}" if stint.rest_s >= 1.0 else "",
        job.hookup(point.hookup).label, len(point.sequence),
    )  # fmt: skip


def minutes(seconds: float) -> str:
    """A duration as it is said."""
    if math.isinf(seconds):
        return "no limit"
    if seconds < 90.0:
        return f"{seconds:.0f} s"
    return f"{seconds / 60.0:.0f} min" if seconds < 5400.0 else f"{seconds / 3600.0:.1f} h"


def form_csv(job: Job, phase: str = AS_FOUND, kind: str = COMMA) -> bytes:
    """The same as a form to fill in: what stands already is filled in."""
    wanted = {point.id for point in job.to_read}
    rows: list[list[Cell]] = [[*FIXED, *headings(job)]]
    for stint in schedule(job).stints:
        if stint.point.id not in wanted:
            continue
        row = _row(job, stint)
        slots = (Slot(stint.point.id, stint.round, place, phase) for place in range(row.cells))
        typed = [_typed(job, slot) for slot in slots]
        fixed = (row.point, str(row.round), phase, row.frequency, row.level, row.range, row.key_down, row.rest)
        rows.append([cell.replace("\u202f", " ").replace("\u2009", " ") for cell in (*fixed, *typed)])
    return csv_bytes(rows, kind)


def _typed(job: Job, slot: Slot) -> str:
    event = job.standing.get(slot)
    return event.entry.raw_text if event is not None and event.entry is not None else ""


@dataclass(frozen=True)
class Written:
    """One reading as it stands on a form."""

    slot: Slot
    text: str
    line: int


def read_form(job: Job, data: bytes, name: str) -> tuple[Written, ...]:
    """Readings of a filled form, in its order.

    Raises
    ------
    FileFormatError
        With name, line and what to do: not this job's form, a point or a round that isn't planned.
    """
    text = data.decode("utf-8-sig", "replace")
    if "\0" in text:
        raise FileFormatError(f"{name} is no text.", "Save the form as CSV.")
    first = text.splitlines()[0] if text.strip() else ""
    separator = max(",;\t", key=first.count)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=separator)
    try:
        rows = list(islice(reader, MOST_ROWS + 1))
    except csv.Error as error:
        raise FileFormatError(f"{name}, line {reader.line_num}: {error}.", "Write the form anew.") from error
    if not rows or [cell.strip().lower() for cell in rows[0][:3]] != list(FIXED[:3]):
        raise FileFormatError(
            f"{name}, line 1: the columns “point”, “round” and “phase” don't stand first.",
            "Fill in the form that was written for this job.",
        )
    points = {point.id: point for point in job.to_read}
    return tuple(item for line, row in enumerate(rows[1:], start=2) for item in _written(job, points, row, line, name))


def _written(job: Job, points: Mapping[str, PlanPoint], row: list[str], line: int, name: str) -> Iterator[Written]:
    texts = [cell.strip().lstrip("'") for cell in row[len(FIXED) :]]
    if not any(texts):
        return
    point = points.get(row[0].strip())
    if point is None:
        raise FileFormatError(f"{name}, line {line}: the plan has no point “{row[0]}”.", "Write the form anew.")
    number = int(row[1]) if re.fullmatch(r"\s*[0-9]{1,6}\s*", row[1]) else 0
    if not 1 <= number <= max(point.repeats, 1):
        raise FileFormatError(f"{name}, line {line}: there is no round “{row[1]}”.", f"It has {point.repeats}.")
    phases = {item.kind for item in job.phases}
    if row[2].strip() not in phases:
        raise FileFormatError(f"{name}, line {line}: there is no phase “{row[2]}”.", f"It has {', '.join(phases)}.")
    if any(texts[len(point.sequence) :]):
        raise FileFormatError(
            f"{name}, line {line}: more readings than the {len(point.sequence)} of a round.", "Look at the columns."
        )
    for place, text in enumerate(texts[: len(point.sequence)]):
        if text:
            yield Written(Slot(point.id, number, place, row[2].strip()), text, line)
