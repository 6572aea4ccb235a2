"""Takes the pictures in docs/screenshots from the demonstration, offscreen at 1280x800."""

import os
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from itertools import chain
from pathlib import Path
from typing import cast

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QSettings, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel, QWidget

from fenmist.demo.designs import MOORHEN_NAME
from fenmist.demo.world import make_demo
from fenmist.design.proof import ANALYSERS
from fenmist.desk.places.begin import BeginPage
from fenmist.desk.places.instruments import InstrumentsPlace
from fenmist.desk.places.tools import Tool
from fenmist.desk.shell import Shell
from fenmist.desk.stepnumbers import ADJUST, READINGS, RESULTS
from fenmist.desk.steps.adjust import WHY, AdjustStep
from fenmist.desk.steps.certificate import CertificateStep
from fenmist.desk.steps.results import PICTURE, ResultsStep
from fenmist.desk.theme import ThemeHolder, load_fonts
from fenmist.desk.tools.aid import AidTool
from fenmist.desk.tools.designer import DesignerTool
from fenmist.desk.tools.speech import SpeechTool
from fenmist.procedures.page import AXIS_TITLES
from fenmist.session.session import Session

TYPED = "63.4 10.5 63.3 10.25 88.0 19.5 88.2 19.5 64.2 10.25 64.1 10.25 88.9"
"""Typed into the job to try, before its picture is taken."""

HOME = "/home/technician"
TAKEN_AT = datetime(2026, 11, 30, 9, 0, tzinfo=UTC)

TARGET = Path(__file__).parent.parent / "docs" / "screenshots"


PAINTED_S = 0.4
"""From where nothing follows any more until all of it is laid out and painted."""


def wait(application: QApplication, seconds: float) -> None:
    """Let the window settle, for at least so long, and until what follows a key has followed."""
    end = time.monotonic() + seconds
    while True:
        if any(map(_is_behind, application.topLevelWidgets())):
            end = max(end, time.monotonic() + PAINTED_S)
        if time.monotonic() >= end:
            return
        application.processEvents()  # may take longer than all that is waited for
        time.sleep(0.01)


def _is_behind(window: QWidget) -> bool:
    return isinstance(window, Shell) and window.bench is not None and window.bench.is_behind


def until(application: QApplication, condition: Callable[[], bool]) -> None:
    """Wait for something to become true."""
    end = time.monotonic() + 60.0
    while not condition() and time.monotonic() < end:
        wait(application, 0.05)


def focus() -> QWidget:
    """Where the keyboard is."""
    widget = QApplication.focusWidget()
    if widget is None:
        raise SystemExit("nothing has the keyboard")
    return widget


def type_text(text: str, keep: bool = True) -> None:
    """Type where the keyboard is, and keep it with Enter."""
    for letter in text:
        QTest.keyClicks(focus(), letter)
    if keep:
        QTest.keyClick(focus(), Qt.Key.Key_Enter)


@contextmanager
def demonstration(application: QApplication, folder: Path) -> Iterator[Shell]:
    """The window over the demonstration, on the day of the pictures."""
    application.setCursorFlashTime(0)
    path = folder / "demo.fenlog"
    if not path.exists():
        make_demo(path)
    session = Session(path, lambda: TAKEN_AT)
    settings = QSettings(str(path.with_suffix(".ini")), QSettings.Format.IniFormat)
    shell = Shell(session, ThemeHolder(application), settings)
    shell.resize(1280, 800)
    shell.show()
    yield shell
    shell.close()
    session.close()


def still(application: QApplication, shell: Shell) -> Iterator[str]:
    """One view after the other: its name once it stands in the window. `tests/desk/test_screenshots.py` holds these."""
    shell.go("logbook")
    shell.logbook.table.setCurrentCell(0, 0)
    yield _settled(application, "logbook")
    shell.open_job("demo-bittern")
    wait(application, 1.5)  # the drawing library is imported when the first chart is shown
    shell.go_step(1)
    yield _settled(application, "hookup")
    shell.go_step(RESULTS)
    results = shell.bench.step if shell.bench else None
    if isinstance(results, ResultsStep):
        results.table.setCurrentCell(11, 0)
        results.bars.setFocus()
        QTest.keyClick(results.bars, Qt.Key.Key_Left)
    yield _settled(application, "results")
    shell.go_step(ADJUST)
    yield _settled(application, "adjust")
    shell.open_job("demo-whimbrel")
    _agreement(shell)
    yield _settled(application, "agreement")
    shell.open_job("demo-redshank")
    _why(shell)
    yield _settled(application, "why", 1.0)
    shell.open_job("demo-sanderling")
    shell.go_step(RESULTS)
    yield _settled(application, "constants", 1.0)
    shell.open_job("demo-phalarope")
    _agreement(shell, 2)
    yield _settled(application, "ring")
    shell.open_job("demo-shoveler")
    _agreement(shell)
    yield _settled(application, "loss")
    _begin(application, shell)
    yield _settled(application, "begin", 1.0)
    shell.open_job("demo-godwit")
    shell.go_step(3)
    yield _settled(application, "plan")
    _designer(application, shell, shell.session.logbook.path.parent / "captures to try" / MOORHEN_NAME)
    yield _settled(application, "designer", 1.0)
    _triage(shell)
    yield _settled(application, "triage", 1.0)
    _radiated(shell)
    yield _settled(application, "radiated", 1.0)
    shell.go("kit")
    shell.kit.table.setCurrentCell(1, 0)
    yield _settled(application, "kit")
    shell.open_job("demo-teal")
    shell.go_step(READINGS)
    for text in TYPED.split():
        type_text(text)
    type_text("19.25", keep=False)
    yield _settled(application, "readings")


