"""A run by wire: what is to be done next at a bench, one step after the other, until a person is needed.

The run says what it wants (`Step`); whoever drives it does that (a worker, a clock, a person) and hands back what came
of it. The source is off whenever nothing is read: at the end, on a stop, on trouble, and while the load cools.
"""

import math
from collections.abc import Generator, Iterable, Mapping

from fenmist.calibration.sent import sent_at
from fenmist.frozen import dataclass
from fenmist.instruments.instrument import Settled
from fenmist.instruments.trouble import Trouble
from fenmist.reading.event import Slot
from fenmist.session.openjob import OpenJob
from fenmist.session.steering import after
from fenmist.session.warmth import Warmth, duration
from fenmist.session.wires import Attached, Wires, context


@dataclass(frozen=True)
class Tell:
    """Set something of an instrument; nothing, or a Trouble, comes back."""

    instrument: str
    setting: str
    at: Mapping[str, float]


@dataclass(frozen=True)
class Read:
    """Read a slot once it has settled; a Settled, or a Trouble, comes back."""

    instrument: str
    name: str
    slot: Slot
    at: Mapping[str, float]


@dataclass(frozen=True)
class Wait:
    """Let so many seconds pass: the load cools, or an instrument is lost; anything comes back."""

    seconds: float
    why: str
    lost: bool = False


@dataclass(frozen=True)
class Hand:
    """A person reads this one; comes back once something stands there."""

    slot: Slot
    why: str


@dataclass(frozen=True)
class Arrange:
    """A person plugs another hook-up together, or has another waveform sent; comes back once that is so."""

    verb: str  # PLUG or SEND
    of: str  # id of the hook-up, or the waveform as it is typed; nothing is a steady carrier
    why: str


@dataclass(frozen=True)
class Ended:
    """Nothing more is to be done."""

    why: str
    of_itself: bool = True


Step = Tell | Read | Wait | Hand | Arrange | Ended
Back = Settled | Trouble | None

PLUG, SEND = "plug", "send"

CHANNEL, ROUND, RUN = "channel", "round", "run"

AGAIN_S = 2.0
"""After which an instrument that was lost is asked again."""

_LONGEST_REST_S = 60.0
"""Of one wait: heat is looked at again after it."""


COOL = 0.5
"""Rise below which a load is keyed that no rest makes cool enough for as long as was usual (Fenmist's own)."""


def _rest(warm: Warmth) -> float:
    """How long a load rests before it is keyed, s."""
    if math.isfinite(warm.rest_s):
        return warm.rest_s
    return _LONGEST_REST_S if warm.rise > COOL else 0.0


