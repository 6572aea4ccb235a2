"""The designer: a tap, pad, divider or load as a drawn circuit, its stacks, its response, its heat, its proof."""

from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from fenmist.design.proof import ANALYSERS, Explained
from fenmist.design.shapes import Shape
from fenmist.design.stack import Ranked
from fenmist.desk.filing import TOUCHSTONES, Files, Opening, Printing, Saving
from fenmist.desk.runner import JobRunner
from fenmist.desk.theme import ThemeHolder
from fenmist.desk.widgets.busy import Busy
from fenmist.desk.widgets.circuit_view import CircuitView
from fenmist.desk.widgets.form import Form
from fenmist.desk.widgets.grid import Grid
from fenmist.desk.widgets.labels import button, clear_layout, label, scrolled, set_text
from fenmist.desk.widgets.line_edit import LineEdit
from fenmist.desk.widgets.margin import Margin
from fenmist.desk.widgets.pages import beside_margin, side_by_side
from fenmist.desk.widgets.picture_view import PictureView
from fenmist.errors import FenmistError
from fenmist.findings.note import Note
from fenmist.kit.sheet import Field
from fenmist.reports.designsheet import DesignSheet
from fenmist.session.circuits import circuit_of
from fenmist.session.designer import Designer
from fenmist.session.designing import (
    STACK_HEADINGS,
    STRAIN_HEADINGS,
    Worked,
    explained_said,
    fields_of,
    headline,
    known_said,
    proof_said,
    rows,
    sensitivity_said,
    stack_row,
    strain_rows,
    sweep_of,
)
from fenmist.session.designsheet import sheet_of, write_design
from fenmist.session.session import Session
from fenmist.session.sheets import sheet_pages
from fenmist.units.display import plain
from fenmist.units.moment import day_of

SOON_MS = 60
"""After the last key until it is worked out."""

RESPONSE, FIGURES, HEAT, STACKS, PROOF = range(5)
_VIEWS = ("response", "figures", "heat and volts", "made of", "proof")
_SHAPE = Field("shape", "what is built", choices=tuple(str(item) for item in Shape))


