"""Sheets that are set as they are: pictures of their pages for the printer, files for those who keep them."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from fenmist.files.whole import with_ending, write_whole

if TYPE_CHECKING:
    from fenmist.reports.paper import Sheet


def sheet_pages(sheet: "Sheet", paper: str) -> Callable[[float], tuple[bytes, ...]]:
    """Makes pictures of its pages at so many dots an inch; long work."""

    def pages(dots_per_inch: float) -> tuple[bytes, ...]:
        from fenmist.reports.paper import sheet_pages  # typesetting is imported on first use

        return sheet_pages(sheet, paper, dots_per_inch)

    return pages


def sheet_pdf(sheet: "Sheet", paper: str) -> bytes:
    """As PDF/A; raises ReportError."""
    from fenmist.reports.paper import sheet_pdf  # typesetting is imported on first use

    return sheet_pdf(sheet, paper)


def write_sheet(sheet: "Sheet", path: Path, paper: str) -> Path:
    """As PDF/A to a file; raises ReportError, naming it."""
    return write_whole(with_ending(path, ".pdf"), lambda: sheet_pdf(sheet, paper))
