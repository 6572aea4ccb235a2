"""All that can be typed in the forms, typed awkwardly: the part or job is refused in words, or can be worked out."""

from collections.abc import Iterator

from fenmist.calibration.edit import PLAN_HEADINGS, load_rows, load_with_rows, plan_with_cell, with_load_rows
from fenmist.calibration.job import Job
from fenmist.errors import FenmistError
from fenmist.kit.draft import draft_from_part, fields_for, part_from_draft
from fenmist.kit.part import Part
from fenmist.procedures.comparison.asked import job_draft, job_from_draft

TEXTS = (
    "0", "0 %", "-1", "1e-24", "1e15", "1e15 %", "1e-20 %", "100 %", "200 %", "1e9", "1e-9", "", "abc", "0 dB", "50 dB",
    "1000 dB", "-50", "99999", "0 W", "1e-15 W", "1e13 W", "0 Hz", "0 V", "1e15 V", "0 m", "1e9 m", "0 Ω", "1e-12 Ω",
    "1e15 Ω", "1 nm", "0.001", "unknown", "0 0", "0 20", "1 1 1", "1e-24 to 1e9 MHz", "10 to 10 MHz", "0 digits",
    "1e6 digits", "1e15 dBc", "-1e3 dBc", "0 dBc", "2026-02-30", "0001-01-01", "9999-12-31", "²", "1" * 150, "😀",
    "\u0000", "\ud800", "0e999", "4412 dBm", "5e-324", "1e160 V", "1e9" + "9" * 4990,
)  # fmt: skip
IMPEDANCES = (
    "1e-12 @ 89", "1e15 @ -89.9999999", "1e-24+j1e15", "|1e15|", "|50| swr 1e15", "|50| swr 1", "|1e-12| swr 1e9",
    "50 @ 90", "|57.7| swr 1.2", "50+j1e308", "1e9",
)  # fmt: skip
CHOICES = ("rule", "order", "stated", "heat", "interval", "part_of_division", "of")


def typed_jobs(job: Job) -> Iterator[tuple[str, Job]]:
    """The job with each field of each part, of itself and of its plan typed awkwardly, where that is taken."""
    used = {element.part for hookup in job.hookups for element in hookup.elements}
    for part in (item for item in job.kit if item.id in used):
        for name, made in typed_parts(part):
            yield name, job.with_part(made)
    draft = job_draft(job)
    for field in (name for name in draft if name not in CHOICES):
        for text in TEXTS:
            made_job = job_from_draft(job, {**draft, field: text})
            if not isinstance(made_job, tuple):
                yield f"job.{field} “{text[:20]}”", made_job
    for column, heading in enumerate(PLAN_HEADINGS):
        for text in TEXTS:
            try:
                yield f"plan.{heading} “{text[:20]}”", plan_with_cell(job, 0, column, text)
            except FenmistError:
                continue
    for text in (*TEXTS, *IMPEDANCES):
        for u in (0.0, 0.999):
            try:
                rows = load_with_rows(load_rows(job), [["8.291 MHz", text]])
                yield f"load “{text[:20]}”", with_load_rows(job, rows, u, "2026-11-25")
            except FenmistError:
                continue


def typed_parts(part: Part) -> Iterator[tuple[str, Part]]:
    """A part with each of its fields typed awkwardly, where that is taken."""
    draft = draft_from_part(part)
    for field in fields_for(part.kind):
        for text in field.choices or TEXTS:
            made = part_from_draft(part, {**draft, field.id: text})
            if isinstance(made, Part):
                yield f"{part.kind}.{field.id} “{text[:20]}”", made
