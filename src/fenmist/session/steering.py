"""What the keypad does in a run besides digits: each is a command on the job, and says where the run goes on."""

from collections.abc import Callable, Mapping

from fenmist.calibration.edit import with_next_range, with_rounds
from fenmist.reading.event import Slot
from fenmist.session.openjob import OpenJob

STRIKE_REASONS = ("misread", "wrong range", "source moved", "not settled", "slip of the finger")
"""Why an entry is struck; the first one unless said otherwise."""

SKIP_REASON = "left out at the bench"
DOUBT_REASON = "not sure of it"


def after(job: OpenJob, slot: Slot) -> Slot:
    """The next slot in reading order that is to be read and holds nothing; else simply the next."""
    order = job.view.order
    here = job.view.place_of(slot)
    standing = job.view.standing
    for places in (range(here + 1, len(order)), range(here)):
        for place in places:
            if order[place] not in standing and job.job.is_wanted(order[place]):
                return order[place]
    return order[min(here + 1, len(order) - 1)]


def beside(job: OpenJob, slot: Slot, by: int) -> Slot:
    """The slot so many places further, held at both ends."""
    order = job.view.order
    return order[min(max(job.view.place_of(slot) + by, 0), len(order) - 1)]


def next_point(job: OpenJob, slot: Slot, by: int) -> Slot:
    """The first empty slot of the next or the former point."""
    plan = job.job.plan
    here = job.job.place_of(slot.point)
    point = plan[min(max(here + by, 0), len(plan) - 1)]
    empty = (item for item in job.view.slots(point) if item not in job.view.standing)
    return next(empty, Slot(point.id, 1, 0, job.view.phase))


def repeat(job: OpenJob, slot: Slot) -> Slot:
    """One round more at this point; goes to its beginning."""
    point = job.job.point(slot.point)
    job.edit(with_rounds(job.job, point.id, point.repeats + 1), "one more round")
    return Slot(point.id, point.repeats + 1, 0, job.view.phase)


def target(job: OpenJob, slot: Slot) -> Slot | None:
    """What a command in a field means: its own entry, or in an empty one the last entry before it."""
    if slot in job.view.standing:
        return slot
    order = job.view.order[: job.view.place_of(slot)]
    return next((item for item in reversed(order) if item in job.view.standing), None)


def strike(job: OpenJob, slot: Slot) -> Slot:
    """Strike an entry; goes to it."""
    found = target(job, slot)
    if found is None:
        return slot
    job.strike(found, STRIKE_REASONS[0])
    return found


def another_reason(job: OpenJob, slot: Slot) -> Slot:
    """The next of the usual reasons for what was struck last."""
    last = job.last_strike
    if last is not None:
        place = STRIKE_REASONS.index(last.reason) if last.reason in STRIKE_REASONS else -1
        job.give_reason(STRIKE_REASONS[(place + 1) % len(STRIKE_REASONS)])
    return slot


def take(job: OpenJob, slot: Slot) -> Slot:
    """Take the likeliest reading of an open entry; goes on."""
    found = target(job, slot)
    event = job.view.standing.get(found) if found else None
    if found is None or event is None or event.entry is None or event.entry.reading is not None:
        return slot
    if not event.entry.likeliest_text:
        return found
    job.enter(found, event.entry.likeliest_text)
    return after(job, found)


def skip(job: OpenJob, slot: Slot) -> Slot:
    """Leave the present round out, or ask for it again; goes on."""
    job.skip(slot, SKIP_REASON)
    return after(job, slot) if not job.job.is_wanted(slot) else slot


def doubt(job: OpenJob, slot: Slot) -> Slot:
    """Mark an entry as doubtful, or take that back."""
    found = target(job, slot)
    if found is not None:
        job.doubt(found, DOUBT_REASON)
    return slot


def move(job: OpenJob, slot: Slot) -> Slot:
    """Move the round to the point whose level it was read at; goes on there. Raises UnknownIdError where none fits."""
    return job.move_round(target(job, slot) or slot)


def change_range(job: OpenJob, slot: Slot) -> Slot:
    """The device's next range at this point; raises OutOfRangeError once it was read there."""
    job.edit(with_next_range(job.job, slot.point), "range")
    return slot


COMMANDS: Mapping[str, Callable[[OpenJob, Slot], Slot]] = {
    "strike": strike, "take": take, "skip": skip, "doubt": doubt, "range": change_range, "reason": another_reason,
    "move": move,
    "repeat": repeat,
    "back": lambda job, slot: beside(job, slot, -1), "up": lambda job, slot: beside(job, slot, -1),
    "down": lambda job, slot: beside(job, slot, 1),
    "next point": lambda job, slot: next_point(job, slot, 1),
    "former point": lambda job, slot: next_point(job, slot, -1),
}  # fmt: skip
"""By the name that a key steers by; each takes the job and the slot in hand and gives the slot to go to."""
