"""The pictures in docs/screenshots are what the program shows: as a reader of the README sees it."""

import shutil

import numpy as np
from PySide6.QtGui import QImage

from scripts.screenshots import HOME, TARGET, demonstration, still

OTHERWISE, MOST = 8, 100
"""Of 255, from which a dot of the screen looks otherwise; so many may, as another machine rounds otherwise."""


def dots(image):
    """Its dots, of shape (height, width, 3)."""
    plain = image.convertToFormat(QImage.Format.Format_RGB888)
    rows = np.frombuffer(plain.constBits(), np.uint8).reshape(plain.height(), plain.bytesPerLine())
    return rows[:, : 3 * plain.width()].reshape(plain.height(), plain.width(), 3).astype(int)


def test_pictures_are_what_the_window_shows(qt, tmp_path, demo_file, monkeypatch):
    """Where this fails it looks otherwise: look at it, and take them anew by `python scripts/screenshots.py`."""
    monkeypatch.setenv("HOME", HOME)
    shutil.copytree(demo_file.parent, tmp_path / "demo")
    seen = {}
    with demonstration(qt, tmp_path / "demo") as shell:
        for name in still(qt, shell):
            now, then = dots(shell.grab().toImage()), dots(QImage(str(TARGET / f"{name}.png")))
            seen[name] = int(np.sum(np.max(np.abs(now - then), axis=2) > OTHERWISE))

    assert {name: count for name, count in seen.items() if count > MOST} == {}
    assert len(seen) > 15
