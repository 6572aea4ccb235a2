"""Run by a test under a real X server: the whole job in a real window, then a picture's worth of facts."""

import sys
from pathlib import Path

from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from fenmist.desk.theme import load_fonts
from support.desk import Hands
from support.whole_job import whole_job


def main(folder: Path) -> None:
    """Do the job; print the platform and how many points came out."""
    application = QApplication([])
    load_fonts()
    hands = Hands(application, folder / "book.fenlog")
    assert QTest.qWaitForWindowExposed(hands.shell)
    hands.shell.windowHandle().requestActivate()
    hands.until(lambda: QApplication.focusWidget() is not None)
    whole_job(hands, folder / "page.pdf")
    points = len(hands.shell.bench.job.view.result.points)
    hands.shell.grab().save(str(folder / "window.png"))
    hands.close()
    print(application.platformName(), points)


if __name__ == "__main__":
    main(Path(sys.argv[1]))