def moving(application: QApplication, shell: Shell) -> Iterator[str]:
    """The same of what looks otherwise each time: a record's hash, what runs."""
    shell.open_job("demo-bittern")
    shell.go_step(ADJUST + 1)
    certificate = shell.bench.step if shell.bench else None
    if isinstance(certificate, CertificateStep):
        certificate.save.path.setText("/home/technician/Bittern-200-2026-11-23.pdf")
    until(application, lambda: bool(shell.findChildren(QLabel, "page")))
    yield _settled(application, "certificate")
    shell.open_job("demo-knot")
    _by_wire(application, shell)
    yield _settled(application, "instruments")
    shell.wiring.stop_run()
    shell.wiring.stop_bench()
    _speech(application, shell)
    yield _settled(application, "speech", 2.5)


def _settled(application: QApplication, name: str, seconds: float = 0.5) -> str:
    wait(application, seconds)
    return name


def main() -> None:
    """Take them all."""
    os.environ["HOME"] = HOME
    application = QApplication([])
    load_fonts()
    with tempfile.TemporaryDirectory() as folder, demonstration(application, Path(folder)) as shell:
        for name in chain(still(application, shell), moving(application, shell)):
            shell.grab().save(str(TARGET / f"{name}.png"))


def _why(shell: Shell) -> None:
    """The step “adjust” with what the errors may come from in front."""
    shell.go_step(ADJUST)
    adjust = shell.bench.step if shell.bench else None
    if isinstance(adjust, AdjustStep):
        adjust.show_panel(WHY)


def _agreement(shell: Shell, row: int = 0) -> None:
    """What is drawn of the chosen point: its references against each other, its rounds."""
    shell.go_step(RESULTS)
    results = shell.bench.step if shell.bench else None
    if isinstance(results, ResultsStep):
        results.table.setCurrentCell(row, 0)
        for _ in range(len(AXIS_TITLES) + 1):
            if results.over != PICTURE:
                results.turn_chart()


def _begin(application: QApplication, shell: Shell) -> None:
    """What the workshop's shelf can decide of its first meter."""
    shell.new_job()
    page = shell.places["begin"]
    if isinstance(page, BeginPage):
        until(application, lambda: not page.is_looking)


def _by_wire(application: QApplication, shell: Shell) -> None:
    """In the middle of a run by wire: the carrier on, the log of the oscilloscope's wire."""
    shell.go_step(READINGS)
    shell.actions_by_id["wire.run"].trigger()
    wires = shell.session.wires
    until(application, lambda: wires.run is not None and wires.run.done >= 2)
    shell.go("instruments")
    page = shell.places["instruments"]
    if isinstance(page, InstrumentsPlace):
        page.table.setCurrentCell(2, 0)


def _designer(application: QApplication, shell: Shell, file: Path) -> None:
    """The tap of the demonstration with what was measured over it."""
    shell.go("tools")
    tool = cast(DesignerTool, _tool(shell, "Designer"))
    tool.analyser.fill({"analyser": ANALYSERS[1].label})
    tool.designer.analyser = ANALYSERS[1]
    tool.opening.take(file)
    wait(application, 0.2)


def _tool(shell: Shell, title: str) -> Tool:
    """A tool brought to the front."""
    shell.tools.show_tool([name.text() for name in shell.tools.names].index(title))
    return shell.tools.tool


def _radiated(shell: Shell) -> None:
    """A beacon at 474 kHz whose coil lets some of its current go."""
    shell.go("tools")
    tool = cast(AidTool, _tool(shell, "Radiated power"))
    tool.form.fill({**tool.aid.example, "above": "1.6 A"})
    tool.refresh()


def _triage(shell: Shell) -> None:
    """A line with water in it: sighted into antenna, load and far end."""
    shell.open_job("demo-pintail")
    shell.go_step(RESULTS)


def _speech(application: QApplication, shell: Shell) -> None:
    """Four meters on compressed speech, beside what somebody's meter showed."""
    shell.go("tools")
    tool = cast(SpeechTool, _tool(shell, "Meters on speech"))
    tool.form.fill({"waveform": "compressed", "pep": "100 W", "shown": "40 W"})
    tool.refresh()
    until(application, lambda: tool.answer is not None and "compressed" in tool.answer.waveform.name)


if __name__ == "__main__":
    main()
