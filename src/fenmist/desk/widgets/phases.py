"""Which readings are in hand: as found, or as left after an adjustment."""

from PySide6.QtWidgets import QHBoxLayout, QWidget

from fenmist.desk.widgets.labels import button, set_state
from fenmist.reading.event import AS_FOUND, AS_LEFT
from fenmist.session.openjob import OpenJob


class Phases(QWidget):
    """As found and as left side by side; the second begins when the meter was adjusted."""

    def __init__(self, job: OpenJob) -> None:
        super().__init__()
        self._job = job
        self.found = button(AS_FOUND, "phase")
        self.left = button(AS_LEFT, "phase")
        for made, phase in ((self.found, AS_FOUND), (self.left, AS_LEFT)):
            made.setCheckable(True)
            made.setProperty("begun", _begun(job, phase))  # before it is styled the first time
            made.clicked.connect(lambda _=False, p=phase: self.choose(p))
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(14)
        box.addWidget(self.found)
        box.addWidget(self.left)
        box.addStretch(0)

    def choose(self, phase: str) -> None:
        """Bring a phase to hand; as left is begun where it wasn't, once something was read as found."""
        if phase == AS_LEFT and not self._job.job.is_adjusted:
            self._job.begin_as_left()
        else:
            self._job.show_phase(phase)
        self.refresh()

    def refresh(self) -> None:
        """Show which is in hand."""
        adjusted = self._job.job.is_adjusted
        self.left.setText(AS_LEFT if adjusted else "adjusted: read as left")
        self.left.setEnabled(adjusted or not self._job.view.at_once.says_nothing)
        for made, phase in ((self.found, AS_FOUND), (self.left, AS_LEFT)):
            made.setChecked(self._job.view.phase == phase)
            set_state(made, begun=_begun(self._job, phase))


def _begun(job: OpenJob, phase: str) -> str:
    return "true" if phase == AS_FOUND or job.job.is_adjusted else "false"
