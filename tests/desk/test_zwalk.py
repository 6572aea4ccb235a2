from support.windows import *
from support.modulated import modulated_job, typed, WAVES


def test_walk(hands):
    job = typed(
        modulated_job(rounds=1, f=(7.1e6, 14.2e6)),
        {"carrier": 100.0, "two-tone 200 Hz": 92.5, "dots 20 Hz": 98.0, "dots 1 Hz": 79.0},
    )
    hands.shell.session.logbook.add_job(job)
    hands.shell.open_job(job.id)
    hands.shell.resize(1280, 800)
    hands.press(f"alt+6")
    hands.settle(1.0)
    hands.shell.grab().save(f"/tmp/w6.png")
    step = hands.shell.bench.step
    print([b.text() for b in [] and step.findChildren(__import__("PySide6.QtWidgets").QtWidgets.QPushButton)])
    for b in [] and step.findChildren(__import__("PySide6.QtWidgets").QtWidgets.QPushButton):
        if "show" in b.text():
            b.click()
            hands.settle(0.3)
            print(b.text())
    for b in [] and step.findChildren(__import__("PySide6.QtWidgets").QtWidgets.QPushButton):
        if "show" in b.text():
            b.click()
            hands.settle(0.3)
            print(b.text())
    hands.shell.grab().save(f"/tmp/w7.png")
    hands.press("ctrl+n")
    hands.settle(1.0)
    hands.shell.grab().save(f"/tmp/w1.png")
