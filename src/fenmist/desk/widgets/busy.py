"""What is being worked on, once it takes longer than a blink: a moving bar, and a way to stop it."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QShortcut
from PySide6.QtWidgets import QHBoxLayout, QProgressBar, QWidget

from fenmist.desk.runner import JobRunner
from fenmist.desk.theme import px
from fenmist.desk.widgets.labels import button, label


class Busy(QWidget):
    """Shows itself while a runner is late; Esc or its button stops the work."""

    def __init__(self, runner: JobRunner, what: str) -> None:
        super().__init__()
        bar = QProgressBar()
        bar.setRange(0, 0)  # how long it takes isn't known
        bar.setTextVisible(False)
        bar.setFixedSize(px(120), px(4))
        bar.setAccessibleName(f"{what}, under way")
        self.cancel = button("Cancel", "link", f"stop {what}")
        self.cancel.clicked.connect(runner.cancel)
        stop = QShortcut(Qt.Key.Key_Escape, self)
        stop.activated.connect(runner.cancel)
        stop.activatedAmbiguously.connect(runner.cancel)  # of several that are late, one after the other
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(10)
        row.addWidget(bar)
        row.addWidget(label("Esc cancels", "second"))
        row.addWidget(self.cancel)
        row.addStretch(1)
        self.hide()
        stop.setEnabled(False)
        runner.late.connect(self.setVisible)
        runner.late.connect(stop.setEnabled)
