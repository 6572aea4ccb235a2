"""First run: one page that asks who works here and where things stand; then demo, new job, or a file."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fenmist.desk.listening import listen_while_alive
from fenmist.desk.theme import px
from fenmist.desk.widgets.form import Form
from fenmist.desk.widgets.labels import button, label
from fenmist.kit.sheet import Field
from fenmist.reports.paper import PAPERS
from fenmist.reports.resultfile import CSV_KINDS
from fenmist.session.session import SETTINGS, Session

FIELDS = (
    Field("workshop", "workshop", "Sallow Reach workshop", "Printed on every page"),
    Field("technician", "your name", "as it should appear on a certificate"),
    Field("paper", "paper", choices=tuple(PAPERS)),
    Field("numbering", "certificates are numbered", "{year}-", "Text before the counter; {year} stands for this year"),
    Field("csv", "tables for spreadsheets", choices=CSV_KINDS, help="Separator of .csv files"),
)


class FirstPage(QWidget):
    """Asked once, changed at any time."""

    where = "first"
    demo_wanted = Signal()
    new_wanted = Signal()
    file_wanted = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("ground")
        self._session = session
        listen_while_alive(self, session.changed, self._on_changed)
        self.form = Form(FIELDS, label_width=170)
        self.form.field_typed.connect(self._on_typed)
        self.form.setMaximumWidth(px(560))
        box = QVBoxLayout(self)
        box.setContentsMargins(40, 32, 40, 16)
        box.setSpacing(12)
        self.headline = label("", "headline", wrap=True)
        box.addWidget(self.headline)
        box.addWidget(label("Everything may stay empty for now; F9 changes it later.", "second"))
        box.addSpacing(6)
        box.addWidget(self.form)
        folder = session.logbook.path
        kept = f"Everything is kept in {folder}; a dated copy is made beside it each day, ten are kept."
        self.kept = label(kept, "second", wrap=True)
        box.addWidget(self.kept)
        box.addSpacing(14)
        row = QHBoxLayout()
        row.setSpacing(14)
        self.demo = button("Look at the demonstration", "do")
        self.demo.clicked.connect(self.demo_wanted)
        self.new = button("Start a job", "do")
        self.new.clicked.connect(self.new_wanted)
        self.file = button("Import a job file", "do")
        self.file.clicked.connect(self.file_wanted)
        for made in (self.new, self.demo, self.file):
            row.addWidget(made)
        row.addStretch(1)
        box.addLayout(row)
        box.addStretch(1)

    def enter(self) -> None:
        """The page comes to the front."""
        new = self._session.is_new
        self.headline.setText("Who works here?" if new else "What is printed, and how tables are written")
        self._fill()
        self.demo.setVisible(not self._session.is_demo)
        self.form.inputs["workshop"].setFocus()

    def _on_changed(self) -> None:
        if self.isVisible():
            self._fill()

    def _fill(self) -> None:
        kept = {key: self._session.setting(key) for key in SETTINGS}
        name = next((said for said, paper in PAPERS.items() if paper == kept["paper"]), "A4")
        self.form.fill({**kept, "paper": name})

    def _on_typed(self, field_id: str, text: str) -> None:
        self._session.set_setting(field_id, PAPERS[text] if field_id == "paper" else text.strip())
