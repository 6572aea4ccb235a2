"""The window: the places at the top, the work in the middle, the keys that work here at the foot."""

from collections.abc import Callable
from functools import cached_property, partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QSettings, Qt
from PySide6.QtGui import QAction, QCloseEvent, QKeyEvent, QKeySequence
from PySide6.QtWidgets import QFrame, QHBoxLayout, QMainWindow, QMenu, QStackedWidget, QVBoxLayout, QWidget

from fenmist.desk.actions import ACTIONS, by_id, in_foot
from fenmist.desk.bench import READINGS, STEPS, Bench, NoJob
from fenmist.desk.places.logbook import LogbookPlace
from fenmist.desk.theme import THEMES, ThemeHolder
from fenmist.desk.widgets.labels import button, clear_layout, key_cap, label, set_text
from fenmist.reading.event import AS_FOUND, AS_LEFT
from fenmist.session.session import Session

if TYPE_CHECKING:
    from fenmist.desk.places.keys import KeysPlace
    from fenmist.desk.places.kit import KitPlace
    from fenmist.desk.places.tools import ToolsPlace

PLACES = ("bench", "tools", "kit", "logbook")


class Shell(QMainWindow):
    """The main window over one session."""

    def __init__(self, session: Session, themes: ThemeHolder, settings: QSettings) -> None:
        super().__init__()
        self.session, self.themes, self.settings = session, themes, settings
        self.bench: Bench | None = None
        self.setWindowTitle("Fenmist" + (" — DEMO" if session.is_demo else ""))
        self.resize(1280, 800)
        self.actions_by_id = {item.id: self._action(item.id) for item in ACTIONS if not item.key_only}

        self.stack = QStackedWidget()
        self.logbook = LogbookPlace(session)
        self.logbook.open_wanted.connect(self.open_job)
        self.logbook.new_wanted.connect(self.new_job)
        self.stack.addWidget(self.logbook)
        self._before_keys: QWidget | None = self.logbook

        ground = QWidget()
        ground.setObjectName("ground")
        box = QVBoxLayout(ground)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self._make_top())
        box.addWidget(self.stack, 1)
        box.addWidget(self._make_foot())
        self.setCentralWidget(ground)
        self._end_theme = themes.changed.listen(self._on_theme)
        self._restore()
        self.go("logbook" if session.has_jobs else "bench")

    # places, made when first shown: the window stands sooner

    @cached_property
    def no_job(self) -> NoJob:
        """The bench without a job."""
        made = NoJob()
        made.new_wanted.connect(self.new_job)
        self.stack.addWidget(made)
        return made

    @cached_property
    def tools(self) -> "ToolsPlace":
        """Power from volts."""
        from fenmist.desk.places.tools import ToolsPlace

        made = ToolsPlace(self.session, self.themes)
        made.job_wanted.connect(self._on_job_from_tool)
        self.stack.addWidget(made)
        return made

    @cached_property
    def kit(self) -> "KitPlace":
        """The equipment."""
        from fenmist.desk.places.kit import KitPlace

        made = KitPlace(self.session)
        self.stack.addWidget(made)
        return made

    @cached_property
    def keys(self) -> "KeysPlace":
        """The shortcut page."""
        from fenmist.desk.places.keys import KeysPlace

        made = KeysPlace()
        self.stack.addWidget(made)
        return made

    def _place(self, name: str) -> "Bench | NoJob | ToolsPlace | KitPlace | LogbookPlace":
        if name == "bench":
            return self.bench or self.no_job
        if name == "tools":
            return self.tools
        return self.kit if name == "kit" else self.logbook

    # parts of the window

    def _make_top(self) -> QFrame:
        top = QFrame()
        top.setObjectName("top")
        top.setFixedHeight(44)
        row = QHBoxLayout(top)
        row.setContentsMargins(20, 0, 16, 0)
        row.setSpacing(26)
        row.addWidget(label("Fenmist", "brand"))
        self.place_buttons = {}
        for name in PLACES:
            made = button(by_id(f"place.{name}").text, "place")
            made.setCheckable(True)
            made.clicked.connect(lambda _=False, n=name: self.go(n))
            self.place_buttons[name] = made
            row.addWidget(made)
        row.addStretch(1)
        if self.session.is_demo:
            row.addWidget(label("DEMO", "demo", "this is the demonstration"))
        self.about = label("", "second")
        row.addWidget(self.about)
        self.more = button("menu", "link", "all actions")
        self.more.setMinimumWidth(46)
        self.more.setMenu(self._make_menu())
        row.addWidget(self.more)
        return top

    def _make_menu(self) -> QMenu:
        menu = QMenu(self)
        for action in self.actions_by_id.values():
            menu.addAction(action)
        return menu

    def _make_foot(self) -> QFrame:
        foot = QFrame()
        foot.setObjectName("foot")
        foot.setFixedHeight(40)
        row = QHBoxLayout(foot)
        row.setContentsMargins(20, 0, 20, 0)
        self._foot_keys = QHBoxLayout()
        self._foot_keys.setSpacing(6)
        row.addLayout(self._foot_keys)
        row.addStretch(1)
        self.trouble = label("", "problem", "what went wrong")
        self.trouble.hide()
        self.kept = label("", "second", "what is kept")
        row.addWidget(self.trouble)
        row.addWidget(self.kept)
        return foot

    def _action(self, action_id: str) -> QAction:
        item = by_id(action_id)
        action = QAction(item.text, self)
        action.setShortcut(QKeySequence(item.shortcut))
        action.setToolTip(item.tip or item.text)
        handler = self._handlers()[action_id]
        action.triggered.connect(lambda _=False: handler())
        self.addAction(action)
        return action

    def _handlers(self) -> dict[str, Callable[[], object]]:
        return {
            **{f"place.{name}": partial(self.go, name) for name in PLACES},
            **{f"step.{name}": partial(self.go_step, number) for number, (name, _) in enumerate(STEPS)},
            "job.new": self.new_job,
            "edit.undo": lambda: self._with_bench(lambda bench: bench.job.undo()),
            "edit.redo": lambda: self._with_bench(lambda bench: bench.job.redo()),
            "view.theme": self.themes.toggle,
            "view.notes": self._focus_notes,
            "view.keys": self.toggle_keys,
            "certificate.write": self._write_certificate,
            "entry.capture": self._open_capture,
            "phase.switch": self._switch_phase,
            "app.quit": self.close,
        }

    # commands

    def go(self, place: str) -> None:
        """Bring a place to the front."""
        widget = self._place(place)
        self._show(widget)
        for name, made in self.place_buttons.items():
            made.setChecked(name == place)
        widget.enter()

    def go_step(self, number: int) -> None:
        """Bring a step of the job to the front."""
        if self.bench is not None:
            self.go("bench")
            self.bench.go(number)

    def new_job(self) -> None:
        """Begin a job and put it on the bench."""
        self.session.new_job("New job")
        self._put_on_bench(0)

    def open_job(self, job_id: str) -> None:
        """Put a job on the bench."""
        self.session.open(job_id)
        self._put_on_bench(None)

    def _on_job_from_tool(self) -> None:
        """A tool put its answer into a job: show where it went."""
        if self.bench is None or self.bench.job is not self.session.open_job:
            self._put_on_bench(READINGS)
        else:
            self.go_step(READINGS)

    def toggle_keys(self) -> None:
        """Show the shortcut page, or go back from it."""
        if self.stack.currentWidget() is self.keys:
            self._show(self._before_keys or self.logbook)
        else:
            self._before_keys = self.stack.currentWidget()
            self._show(self.keys)

    def _put_on_bench(self, step: int | None) -> None:
        if self.bench is not None:
            self.bench.end()
            self.stack.removeWidget(self.bench)
            self.bench.deleteLater()
        job = self.session.open_job
        if job is None:
            return
        self.bench = Bench(self.session, job, self.themes)
        self.bench.step_changed.connect(self._refresh_frame)
        job.changed.listen(self._refresh_frame)
        self.stack.addWidget(self.bench)
        self.go("bench")
        if step is not None:
            self.bench.go(step)

    def _with_bench(self, what: Callable[[Bench], None]) -> None:
        if self.bench is not None and self.stack.currentWidget() is self.bench:
            what(self.bench)

    def _focus_notes(self) -> None:
        margin = getattr(self.stack.currentWidget(), "margin", None)
        if margin is not None:
            margin.focus_first()

    def _write_certificate(self) -> None:
        def write(bench: Bench) -> None:
            bench.go(len(STEPS) - 1)
            bench.step.write()

        self._with_bench(write)

    def _open_capture(self) -> None:
        def show(bench: Bench) -> None:
            bench.go(READINGS)
            bench.step.open_capture()

        self._with_bench(show)

    def _switch_phase(self) -> None:
        def switch(bench: Bench) -> None:
            job = bench.job
            if job.job.is_adjusted:
                job.show_phase(AS_FOUND if job.view.phase == AS_LEFT else AS_LEFT)
            elif job.view.found.points:
                job.begin_as_left()

        self._with_bench(switch)

    def say(self, text: str) -> None:
        """Show in the foot what went wrong, until the next thing is kept."""
        set_text(self.trouble, f"✕ {text}")
        self.trouble.setToolTip(text)
        self.trouble.show()

    # the frame

    def _show(self, widget: QWidget) -> None:
        self.stack.setCurrentWidget(widget)
        self._refresh_frame()

    def _refresh_frame(self) -> None:
        widget = self.stack.currentWidget()
        where = widget.step.where if isinstance(widget, Bench) else getattr(widget, "where", "")
        self._fill_foot(where)
        if self.bench is None:
            set_text(self.about, self.session.workshop)
            set_text(self.kept, "")
            return
        self.trouble.hide()
        job = self.bench.job
        words = (job.job.dut_part.label, job.view.phase, self.session.workshop)
        set_text(self.about, "  ·  ".join(word for word in words if word))
        count = job.entries_on_disk
        set_text(self.kept, f"{count} {'entry' if count == 1 else 'entries'} on disk" if count else "kept")
        undo, redo = self.actions_by_id["edit.undo"], self.actions_by_id["edit.redo"]
        undo.setText(f"undo {job.undo_label}".strip())
        undo.setEnabled(bool(job.undo_label))
        redo.setText(f"redo {job.redo_label}".strip())
        redo.setEnabled(bool(job.redo_label))

    def _fill_foot(self, where: str) -> None:
        if getattr(self, "_foot_where", None) == where:
            return
        self._foot_where = where
        clear_layout(self._foot_keys)
        for action in (*in_foot(where), by_id("view.keys")):
            self._foot_keys.addWidget(key_cap(action.shortcut))
            self._foot_keys.addWidget(label(f"{action.text}   ", "second"))

    def _on_theme(self) -> None:
        self.settings.setValue("theme", self.themes.theme.name)
        self._with_bench(lambda bench: bench.step.refresh())
        for widget in self.findChildren(QWidget):
            widget.update()

    # state of the window

    def _restore(self) -> None:
        geometry = self.settings.value("geometry")
        if geometry is not None:
            self.restoreGeometry(geometry)
        theme = THEMES.get(str(self.settings.value("theme", "")))
        if theme is not None and theme is not self.themes.theme:
            self.themes.use(theme)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self.stack.currentWidget() is self.keys:
            self.toggle_keys()
        else:
            super().keyPressEvent(event)

    def closeEvent(self, event: QCloseEvent) -> None:
        self.settings.setValue("geometry", self.saveGeometry())
        if self.bench is not None:
            self.bench.end()
        self._end_theme()
        super().closeEvent(event)
