"""Where a file of a job goes unless another place is typed."""

import re
from pathlib import Path

from fenmist.calibration.job import Job
from fenmist.units.moment import day_of


def suggested_path(job: Job, suffix: str = ".pdf") -> Path:
    """Where a file goes unless another place is typed: the home folder, named after the device and the job."""
    name = re.sub(r"[^\w.-]+", "-", f"{job.dut_part.label} {day_of(job.created_at)}").strip("-")
    return Path.home() / f"{name}{suffix}"
