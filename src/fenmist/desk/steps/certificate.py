"""Certificate: the pages as they will be, issued for good, revised, and the correction cards."""

from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from fenmist.desk.filing import Printing, Saving
from fenmist.desk.runner import JobRunner
from fenmist.desk.steps.step import Step, still_to_draw
from fenmist.desk.theme import ThemeHolder
from fenmist.desk.widgets.busy import Busy
from fenmist.desk.widgets.labels import button, clear_layout, label, set_text
from fenmist.desk.widgets.line_edit import LineEdit
from fenmist.desk.widgets.save_bar import Content, SaveBar
from fenmist.errors import FenmistError
from fenmist.frozen import dataclass
from fenmist.judgement.headline import certificate_headline
from fenmist.procedures.page import Card
from fenmist.records.store import Issued
from fenmist.reports.certificate import Certificate
from fenmist.session.filenames import suggested_path
from fenmist.session.openjob import OpenJob
from fenmist.session.paper import IssueRequest, certificate_of, issue, next_number, to_issue
from fenmist.session.session import Session
from fenmist.session.view import View
from fenmist.units.moment import day_of

CERTIFICATE, CARDS = "certificate", "correction cards"


@dataclass(frozen=True)
class PagesRequest:
    """Pictures of the pages of a certificate or of cards, when called."""

    content: Certificate | tuple[Card, ...]
    paper: str
    date: str
    dots_per_inch: float = 92.0

    def __call__(self) -> tuple[bytes, ...]:
        """Set the pages."""
        from fenmist.reports.paper import cards_pages, certificate_pages  # typesetting is imported on first use

        if isinstance(self.content, Certificate):
            return certificate_pages(self.content, self.paper, self.dots_per_inch)
        return cards_pages(self.content, self.date, self.paper, self.dots_per_inch)


