"""The window: the places at the top, the work in the middle, the keys that work here at the foot."""

import sys
from collections.abc import Callable, Mapping
from contextlib import suppress
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import QByteArray, QProcess, QSettings, Qt
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QKeySequence, QResizeEvent
from PySide6.QtWidgets import (
    QApplication,
    QMainWindow,
    QMenu,
    QVBoxLayout,
    QWidget,
)

from fenmist.desk.actions import ACTIONS, Action
from fenmist.desk.dropping import EVERYTHING, take_dropped
from fenmist.desk.filing import Files, Opening
from fenmist.desk.frame import PLACES, Foot, Top
from fenmist.desk.keypad import keep_keypad, keypad_from
from fenmist.desk.listening import listen_while_alive
from fenmist.desk.places.table import Place as Page
from fenmist.desk.places.table import Places
from fenmist.desk.stepnumbers import ADJUST, HOOKUP, READINGS, STEPS
from fenmist.desk.theme import SCALES, THEMES, ThemeHolder, px
from fenmist.desk.widgets.labels import label, set_text
from fenmist.desk.widgets.pages import Pages
from fenmist.errors import FenmistError
from fenmist.reading.event import AS_FOUND, AS_LEFT, Slot
from fenmist.session.commands import Commands
from fenmist.session.place import Place
from fenmist.session.session import Session
from fenmist.session.workable import working_out

if TYPE_CHECKING:
    from fenmist.desk.bench import Bench
    from fenmist.desk.places.begin import BeginPage
    from fenmist.desk.places.first import FirstPage
    from fenmist.desk.places.kit import KitPlace
    from fenmist.desk.places.logbook import LogbookPlace
    from fenmist.desk.places.tools import ToolsPlace
    from fenmist.desk.printing import PrintJob
    from fenmist.desk.widgets.dials_strip import DialsStrip, Shown
    from fenmist.desk.wiring import Wiring
    from fenmist.kit.part import Part
    from fenmist.session.openjob import OpenJob


