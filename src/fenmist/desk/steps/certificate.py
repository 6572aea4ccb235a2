"""Certificate: the page as it will be, and where it is written."""

from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from fenmist.desk.runner import JobRunner
from fenmist.desk.steps.step import Step
from fenmist.desk.theme import ThemeHolder
from fenmist.desk.widgets.labels import button, clear_layout, label, set_text
from fenmist.desk.widgets.line_edit import LineEdit
from fenmist.errors import FenmistError
from fenmist.judgement.headline import certificate_headline
from fenmist.reports.certificate import Certificate
from fenmist.session.openjob import OpenJob, View
from fenmist.session.paper import certificate_of, suggested_path, write_certificate
from fenmist.session.session import Session


@dataclass(frozen=True)
class PagesRequest:
    """Pictures of a certificate's pages, when called."""

    content: Certificate

    def __call__(self) -> tuple[bytes, ...]:
        """Set the pages."""
        from fenmist.reports.paper import certificate_pages  # typesetting is imported on first use

        return certificate_pages(self.content, dots_per_inch=92.0)


@dataclass(frozen=True, eq=False)
class WriteRequest:
    """Writes the PDF, when called."""

    view: View
    path: Path

    def __call__(self) -> Path:
        """Set the pages and write the file."""
        return write_certificate(self.view, self.path)


class CertificateStep(Step):
    """Preview and PDF."""

    where = "certificate"

    def __init__(self, session: Session, job: OpenJob, themes: ThemeHolder) -> None:
        super().__init__(session, job, themes)
        self.runner = JobRunner(self)
        self.runner.answered.connect(self._on_pages)
        self.runner.refused.connect(self._on_refused)
        self.writer = JobRunner(self)
        self.writer.answered.connect(self._on_written)
        self.writer.refused.connect(self._on_refused)
        self._shown: Certificate | None = None
        self.path = LineEdit(str(suggested_path(job.job)))
        self.path.setAccessibleName("file to write")
        self.path.returnPressed.connect(self.write)
        self.do = button("Write the PDF", "do")
        self.do.clicked.connect(self.write)
        self.said = label("", "second", wrap=True)
        bar = QHBoxLayout()
        bar.addWidget(label("write to", "second"))
        bar.addWidget(self.path, 1)
        bar.addWidget(self.do)
        self.body.addLayout(bar)
        self.body.addWidget(self.said)
        self._pages = QVBoxLayout()
        self._pages.setSpacing(16)
        holder = QWidget()
        holder.setLayout(self._pages)
        self.pages_view = QScrollArea()
        self.pages_view.setWidgetResizable(True)
        self.pages_view.setWidget(holder)
        self.pages_view.setAccessibleName("the pages")
        self.body.addWidget(self.pages_view, 1)

    def headline_text(self, view: View) -> str:
        return certificate_headline(view.job, view.result, view.notes)

    def refresh(self) -> None:
        super().refresh()
        if self.isVisible():
            self._preview()

    def enter(self) -> None:
        self._preview()
        self.path.setFocus()

    def _preview(self) -> None:
        content = certificate_of(self.job.view)
        if content == self._shown:
            return
        self._shown = content
        if not self._pages.count():
            self._pages.addWidget(label("Setting the pages …", "second"))
            self._pages.addStretch(1)
        self.runner.start(PagesRequest(content))

    def _on_pages(self, pages: tuple[bytes, ...]) -> None:
        clear_layout(self._pages)
        for number, data in enumerate(pages, start=1):
            picture = QPixmap()
            picture.loadFromData(data)
            shown = QLabel()
            shown.setObjectName("page")
            shown.setPixmap(picture)
            shown.setAlignment(Qt.AlignmentFlag.AlignHCenter)
            shown.setAccessibleName(f"page {number} of {len(pages)}")
            self._pages.addWidget(shown)
        self._pages.addStretch(1)

    def _on_written(self, path: Path) -> None:
        set_text(self.said, f"Written: {path}")

    def _on_refused(self, error: FenmistError) -> None:
        set_text(self.said, str(error))

    def write(self) -> None:
        """Write the PDF where the field says."""
        set_text(self.said, "Writing …")
        self.writer.start(WriteRequest(self.job.view, Path(self.path.text().strip())))

    def closing(self) -> None:
        """Wait for what is being set."""
        self.runner.wait()
        self.writer.wait()
