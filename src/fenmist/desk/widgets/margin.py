"""Notes in the margin: the three most severe, answered ones folded; each can be answered, by keyboard too."""

from collections.abc import Callable, Iterable, Mapping
from itertools import pairwise
from types import MappingProxyType

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QApplication, QFrame, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from fenmist.desk.theme import px
from fenmist.desk.widgets.labels import button, clear_layout, label
from fenmist.findings.note import Answer, Note, Severity
from fenmist.units.moment import day_of

MOST = 3
"""Notes shown before the rest is folded away."""

SHAPES = {Severity.STOP: "✕", Severity.DOUBT: "▲", Severity.WATCH: "●", Severity.GOOD_TO_KNOW: "○"}


class NoteView(QFrame):
    """One note; Enter or a click opens the field for an answer."""

    answered = Signal(object, str)

    def __init__(self, note: Note, answer: Answer | None) -> None:
        super().__init__()
        self.note = note
        self.answer = answer
        self.setProperty("role", "note")
        self.setProperty("severity", "answered" if answer else str(note.severity))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(f"{note.severity}: {note.what} {note.why} {note.remedy}")
        box = QVBoxLayout(self)
        box.setContentsMargins(12, 0, 4, 2)
        box.setSpacing(2)
        if answer:
            box.addWidget(label(f"{SHAPES[Severity.GOOD_TO_KNOW]} answered", "severity"))
            box.addWidget(label(note.what, "why", wrap=True))
            box.addWidget(label(f"“{answer.text}” {day_of(answer.at)}", "why", wrap=True))
        else:
            word = label(f"{SHAPES[note.severity]} {note.severity}", "severity")
            word.setProperty("severity", str(note.severity))
            box.addWidget(word)
            box.addWidget(label(note.what, "what", wrap=True))
            box.addWidget(label(note.why, "why", wrap=True))
            box.addWidget(label(note.remedy, "remedy", wrap=True))
        self.field = QLineEdit(answer.text if answer else "")
        self.field.setPlaceholderText("checked: correct")
        self.field.setAccessibleName("your answer")
        self.field.hide()
        self.field.returnPressed.connect(self._on_answered)
        box.addWidget(self.field)

    @property
    def is_open(self) -> bool:
        """Whether an answer is being typed."""
        return not self.field.isHidden()

    def open_field(self) -> None:
        """Show the field for an answer."""
        self.field.show()
        self.field.setFocus()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.open_field()
        elif event.key() == Qt.Key.Key_Escape and self.is_open:
            self.field.hide()
            self.setFocus()
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        super().mousePressEvent(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.open_field()
        super().mouseDoubleClickEvent(event)

    def _on_answered(self) -> None:
        self.answered.emit(self.note, self.field.text().strip() or "checked: correct")


class Margin(QFrame):
    """The right-hand margin."""

    def __init__(self, on_answer: Callable[[Note, str], None]) -> None:
        super().__init__()
        self.setObjectName("margin")
        self.setFixedWidth(px(268))
        self.setAccessibleName("notes")
        self._on_answer = on_answer
        self._notes: tuple[Note, ...] = ()
        self._answers: Mapping[str, Answer] = MappingProxyType({})
        self._shown: tuple[object, ...] = ()
        self._all = False
        self._views: list[NoteView] = []
        self._order: list[QWidget] = []  # in which Tab goes through
        self._body = QWidget()
        self._box = QVBoxLayout(self._body)
        self._box.setContentsMargins(18, 18, 14, 8)
        self._box.setSpacing(16)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(self._body)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(scroll)

    @property
    def views(self) -> tuple[NoteView, ...]:
        """The notes on show, from the top."""
        return tuple(self._views)

    def show_notes(self, notes: tuple[Note, ...], answers: Mapping[str, Answer]) -> None:
        """Show these notes; only what differs from what stands there is made anew."""
        self._notes, self._answers = notes, answers
        self._show()
        self._come_last()

    def _show(self) -> None:
        held = [(note, self._answers[note.key]) for note in self._notes if _holds(note, self._answers)]
        answered = {note.key for note, _ in held}
        openly = [note for note in self._notes if note.key not in answered]
        seen = openly if self._all else openly[:MOST]
        more = ("show fewer" if self._all else f"{len(openly) - MOST} more") if len(openly) > MOST else ""
        if (seen, held, more) == self._shown:
            return
        self._shown = seen, held, more
        focused = QApplication.focusWidget()  # a widget's own focusWidget() is where focus would go, not where it is
        had_focus = focused is not None and self._body.isAncestorOf(focused)
        former = self._views
        self._views = [self._view(former, note, answer) for note, answer in (*((note, None) for note in seen), *held)]
        clear_layout(self._box, keep=self._views)
        order: list[QWidget] = [*self._views]
        if more:
            link = button(more, "link", "show all notes")
            link.clicked.connect(self._toggle)
            order.insert(len(seen), link)
        for widget in order or [label("No remarks.", "second")]:
            self._box.addWidget(widget)
        self._box.addStretch(1)
        self._order = []
        for one in order:
            self._order += (one, one.field) if isinstance(one, NoteView) else (one,)
        if had_focus and not any(focused in (view, view.field) for view in self._views):
            was = next((view.note.key for view in former if focused in (view, view.field)), "")
            again = next((view for view in self._views if view.note.key == was and view.is_open), None)
            if again is not None:
                again.field.setFocus()
            else:
                self.focus_first()

    def focus_first(self) -> None:
        """Move the keyboard to the first note."""
        if self.views:
            self.views[0].setFocus()

    def _toggle(self) -> None:
        self._all = not self._all
        self._show()
        self._come_last()

    def _come_last(self) -> None:
        """Tab goes through the notes from the top, after all else of the window, also what was made since."""
        window = self.window()
        last = window.previousInFocusChain()
        while last is not None and last is not window and not last.focusPolicy() & Qt.FocusPolicy.TabFocus:
            last = last.previousInFocusChain()
        if last is not None and self._order and last is not self._order[-1]:
            for before, after in pairwise((last, *self._order)):
                self.setTabOrder(before, after)

    def _view(self, former: Iterable[NoteView], note: Note, answer: Answer | None) -> NoteView:
        """The view of a note that stands there already, else a new one with what was being typed at the former."""
        alike = [view for view in former if view.note.key == note.key and view.answer == answer]
        same = next((view for view in alike if view.note == note), None)
        if same is not None:
            return same
        made = NoteView(note, answer)
        made.answered.connect(self._on_answer)
        for view in alike:
            if view.is_open:
                made.field.setText(view.field.text())
                made.field.show()
        return made


def _holds(note: Note, answers: Mapping[str, Answer]) -> bool:
    answer = answers.get(note.key)
    return answer is not None and answer.holds_for(note)
