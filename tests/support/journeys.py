"""What journeys have in common: beginning a job, what the headline says, the certificate's text."""

import pypdf
from PySide6.QtWidgets import QComboBox


def spaced(text: str) -> str:
    return text.replace("\u202f", " ").replace("\u2009", " ").replace("\u00a0", " ")


def begin(hands, question: str, of: str, bench: str, planned: str, power: str = "") -> None:
    """Ctrl+N, what is asked, of what, at which frequencies and power, the bench."""
    hands.press("ctrl+n")
    page = hands.shell.places["begin"]
    asked, device_box = page.findChildren(QComboBox)[:2]
    hands.pick(asked, question)
    hands.pick(device_box, of)
    if power:
        page.level.setFocus()
        hands.press("ctrl+a")
        hands.type(power)
    page.rounds.setFocus()
    hands.press("ctrl+a")
    hands.type("1")
    hands.choose_bench(bench, planned)
    hands.settle(0.2)


def headline(hands) -> str:
    return spaced(hands.shell.bench.step.headline.text())


def paper(hands, tmp_path) -> str:
    hands.press("alt+8", "enter")
    step = hands.shell.bench.step
    hands.until(lambda: step.said.text().startswith("Issued:"))
    step.save.wait()
    session = hands.shell.session
    (issued,) = session.logbook.issued()
    pdf = tmp_path / "page.pdf"
    pdf.write_bytes(session.logbook.issued_pdf(issued.number, issued.revision))
    return " ".join(spaced(" ".join(page.extract_text() for page in pypdf.PdfReader(pdf).pages)).split())


def to_tool(hands, title: str):
    """Ctrl+Tab from tool to tool until one stands in front."""
    hands.press("ctrl+2")
    for _ in range(len(hands.shell.tools.names)):
        if hands.shell.tools.tool.title == title:
            return hands.shell.tools.tool
        hands.press("ctrl+tab")
    raise AssertionError(f"no tool {title}")