class Shell(QMainWindow):
    """The main window over one session."""

    def __init__(self, session: Session, themes: ThemeHolder, settings: QSettings) -> None:
        super().__init__()
        self.session, self.themes, self.settings = session, themes, settings
        self.bench: Bench | None = None
        self.print_job: PrintJob | None = None
        self._wiring: Wiring | None = None
        self.setWindowTitle("Fenmist" + (" — DEMO" if session.is_demo else ""))
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        handlers = self._handlers()
        self.actions_by_id = {item.id: self._action(item, handlers[item.id]) for item in ACTIONS if not item.key_only}
        self._restore()
        self._build()
        listen_while_alive(self, themes.changed, self._on_theme)
        listen_while_alive(self, themes.resized, self._rebuild)
        listen_while_alive(self, session.changed, self._refresh_frame)
        self._begin()

    def _build(self) -> None:
        """The frame and the first place; the others are made when first shown: the window stands sooner."""
        self.stack = Pages()
        self.places = Places(self)
        self._before_page: QWidget | None = None  # until another was shown, the logbook
        menu = QMenu(self)
        menu.addActions(list(self.actions_by_id.values()))
        self.top, self.foot = Top(self.go, menu, self.session.is_demo), Foot()
        ground = QWidget()
        ground.setObjectName("ground")
        box = QVBoxLayout(ground)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self.top)
        box.addWidget(self.stack, 1)
        self.below = QVBoxLayout()
        self.dials: DialsStrip | None = None  # of a simulated bench
        box.addLayout(self.below)
        self.trouble = label("", "trouble", "what went wrong", wrap=True)
        self.trouble.hide()
        box.addWidget(self.trouble)
        box.addWidget(self.foot)
        self.setCentralWidget(ground)

    def _begin(self) -> None:
        """Where the work was left, else the list, else the first page; what the opening found is said."""
        self._go_on()
        if self.session.said_on_open and self.here != "logbook":
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

    @property
    def tools(self) -> "ToolsPlace":
        """The tools."""
        return cast("ToolsPlace", self.places["tools"])

    @property
    def kit(self) -> "KitPlace":
        """The equipment."""
        return cast("KitPlace", self.places["kit"])

    @property
    def logbook(self) -> "LogbookPlace":
        """The list of jobs."""
        return cast("LogbookPlace", self.places["logbook"])

    @property
    def first(self) -> "FirstPage":
        """The page of the first run, and of the workshop's settings later."""
        return cast("FirstPage", self.places["first"])

    def _place(self, name: str) -> QWidget:
        """A place by the name on its button."""
        return self.places[name] if name != "bench" else self.bench or self.places["no job"]

    @property
    def here(self) -> str:
        """The place or page in front, by name."""
        name = self.places.name_of(self.stack.page)
        return "bench" if not name or name == "no job" else name

    # actions

    def _action(self, item: Action, handler: Callable[[], object]) -> QAction:
        action = QAction(item.text, self)
        action.setShortcut(QKeySequence(item.shortcut))
        action.setToolTip(item.tip or item.text)
        action.triggered.connect(lambda _=False: handler())
        self.addAction(action)
        return action

    def _handlers(self) -> dict[str, Callable[[], object]]:
        return {
            **{f"place.{name}": partial(self.go, name) for name in PLACES},
            **{f"step.{name}": partial(self.go_step, number) for number, (name, _) in enumerate(STEPS)},
            "job.new": self.new_job,
            "job.take_in": self.show_take_in,
            "job.bench": self.another_bench,
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
            "entry.capture": self._open_capture,
            "file.open": self._ask_to_open,
            "file.save": self._ask_to_save,
            "file.print": self._ask_to_print,
            "phase.switch": self._switch_phase,
            "readings.tear": lambda: self._with_bench(lambda b: b.tear_off(list(self.actions_by_id.values()))),
            "readings.series": self._toggle_series,
            "wire.run": self._toggle_run,
            "adjust.panel": self._next_panel,
            "readings.paper": self._toggle_paper,
            "tool.next_one": partial(self._next_tool, 1),
            "tool.former": partial(self._next_tool, -1),
            "list.search": self._search,
            "app.quit": self.close,
        }

    # commands

    def go(self, place: str) -> None:
        """Bring a place to the front."""
        widget = self._place(place)
        self._show(widget)
        cast(Page, widget).enter()

    def go_step(self, number: int) -> None:
        """Bring a step of the job to the front."""
        if self.bench is not None and self.bench.offers(number):
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
        """Ask what is to be known, of what, and on which bench."""
        self._begin_on(None)

    def another_bench(self) -> None:
        """Choose another bench for the job in hand."""
        self._with_bench(lambda bench: self._begin_on(bench.job))

    def ask(self, question: str) -> None:
        """Begin a job on a question."""
        self._begin_on(None, question)

    def _begin_on(self, job: "OpenJob | None", question: str = "") -> None:
        page = cast("BeginPage", self.places["begin"])
        page.open(job, question)
        self._show_page(page)
        page.enter()

    def show_begun(self) -> None:
        """A job was begun: it goes on the bench."""
        self._put_on_bench(0)

    def show_moved(self) -> None:
        """The job in hand stands on another bench: show it."""
        self.go_step(HOOKUP)

    def open_job(self, job_id: str) -> None:
        """Put a job on the bench; where it can't be worked out, say why."""
        self._on_bench(job_id)

    def _on_bench(self, job_id: str, place: Place | None = None) -> bool:
        """Put a job on the bench, at a place where one was left; false where nothing comes of it, and that is said."""
        try:
            job = self.session.open(job_id)
            with working_out(job.job.title):
                step = place.step if place is not None and 0 <= place.step < len(STEPS) else None
                self._put_on_bench(step)
                if self.bench is not None and place is not None:
                    self.bench.resume(place)
        except FenmistError as error:
            self._give_up(str(error))
            return False
        return True

    def _give_up(self, why: str) -> None:
        """The job on the bench can't be worked out: back to the list, with a sentence that says so."""
        with suppress(FenmistError), working_out("this job"):
            self._take_off_bench()
        self.bench = None
        self.session.put_away()
        self.go("logbook")
        self.say(why)

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
        """Take what was dropped: a job, a capture, a photo, a table, a logbook."""
        take_dropped(self, path)

    def show_job_of_tool(self) -> None:
        """A tool put its answer into a job: show where it went."""
        if self.bench is None or self.bench.job is not self.session.open_job:
            self._put_on_bench(READINGS)
        else:
            self.go_step(READINGS)

    def toggle_keys(self) -> None:
        """Show the shortcut page, or go back from it."""
        if self.here == "keys":
            self._show(self._before_page or self.logbook)
        else:
            self._show_page(self.places["keys"])

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
        from fenmist.desk.bench import Bench  # a job is read with all that it stands on

        self.bench = Bench(self.session, job, self.themes, step)
        self.bench.step_changed.connect(self._refresh_frame)
        self.bench.did.connect(self.tell)
        self.bench.bench_wanted.connect(self.another_bench)
        self.bench.wire_wanted.connect(self._read_by_wire)
        self.bench.failed.connect(self._give_up)
        listen_while_alive(self.bench, job.changed, self._refresh_frame)
        self.stack.add(self.bench)
        self.go("bench")

    def _take_off_bench(self) -> None:
        if self.bench is not None:
            if self._wiring is not None:
                self._wiring.stop_run()
            self.bench.end()
            self.stack.drop(self.bench)
            self.bench = None

    def _undoable(self) -> Commands | None:
        """What undo means here: the job on the bench, the equipment in the kit."""
        if self._bench_in_front is not None:
            return self._bench_in_front.job.commands
        return self.session.commands if self.here in ("kit", "first") else None

    @property
    def _bench_in_front(self) -> "Bench | None":
        return self.bench if self.stack.page is self.bench else None

    def _with_bench(self, what: "Callable[[Bench], None]") -> None:
        if self._bench_in_front is not None:
            what(self._bench_in_front)

    def _focus_notes(self) -> None:
        here, bench = self.stack.page, self._bench_in_front
        if bench is not None and not bench.margin.isVisible():
            bench.show_margin()
            return
        margin = getattr(getattr(here, "tool", here), "margin", None)
        if margin is not None:
            margin.focus_first()

    def _search(self) -> None:
        self.go("logbook")
        self.logbook.search.setFocus()

    def _next_tool(self, by: int) -> None:
        if self.here == "tools":
            self.tools.step(by)

    def _toggle_series(self) -> None:
        def toggle(bench: "Bench") -> None:
            bench.go(READINGS)
            bench.step.toggle_series()

        self._with_bench(toggle)

    @property
    def wiring(self) -> "Wiring":
        """Whoever waits for instruments, made when first needed."""
        if self._wiring is None:
            from fenmist.desk.wiring import Wiring

            self._wiring = Wiring(self.session, self)
            self._wiring.failed.connect(self.say)
            self._wiring.dials_moved.connect(self._show_dials)
        return self._wiring

    def _read_by_wire(self, what: str, slot: Slot | None) -> None:
        """Read the channel in hand, its round, a trace, or all that follows, by whatever is on a wire."""
        from fenmist.desk.bywire import read_by_wire

        if self.bench is not None and slot is not None:
            read_by_wire(self.wiring, self.bench, what, slot, self.say)

    def _show_dials(self, shown: "Shown", parts: "Mapping[str, Part]") -> None:
        """Needles of a simulated bench below the work, until it is gone."""
        if self.dials is None and shown:
            from fenmist.desk.widgets.dials_strip import DialsStrip

            self.dials = DialsStrip(self.themes)
            self.below.addWidget(self.dials)
        if self.dials is not None and not shown:
            self.dials.hide()
            self.dials.deleteLater()
            self.dials = None
        elif self.dials is not None:
            job = self.bench.job.job if self.bench is not None else None
            slot = self.bench.step.slot_in_hand if self.bench is not None else None
            self.dials.follow(
                shown, parts, job, job.point(slot.point) if job is not None and slot is not None else None
            )

    def _toggle_run(self) -> None:
        """Read by wire from here on, or stop that."""
        if self.session.wires.run is not None:
            if self.wiring.waits_for_hands:
                self.wiring.go_on()
            else:
                self.wiring.stop_run()
            return

        def begin(bench: "Bench") -> None:
            bench.go(READINGS)
            self._read_by_wire("run", bench.step.slot_in_hand)

        self._with_bench(begin)

    def _next_panel(self) -> None:
        if self.here == "tools":
            self.tools.next_panel()
            return

        def further(bench: "Bench") -> None:
            if bench.number == ADJUST:
                bench.step.next_panel()
            else:
                bench.go(ADJUST)

        self._with_bench(further)

    def _toggle_paper(self) -> None:
        """What is typed from now on was written on paper, at a time that nobody knows; again: it is read here."""

        def toggle(bench: "Bench") -> None:
            bench.job.from_paper = not bench.job.from_paper
            bench.go(READINGS)

        self._with_bench(toggle)

    def _open_capture(self) -> None:
        def show(bench: "Bench") -> None:
            bench.go(READINGS)
            bench.step.open_capture()

        self._with_bench(show)

    @property
    def _files(self) -> Files:
        """What the page in front opens, saves and prints."""
        here, bench = self.stack.page, self._bench_in_front
        page = bench.step if bench is not None else getattr(here, "tool", here)
        return page if isinstance(page, Files) else Files()

    def _ask_to_open(self) -> None:
        from fenmist.desk.widgets.dialogs import ask_to_open  # on first use

        everything = Opening("Open a file", "Files that Fenmist opens", EVERYTHING, self.take_file)
        wanted = self._files.opening or everything
        ask_to_open(self, replace(wanted, take=lambda path: self._try(lambda: wanted.take(path))))

    def _ask_to_save(self) -> None:
        from fenmist.desk.widgets.dialogs import ask_to_save  # on first use

        wanted = self._files.saving
        if wanted is None:
            self.tell("There is nothing to save here: what is typed is kept at once.")
            return
        ask_to_save(self, replace(wanted, take=lambda path: self._try(lambda: wanted.take(path))))

    def _ask_to_print(self) -> None:
        self._try(self._print)

    def _print(self) -> None:
        wanted = self._files.printing
        if wanted is None:
            self.tell(
                "There is nothing to print here: run sheets are in “plan”, reading tables in “readings”, the rest in "
                "“certificate”."
            )
            return
        from fenmist.desk.printing import PrintJob  # the system's printers are asked on first use

        self.print_job = PrintJob(self, wanted, self.tell)
        self.foot.add_busy(self.print_job.busy)

    def tell(self, text: str) -> None:
        """Say in the foot what was done."""
        self.foot.tell(text)

    def _switch_phase(self) -> None:
        def switch(bench: "Bench") -> None:
            job = bench.job
            if job.job.is_adjusted:
                job.show_phase(AS_FOUND if job.view.phase == AS_LEFT else AS_LEFT)
            elif job.view.found.stated:
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
        self.top.mark(self.here)
        self._refresh_frame()

    @property
    def _where(self) -> str:
        """Whose keys work here."""
        bench = self._bench_in_front
        return bench.step.where if bench is not None else str(getattr(self.stack.page, "where", ""))

    def _refresh_frame(self) -> None:
        self.show_keys()
        undoable = self._undoable()
        undo, redo = self.actions_by_id["edit.undo"], self.actions_by_id["edit.redo"]
        for action, text, name in ((undo, "undo", "undo_label"), (redo, "redo", "redo_label")):
            said = getattr(undoable, name, "")
            action.setText(f"{text} {said}".strip())
            action.setEnabled(bool(said))
        if self.bench is None:
            set_text(self.top.about, self.session.workshop)
            self.foot.tell("")
            return
        job = self.bench.job
        self.trouble.hide()
        if job.trouble:
            self.say(job.trouble)
        words = (job.job.dut_part.label, job.view.phase, self.session.workshop)
        set_text(self.top.about, "  ·  ".join(word for word in words if word))
        count = job.entries_on_disk
        waiting = sum(len(item.events) for item in self.session.second.waiting()) if job.trouble else 0
        kept = f"{count} {'entry' if count == 1 else 'entries'} on disk" if count else "kept"
        self.foot.tell(f"{waiting} waiting" if waiting else kept)

    def show_keys(self) -> None:
        """Show the keys that work here."""
        self.foot.show_keys(self._where, self.width())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.show_keys()
        self.top.about.setVisible(self.width() >= px(900))

    # look

    def _on_theme(self) -> None:
        self.settings.setValue("theme", self.themes.theme.name)
        self._with_bench(lambda bench: bench.step.refresh())
        for widget in self.findChildren(QWidget):
            widget.update()

    def _resize(self, by: int) -> None:
        here = min(range(len(SCALES)), key=lambda n: abs(SCALES[n] - self.themes.scale))
        self.themes.resize(SCALES[min(max(here + by, 0), len(SCALES) - 1)], self.themes.arms_length)

    def take_keypad(self) -> None:
        """Keys of the keypad mean something else from now on."""
        keep_keypad(self.settings, self.themes.keypad)
        if self.bench is not None:
            self._rebuild(keep_page=True)

    def _rebuild(self, keep_page: bool = False) -> None:
        """Make everything anew at another size; job, step and place stay."""
        self.settings.setValue("scale", self.themes.scale)
        self.settings.setValue("arms_length", self.themes.arms_length)
        here = self.here
        step = self.bench.number if self.bench is not None else None
        self._take_off_bench()
        self.logbook.closing()
        self._build()
        if step is not None:
            self._put_on_bench(step)
        self.go(here if here in PLACES else "logbook")
        if here == "keys" and keep_page:
            self.toggle_keys()

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
        if event.key() == Qt.Key.Key_Escape and self.here in ("keys", "first", "begin"):
            self._show(self._before_page or self.logbook)
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
        if self._wiring is not None:
            self._wiring.close()
        super().closeEvent(event)
        QApplication.closeAllWindows() if QApplication.activeWindow() is self else None
