"""The system's own dialogs for files, none of them in the way: what was chosen is handed on, the window goes on."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QPushButton, QWidget

from fenmist.desk.filing import Opening, Saving
from fenmist.desk.widgets.labels import button


def ask_to_open(parent: QWidget, opening: Opening) -> QFileDialog:
    """Ask for a file that is there."""
    endings = " ".join(f"*{item}" for item in opening.endings)
    dialog = QFileDialog(parent, opening.title, str(Path.home()), f"{opening.kinds} ({endings})")
    dialog.setFileMode(QFileDialog.FileMode.ExistingFile)
    return _shown(dialog, opening.take)


def ask_to_save(parent: QWidget, saving: Saving) -> QFileDialog:
    """Ask where a file goes; where no ending is typed it has that of the suggested name."""
    kinds = ";;".join(f"*{item} (*{item})" for item in saving.endings)
    dialog = QFileDialog(parent, saving.title, str(saving.suggested.parent), kinds)
    dialog.setAcceptMode(QFileDialog.AcceptMode.AcceptSave)
    dialog.setDefaultSuffix(next((e for e in saving.endings if saving.suggested.name.endswith(e)), "").lstrip("."))
    dialog.selectFile(saving.suggested.name)
    return _shown(dialog, saving.take)


def chooser(what: str, ask: Callable[[], object]) -> QPushButton:
    """A button beside a typed path that opens the system's dialog."""
    made = button("Choose…", "link", what)
    made.clicked.connect(ask)
    return made


def _shown(dialog: QFileDialog, take: Callable[[Path], object]) -> QFileDialog:
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.setModal(False)
    dialog.fileSelected.connect(lambda name: take(Path(name)))
    dialog.show()
    return dialog
