"""Windows over a fresh logbook, and over the demonstration."""

import shutil
from collections.abc import Iterator

import pytest


@pytest.fixture
def hands(qt, tmp_path) -> Iterator[object]:
    """A window over an empty logbook."""
    from support.desk import Hands

    made = Hands(qt, tmp_path / "book.fenlog")
    yield made
    made.close()


@pytest.fixture
def demo(qt, tmp_path, demo_file) -> Iterator[object]:
    """A window over the demonstration."""
    from support.desk import Hands

    path = tmp_path / "demo.fenlog"
    shutil.copy(demo_file, path)
    made = Hands(qt, path)
    yield made
    made.close()


@pytest.fixture
def run(demo) -> object:
    """The empty job of the demonstration at its first reading: 2.182 MHz, 10 W, a scope and a Teal 20."""
    demo.shell.open_job("demo-teal")
    demo.press("alt+5")
    return demo
