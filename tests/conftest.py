"""What every test stands on: folders of its own, no screen, warnings of Qt as failures."""

import fcntl
import os
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

import fenmist as _as_users_start_it  # noqa: F401  before NumPy, which it sets up

sys.path[:0] = [str(Path(__file__).parent), str(Path(__file__).parents[1])]  # support, studies
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
# the drawing library's font list is made once a run, not once a test
os.environ.setdefault("MPLCONFIGDIR", str(Path(os.environ.get("TMPDIR", "/tmp")) / f"fenmist-mpl-{os.getuid()}"))


def pytest_configure(config: pytest.Config) -> None:
    """Examples: the short form draws the same ones each time, `--long` others. A machine may stand still meanwhile."""
    settings.register_profile(
        "fenmist", deadline=None, suppress_health_check=[HealthCheck.too_slow],
        derandomize=config.option.markexpr.startswith("not long"),
    )  # fmt: skip
    settings.load_profile("fenmist")


@pytest.fixture(autouse=True)
def own_folders(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Data, settings and home folders are the test's own."""
    for name in ("XDG_DATA_HOME", "XDG_CONFIG_HOME", "XDG_CACHE_HOME", "XDG_STATE_HOME"):
        monkeypatch.setenv(name, str(tmp_path / name.lower()))
    monkeypatch.setenv("HOME", str(tmp_path / "home"))
    (tmp_path / "home").mkdir()


@pytest.fixture(scope="session")
def demo_file(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demonstration's logbook, made once for all test processes of a run: to be copied, never written to."""
    from fenmist.demo.world import make_demo

    folder = tmp_path_factory.getbasetemp()
    if "PYTEST_XDIST_WORKER" in os.environ:
        folder = folder.parent
    path = folder / "demonstration" / "demo.fenlog"
    path.parent.mkdir(exist_ok=True)
    with (folder / "demonstration.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not path.exists():
            make_demo(path)
    return path


@pytest.fixture
def qt() -> Iterator["object"]:
    """The one application, with Qt's own warnings as failures."""
    from PySide6.QtCore import QtMsgType, qInstallMessageHandler
    from PySide6.QtWidgets import QApplication

    said: list[str] = []

    def handler(kind: QtMsgType, _context: object, text: str) -> None:
        if kind is not QtMsgType.QtDebugMsg and not text.startswith("This plugin does not support"):
            said.append(text)

    qInstallMessageHandler(handler)
    # exceptions in slots end here: a test must not pass over them
    sys.excepthook = lambda kind, error, _trace: said.append(f"{kind.__name__}: {error}")
    application = QApplication.instance() or QApplication([])
    from fenmist.desk.theme import load_fonts

    load_fonts()
    yield application
    qInstallMessageHandler(None)
    sys.excepthook = sys.__excepthook__
    assert said == []