class AutoRun:
    """A run from a slot on.

    Parameters
    ----------
    job : OpenJob
        Gets the entries.
    wires : Wires
        Who reads what.
    begin : Slot
        Where it begins.
    what : str
        How far: the one `CHANNEL`, its `ROUND`, or the whole `RUN`.
    """

    def __init__(self, job: OpenJob, wires: Wires, begin: Slot, what: str) -> None:
        self._job, self._wires, self._what = job, wires, what
        self.slot = begin
        self.keyed: str = ""  # the source that was keyed by this run
        self.done = 0  # readings so far
        self._arranged = {**dict(self._wanted(begin)), **wires.arranged}
        self._work = self._steps()
        self.step: Step = next(self._work)

    def back(self, came: Back) -> Step:
        """What came of the last step; the next one."""
        if not isinstance(self.step, Ended):
            self.step = self._work.send(came)
        return self.step

    def stopped(self) -> Tell | None:
        """The run is given up: what is to be told so that no carrier stays on, if one is."""
        self._work.close()
        off = Tell(self.keyed, "off", {}) if self.keyed else None
        self.keyed = ""
        self.step = Ended("Stopped.", of_itself=False)
        return off

    @property
    def progress(self) -> str:
        """How far it is: readings done, of how many."""
        left = sum(
            slot not in self._job.view.standing and self._job.job.is_wanted(slot) for slot in self._job.view.order
        )
        of = {CHANNEL: 1, ROUND: self.done + len(self._round(self.slot))}.get(self._what, self.done + left)
        return f"{min(self.done + 1, max(of, 1))} of {max(of, 1)}"

    @property
    def is_over(self) -> bool:
        """Whether nothing more is to be done."""
        return isinstance(self.step, Ended)

    @property
    def waits_for_hands(self) -> bool:
        """Whether a person is to plug in or send something else now."""
        return isinstance(self.step, Arrange)

    # the way

    def _steps(self) -> Generator[Step, Back, None]:
        slots: Iterable[Slot] = self._all()
        if self._what != RUN:
            slots = [self.slot] if self._what == CHANNEL else self._round(self.slot)
        here = ""
        for slot in slots:
            self.slot = slot
            if slot.point != here:
                yield from self._key_up()
                here = slot.point
                yield from self._arrange(slot)
            yield from self._cool(slot)
            yield from self._key_down(slot)
            yield from self._one(slot)
            self.done += 1
        yield from self._key_up()
        yield Ended(f"{self.done} readings by the run." if self.done != 1 else "One reading by the run.")

    def _round(self, slot: Slot) -> list[Slot]:
        """The slots of a round that are still empty."""
        mine = (item for item in self._job.view.order if self._same(item, slot))
        return [item for item in mine if item not in self._job.view.standing]

    @staticmethod
    def _same(one: Slot, other: Slot) -> bool:
        return (one.point, one.round, one.phase) == (other.point, other.round, other.phase)

    def _all(self) -> Generator[Slot, None, None]:
        """Every slot that is still to be read, from where it stands on; what is entered meanwhile is passed over."""
        slot = self.slot
        if slot in self._job.view.standing or not self._job.job.is_wanted(slot):
            slot = after(self._job, slot)
        while slot not in self._job.view.standing and self._job.job.is_wanted(slot):
            yield slot
            slot = after(self._job, slot)

    def _wanted(self, slot: Slot) -> tuple[tuple[str, str], ...]:
        job, point = self._job.job, self._job.job.point(slot.point)
        return (PLUG, point.hookup), (SEND, sent_at(job, point))

    def _arrange(self, slot: Slot) -> Generator[Step, Back, None]:
        for verb, of in self._wanted(slot):
            if of != self._arranged[verb]:
                said = (
                    f"Carrier off, then plug in “{self._job.job.hookup(of).label}”." if verb == PLUG
                    else f"Let it send “{of}”." if of else "Let it send a steady carrier."
                )  # fmt: skip
                yield Arrange(verb, of, said)
                self._arranged[verb] = of

    def _one(self, slot: Slot) -> Generator[Step, Back, None]:
        job = self._job.job
        point = job.point(slot.point)
        who = self._wires.reads(job, point.sequence[slot.position])
        if who is None:
            label = job.part_read(point.sequence[slot.position]).label
            yield Hand(slot, f"Read {label}; the run goes on when it stands.")
            return
        item, name = who
        came = yield Read(item.id, name, slot, context(point.frequency_hz, point.target_w))
        while isinstance(came, Trouble):
            yield from self._key_up()
            yield Wait(AGAIN_S, f"{self._label(item)}: {came}", lost=True)
            yield from self._key_down(slot)
            came = yield Read(item.id, name, slot, context(point.frequency_hz, point.target_w))
        if came is not None and (slot not in self._job.view.standing or self._what == CHANNEL):
            self._job.enter_wire(slot, came)

    def _key_down(self, slot: Slot) -> Generator[Step, Back, None]:
        point = self._job.job.point(slot.point)
        source = self._wires.source_of(self._job.job, point.hookup)
        if source is None or self.keyed:
            return
        driver = self._wires.driver_of(source)
        at = context(point.frequency_hz, point.target_w)
        for setting in ("frequency", "level", "on"):
            if driver is None or setting not in driver.set:
                continue
            if setting == "on":
                self.keyed = source.id  # from now on it may be on, whatever comes back
            came = yield Tell(source.id, setting, at)
            while isinstance(came, Trouble):
                yield Wait(AGAIN_S, f"{self._label(source)}: {came}", lost=True)
                came = yield Tell(source.id, setting, at)
        self._job.carrier_is(True, slot)

    def _key_up(self) -> Generator[Step, Back, None]:
        if not self.keyed:
            return
        came = yield Tell(self.keyed, "off", {})
        while isinstance(came, Trouble):
            yield Wait(
                AGAIN_S, f"The carrier may be on! {self._label(self._wires.item(self.keyed))}: {came}", lost=True
            )
            came = yield Tell(self.keyed, "off", {})
        self.keyed = ""
        self._job.carrier_is(False, self.slot)

    def _cool(self, slot: Slot) -> Generator[Step, Back, None]:
        """Key up and rest while the load is at its rating, or too warm for this point."""
        warm = self._job.warmth(slot)
        if warm is not None and warm.on and warm.severity == "stop":
            yield from self._key_up()
            warm = self._job.warmth(slot)
        while warm is not None and not warm.on and (seconds := _rest(warm)) >= 1.0:
            yield Wait(min(seconds, _LONGEST_REST_S), f"The load rests for {duration(seconds)}.")
            warm = self._job.warmth(slot)

    def _label(self, item: Attached) -> str:
        job = self._job.job
        return job.part(item.part).label if any(part.id == item.part for part in job.kit) else item.address
