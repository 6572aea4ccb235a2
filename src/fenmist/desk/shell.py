"""The window: the places at the top, the work in the middle, the keys that work here at the foot."""

import sys
from collections.abc import Callable
from contextlib import suppress
from functools import cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QByteArray, QProcess, QSettings, Qt
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QKeySequence, QResizeEvent
from PySide6.QtWidgets import (
    QApplication,
    QFrame,
    QHBoxLayout,
    QMainWindow,
    QMenu,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from fenmist.desk.actions import ACTIONS, by_id, in_foot
from fenmist.desk.bench import READINGS, STEPS, Bench, NoJob
from fenmist.desk.keypad import keep_keypad, keypad_from
from fenmist.desk.listening import listen_while_alive
from fenmist.desk.places.logbook import LogbookPlace
from fenmist.desk.theme import SCALES, THEMES, ThemeHolder, px
from fenmist.desk.widgets.labels import button, clear_layout, key_cap, label, set_text
from fenmist.desk.widgets.pages import Pages
from fenmist.errors import FenmistError
from fenmist.reading.event import AS_FOUND, AS_LEFT
from fenmist.session.commands import Commands
from fenmist.session.place import Place
from fenmist.session.session import Session
from fenmist.session.workable import working_out

if TYPE_CHECKING:
    from fenmist.desk.places.first import FirstPage
    from fenmist.desk.places.keys import KeysPlace
    from fenmist.desk.places.kit import KitPlace
    from fenmist.desk.places.tools import ToolsPlace

PLACES = ("bench", "tools", "kit", "logbook")
CAPTURES = (".csv", ".txt", ".tsv", ".npy", ".npz")
TOUCHSTONES, TABLES = (".s1p", ".s2p", ".s3p"), (".csv", ".tsv", ".txt")
PICTURES = (".png", ".jpg", ".jpeg", ".bmp", ".webp")


class Shell(QMainWindow):
    """The main window over one session."""

    def __init__(self, session: Session, themes: ThemeHolder, settings: QSettings) -> None:
        super().__init__()
        self.session, self.themes, self.settings = session, themes, settings
        self.bench: Bench | None = None
        self.setWindowTitle("Fenmist" + (" — DEMO" if session.is_demo else ""))
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        self.actions_by_id = {item.id: self._action(item.id) for item in ACTIONS if not item.key_only}
        self._restore()
        self._build()
        listen_while_alive(self, themes.changed, self._on_theme)
        listen_while_alive(self, themes.resized, self._rebuild)
        listen_while_alive(self, session.changed, self._refresh_frame)
        self._begin()

    def _build(self) -> None:
        """The frame and the first place; the others are made when first shown: the window stands sooner."""
        self.stack = Pages()
        self.logbook = LogbookPlace(self.session)
        self.logbook.open_wanted.connect(self.open_job)
        self.logbook.new_wanted.connect(self.new_job)
        self.stack.add(self.logbook)
        self._before_page: QWidget = self.logbook
        self._foot_where: str | None = None
        ground = QWidget()
        ground.setObjectName("ground")
        box = QVBoxLayout(ground)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self._make_top())
        box.addWidget(self.stack, 1)
        self.trouble = label("", "trouble", "what went wrong", wrap=True)
        self.trouble.hide()
        box.addWidget(self.trouble)
        box.addWidget(self._make_foot())
        self.setCentralWidget(ground)

    def _begin(self) -> None:
        """Where the work was left, else the list, else the first page; what the opening found is said."""
        self._go_on()
        if self.session.said_on_open and self.stack.page is not self.logbook:
            self.say(self.session.said_on_open)

    def _go_on(self) -> None:
        place = self.session.remembered()
        if place is not None and self._on_bench(place.job, place):
            return
        if self.session.is_new:
            self.show_settings()
        else:
            self.go("logbook" if self.session.has_jobs else "bench")

    # places

    @cached_property
    def no_job(self) -> NoJob:
        """The bench without a job."""
        made = NoJob()
        made.new_wanted.connect(self.new_job)
        self.stack.add(made)
        return made

    @cached_property
    def tools(self) -> "ToolsPlace":
        """Power from volts."""
        from fenmist.desk.places.tools import ToolsPlace

        made = ToolsPlace(self.session, self.themes)
        made.job_wanted.connect(self._on_job_from_tool)
        self.stack.add(made)
        return made

    @cached_property
    def kit(self) -> "KitPlace":
        """The equipment."""
        from fenmist.desk.places.kit import KitPlace

        made = KitPlace(self.session, self.themes)
        made.open_wanted.connect(self.open_job)
        self.stack.add(made)
        return made

    @cached_property
    def keys(self) -> "KeysPlace":
        """The shortcut page."""
        from fenmist.desk.places.keys import KeysPlace

        made = KeysPlace(self.themes)
        made.keypad_changed.connect(self._on_keypad)
        self.stack.add(made)
        return made

    @cached_property
    def first(self) -> "FirstPage":
        """The page of the first run, and of the workshop's settings later."""
        from fenmist.desk.places.first import FirstPage

        made = FirstPage(self.session)
        made.new_wanted.connect(self.new_job)
        made.demo_wanted.connect(self.open_demo)
        made.file_wanted.connect(self.show_take_in)
        self.stack.add(made)
        return made

    _MADE_LATER = ("no_job", "tools", "kit", "keys", "first")

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
        top.setFixedHeight(px(44))
        top.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        row = QHBoxLayout(top)
        row.setContentsMargins(px(20), 0, px(16), 0)
        row.setSpacing(px(26))
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
        self.more.setMinimumWidth(px(46))
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
        foot.setFixedHeight(px(40))
        foot.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        row = QHBoxLayout(foot)
        row.setContentsMargins(px(20), 0, px(20), 0)
        self._foot_keys = QHBoxLayout()
        self._foot_keys.setSpacing(6)
        row.addLayout(self._foot_keys)
        row.addStretch(1)
        self.kept = label("", "second", "what is kept")
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
            "job.take_in": self.show_take_in,
            "edit.undo": self.undo,
            "edit.redo": self.redo,
            "view.theme": self.themes.toggle,
            "view.arm": lambda: self.themes.resize(self.themes.scale, not self.themes.arms_length),
            "view.larger": partial(self._resize, 1),
            "view.smaller": partial(self._resize, -1),
            "view.usual": lambda: self.themes.resize(1.0, self.themes.arms_length),
            "view.notes": self._focus_notes,
            "view.keys": self.toggle_keys,
            "app.settings": self.show_settings,
            "certificate.write": self._write_certificate,
            "entry.capture": self._open_capture,
            "chart.save": self._save_drawing,
            "phase.switch": self._switch_phase,
            "readings.tear": lambda: self._with_bench(lambda b: b.tear_off(list(self.actions_by_id.values()))),
            "readings.series": self._toggle_series,
            "readings.paper": self._toggle_paper,
            "list.search": self._search,
            "app.quit": self.close,
        }

    # commands

    def go(self, place: str) -> None:
        """Bring a place to the front."""
        widget = self._place(place)
        self._show(widget)
        widget.enter()

    def go_step(self, number: int) -> None:
        """Bring a step of the job to the front."""
        if self.bench is not None:
            self.go("bench")
            self.bench.go(number)

    def undo(self) -> None:
        """Take back the last command on the job on the bench, or the last edit of the equipment."""
        here = self._undoable()
        if here is not None:
            here.undo()

    def redo(self) -> None:
        """Do again what was taken back last."""
        here = self._undoable()
        if here is not None:
            here.redo()

    def new_job(self) -> None:
        """Begin a job and put it on the bench."""
        self.session.new_job("New job")
        self._put_on_bench(0)

    def open_job(self, job_id: str) -> None:
        """Put a job on the bench; where it can't be worked out, say why."""
        self._on_bench(job_id)

    def _on_bench(self, job_id: str, place: Place | None = None) -> bool:
        """Put a job on the bench, at a place where one was left; false where nothing comes of it, and that is said."""
        try:
            job = self.session.open(job_id)
            with working_out(job.job.title):
                self._put_on_bench(None)
                if self.bench is not None and place is not None:
                    self.bench.resume(place)
        except FenmistError as error:
            with suppress(FenmistError), working_out(job_id):
                self._take_off_bench()
            self.bench = None
            self.session.put_away()
            self.go("logbook")
            self.say(str(error))
            return False
        return True

    def open_demo(self) -> None:
        """Open the demonstration in a window of its own: its logbook is another one."""
        QProcess.startDetached(sys.executable, ["-m", "fenmist", "--demo"])

    def show_settings(self) -> None:
        """The page of the first run: workshop, paper, numbering."""
        self._show_page(self.first)
        self.first.enter()

    def show_take_in(self) -> None:
        """Ask in the logbook for the file of a job."""
        self.go("logbook")
        self.logbook.path.setFocus()

    def take_file(self, path: Path) -> None:
        """Take what was dropped: a job, a capture, a photo, a logbook."""
        name = path.name.lower()
        if name.endswith(".json"):
            self.go("logbook")
            self.logbook.take_in(path)
        elif name.endswith(".fenlog"):
            QProcess.startDetached(sys.executable, ["-m", "fenmist", str(path)])
        elif name.endswith(PICTURES) and self.bench is not None:
            self.go_step(0)
            self.bench.step.take_photo(path)
        elif name.endswith(TOUCHSTONES) or (name.endswith(TABLES) and self.stack.page is self.__dict__.get("kit")):
            self.go("kit")
            self.kit.open_table(path)
        elif name.endswith(CAPTURES) and self.bench is not None:
            self.go_step(READINGS)
            self.bench.step.open_capture(path)
        else:
            self.say(f"{path.name} can't be taken here. A job's .json, a .fenlog, a capture or a photo can.")

    def _on_job_from_tool(self) -> None:
        """A tool put its answer into a job: show where it went."""
        if self.bench is None or self.bench.job is not self.session.open_job:
            self._put_on_bench(READINGS)
        else:
            self.go_step(READINGS)

    def toggle_keys(self) -> None:
        """Show the shortcut page, or go back from it."""
        if self.stack.page is self.keys:
            self._show(self._before_page)
        else:
            self._show_page(self.keys)

    def _show_page(self, page: QWidget) -> None:
        here = self.stack.page
        if here is not page and here is not None:
            self._before_page = here
        self._show(page)

    def _put_on_bench(self, step: int | None) -> None:
        self._take_off_bench()
        job = self.session.open_job
        if job is None:
            return
        self.bench = Bench(self.session, job, self.themes)
        self.bench.step_changed.connect(self._refresh_frame)
        listen_while_alive(self.bench, job.changed, self._refresh_frame)
        self.stack.add(self.bench)
        self.go("bench")
        if step is not None:
            self.bench.go(step)

    def _take_off_bench(self) -> None:
        if self.bench is not None:
            self.bench.end()
            self.stack.drop(self.bench)
            self.bench = None

    def _undoable(self) -> Commands | None:
        """What undo means here: the job on the bench, the equipment in the kit."""
        here = self.stack.page
        if self.bench is not None and here is self.bench:
            return self.bench.job.commands
        return self.session.commands if here in (self.__dict__.get("kit"), self.__dict__.get("first")) else None

    def _with_bench(self, what: Callable[[Bench], None]) -> None:
        if self.bench is not None and self.stack.page is self.bench:
            what(self.bench)

    def _focus_notes(self) -> None:
        here = self.stack.page
        if isinstance(here, Bench) and not here.margin.isVisible():
            here.show_margin()
            return
        margin = getattr(here, "margin", None)
        if margin is not None:
            margin.focus_first()

    def _search(self) -> None:
        self.go("logbook")
        self.logbook.search.setFocus()

    def _write_certificate(self) -> None:
        def write(bench: Bench) -> None:
            bench.go(len(STEPS) - 1)
            bench.step.write()

        self._with_bench(write)

    def _toggle_series(self) -> None:
        def toggle(bench: Bench) -> None:
            bench.go(READINGS)
            bench.step.toggle_series()

        self._with_bench(toggle)

    def _toggle_paper(self) -> None:
        """What is typed from now on was written on paper, at a time that nobody knows; again: it is read here."""

        def toggle(bench: Bench) -> None:
            bench.job.from_paper = not bench.job.from_paper
            bench.go(READINGS)

        self._with_bench(toggle)

    def _open_capture(self) -> None:
        def show(bench: Bench) -> None:
            bench.go(READINGS)
            bench.step.open_capture()

        self._with_bench(show)

    def _save_drawing(self) -> None:
        """The drawing in front of a step or of the tool, as SVG and as PNG in the home folder; said in the foot."""
        from fenmist.desk.widgets.picture import save_drawing
        from fenmist.session.paper import suggested_path

        here = self.stack.page
        if isinstance(here, Bench) and here.step.drawing is not None:
            name, widget = here.step.drawing
            path = suggested_path(here.job.job, f" {name}")
        elif here is self.__dict__.get("tools"):
            widget, path = self.tools.steps, Path.home() / "Power from volts, corrections"
        else:
            return
        self._try(lambda: self.tell(save_drawing(widget, path)))

    def tell(self, text: str) -> None:
        """Say in the foot what was done."""
        set_text(self.kept, text)

    def _switch_phase(self) -> None:
        def switch(bench: Bench) -> None:
            job = bench.job
            if job.job.is_adjusted:
                job.show_phase(AS_FOUND if job.view.phase == AS_LEFT else AS_LEFT)
            elif job.view.found.points:
                job.begin_as_left()

        self._with_bench(switch)

    def say(self, text: str) -> None:
        """Show above the foot what went wrong, until the next thing is kept."""
        set_text(self.trouble, f"✕ {text}")
        self.trouble.setToolTip(text)
        self.trouble.show()

    # the frame

    def _show(self, widget: QWidget) -> None:
        self.stack.show_page(widget)
        for name, made in self.place_buttons.items():
            made.setChecked(self._is_made(name) and self._place(name) is widget)
        self._refresh_frame()

    def _refresh_frame(self) -> None:
        widget = self.stack.page
        where = widget.step.where if isinstance(widget, Bench) else getattr(widget, "where", "")
        self._fill_foot(where)
        undoable = self._undoable()
        undo, redo = self.actions_by_id["edit.undo"], self.actions_by_id["edit.redo"]
        for action, text, name in ((undo, "undo", "undo_label"), (redo, "redo", "redo_label")):
            said = getattr(undoable, name, "")
            action.setText(f"{text} {said}".strip())
            action.setEnabled(bool(said))
        if self.bench is None:
            set_text(self.about, self.session.workshop)
            set_text(self.kept, "")
            return
        job = self.bench.job
        self.trouble.hide()
        if job.trouble:
            self.say(job.trouble)
        words = (job.job.dut_part.label, job.view.phase, self.session.workshop)
        set_text(self.about, "  ·  ".join(word for word in words if word))
        count = job.entries_on_disk
        waiting = sum(len(item.events) for item in self.session.second.waiting()) if job.trouble else 0
        kept = f"{count} {'entry' if count == 1 else 'entries'} on disk" if count else "kept"
        set_text(self.kept, f"{waiting} waiting" if waiting else kept)

    def _fill_foot(self, where: str) -> None:
        if self._foot_where == where:
            return
        self._foot_where = where
        clear_layout(self._foot_keys)
        room = self.width() - px(240)
        for action in (by_id("view.keys"), *in_foot(where)):
            made = (key_cap(action.shortcut), label(f"{action.text}   ", "second"))
            for item in made:
                item.ensurePolished()  # else its size is that of another font
            room -= sum(item.sizeHint().width() + 6 for item in made)
            if room < 0:
                break  # the rest stands on the page of all keys
            for item in made:
                self._foot_keys.addWidget(item)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        where, self._foot_where = self._foot_where, None
        if where is not None:
            self._fill_foot(where)
        self.about.setVisible(self.width() >= px(900))

    # look

    def _on_theme(self) -> None:
        self.settings.setValue("theme", self.themes.theme.name)
        self._with_bench(lambda bench: bench.step.refresh())
        for widget in self.findChildren(QWidget):
            widget.update()

    def _resize(self, by: int) -> None:
        here = min(range(len(SCALES)), key=lambda n: abs(SCALES[n] - self.themes.scale))
        self.themes.resize(SCALES[min(max(here + by, 0), len(SCALES) - 1)], self.themes.arms_length)

    def _on_keypad(self) -> None:
        keep_keypad(self.settings, self.themes.keypad)
        if self.bench is not None:
            self._rebuild(keep_page=True)

    def _rebuild(self, keep_page: bool = False) -> None:
        """Make everything anew at another size; job, step and place stay."""
        self.settings.setValue("scale", self.themes.scale)
        self.settings.setValue("arms_length", self.themes.arms_length)
        here = self.stack.page
        place = next((n for n in PLACES if self._is_made(n) and self._place(n) is here), "logbook")
        step = self.bench.number if self.bench is not None else None
        on_page = here is self.__dict__.get("keys")
        self._take_off_bench()
        self.logbook.closing()
        for name in self._MADE_LATER:
            self.__dict__.pop(name, None)
        self._build()
        if step is not None:
            self._put_on_bench(step)
        self.go(place)
        if on_page and keep_page:
            self.toggle_keys()

    def _is_made(self, name: str) -> bool:
        if name == "bench":
            return self.bench is not None or "no_job" in self.__dict__
        return name in self.__dict__

    # state of the window

    def _restore(self) -> None:
        geometry = self.settings.value("geometry")
        if isinstance(geometry, QByteArray):
            self.restoreGeometry(geometry)
        self.themes.keypad = keypad_from(self.settings)
        stated = str(self.settings.value("scale", 1.0))
        scale = next((size for size in SCALES if stated == str(size)), 1.0)
        arms_length = str(self.settings.value("arms_length", "false")).lower() == "true"
        if (scale, arms_length) != (self.themes.scale, self.themes.arms_length):
            self.themes.resize(scale, arms_length)
        theme = THEMES.get(str(self.settings.value("theme", "")))
        if theme is not None and theme is not self.themes.theme:
            self.themes.use(theme)

    def raise_it(self) -> None:
        """Come to the front: another start asked for this logbook."""
        self.setWindowState(self.windowState() & ~Qt.WindowState.WindowMinimized)
        self.raise_()
        self.activateWindow()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        pages = (self.__dict__.get("keys"), self.__dict__.get("first"))
        if event.key() == Qt.Key.Key_Escape and self.stack.page in pages:
            self._show(self._before_page)
        else:
            super().keyPressEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        event.acceptProposedAction()
        for url in event.mimeData().urls():
            if url.isLocalFile():
                self._try(partial(self.take_file, Path(url.toLocalFile())))

    def _try(self, what: Callable[[], object]) -> None:
        try:
            what()
        except FenmistError as error:
            self.say(str(error))

    def closeEvent(self, event: QCloseEvent) -> None:
        self.settings.setValue("geometry", self.saveGeometry())
        if self.bench is not None:
            self.bench.end()
        self.logbook.closing()
        super().closeEvent(event)
        QApplication.closeAllWindows() if QApplication.activeWindow() is self else None
