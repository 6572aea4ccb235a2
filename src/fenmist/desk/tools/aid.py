"""A tool over fields: what is typed is answered at once, as a sentence, rows, a picture and notes."""

from pathlib import Path

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from fenmist.desk.filing import Files, Printing, Saving, either
from fenmist.desk.theme import ThemeHolder
from fenmist.desk.widgets.form import Form
from fenmist.desk.widgets.labels import button, clear_layout, label, scrolled, set_text
from fenmist.desk.widgets.margin import Margin
from fenmist.desk.widgets.pages import beside_margin, side_by_side
from fenmist.desk.widgets.picture import drawing_saved
from fenmist.desk.widgets.picture_view import PictureView
from fenmist.errors import FenmistError
from fenmist.findings.note import Note
from fenmist.reports.answersheet import AnswerSheet
from fenmist.session.aids import Aid, Rows, Said
from fenmist.session.answersheet import answer_sheet
from fenmist.session.session import Session
from fenmist.session.sheets import sheet_pages, write_sheet
from fenmist.units.moment import day_of

SOON_MS = 40
"""After the last key until it is worked out."""


class AidTool(Files, QWidget):
    """Fields at the left, what follows from them at the right."""

    did = Signal(str)  # what was done, for the foot
    question_wanted = Signal(str)  # a job is to be begun on this question

    def __init__(self, aid: Aid, session: Session, themes: ThemeHolder) -> None:
        super().__init__()
        self.aid, self.title, self._session = aid, aid.title, session
        self.answered: Said | None = None
        self.headline = label("", "headline", wrap=True)
        self.form = Form(aid.fields, live=True)
        self.form.fill(aid.example)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MS)
        self._soon.timeout.connect(self.refresh)
        self.form.field_typed.connect(lambda *_: self._soon.start())
        self.said = label("", "problem", wrap=True)
        self.rows = QGridLayout()
        self.rows.setColumnStretch(1, 1)
        self.rows.setHorizontalSpacing(18)
        self.rows.setVerticalSpacing(6)
        self.picture = PictureView(themes)
        self.begin = button("a job about this", "do")
        self.begin.setToolTip("Ask the same on a bench, with everything that is uncertain there")
        self.begin.clicked.connect(lambda: self.question_wanted.emit(aid.room))
        self.margin = Margin(self._on_answer)
        self._lay_out()

    def _lay_out(self) -> None:
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addWidget(label(self.aid.ask, "section", wrap=True))
        left.addWidget(scrolled(self.form), 1)
        keys = QHBoxLayout()
        keys.addWidget(self.begin)
        keys.addStretch(1)
        left.addLayout(keys)
        right = QVBoxLayout()
        right.setSpacing(16)
        right.addWidget(self.said)  # where the answer would be, in sight of the fields
        right.addLayout(self.rows)
        right.addWidget(self.picture)
        right.addStretch(1)
        inner = QVBoxLayout()
        inner.setSpacing(14)
        inner.addWidget(self.headline)
        inner.addLayout(side_by_side(left, right, (7, 11)), 1)
        beside_margin(self, inner, self.margin)

    def enter(self) -> None:
        """The tool comes to the front."""
        self.refresh()
        next(iter(self.form.inputs.values())).setFocus()

    def refresh(self) -> None:
        """Work it out from the fields."""
        try:
            said = self.aid.answer(self.form.draft())
        except FenmistError as error:
            set_text(self.said, str(error))
            self.answered = None
            said = Said("The answer appears once the fields can be read.", (), None, ())
        else:
            self.answered = said
            set_text(self.said, "")
        set_text(self.headline, said.headline)
        self._show_rows(said.rows)
        self.picture.show_picture(said.picture)
        self.margin.show_notes(said.notes, {})

    def _show_rows(self, rows: Rows) -> None:
        clear_layout(self.rows)
        for number, (name, value) in enumerate(rows):
            shown = label(value, "what", f"{name}: {value}", wrap=True)
            self.rows.addWidget(label(name, "second"), number, 0)
            self.rows.addWidget(shown, number, 1)

    @property
    def saving(self) -> Saving | None:
        """The answer as a page, or its drawing."""
        self._catch_up()
        if self.answered is None:
            return None
        page = Saving(self.title, Path.home() / f"{self.title}.pdf", (".pdf",), self._write)
        if self.answered.picture is None:
            return page
        return either(page, drawing_saved(self.picture, Path.home() / f"{self.title}.svg", self.did.emit))

    def _catch_up(self) -> None:
        """What was typed a moment ago is answered before it goes on paper."""
        if self._soon.isActive():
            self._soon.stop()
            self.refresh()

    def _write(self, path: Path) -> None:
        self.did.emit(f"written: {write_sheet(self._sheet(), path, self._paper).name}")

    @property
    def printing(self) -> Printing | None:
        """The answer as a page."""
        self._catch_up()
        if self.answered is None:
            return None
        return Printing(self.title.lower(), self._paper, sheet_pages(self._sheet(), self._paper))

    @property
    def _paper(self) -> str:
        return self._session.setting("paper")

    def _sheet(self) -> AnswerSheet:
        session = self._session
        said = self.answered or self.aid.answer(self.form.draft())
        return answer_sheet(self.aid, self.form.draft(), said, day_of(session.now()), session.is_demo)

    def _on_answer(self, _note: Note, text: str) -> None:
        """Notes of a tool belong to no record, so an answer has nowhere to stay; the margin says so."""
        set_text(self.said, f"“{text}” was not kept: notes of a tool belong to no job.")
