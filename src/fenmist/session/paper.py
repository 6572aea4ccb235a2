"""Paper of a job: the certificate as it stands, issued for good, and written to files."""

import hashlib
import re
from dataclasses import replace
from datetime import datetime
from pathlib import Path

import msgspec

from fenmist.errors import OutOfRangeError
from fenmist.files.whole import with_ending, write_whole
from fenmist.frozen import dataclass
from fenmist.records.codec import record_hash
from fenmist.records.store import Issued
from fenmist.reports.certificate import Certificate, certificate
from fenmist.session.session import Session
from fenmist.session.view import View
from fenmist.units.moment import day_of


def certificate_of(view: View) -> Certificate:
    """Content of the page for a job as it stands: a draft, until it is issued."""
    whole = view.whole
    return certificate(view.procedure, whole.seen, whole.notes, record_hash(view.job))


def write_certificate(view: View, path: Path, paper: str = "a4") -> Path:
    """Write the draft as PDF/A; raises ReportError, naming the file."""
    from fenmist.reports.paper import certificate_pdf  # typesetting is imported on first use

    return write_whole(with_ending(path, ".pdf"), lambda: certificate_pdf(certificate_of(view), paper))


# issued for good


@dataclass(frozen=True, eq=False)
class IssueRequest:
    """What is to be issued; setting it is long work."""

    content: Certificate
    issued: Issued
    paper: str

    def __call__(self) -> bytes:
        """Set the pages."""
        from fenmist.reports.paper import certificate_pdf  # typesetting is imported on first use

        return certificate_pdf(self.content, self.paper)


def to_issue(session: Session, view: View, reason: str = "") -> IssueRequest:
    """The next certificate of a job: its first, or a revision that supersedes the latest and says why.

    Raises
    ------
    OutOfRangeError
        Where nothing was read, where nothing changed since the latest, or a revision gives no reason.
    """
    if view.result.says_nothing and view.found.says_nothing:
        raise OutOfRangeError("There is nothing to certify: no point has been read.", "Read a point first.")
    earlier = session.issued(view.job.id)
    record = record_hash(view.job)
    if earlier and earlier[-1].record_sha256 == record:
        raise OutOfRangeError(
            f"Nothing changed since {earlier[-1].name} was issued.", "Save that one again, or change the job first."
        )
    if earlier and not reason.strip():
        raise OutOfRangeError(
            f"A revision supersedes {earlier[-1].name}.", "Type why it is issued again; that stands on the page."
        )
    number = earlier[-1].number if earlier else next_number(session, view.as_of)
    issued = Issued(
        number, earlier[-1].revision + 1 if earlier else 1, view.job.id, earlier[-1].revision if earlier else None,
        reason.strip(), view.as_of, record, "",
    )  # fmt: skip
    latest = earlier[-1] if earlier else None
    said = f"Supersedes {latest.name} of {day_of(latest.issued_at)}: {reason.strip()}" if latest else ""
    content = replace(certificate_of(view), number=issued.name, date=day_of(view.as_of), supersedes=said)
    return IssueRequest(content, issued, session.setting("paper"))


def issue(session: Session, request: IssueRequest, pdf: bytes) -> Issued:
    """Keep what was set for good; returns it. Raises RecordError."""
    done = replace(request.issued, pdf_sha256=hashlib.sha256(pdf).hexdigest())
    content = msgspec.json.encode(msgspec.to_builtins(request.content), order="deterministic").decode()
    session.logbook.issue(done, content, pdf)
    session.changed.tell()
    return done


def next_number(session: Session, as_of: datetime) -> str:
    """The next free number: what the workshop numbers by ("{year}-" unless said), and a counter from 001 on."""
    pattern = session.setting("numbering") or "{year}-"
    prefix = pattern.replace("{year}", f"{as_of:%y}")
    counter = re.compile(re.escape(prefix) + r"([0-9]{1,9})")
    counters = [int(match[1]) for item in session.issued() if (match := counter.fullmatch(item.number))]
    return f"{prefix}{max(counters, default=0) + 1:03d}"


def save_issued(session: Session, issued: Issued, path: Path) -> Path:
    """Write an issued certificate to a file, byte for byte as it was issued."""
    return write_whole(with_ending(path, ".pdf"), lambda: session.logbook.issued_pdf(issued.number, issued.revision))