class DesignerTool(Files, QWidget):
    """Fields at the left, the circuit and what follows at the right."""

    title = "Designer"
    did = Signal(str)  # what was done, for the foot
    question_wanted = Signal(str)  # a job is to be begun on this question

    def __init__(self, session: Session, themes: ThemeHolder) -> None:
        super().__init__()
        self._session = session
        self.designer = Designer(session)
        self.made: Worked | None = None
        self.offered: tuple[Ranked, ...] = ()
        self.piece = ""  # of which stacks are offered
        self.headline = label("", "headline", wrap=True)
        self.shape = Form((_SHAPE,), label_width=150)
        self.shape.fill({"shape": str(self.designer.shape)})
        self.shape.field_typed.connect(lambda _, text: self._on_shape(Shape(text)))
        self.forms = QStackedWidget()
        self.form = Form(())
        self._by_shape: dict[Shape, Form] = {}
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MS)
        self._soon.timeout.connect(self.refresh)
        self.said = label("", "problem", wrap=True)
        self.circuit = CircuitView(themes)
        self.circuit.value_typed.connect(self._on_value)
        self.circuit.value_entered.connect(self._on_piece)
        self.best = button("best stacks", "do")
        self.best.setToolTip("The best stack of stock values for each resistor")
        self.best.clicked.connect(lambda: self._run(self.designer.best_stacks, self._take_best))
        self.bare = button("without stacks", "link")
        self.bare.clicked.connect(lambda: self._now(self.designer.as_drawn))
        self.trim = button("solve the trim wire", "do")
        self.trim.setToolTip("The wire from the line to the output that flattens the band")
        self.trim.clicked.connect(lambda: self._run(self.designer.best_trim, self._take_trim))
        self.runner = JobRunner(self)
        self.runner.answered.connect(self._on_answered)
        self.runner.refused.connect(self._say)
        self.busy = Busy(self.runner, "the search")
        self.looking = JobRunner(self)
        self.looking.answered.connect(self._show_offered)
        self.looking.refused.connect(self._say)
        self.busy_looking = Busy(self.looking, "the search for stacks")
        self._then: Callable[[Any], None] = self._take_best
        self.names = [button(text, "place") for text in _VIEWS]
        self.views = QStackedWidget()
        self.figures = QGridLayout()
        self.figures.setColumnStretch(1, 1)
        self.figures.setHorizontalSpacing(18)
        self.figures.setVerticalSpacing(6)
        self.sweep = PictureView(themes)
        self.sensitive = label("", "second", wrap=True)
        self.heat = Grid(STRAIN_HEADINGS, 0, "what each piece takes", grows=False)
        self.stacks = Grid(STACK_HEADINGS, 0, "stacks that make it", grows=False)
        self.stacks.row_opened.connect(self._on_stack)
        self.of_piece = label("", "section", wrap=True)
        self.analyser = Form((Field("analyser", "measured with", choices=tuple(a.label for a in ANALYSERS)),))
        self.analyser.field_typed.connect(lambda *_: self._on_analyser())
        self.opened = label("", "what", wrap=True)
        self.known = label("", "second", wrap=True)
        self.explained = label("", "second", wrap=True)
        self.explain = button("which strays would explain it", "do")
        self.explain.clicked.connect(self._on_explain)
        self.found: Explained | None = None
        self.take = button("take these strays", "do")
        self.take.clicked.connect(self._on_take)
        self.take.hide()
        self.leave = button("leave the file out", "link")
        self.leave.clicked.connect(lambda: self._now(self.designer.close_file))
        self.label = LineEdit()
        self.label.setPlaceholderText("Tap 40 dB")
        self.label.setAccessibleName("its name on the shelf")
        self.label.returnPressed.connect(self._on_shelf)
        self.shelf = button("put on the shelf", "do")
        self.shelf.clicked.connect(self._on_shelf)
        self.begin = button("a job with it", "link")
        self.begin.clicked.connect(lambda: self.question_wanted.emit("comparison"))
        self.margin = Margin(self._on_answer)
        self._lay_out()
        self._show_form()
        self.show_view(RESPONSE)

    def _lay_out(self) -> None:
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addWidget(self.shape)
        left.addWidget(self.forms, 1)
        work = QHBoxLayout()
        for made in (self.best, self.trim, self.bare):
            work.addWidget(made)
        work.addStretch(1)
        left.addLayout(work)
        left.addWidget(self.busy)
        left.addWidget(self.label)
        on_shelf = QHBoxLayout()
        on_shelf.addWidget(self.shelf)
        on_shelf.addWidget(self.begin)
        on_shelf.addStretch(1)
        left.addLayout(on_shelf)
        keys = QHBoxLayout()
        keys.setSpacing(18)
        for number, made in enumerate(self.names):
            made.setCheckable(True)
            made.clicked.connect(lambda _=False, n=number: self.show_view(n))
            keys.addWidget(made)
        keys.addStretch(1)
        response = QWidget()
        box = QVBoxLayout(response)
        box.setContentsMargins(0, 0, 0, 0)
        box.addWidget(self.sweep)
        box.addWidget(self.sensitive)
        box.addStretch(1)
        figures = QWidget()
        box = QVBoxLayout(figures)
        box.setContentsMargins(0, 0, 0, 0)
        box.addLayout(self.figures)
        box.addStretch(1)
        of_stacks = QWidget()
        box = QVBoxLayout(of_stacks)
        box.setContentsMargins(0, 0, 0, 0)
        box.addWidget(self.of_piece)
        box.addWidget(self.busy_looking)
        box.addWidget(self.stacks, 1)
        of_proof = QWidget()
        box = QVBoxLayout(of_proof)
        box.setContentsMargins(0, 0, 0, 0)
        box.addWidget(self.analyser)
        box.addWidget(self.opened)
        box.addWidget(self.known)
        box.addWidget(self.explained)
        row = QHBoxLayout()
        row.addWidget(self.explain)
        row.addWidget(self.take)
        row.addWidget(self.leave)
        row.addStretch(1)
        box.addLayout(row)
        box.addStretch(1)
        for view in (scrolled(response), scrolled(figures), self.heat, of_stacks, of_proof):
            self.views.addWidget(view)
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addWidget(self.said)
        right.addWidget(self.circuit)
        right.addLayout(keys)
        right.addWidget(self.views, 1)
        inner = QVBoxLayout()
        inner.setSpacing(10)
        inner.addWidget(self.headline)
        inner.addLayout(side_by_side(left, right, (6, 12), 24), 1)
        beside_margin(self, inner, self.margin)

    def enter(self) -> None:
        """The tool comes to the front."""
        self.refresh()
        next(iter(self.form.inputs.values())).setFocus()

    def show_view(self, number: int) -> None:
        """One of response, heat, stacks, proof."""
        self.views.setCurrentIndex(number)
        for n, made in enumerate(self.names):
            made.setChecked(n == number)
        if number == STACKS:
            self._offer()

    def next_panel(self) -> None:
        """On to the next of them."""
        self.show_view((self.views.currentIndex() + 1) % len(_VIEWS))

    def refresh(self) -> None:
        """Work it out from what is typed."""
        try:
            self.made = self.designer.worked()
        except FenmistError as error:
            self._say(error)
            set_text(self.headline, "The design appears once the fields can be read.")
            return
        set_text(self.said, "")
        design = self.made.design
        proof = self.designer.proof(design)
        set_text(self.headline, headline(self.made))
        self.circuit.show_circuit(circuit_of(design))
        self.sweep.show_picture(sweep_of(design, proof))
        self.heat.fill(strain_rows(self.made))
        self.margin.show_notes(self.made.notes, {})
        set_text(self.sensitive, sensitivity_said(design))
        clear_layout(self.figures)
        for number, (name, value) in enumerate(rows(self.made)):
            self.figures.addWidget(label(name, "second"), number, 0)
            self.figures.addWidget(label(value, "what", f"{name}: {value}", wrap=True), number, 1)
        self.trim.setVisible("trim" in self.form.inputs)
        opened = "Open what an analyser measured of it: Ctrl+O (.s1p, .s2p, .s3p)."
        set_text(self.opened, proof_said(proof) if proof is not None else opened)
        set_text(self.known, known_said(self.made, proof) if proof is not None else "")
        self.explain.setVisible(proof is not None)
        self.leave.setVisible(proof is not None)
        if self.views.currentIndex() == STACKS:
            self._offer()

    @property
    def opening(self) -> Opening:
        """A measured file."""
        return Opening("A measured file over the design", "Touchstone", TOUCHSTONES, self._on_file)

    @property
    def saving(self) -> Saving | None:
        """The sheet, or the circuit's drawing."""
        if self.made is None:
            return None
        name = self.label.text().strip() or str(self.designer.shape)
        return Saving("Design sheet or circuit", Path.home() / f"{name}.pdf", (".pdf", ".svg"), self._on_save)

    @property
    def printing(self) -> Printing | None:
        """The sheet."""
        if self.made is None:
            return None
        return Printing(
            f"design of a {self.designer.shape}", self._paper, sheet_pages(self._sheet(self.made), self._paper)
        )

    @property
    def _paper(self) -> str:
        return self._session.setting("paper")

    def _sheet(self, made: Worked) -> DesignSheet:
        today = day_of(self._session.now())
        return sheet_of(self.designer, made, self.label.text(), today, self._session.is_demo)

    def _on_save(self, path: Path) -> None:
        if self.made is None:
            return
        try:
            written = write_design(self._sheet(self.made), path, self._paper)
        except FenmistError as error:
            self._say(error)
            return
        self.did.emit(f"Written to {written}")

    # what is typed

    def _show_form(self) -> None:
        shape = self.designer.shape
        if shape not in self._by_shape:
            made = Form(fields_of(shape), live=True, label_width=150)
            made.fill(self.designer.draft.texts)
            made.field_typed.connect(self._on_field)
            self._by_shape[shape] = made
            self.forms.addWidget(scrolled(made))
        self.form = self._by_shape[shape]
        self.forms.setCurrentIndex(list(self._by_shape).index(shape))

    def _stop(self) -> None:
        """What is searched for is asked no more: its answer would be of what was typed before."""
        self.runner.cancel()
        self.looking.cancel()

    def _on_shape(self, shape: Shape) -> None:
        self._stop()
        self.designer.turn_to(shape)
        self.piece = ""
        self._show_form()
        self.refresh()

    def _on_field(self, name: str, text: str) -> None:
        self._stop()
        self.designer.type_field(name, text)
        self._soon.start()

    def _on_value(self, piece: str, text: str) -> None:
        self._stop()
        self._now(lambda: self.designer.type_value(piece, text))

    def _on_piece(self, piece: str) -> None:
        self.piece = piece
        if self.views.currentIndex() == STACKS:
            self._offer()

    # stacks

    def _offer(self) -> None:
        """Stacks for the resistor in hand, the first where none is."""
        try:
            resistors = [item.id for item in self.designer.design.resistors]
            piece = self.piece if self.piece in resistors else next(iter(resistors), "")
            request = self.designer.offers(piece)
            quick = self.designer.is_quick
        except FenmistError as error:
            self._say(error)
            return
        self.piece = piece
        set_text(self.of_piece, f"{piece}: Enter takes one; a value's field in the circuit asks for another")
        self._show_offered(())  # of another piece, or of what was asked before
        if quick:
            self._now(lambda: self._show_offered(request()), then=False)
        else:
            self.looking.start(request)

    def _show_offered(self, found: tuple[Ranked, ...]) -> None:
        self.offered = found
        self.stacks.fill([stack_row(item) for item in found])

    def _on_stack(self, row: int) -> None:
        if row < len(self.offered):
            taken = self.offered[row]
            self._now(lambda: self.designer.choose(self.piece, taken))
            self.did.emit(f"{self.piece}: {taken.stack.said()}")

    # what takes a while

    def _run(self, work: Callable[[], Callable[[], object]], then: Callable[[Any], None]) -> None:
        """Work out in the background what a request asks, and take what comes of it."""
        try:
            request = work()
        except FenmistError as error:
            self._say(error)
            return
        self._then = then
        self.runner.start(request)

    def _on_answered(self, found: object) -> None:
        self._then(found)
        self.form.fill(self.designer.draft.texts)
        self.refresh()

    def _take_best(self, found: Mapping[str, Ranked]) -> None:
        self.designer.take(found)
        self.did.emit("; ".join(f"{piece}: {item.stack.said()}" for piece, item in found.items()))

    def _take_trim(self, farad: float) -> None:
        self.designer.take_trim(farad)
        said = "No wire flattens that band" if farad == 0.0 else f"A wire of {plain(farad, 'F', 2)} flattens the band"
        self.did.emit(said)

    def _now(self, work: Callable[[], object], then: bool = True) -> None:
        try:
            work()
        except FenmistError as error:
            self._say(error)
            return
        if then:
            self.refresh()

    # proof

    def _on_file(self, path: Path) -> None:
        try:
            self.designer.open_file(path)
        except FenmistError as error:
            self._say(error)
            return
        set_text(self.explained, "")
        self.take.hide()
        self.refresh()
        self.did.emit(f"{path.name} lies over the design")

    def _on_analyser(self) -> None:
        chosen = self.analyser.draft()["analyser"]
        self.designer.analyser = next(item for item in ANALYSERS if item.label == chosen)
        self.refresh()

    def _on_explain(self) -> None:
        former = self.designer.design.strays
        try:
            self.found = self.designer.explain()
        except FenmistError as error:
            self._say(error)
            return
        set_text(self.explained, explained_said(self.found, former))
        self.take.show()

    def _on_take(self) -> None:
        if self.found is None:
            return
        self.designer.take_strays(self.found)
        self.found = None
        self.take.hide()
        self.form.fill(self.designer.draft.texts)
        self.refresh()
        self.did.emit("Strays taken as they were fitted")

    # the shelf

    def _on_shelf(self) -> None:
        try:
            part = self.designer.put_on_shelf(self.label.text())
        except FenmistError as error:
            self._say(error)
            return
        self.did.emit(f"{part.label} is on the shelf: Ctrl+3 shows it, I in a hook-up inserts it")

    def _say(self, error: FenmistError) -> None:
        set_text(self.said, str(error))

    def _on_answer(self, _note: Note, text: str) -> None:
        """Notes of a tool belong to no record, so an answer has nowhere to stay; the margin says so."""
        set_text(self.said, f"“{text}” was not kept: notes of a tool belong to no job.")
