"""What is shown where the logbook can't be opened: what happened, to which file, and the ways on from there."""

import shutil
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fenmist.desk.theme import px
from fenmist.desk.widgets.labels import button, label, set_text
from fenmist.desk.widgets.line_edit import LineEdit
from fenmist.errors import DamagedLogbookError, FenmistError
from fenmist.session.backup import backups


class StartupTrouble(QWidget):
    """One page: the error in words, and what can be done about it. The file itself is never touched."""

    open_wanted = Signal(object)  # path of a logbook
    demo_wanted = Signal()

    def __init__(self, path: Path, error: FenmistError) -> None:
        super().__init__()
        self._path = path
        self.setObjectName("ground")
        self.setWindowTitle("Fenmist")
        self.resize(px(760), px(420))
        self.headline = label(error.headline, "headline", wrap=True)
        self.hint = label(error.hint, "second", wrap=True)
        self.said = label("", "problem", wrap=True)
        found = backups(path)
        self.newest = found[-1] if found else None
        self.backup = button("Open a copy of the newest backup", "do")
        self.backup.clicked.connect(self._on_backup)
        self.again = button("Try again", "do")
        self.again.clicked.connect(lambda: self.open_wanted.emit(self._path))
        self.demo = button("Look at the demonstration", "do")
        self.demo.clicked.connect(self.demo_wanted)
        self.other = LineEdit()
        self.other.setPlaceholderText("another logbook, .fenlog; a new one is made where there is none")
        self.other.setAccessibleName("another logbook")
        self.other.returnPressed.connect(self._on_other)
        self._lay_out(isinstance(error, DamagedLogbookError))

    def _lay_out(self, damaged: bool) -> None:
        keys = QHBoxLayout()
        keys.setSpacing(px(12))
        if self.newest is not None and damaged:
            keys.addWidget(self.backup)
        keys.addWidget(self.again)
        keys.addWidget(self.demo)
        keys.addStretch(1)
        box = QVBoxLayout(self)
        box.setContentsMargins(px(40), px(36), px(40), px(20))
        box.setSpacing(px(12))
        box.addWidget(self.headline)
        box.addWidget(self.hint)
        if self.newest is not None and damaged:
            box.addWidget(label(f"The newest backup is {self.newest.name}.", "second", wrap=True))
        box.addSpacing(px(10))
        box.addLayout(keys)
        box.addWidget(self.other)
        box.addWidget(self.said)
        box.addStretch(1)

    def _on_backup(self) -> None:
        """Work goes on in a copy beside the damaged file; the backup stays as it is."""
        if self.newest is None:
            return
        copy = self._path.with_name(f"{self._path.stem} restored{self._path.suffix}")
        number = 1
        while copy.exists():
            number += 1
            copy = self._path.with_name(f"{self._path.stem} restored {number}{self._path.suffix}")
        try:
            shutil.copy2(self.newest, copy)
        except OSError as error:
            set_text(self.said, f"{copy} could not be written: {error.strerror}.")
            return
        self.open_wanted.emit(copy)

    def _on_other(self) -> None:
        path = Path(self.other.text().strip()).expanduser()
        if path.suffix != ".fenlog":
            set_text(self.said, f"“{path.name}” is no logbook: its name would end in .fenlog.")
            return
        self.open_wanted.emit(path)
