"""The wires' workers: one per instrument, so that no wire is waited for in the window; and whoever drives a run.

Requests go to a worker, what came of them back into the model (`session.wires`), which tells the views.
"""

import gc
import json
import sys
import tempfile
from collections.abc import Callable, Mapping
from contextlib import suppress
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, QProcess, QTimer, Signal

from fenmist.desk.runner import JobRunner
from fenmist.errors import CancelledError, FenmistError
from fenmist.instruments.instrument import Instrument, Settled
from fenmist.instruments.recognised import recognise
from fenmist.instruments.trouble import Trouble
from fenmist.kit.part import Part
from fenmist.session.autorun import Arrange, AutoRun, Back, Ended, Hand, Read, Tell, Wait
from fenmist.session.openjob import OpenJob
from fenmist.session.session import Session
from fenmist.session.wires import context, driver_for

WATCH_MS = 1000
"""Between two looks at every instrument."""

_COLLECT_EVERY = 30
"""Looks after which garbage is collected in the window's thread: it is paused while workers run."""

Request = Callable[[Instrument], object]


class Wiring(QObject):
    """Everything that waits for instruments."""

    failed = Signal(str)  # a request that could not even be asked
    bench_started = Signal()
    dials_moved = Signal(object, object)  # where needles of a simulated bench point, and its parts; empty: it is gone

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._session, self.wires = session, session.wires
        self._runners: dict[str, JobRunner] = {}
        self._then: dict[str, Callable[[object], None]] = {}
        self._job: OpenJob | None = None
        self._end_listening: Callable[[], None] | None = None
        self._looks = 0
        self._is_closed = False  # pages are hidden after this was: they must not wake it
        self._watch = QTimer(self)
        self._watch.setInterval(WATCH_MS)
        self._watch.timeout.connect(self.look)
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.timeout.connect(lambda: self._back(None))
        self._bench: QProcess | None = None
        self._folder: tempfile.TemporaryDirectory[str] | None = None
        self._faces: Mapping[str, Part] = {}  # parts of the simulated bench

    # requests

    def ask(self, instrument_id: str, request: Request, then: Callable[[object], None] | None = None) -> None:
        """Ask an instrument something in its worker; what comes is kept, then told."""
        try:
            instrument = self.wires.instrument(instrument_id)
        except FenmistError as error:
            self.failed.emit(str(error))
            return
        self._then[instrument_id] = then or (lambda _: None)
        self._runner(instrument_id).start(partial(_asked, request, instrument))

    def is_busy(self, instrument_id: str) -> bool:
        """Whether its worker has something to do."""
        return instrument_id in self._then

    def _runner(self, instrument_id: str) -> JobRunner:
        if instrument_id not in self._runners:
            made = JobRunner(self)
            made.answered.connect(lambda came, i=instrument_id: self._on_answered(i, came))
            made.refused.connect(lambda error, i=instrument_id: self._on_refused(i, error))
            self._runners[instrument_id] = made
        return self._runners[instrument_id]

    def _on_answered(self, instrument_id: str, came: object) -> None:
        then = self._then.pop(instrument_id, None)
        known = any(item.id == instrument_id for item in self.wires.attached)
        if known:
            self.wires.took(instrument_id, came)
        if then is not None:
            then(came)

    def _on_refused(self, instrument_id: str, error: FenmistError) -> None:
        self._then.pop(instrument_id, None)
        if isinstance(error, CancelledError):
            return
        self.failed.emit(str(error))
        if self.wires.run is not None:
            self.stop_run()

    def identify(self, instrument_id: str) -> None:
        """Ask one who it is."""
        self.ask(instrument_id, lambda instrument: instrument.identify())

    def recognise(self, text: str, then: Callable[[str | Trouble], None]) -> None:
        """Find out which driver fits whoever is at an address."""
        runner = self._runner("recognise")
        self._then["recognise"] = then  # type: ignore[assignment]
        runner.start(partial(recognise, text, self.wires.drivers.drivers))

    # watching

    def watch(self, on: bool) -> None:
        """Look at every instrument once a second, or don't."""
        if on and not self._is_closed and not self._watch.isActive():
            self._watch.start()
            self.look()
        elif not on:
            self._watch.stop()

    def look(self) -> None:
        """Read each instrument that has nothing else to do; none during a run."""
        self._looks += 1
        if self._looks % _COLLECT_EVERY == 0:
            gc.collect(1)
        if self.wires.run is not None:
            return
        at = self._here()
        for item in self.wires.attached:
            name = self.wires.first_read(item.id)
            if name and not self.is_busy(item.id):
                self.ask(item.id, partial(_read, name=name, at=at))
        self.wires.tell_age()

    def _here(self) -> dict[str, float]:
        """What fills commands while nothing in particular is read: the job's first point."""
        job = self._session.open_job
        plan = job.job.plan if job is not None else ()
        return dict(context(plan[0].frequency_hz, plan[0].target_w) if plan else context(14e6, 1.0))

    # a run

    def start_run(self, run: AutoRun, job: OpenJob) -> None:
        """Drive a run to its end."""
        self.stop_run()
        self._job = job
        self._end_listening = job.changed.listen(self._on_job_changed)
        self.wires.show_run(run, "")
        self._do()

    def stop_run(self) -> None:
        """Give up the run in hand, if one is: the carrier off first of all."""
        run = self.wires.run
        if run is None:
            return
        step = run.step
        self._pause.stop()
        if isinstance(step, Read | Tell):
            self.wires.instrument(step.instrument).stop()
            self._then.pop(step.instrument, None)
        off = run.stopped()
        self._ended("Stopped.")
        if off is not None:
            self.ask(off.instrument, lambda instrument: instrument.set("off", {}), self._on_off)

    def _on_off(self, came: object) -> None:
        if isinstance(came, Trouble):
            self.failed.emit(f"The carrier may be on! {came}")

    def _do(self) -> None:
        run = self.wires.run
        if run is None or self._job is None:
            return
        step, job = run.step, self._job
        if isinstance(step, Ended):
            self._ended(step.why)
        elif isinstance(step, Wait):
            self.wires.show_run(run, step.why)
            self._pause.start(round(step.seconds * 1000))
        elif isinstance(step, Hand):
            self.wires.show_run(run, step.why)
        elif isinstance(step, Arrange):
            self.wires.show_run(run, step.why)
            if self._bench is not None and self.wires.arranged:
                self._bench.write(f"{step.verb} {step.of}\n".encode())
        elif isinstance(step, Tell):
            self.wires.show_run(run, f"{step.setting}: {self._label(step.instrument)}")
            tell = step
            self.ask(step.instrument, lambda instrument: instrument.set(tell.setting, tell.at), self._back)
        else:
            read = step
            job.begin_entry(step.slot)
            self.wires.show_run(run, f"reading {self._label(step.instrument)} until it has settled")
            self.ask(step.instrument, lambda instrument: instrument.settle(read.name, read.at), self._back)

    def go_on(self) -> None:
        """What the run waits for is arranged."""
        if self.waits_for_hands:
            self._back(None)

    @property
    def waits_for_hands(self) -> bool:
        """Whether the run waits until a person has plugged something together, or has something else sent."""
        return self.wires.run is not None and self.wires.run.waits_for_hands and not self.wires.arranged

    def _label(self, instrument_id: str) -> str:
        part = self.wires.item(instrument_id).part
        job = self._job.job if self._job is not None else None
        return next((item.label for item in (job.kit if job else ()) if item.id == part), "the instrument")

    def _back(self, came: object) -> None:
        run = self.wires.run
        if run is None:
            return
        back: Back = came if isinstance(came, Settled | Trouble) else None
        run.back(back)
        self._do()

    def _on_job_changed(self) -> None:
        """A person entered what the run waits for."""
        run, job = self.wires.run, self._job
        if run is not None and job is not None and isinstance(run.step, Hand) and run.step.slot in job.view.standing:
            QTimer.singleShot(0, lambda: self._back(None))

    def _ended(self, why: str) -> None:
        if self._end_listening is not None:
            self._end_listening()
            self._end_listening = None
        self._job = None
        self.wires.show_run(None, why)

    # a simulated bench

    def start_bench(self, name: str, seed: int) -> None:
        """Start a simulated bench in a process of its own; its instruments are attached once it has named them."""
        from fenmist.simulation.scenarios import scenario

        self.stop_bench()
        self._begin_bench(["--scenario", name, "--seed", str(seed)], {part.id: part for part in scenario(name).parts()})

    def _begin_bench(self, arguments: list[str], faces: Mapping[str, Part]) -> None:
        self._faces = faces
        process = QProcess(self)
        process.readyReadStandardOutput.connect(lambda: self._on_bench_said(process))
        process.readyReadStandardError.connect(
            lambda: self.failed.emit(_said(bytes(process.readAllStandardError().data())))
        )
        process.finished.connect(lambda *_: self._on_bench_gone(process))
        self._bench = process
        process.start(sys.executable, ["-m", "fenmist", "bench", *arguments, "--json", "--attached"])

    def start_bench_of(self, job: OpenJob, seed: int = 1) -> None:
        """Start a simulated bench of a job's hook-up: each of its instruments is that part."""
        from fenmist.records.jobfile import job_to_bytes

        self.stop_bench()
        self._folder = tempfile.TemporaryDirectory(prefix="fenmist-bench-")
        path = Path(self._folder.name) / "bench.fenjob.json"
        path.write_bytes(job_to_bytes(job.job, job.attached))
        self._begin_bench(["--job", str(path), "--seed", str(seed)], job.job.parts)

    @property
    def bench_runs(self) -> bool:
        """Whether a simulated bench was started here, and is still there."""
        return self._bench is not None

    def stop_bench(self) -> None:
        """End the simulated bench; its instruments go with it."""
        if self._bench is not None:
            process, self._bench = self._bench, None
            self.stop_run()
            self._wait()  # for the key-up
            self.wires.remove_simulated()
            self.dials_moved.emit({}, {})
            process.kill()
            process.waitForFinished(2000)
            process.deleteLater()
        if self._folder is not None:
            self._folder.cleanup()
            self._folder = None

    def _on_bench_said(self, process: QProcess) -> None:
        while process is self._bench and process.canReadLine():
            with suppress(ValueError, KeyError, TypeError):
                self._on_line(json.loads(bytes(process.readLine().data())))

    def _on_line(self, said: dict[str, Any]) -> None:
        if "dials" in said:
            self.dials_moved.emit(said["dials"], self._faces)
            return
        if "instruments" in said:
            self._attach(said["instruments"])
        self.wires.arranged = said["arranged"]
        if "instruments" in said:
            self.bench_started.emit()
        elif self.wires.run is not None and self.wires.run.waits_for_hands:
            self._back(None)

    def _attach(self, named: list[dict[str, str]]) -> None:
        self.wires.remove_simulated()
        for item in named:
            part = item["part"] if self._folder is not None else ""  # of a job's bench: each is that part
            driver = driver_for(item["kind"], self._session.kit, part)
            self.identify(self.wires.add(item["address"], driver, part, is_simulated=True).id)

    def _on_bench_gone(self, process: QProcess) -> None:
        """It ended by itself: its instruments stay, and say that nobody answers, until another one is started."""
        if process is self._bench:
            self._bench = None
            self.failed.emit("The simulated bench has ended.")

    # the end

    def close(self) -> None:
        """Stop everything, for good: the carrier first."""
        self._is_closed = True
        self._watch.stop()
        self.stop_run()
        self._wait()
        self.stop_bench()

    def _wait(self) -> None:
        for runner in self._runners.values():
            runner.wait()


def _asked(request: Request, instrument: Instrument) -> object:
    """In its worker, once what was stopped before it has ended."""
    instrument.go()
    return request(instrument)


def _read(instrument: Instrument, name: str, at: Mapping[str, float]) -> object:
    return instrument.read(name, at)


def _said(data: bytes) -> str:
    lines = data.decode("utf-8", "replace").strip().splitlines()
    return lines[-1] if lines else "The simulated bench said nothing."
