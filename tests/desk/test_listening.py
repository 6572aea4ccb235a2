"""Views end their listening when they go: nothing is left of a job's pages, and nothing told reaches what is gone."""

import gc
from collections import Counter

from PySide6.QtCore import QCoreApplication, QEvent
from PySide6.QtWidgets import QApplication

from fenmist.desk.listening import listen_while_alive
from fenmist.session.listeners import Listeners

STEPS = [f"alt+{number}" for number in range(1, 8)]
PLACES = ["ctrl+2", "ctrl+3", "ctrl+4", "f9"]


def _settle() -> Counter[str]:
    """Let what was taken away go; what kinds of widgets are left."""
    QApplication.processEvents()
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
    gc.collect()
    return Counter(type(widget).__name__ for widget in QApplication.allWidgets())


def _walk(hands) -> Counter[str]:
    hands.shell.open_job("demo-teal")
    hands.shell.open_job("demo-bittern")
    for step in STEPS:
        hands.press(step)
        hands.settle(0.12)  # drawings follow after a rest
    hands.press(*PLACES)
    return _settle()


def test_jobs_opened_one_after_the_other_leave_nothing_behind(demo):
    """What changes afterwards reaches only what is there: the fixture fails on anything raised in a slot."""
    once = _walk(demo)
    assert _walk(demo) - once == Counter()

    demo.press("ctrl+t", "ctrl+t", "f7", "f7")
    assert demo.shell.isVisible()
    assert _settle()
    demo.shell.open_job("demo-teal")
    demo.press("alt+5")
    demo.read("63.4")
    assert len(demo.shell.bench.job.job.ledger.standing) == 1


def test_a_view_is_told_until_it_goes(qt):
    from PySide6.QtCore import QObject

    told, notices, view = [], Listeners(), QObject()
    listen_while_alive(view, notices, lambda: told.append(1))
    notices.tell()
    view.deleteLater()
    _settle()
    notices.tell()

    assert told == [1]
