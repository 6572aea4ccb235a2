"""Hook-up: what is plugged together, where power is stated, and what each connector sees before anyone keys."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QMenu, QPushButton

from fenmist.calibration.job import Job
from fenmist.calibration.levels import planned_levels
from fenmist.desk.steps.step import Step
from fenmist.desk.theme import ThemeHolder, font_scale, px
from fenmist.desk.widgets.form import Form
from fenmist.desk.widgets.grid import Grid
from fenmist.desk.widgets.labels import button, label, set_text
from fenmist.desk.widgets.line_edit import LineEdit
from fenmist.desk.widgets.line_view import LineView
from fenmist.desk.widgets.pages import Columns
from fenmist.desk.widgets.part_chooser import PartChooser
from fenmist.desk.widgets.staircase_view import StaircaseView
from fenmist.errors import FenmistError
from fenmist.findings.note import Note
from fenmist.hookup.editing import free_side_port
from fenmist.hookup.line import HookUp
from fenmist.judgement.bench import judge_bench
from fenmist.judgement.headline import hookup_headline
from fenmist.kit.part import FEEDS, SOURCES, Part
from fenmist.procedures import benchwork
from fenmist.reports.leveltable import LEVEL_HEADINGS, level_rows
from fenmist.session.openjob import OpenJob
from fenmist.session.session import Session
from fenmist.session.view import View

_BUTTONS = (
    ("choose", "choose part", "Enter"), ("insert", "insert", "I"), ("hang", "hang on", "H"),
    ("turn", "turn round", "R"), ("switch", "switch", "]"), ("state", "state power here", "P"),
    ("read", "read it, or not", "M"), ("decide", "decides", "D"), ("remove", "take out", "Del"),
)  # fmt: skip
NEW, OWN = "another hook-up…", "save as a template"


def _side_by_side(*rows: QHBoxLayout) -> Columns:
    """Rows beside each other, beneath each other where it is narrow."""
    made = Columns()
    made.setSpacing(12)
    for number, row in enumerate(rows):
        row.setSpacing(12)
        made.addLayout(row, number)
    return made


class HookUpStep(Step):
    """The line at full size, the headroom on it, and its levels."""

    where = "hook-up"
    notes_follow = True

    def __init__(self, session: Session, job: OpenJob, themes: ThemeHolder) -> None:
        super().__init__(session, job, themes, slim_line=False)
        self.shown = job.hookup_shown
        self.menu: QMenu | None = None
        self.chooser: PartChooser | None = None
        self.line: LineView
        self.line.asked.connect(self._on_asked)
        self.problem = label("", "problem", wrap=True)
        self.problem.hide()
        self.stairs = StaircaseView(themes)
        self.levels = Grid(LEVEL_HEADINGS, 0, "levels at each connector", grows=False)
        self.levels.setProperty("dense", True)  # ten columns
        self.form = Form(job.view.procedure.line_fields, label_width=90)
        self.form.field_typed.connect(self._on_field_typed)
        self.buttons: dict[str, QPushButton] = {}
        self.body.addLayout(self._bar())
        self.body.addWidget(self.line)
        self.body.addLayout(self._buttons())
        self.body.addWidget(self.problem)
        self.body.addWidget(self.stairs)
        self._add_tables()

    def _bar(self) -> Columns:
        """Which hook-up is shown, its name, and how to have another."""
        self.which = QComboBox()
        self.which.setAccessibleName("hook-up shown")
        self.which.textActivated.connect(self._on_chooser)
        self.name = LineEdit()
        self.name.setAccessibleName("name of this hook-up")
        self.name.setMinimumWidth(px(220))
        self.name.editingFinished.connect(self._on_named)
        self.another = button(NEW, "link", "another hook-up from a template")
        self.another.clicked.connect(self._offer_templates)
        self.away = button("remove this hook-up", "link", "take this hook-up away")
        self.away.clicked.connect(lambda: self._try(benchwork.without_hookup, "take away a hook-up", self.shown))
        first, second = QHBoxLayout(), QHBoxLayout()
        for field in (label("hook-up", "second"), self.which, self.name):
            first.addWidget(field)
        self.benches = button("another bench…", "link", "what this shelf can decide: choose another bench")
        self.benches.clicked.connect(self.bench_wanted)
        for link in (self.benches, self.another, self.away):
            second.addWidget(link)
        second.addStretch(1)
        return _side_by_side(first, second)

    def _buttons(self) -> Columns:
        rows = QHBoxLayout(), QHBoxLayout()
        for number, (what, text, key) in enumerate(_BUTTONS):
            made = button(f"{text}  {key}", "link", f"{text}: the selected part")
            made.clicked.connect(partial(self._on_button, what))
            self.buttons[what] = made
            rows[number // 5].addWidget(made)
        rows[1].addStretch(1)
        return _side_by_side(*rows)

    def _add_tables(self) -> None:
        self.levels.verticalHeader().setDefaultSectionSize(px(24))
        self.levels.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)  # as high as its rows
        self.body.addWidget(label("Levels at the highest planned power", "section"))
        self.body.addWidget(self.levels, 1)
        self.body.addWidget(label("Where power is stated", "section"))
        self.body.addWidget(self.form)

    # what is shown

    @property
    def hookup(self) -> HookUp:
        """The hook-up in front."""
        hookups = self.job.job.hookups
        return next((item for item in hookups if item.id == self.shown), self.job.job.bench)

    def notes(self, view: View) -> tuple[Note, ...]:
        if self.hookup.id == benchwork.read_hookup(view.job):
            return view.notes
        return judge_bench(view.job, self.hookup.id, view.as_of.date())

    def headline_text(self, view: View) -> str:
        return hookup_headline(view.job, judge_bench(view.job, self.hookup.id), self.hookup)

    def refresh(self) -> None:
        self.shown = self.job.hookup_shown = self.hookup.id
        super().refresh()
        job = self.job.job
        self._fill_bar(job)
        levels = planned_levels(job).get(self.shown)
        self.stairs.show_stairs(levels.stairs if levels else ())
        self.levels.fill(level_rows(job, self.shown))
        self.levels.fit_height()
        self.form.fill(self.job.view.procedure.draft(job))

    def _fill_bar(self, job: Job) -> None:
        labels = [item.label for item in job.hookups]
        if [self.which.itemText(n) for n in range(self.which.count())] != labels:
            self.which.clear()
            self.which.addItems(labels)
        self.which.setVisible(len(labels) > 1)
        self.which.setCurrentIndex([item.id for item in job.hookups].index(self.shown))
        if not (self.name.hasFocus() and self.name.isModified()):
            self.name.setText(self.hookup.label)
            self.name.setCursorPosition(0)
        self.away.setVisible(self.shown != benchwork.read_hookup(job))

    def enter(self) -> None:
        self.line.setFocus()

    # edits

    def _on_chooser(self, _: str) -> None:
        self.show_hookup(self.job.job.hookups[self.which.currentIndex()].id)

    def show_hookup(self, hookup_id: str) -> None:
        """Bring a hook-up to the front."""
        self.shown = hookup_id
        self.refresh()
        self.notes_moved.emit()

    def _on_named(self) -> None:
        if self.name.text().strip() != self.hookup.label:
            self._try(benchwork.with_hookup_label, "name of a hook-up", self.shown, self.name.text())

    def _on_button(self, what: str) -> None:
        self.line.setFocus()
        self._on_asked(what, self.line.selected_element)

    def _on_asked(self, what: str, element: str) -> None:
        """A key or a button asks something of a part on the line."""
        hookup = self.hookup
        edits: dict[str, Callable[[], None]] = {
            "choose": lambda: self._offer(
                f"in place of {self._label(element)}", element, self._for_choosing(element), benchwork.with_exchanged
            ),
            "insert": lambda: self._offer(
                f"insert behind {self._label(element)}", element, self._for_inserting(element), benchwork.with_inserted
            ),
            "hang": lambda: self._offer_hanging(element),
            "remove": lambda: self._try(benchwork.with_removed, "take out a part", hookup, element),
            "turn": lambda: self._try(benchwork.with_turned, "turn a part round", hookup, element),
            "state": lambda: self._try(benchwork.with_stated, "state power elsewhere", hookup, element),
            "read": lambda: self._try(benchwork.with_read, "what is read", hookup, element),
            "decide": lambda: self._try(benchwork.with_deciding, "which reference decides", hookup, element),
            "switch": lambda: self._try(benchwork.with_switched, "switch", hookup, element, 1),
            "switch back": lambda: self._try(benchwork.with_switched, "switch", hookup, element, -1),
        }
        if element:
            edits[what]()

    def _try(self, edit: Callable[..., Job], name: str, *values: object) -> None:
        """Do an edit, or say why it can't be done."""
        try:
            self.job.edit(replace(edit(self.job.job, *values), events=()), name)
        except FenmistError as error:
            self._say(str(error))
            return
        self._say("")

    def _say(self, text: str) -> None:
        set_text(self.problem, text)
        self.problem.setVisible(bool(text))

    # what is offered

    def _label(self, element: str) -> str:
        return self.job.job.part(self.hookup.element(element).part).label

    def _for_choosing(self, element: str) -> list[Part]:
        """Parts of the kind that stands there first; then whatever has the same ends."""
        here = self.job.job.part(self.hookup.element(element).part)
        ends = sum(not port.hangs for port in here.ports)
        feeds = here.kind in FEEDS
        fitting = [
            part
            for part in self.session.kit
            if sum(not port.hangs for port in part.ports) == ends
            and (part.kind in SOURCES) == (here.kind in SOURCES)
            and (part.kind in FEEDS) == feeds
        ]
        return sorted(fitting, key=lambda part: part.kind is not here.kind)

    def _for_inserting(self, element: str) -> list[Part]:
        at = benchwork.place_behind(self.job.job, self.hookup, element)
        return [part for part in self.session.kit if at and benchwork.fits_behind(self.hookup, at, part)]

    def _offer_hanging(self, element: str) -> None:
        try:
            free_side_port(self.hookup, self.job.job.parts, element)
        except FenmistError as error:
            self._say(str(error))
            return
        kit = [part for part in self.session.kit if part.kind not in SOURCES]
        self._offer(
            f"hang on {self._label(element)}",
            element,
            sorted(kit, key=lambda part: len(part.ports) > 2),
            benchwork.with_hung,
        )

    def _offer(self, title: str, element: str, parts: Sequence[Part], edit: Callable[..., Job]) -> None:
        """The parts that fit, beneath an element."""
        if not parts:
            self._say("Nothing in the kit fits here: add it there first.")
            return

        def take(part: Part) -> None:
            self._try(edit, f"plug in {part.label}", self.hookup, element, part)
            self.line.setFocus()

        self.chooser = PartChooser(self, title, parts, take)
        placed = next(item for item in self.line.placed() if item.element == element)
        at = (placed.box.bottomLeft() * font_scale()).toPoint() + QPoint(0, 4)
        self.chooser.pop_up(self.line.mapToGlobal(at))

    def _offer_templates(self) -> None:
        self.menu = self._fresh_menu()
        for name in self.session.template_names():
            action = QAction(name, self.menu)
            action.triggered.connect(lambda _=False, n=name: self._on_template(n))
            self.menu.addAction(action)
        self.menu.addSeparator()
        keep = QAction(OWN, self.menu)
        keep.triggered.connect(lambda: self.session.keep_template(self.hookup))
        self.menu.addAction(keep)
        self._pop_up(self.another.mapToGlobal(self.another.rect().bottomLeft()))

    def _fresh_menu(self) -> QMenu:
        if self.menu is not None:
            self.menu.deleteLater()
        return QMenu(self)

    def _pop_up(self, at: QPoint) -> None:
        if self.menu is not None:
            self.menu.popup(at)
            self.menu.setActiveAction(self.menu.actions()[0])

    def _on_template(self, name: str) -> None:
        try:
            made = self.session.from_template(name)
        except FenmistError as error:
            self._say(str(error))
            return
        self._try(benchwork.with_new_hookup, f"hook-up {name}", made)
        self.show_hookup(self.job.job.hookups[-1].id)

    def _on_field_typed(self, field_id: str, text: str) -> None:
        room, job = self.job.view.procedure, self.job.job
        made = room.from_draft(job, {**room.draft(job), field_id: text})
        if not isinstance(made, tuple):  # both fields are choices: nothing can be typed wrong
            self.job.edit(replace(made, events=()), field_id.replace("_", " "), merge=field_id)
