"""Paper from content: PDF/A-2b with real text, and pictures of its pages.

The bytes depend on the content only: fonts are ours alone, the time stamp is the record's date, no setting of the
machine is looked at.
"""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, replace
from datetime import UTC, datetime
from importlib import resources
from types import MappingProxyType
from typing import Any

import msgspec

from fenmist.errors import ReportError
from fenmist.procedures.page import Card
from fenmist.reports.answersheet import AnswerSheet
from fenmist.reports.certificate import Certificate
from fenmist.reports.designsheet import DesignSheet
from fenmist.reports.drawing import chart_svg
from fenmist.reports.fonts import PAPER_FAMILIES, font_folder
from fenmist.reports.pictures import picture_svg
from fenmist.reports.readingtable import ReadingTables
from fenmist.reports.runsheet import RunSheet
from fenmist.units.letters import printable

_FONTS = msgspec.json.encode(PAPER_FAMILIES).decode()

PAPERS = {"A4": "a4", "US letter": "us-letter"}
"""Paper sizes as they are called, and as they are set."""


def certificate_pdf(content: Certificate, paper: str = "a4") -> bytes:
    """The certificate as PDF/A-2b.

    Raises
    ------
    ReportError
        Where it can't be set; says why.
    """
    return bytes(_compile(content, paper, format="pdf", pdf_standards=["a-2b"]))


def certificate_pages(content: Certificate, paper: str = "a4", dots_per_inch: float = 96.0) -> tuple[bytes, ...]:
    """Pictures (PNG) of the certificate's pages."""
    made = _compile(content, paper, format="png", ppi=dots_per_inch)
    return tuple(made) if isinstance(made, list) else (made,)


def cards_pdf(cards: Sequence[Card], date: str, paper: str = "a4") -> bytes:
    """Correction cards at true size on one page; raises ReportError."""
    return _pdf("card.typ", _cards(cards), date, paper)


def cards_pages(cards: Sequence[Card], date: str, paper: str = "a4", dots_per_inch: float = 96.0) -> tuple[bytes, ...]:
    """Pictures (PNG) of that page."""
    return _pages("card.typ", _cards(cards), date, paper, dots_per_inch)


Sheet = RunSheet | DesignSheet | AnswerSheet | ReadingTables
"""Pages that are set as they are: nothing of them is issued."""


def sheet_pdf(sheet: Sheet, paper: str = "a4") -> bytes:
    """A sheet; raises ReportError."""
    return _pdf(*_sheet(sheet), sheet.date, paper)


def sheet_pages(sheet: Sheet, paper: str = "a4", dots_per_inch: float = 96.0) -> tuple[bytes, ...]:
    """Pictures (PNG) of its pages."""
    return _pages(*_sheet(sheet), sheet.date, paper, dots_per_inch)


def _sheet(sheet: Sheet) -> tuple[str, dict[str, str]]:
    """The template of a sheet, and what it takes."""
    if isinstance(sheet, RunSheet):
        return "runsheet.typ", {"content": _texts(sheet), "drawing": sheet.drawing}
    if isinstance(sheet, ReadingTables):
        return "readingtable.typ", {"content": _texts(sheet)}
    if isinstance(sheet, AnswerSheet):
        drawn = "" if sheet.picture is None else picture_svg(sheet.picture)
        alt = "" if sheet.picture is None else sheet.picture.said
        return "answer.typ", {"content": _texts(sheet, {"picture_alt": alt}), "picture": drawn}
    said = {"circuit_alt": sheet.circuit.said, "response_alt": sheet.response.said}
    return "design.typ", {
        "content": _texts(sheet, said), "circuit": picture_svg(sheet.circuit), "response": picture_svg(sheet.response),
    }  # fmt: skip


def _texts(sheet: Sheet, more: Mapping[str, str] = MappingProxyType({})) -> str:
    texts = {key: value for key, value in asdict(sheet).items() if key not in _DRAWN}
    return _json({**texts, **more})


_DRAWN = ("circuit", "response", "picture", "drawing")
"""What a sheet has as a drawing."""


def _cards(cards: Sequence[Card]) -> dict[str, str]:
    drawn = [_curve(item) for item in cards]
    texts = [asdict(replace(item, curve=None)) for item in cards]
    return {"cards": _json([{**text, "curve": svg} for text, svg in zip(texts, drawn, strict=True)])}


CARD_MARGIN_MM, CURVE_SHARE = 6.0, 0.62
"""What a card's edges take of its width, and how much of its height a curve takes."""


def _json(content: Any) -> str:
    """Content as the templates take it; what no face can print stands as its code point."""
    return msgspec.json.encode(_printable(content), order="deterministic").decode()


def _printable(content: Any) -> Any:
    if isinstance(content, str):
        return printable(content)
    if isinstance(content, dict):
        return {key: _printable(value) for key, value in content.items()}
    return [_printable(item) for item in content] if isinstance(content, list | tuple) else content


def _compile(content: Certificate, paper: str, **how: Any) -> Any:
    inputs = {
        "content": _json(_plain(content)),
        "chart": chart_svg(content.chart).decode() if content.rows else "",
    }
    return _set("certificate.typ", inputs, content.date, paper, **how)


def _pdf(template_name: str, inputs: dict[str, str], date: str, paper: str) -> bytes:
    return bytes(_set(template_name, inputs, date, paper, format="pdf", pdf_standards=["a-2b"]))


def _pages(template_name: str, inputs: dict[str, str], date: str, paper: str, dpi: float) -> tuple[bytes, ...]:
    made = _set(template_name, inputs, date, paper, format="png", ppi=dpi)
    return tuple(made) if isinstance(made, list) else (made,)


def _set(template_name: str, inputs: dict[str, str], date: str, paper: str, **how: Any) -> Any:
    import typst  # on first use

    if paper not in PAPERS.values():
        raise ReportError(f"There is no paper “{paper}” here.", f"Choose {' or '.join(PAPERS.values())}.")
    template = resources.files("fenmist.reports").joinpath(template_name).read_bytes()
    try:
        return typst.compile(
            template,
            font_paths=[str(font_folder())],
            ignore_system_fonts=True,
            sys_inputs={**inputs, "paper": paper, "fonts": _FONTS},
            timestamp=int(datetime.fromisoformat(date).replace(tzinfo=UTC).timestamp()),
            **how,
        )
    except (RuntimeError, ValueError) as error:
        raise ReportError(
            f"The page could not be set: {error}.", "This is a fault of Fenmist: please report it."
        ) from error


def _plain(content: Certificate) -> dict[str, Any]:
    levels = " and ".join(label for _, label in content.chart.groups)
    phases = f"{content.chart.phases_said}; " if content.chart.phases_said else ""
    claimed = any(point.tolerance for line in content.chart.series for point in line.points)
    corridor = ", the corridor is the tolerance (wash: lowest level, dashed: others)" if claimed else ""
    alt = f"{content.chart.value_title.capitalize()} at {levels}; {phases}bars are U{corridor}."
    hookup = dict(content.facts).get("hook-up", "")
    return {
        **asdict(content),
        "chart": None,
        "picture": picture_svg(content.picture) if content.picture else "",
        "picture_title": content.picture.title if content.picture else "",
        "picture_alt": content.picture.said if content.picture else "",
        "chart_alt": alt,
        "hookup_alt": f"The hook-up: {hookup}",
    }


def _curve(card: Card) -> str:
    if card.curve is None:
        return ""
    return chart_svg(card.curve, card.width_mm - CARD_MARGIN_MM, card.height_mm * CURVE_SHARE).decode()
