"""Paper through the system's print dialog: pages are set as pictures in a worker and painted page by page."""

from collections.abc import Callable

from PySide6.QtCore import QObject, QRect, Qt
from PySide6.QtGui import QImage, QPageLayout, QPageSize, QPainter
from PySide6.QtPrintSupport import QPrintDialog, QPrinter
from PySide6.QtWidgets import QWidget

from fenmist.desk.filing import Printing
from fenmist.desk.runner import JobRunner
from fenmist.desk.widgets.busy import Busy
from fenmist.errors import FenmistError, ReportError

DOTS_PER_INCH = 300.0

_SIZES = {"a4": QPageSize.PageSizeId.A4, "us-letter": QPageSize.PageSizeId.Letter}


class PrintJob(QObject):
    """One document on its way to a printer.

    Parameters
    ----------
    parent : QWidget
        The window.
    wanted : Printing
        Its pages are made in a worker.
    said : callable
        Told what becomes of it.
    """

    def __init__(self, parent: QWidget, wanted: Printing, said: Callable[[str], object]) -> None:
        super().__init__(parent)
        self._wanted, self._said = wanted, said
        self._runner = JobRunner(self)
        self._runner.answered.connect(self._on_pages)
        self._runner.refused.connect(self._on_refused)
        self.printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        self.printer.setDocName(wanted.name)
        self.printer.setFullPage(True)
        self.printer.setPageSize(QPageSize(_SIZES[wanted.paper]))
        self.printer.setPageOrientation(QPageLayout.Orientation.Portrait)
        self.busy = Busy(self._runner, f"printing {wanted.name}")
        self.dialog = QPrintDialog(self.printer, parent)
        self.dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.dialog.setModal(False)
        self.dialog.accepted.connect(self.start)
        self.dialog.show()

    def start(self) -> None:
        """Set the pages, then print them."""
        self._said(f"Preparing {self._wanted.name} …")
        self._runner.start(lambda: self._wanted.pages(DOTS_PER_INCH))

    def _on_pages(self, pages: tuple[bytes, ...]) -> None:
        painter = QPainter()
        if not painter.begin(self.printer):
            self._on_refused(ReportError("The printer doesn't accept anything.", "Choose another one, or save a PDF."))
            return
        for number, data in enumerate(pages):
            if number:
                self.printer.newPage()
            image = QImage.fromData(data)
            painter.drawImage(QRect(0, 0, painter.viewport().width(), painter.viewport().height()), image)
        painter.end()
        count = len(pages)
        self._said(f"Sent to the printer: {self._wanted.name}, {count} {'page' if count == 1 else 'pages'}")
        self.deleteLater()

    def _on_refused(self, error: FenmistError) -> None:
        self._said(str(error))
        self.deleteLater()
