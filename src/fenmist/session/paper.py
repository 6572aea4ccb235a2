"""A job's certificate: content from the record, and the file."""

import re
from pathlib import Path

from fenmist.calibration.job import Job
from fenmist.errors import ReportError
from fenmist.records.codec import record_hash
from fenmist.reports.certificate import Certificate, certificate
from fenmist.session.openjob import View


def certificate_of(view: View) -> Certificate:
    """Content of the page for a job as it stands."""
    return certificate(view.job, view.found, view.notes, record_hash(view.job), view.left)


def suggested_path(job: Job) -> Path:
    """Where the PDF goes unless another place is typed: the home folder, named after the device and the job."""
    name = re.sub(r"[^\w.-]+", "-", f"{job.dut_part.label} {job.created_at[:10]}").strip("-")
    return Path.home() / f"{name}.pdf"


def write_certificate(view: View, path: Path) -> Path:
    """Write the certificate as PDF/A; an unfinished file never stands under the name.

    Raises
    ------
    ReportError
        Where it can't be set or the file can't be written; names the file.
    """
    from fenmist.reports.paper import certificate_pdf  # typesetting is imported on first use

    if path.suffix.lower() != ".pdf":
        raise ReportError(f"“{path}” doesn't end in .pdf.", "Type a file name such as Bittern-200.pdf.")
    data = certificate_pdf(certificate_of(view))
    part = path.with_name(path.name + ".part")
    try:
        part.write_bytes(data)
        part.replace(path)
    except OSError as error:
        raise ReportError(
            f"{path} could not be written: {error.strerror}.", "Choose a folder that exists and can be written."
        ) from error
    return path
