"""A design's sheet: made of the design in hand, written as PDF or as the circuit's drawing."""

from pathlib import Path

from fenmist.files.whole import write_whole
from fenmist.reports.designsheet import DesignSheet
from fenmist.reports.pictures import picture_svg
from fenmist.session.circuits import circuit_of
from fenmist.session.designer import Designer
from fenmist.session.designing import (
    STRAIN_HEADINGS,
    Worked,
    headline,
    proof_said,
    rows,
    sensitivity_said,
    strain_rows,
    sweep_of,
)
from fenmist.session.sheets import write_sheet
from fenmist.units.display import frequency, plain

STATEMENTS = (
    "Calculated from what was typed; what is built is only known once it was measured. Pieces are taken as lumped.",
    "Carrier off before anything is touched. RF burns; resistors stay hot. Licence and local rules say what is sent.",
)


def sheet_of(designer: Designer, made: Worked, name: str, date: str, demo: bool) -> DesignSheet:
    """The page's content for a design as it stands."""
    design, proof = made.design, designer.proof(made.design)
    ask = design.ask
    asked = (
        ("Power", f"{plain(ask.power_w, 'W')} on the line, {plain(ask.keydown_s, 's')} at a time"),
        ("Band", f"{frequency(ask.low_hz)} to {frequency(ask.high_hz)}"),
    )
    return DesignSheet(
        title=name.strip() or str(design.shape).capitalize(), date=date, demo=demo, headline=headline(made),
        circuit=circuit_of(design), response=sweep_of(design, proof), facts=(*asked, *rows(made)),
        strain_headings=STRAIN_HEADINGS, strains=strain_rows(made), sensitivity=sensitivity_said(design),
        proof=proof_said(proof) if proof is not None else "",
        notes=tuple((str(note.severity), note.what, note.why, note.remedy) for note in made.notes),
        statements=STATEMENTS,
    )  # fmt: skip


def write_design(sheet: DesignSheet, path: Path, paper: str) -> Path:
    """As PDF/A, or the circuit alone as SVG, by the ending; raises ReportError, naming the file."""
    if path.suffix.lower() == ".svg":
        return write_whole(path, lambda: picture_svg(sheet.circuit).encode())
    return write_sheet(sheet, path, paper)
