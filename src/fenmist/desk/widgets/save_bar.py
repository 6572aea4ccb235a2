"""Where a file goes: a path, a key, and what is said about it. What is written follows from the name's ending."""

from collections.abc import Callable, Mapping
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QWidget

from fenmist.desk.filing import Saving
from fenmist.desk.runner import JobRunner
from fenmist.desk.widgets.busy import Busy
from fenmist.desk.widgets.dialogs import ask_to_save, chooser
from fenmist.desk.widgets.labels import button, label, set_text
from fenmist.desk.widgets.line_edit import LineEdit
from fenmist.errors import FenmistError, ReportError
from fenmist.files.whole import write_whole

Content = Callable[[], bytes]


class SaveBar(QWidget):
    """One line: “save to”, the path, “Save”. Contents are asked for by the ending of the name."""

    saved = Signal(object)  # the path

    def __init__(self, what: str, path: Path, contents: Callable[[], Mapping[str, Content]]) -> None:
        super().__init__()
        self._contents, self._what = contents, what
        self._runner = JobRunner(self)
        self._runner.answered.connect(self._on_written)
        self._runner.refused.connect(self._on_refused)
        self.path = LineEdit(str(path))
        self.path.setAccessibleName(f"save {what} to")
        self.path.returnPressed.connect(self.save)
        self.path.setCursorPosition(0)
        self.do = button("Save", "do", f"save {what}")
        self.do.clicked.connect(self.save)
        self.said = label("", "second")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        row.addWidget(label("save to", "second"))
        row.addWidget(self.path, 3)
        row.addWidget(chooser(f"choose where {what} goes", lambda: ask_to_save(self, self.saving)))
        row.addWidget(self.do)
        row.addWidget(Busy(self._runner, f"saving {what}"))
        row.addWidget(self.said, 2)

    @property
    def saving(self) -> Saving:
        """What is saved here, and where."""
        return Saving(f"Save {self._what}", self._typed, tuple(self._contents()), self.save_to)

    @property
    def _typed(self) -> Path:
        return Path(self.path.text().strip()).expanduser()

    def save_to(self, path: Path) -> None:
        """Write to a path that was chosen."""
        self.path.setText(str(path))
        self.save()

    def suggest(self, path: Path) -> None:
        """Another path, unless one was typed."""
        if not self.path.isModified():
            self.path.setText(str(path))

    def save(self) -> None:
        """Write what the name's ending asks for."""
        path = self._typed
        contents = self._contents()
        ending = next((name for name in contents if path.name.lower().endswith(name)), "")
        if not ending:
            self._on_refused(ReportError(f"“{path.name}” ends in none of {' '.join(contents)}.", "Name it so."))
            return
        self.write(path, contents[ending])

    def write(self, path: Path, content: Content) -> None:
        """Write a file; what came of it is said beside the field."""
        set_text(self.said, "Writing …")
        self._runner.start(content, then=lambda data: write_whole(path, lambda: data))

    def _on_written(self, path: Path) -> None:
        self.path.setModified(False)
        set_text(self.said, f"Written: {path.name}")
        self.saved.emit(path)

    def _on_refused(self, error: FenmistError) -> None:
        set_text(self.said, str(error))
        self.said.setToolTip(str(error))

    def wait(self) -> None:
        """Wait for what is being written."""
        self._runner.wait()
