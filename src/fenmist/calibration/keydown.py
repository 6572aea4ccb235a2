"""When the carrier was on, as far as the record tells.

It is inferred: on from the first digit typed at a point to that point's last entry. One key says otherwise, and that
is on record. Where a point was left half read, the carrier is taken to be on still, for as long as anybody would: the
worst that can be. What a key or a wire said holds until they say otherwise. Readings copied from paper carry no time
and heat nothing.
"""

from collections.abc import Iterator, Mapping

from fenmist.calibration.beside import keep, once
from fenmist.calibration.job import Job
from fenmist.frozen import dataclass
from fenmist.hookup.heat import Keying
from fenmist.reading.event import Event, EventKind, Slot

ON, OFF = "on", "off"

SILENT_S = 15.0 * 60.0
"""From an entry on nobody lets a carrier stand for longer than this until the next one (Fenmist's own, no source)."""


@dataclass(frozen=True)
class Carrier:
    """The carrier as it is inferred now."""

    keyings: tuple[Keying, ...]  # ended ones, in time
    on_since_s: float | None = None
    power_w: float = 0.0  # while on
    seen_s: float | None = None  # when an entry last told of it; none where a key or a wire said that it is on

    @property
    def is_on(self) -> bool:
        """True while it is taken to be on."""
        return self.on_since_s is not None

    def until(self, now_s: float) -> tuple[Keying, ...]:
        """All key-downs up to a moment, the present one with it."""
        if self.on_since_s is None:
            return self.keyings
        end_s = now_s if self.seen_s is None else min(now_s, self.seen_s + SILENT_S)
        return (*self.keyings, Keying(self.on_since_s, max(end_s, self.on_since_s), self.power_w))

    def at(self, now_s: float) -> "Carrier":
        """As it is taken to be at a moment: off again where no entry told of it for long."""
        is_told = self.seen_s is None or now_s <= self.seen_s + SILENT_S
        return self if self.on_since_s is None or is_told else Carrier(self.until(now_s))

    def switched(self, on: bool, at_s: float, power_w: float, is_said: bool = False) -> "Carrier":
        """The carrier after it went on or off at a moment; a change of power ends one key-down and begins the next.

        `is_said` where a key or a wire says so, not an entry.
        """
        now = self.at(at_s)
        if on and (not now.is_on or power_w != now.power_w):
            return Carrier(now.until(at_s), at_s, power_w, None if is_said else at_s)
        if on:
            return now._told(None if is_said or now.seen_s is None else max(at_s, now.seen_s))
        return Carrier(now.until(at_s)) if now.is_on else now

    def seen(self, at_s: float) -> "Carrier":
        """While it is on: an entry tells at a moment that it still is."""
        return self._told(None if self.seen_s is None else max(at_s, self.seen_s))

    def _told(self, seen_s: float | None) -> "Carrier":
        return self if seen_s == self.seen_s else Carrier(self.keyings, self.on_since_s, self.power_w, seen_s)


@dataclass(frozen=True)
class Inferred:
    """The carrier as a job's record tells, with what is needed to go on when an event is added."""

    job: Job
    carrier: Carrier
    read: Mapping[tuple[str, str], frozenset[Slot]]  # slots read so far, by point and phase


def inferred(job: Job, former: Inferred | None = None) -> Inferred:
    """The carrier from a job's record; from `former` on, where that is an earlier state of the same plan."""
    since = job.events_since(former.job) if former is not None and former.job.plan is job.plan else None
    now, read = (former.carrier, dict(former.read)) if former is not None and since is not None else (Carrier(()), {})
    target = job.once("levels by point", lambda: {point.id: point.target_w for point in job.plan})
    wanted = job.once("readings by point", lambda: {p.id: p.repeats * len(p.sequence) for p in job.plan})
    for event in job.events if since is None else since:
        at = event.at.timestamp()
        if event.kind is EventKind.CARRIER:
            power = now.at(at).power_w or _power_of(event, target)
            now = now.switched(event.reason == ON, at, power, is_said=True)
        elif event.kind is EventKind.ENTER and event.entry is not None and event.entry.observed_at is not None:
            slot = event.entry.slot
            here = read.get((slot.point, slot.phase), frozenset()) | {slot}
            read[slot.point, slot.phase] = here
            done, power = event.entry.observed_at.timestamp(), target.get(slot.point, now.power_w)
            begun = event.entry.begun_at.timestamp() if event.entry.begun_at is not None else done
            now = now.switched(True, begun, power).seen(done)
            if len(here) >= wanted.get(slot.point, 0):
                now = now.switched(False, done, 0.0)
    return Inferred(job, keep(job, "carrier", now), read)


def carrier(job: Job) -> Carrier:
    """The carrier from a job's record."""
    return once(job, "carrier", lambda: inferred(job).carrier)


def in_hand(known: Carrier, job: Job, begun_s: float, point_id: str) -> Carrier:
    """The carrier with an entry in hand whose first digit was typed at a moment."""
    target = job.once("levels by point", lambda: {point.id: point.target_w for point in job.plan})
    return known.switched(True, begun_s, target.get(point_id, known.power_w))


def _power_of(event: Event, target: dict[str, float]) -> float:
    return target.get(event.slot.point, 0.0) if event.slot else 0.0


def clock_set_back(job: Job) -> Iterator[tuple[Event, Event]]:
    """Neighbouring events of which the later one carries an earlier time: the machine's clock went back."""
    for former, event in zip(job.events, job.events[1:], strict=False):
        if (former.at - event.at).total_seconds() > 1.0:
            yield former, event