class CertificateStep(Step):
    """Preview, issue, save."""

    where = "certificate"

    def __init__(self, session: Session, job: OpenJob, themes: ThemeHolder) -> None:
        super().__init__(session, job, themes)
        self.runner = JobRunner(self)
        self.runner.answered.connect(self._on_pages)
        self.runner.refused.connect(self._on_refused)
        self.issuer = JobRunner(self)
        self.issuer.answered.connect(self._on_set)
        self.issuer.refused.connect(self._on_refused)
        self._request: IssueRequest | None = None
        self._shown: PagesRequest | None = None
        self.show_what = CERTIFICATE
        self.save = SaveBar("what is shown", suggested_path(job.job), self._contents)
        self.reason = LineEdit()
        self.reason.setAccessibleName("reason for the revision")
        self.reason.setPlaceholderText("reason for the revision")
        self.issue_button = button("", "do")
        self.issue_button.clicked.connect(self.issue)
        self.said = label("", "second", wrap=True)
        self.issued = QHBoxLayout()
        self.issued.setSpacing(12)
        self._pages = QVBoxLayout()
        self._pages.setSpacing(16)
        holder = QWidget()
        holder.setLayout(self._pages)
        self.pages_view = QScrollArea()
        self.pages_view.setWidgetResizable(True)
        self.pages_view.setWidget(holder)
        self.pages_view.setAccessibleName("the pages")
        self._lay_out()

    def _lay_out(self) -> None:
        row = QHBoxLayout()
        row.setSpacing(14)
        group = QButtonGroup(self)
        self.choices = {}
        for what in (CERTIFICATE, CARDS):
            made = button(what, "phase")
            made.setCheckable(True)
            made.setChecked(what == CERTIFICATE)
            made.clicked.connect(lambda _=False, w=what: self.choose(w))
            group.addButton(made)
            self.choices[what] = made
            row.addWidget(made)
        row.addSpacing(10)
        row.addWidget(self.issue_button)
        row.addWidget(self.reason, 1)
        row.addStretch(0)
        self.body.addLayout(row)
        self.body.addLayout(self.issued)
        self.body.addWidget(self.save)
        self.body.addWidget(self.said)
        self.said.hide()
        self.body.addWidget(Busy(self.runner, "setting the pages"))
        self.body.addWidget(Busy(self.issuer, "setting the certificate"))
        self.body.addWidget(self.pages_view, 1)

    def headline_text(self, view: View) -> str:
        if not view.result.stated and view.found.stated:
            return "As left nothing is read yet (readings: Alt+5): the certificate states what was found."
        return certificate_headline(view.job, view.result, view.notes)

    def refresh(self) -> None:
        super().refresh()
        earlier = self.session.issued(self.job.job.id)
        number = earlier[-1].number if earlier else next_number(self.session, self.job.view.as_of)
        again = f"Issue {number} rev. {earlier[-1].revision + 1}" if earlier else f"Issue No. {number}"
        self.issue_button.setText(again)
        self.issue_button.setAccessibleName(again)
        self.reason.setVisible(bool(earlier))
        self._show_issued(earlier)
        if self.isVisible():
            self._preview()

    def enter(self) -> None:
        self._preview()
        self.issue_button.setFocus()

    def choose(self, what: str) -> None:
        """Show the certificate or the cards."""
        self.show_what = what
        self.choices[what].setChecked(True)
        name = suggested_path(self.job.job, ".pdf" if what == CERTIFICATE else "-cards.pdf")
        self.save.suggest(name)
        self._preview()

    def _show_issued(self, earlier: tuple[Issued, ...]) -> None:
        names = [item.name for item in earlier]
        if names == getattr(self, "_issued_shown", None):
            return
        self._issued_shown = names
        clear_layout(self.issued)
        if not earlier:
            self.issued.addWidget(label("Not issued yet: this is a draft and is marked as one.", "second"))
        for item in earlier:
            last = item is earlier[-1]
            text = f"{item.name} of {day_of(item.issued_at)}{'' if last else ', superseded'}"
            made = button(text, "link", f"save {text} as it was issued")
            made.clicked.connect(lambda _=False, chosen=item: self.save_issued(chosen))
            self.issued.addWidget(made)
        self.issued.addStretch(1)

    # preview

    def _cards(self) -> tuple[Card, ...]:
        view = self.job.view.whole
        earlier = self.session.issued(view.job.id)
        made: tuple[Card, ...] = view.procedure.cards(view.seen, earlier[-1].name if earlier else "")
        return made

    def _wanted(self) -> PagesRequest:
        content = certificate_of(self.job.view)
        shown = content if self.show_what == CERTIFICATE else self._cards()
        return PagesRequest(shown, self.session.setting("paper"), content.date)

    def show_to_draw(self, points: int) -> None:
        self._say(f"{still_to_draw(points)}: then the pages are set." if points else "")

    def _preview(self) -> None:
        if self.job.view.to_draw:  # pages are never for now, and nobody waits for them here
            self.show_to_draw(self.job.view.to_draw)
            return
        try:
            wanted = self._wanted()
        except FenmistError as error:
            self._shown = None
            clear_layout(self._pages)
            self._on_refused(error)
            return
        if wanted == self._shown:
            return
        self._shown = wanted
        self._say("")
        if not self._pages.count():
            self._pages.addWidget(label("Preparing the pages …", "second"))
            self._pages.addStretch(1)
        self.runner.start(wanted)

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

    def _on_refused(self, error: FenmistError) -> None:
        self._say(str(error))

    def _say(self, text: str) -> None:
        set_text(self.said, text)
        self.said.setVisible(bool(text))

    # issue and save

    def _contents(self) -> Mapping[str, Content]:
        from fenmist.reports.paper import cards_pdf, certificate_pdf  # typesetting is imported on first use

        wanted = self._wanted()
        content = wanted.content
        if isinstance(content, Certificate):
            return {".pdf": lambda: certificate_pdf(content, wanted.paper)}
        return {".pdf": lambda: cards_pdf(content, wanted.date, wanted.paper)}

    def issue(self) -> None:
        """Issue it for good."""
        try:
            self._request = to_issue(self.session, self.job.view, self.reason.text())
        except FenmistError as error:
            self._on_refused(error)
            return
        self._say("Preparing the pages …")
        self.issuer.start(self._request)

    def _on_set(self, pdf: bytes) -> None:
        if self._request is None:
            return
        try:
            done = issue(self.session, self._request, pdf)
        except FenmistError as error:
            self._on_refused(error)
            return
        self.reason.clear()
        self.refresh()
        self._say(f"Issued: {done.name}. It is kept in the logbook for good; a revision would supersede it.")
        self.save_issued(done)

    def save_issued(self, chosen: Issued) -> None:
        """Write an issued certificate, byte for byte, beside the path in the field."""
        folder = Path(self.save.path.text()).expanduser().parent
        name = suggested_path(self.job.job).stem
        path = folder / f"{name} {chosen.name.replace('/', '-')}.pdf"
        data = self.session.logbook.issued_pdf(chosen.number, chosen.revision)
        self.save.write(path, lambda: data)

    @property
    def saving(self) -> Saving:
        return self.save.saving

    @property
    def printing(self) -> Printing:
        wanted = self._wanted()
        return Printing(self.show_what, wanted.paper, lambda dpi: replace(wanted, dots_per_inch=dpi)())

    def closing(self) -> None:
        """Wait for what is being set."""
        self.runner.wait()
        self.issuer.wait()
        self.save.wait()
