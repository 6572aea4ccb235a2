"""Where the run stands: the slot in hand, and what is being typed there."""

from collections.abc import Callable, Iterable
from dataclasses import replace

from fenmist.calibration.job import PlanPoint
from fenmist.calibration.outcome import Stated
from fenmist.errors import UnknownIdError
from fenmist.reading.event import Slot
from fenmist.reading.interpret import Interpretation
from fenmist.session.openjob import OpenJob
from fenmist.session.view import View
from fenmist.waveform.sine import RMS_PER_UNIT


class Run:
    """The state of a run on an open job; a draft is kept nowhere."""

    def __init__(self, job: OpenJob) -> None:
        self.job = job
        self.slot: Slot | None = None
        self.draft: View | None = None  # of the point in hand alone
        self._typed: tuple[Slot, str] | None = None
        self._stood = job.view.standing
        self._left: list[tuple[Slot, Slot]] = []  # entries taken back, and what was in hand then: so again with redo

    @property
    def point(self) -> PlanPoint | None:
        """The point in hand."""
        return self.job.job.point(self.slot.point) if self.slot else None

    def is_device(self, position: int) -> bool:
        """Whether the device is read at a position of the round in hand."""
        point = self.point
        return point is not None and self.job.job.is_device(point.sequence[position])

    def takes_capture(self, position: int) -> bool:
        """Whether volts are read at a position of the round in hand: a capture can stand for them."""
        point = self.point
        return point is not None and self.job.job.indicator(point.sequence[position]).unit in RMS_PER_UNIT

    def at(self, position: int) -> Slot:
        """The slot at a position of the round in hand; raises UnknownIdError where the run stands nowhere."""
        if self.slot is None:
            raise UnknownIdError("Nothing is planned to be read.", "Plan a point first.")
        return replace(self.slot, position=position)

    def first(self, wanted: Callable[[int], bool]) -> int:
        """The first position of the round in hand of which something holds; the first of all where it holds of none."""
        places = range(len(self.point.sequence)) if self.point else ()
        return next((place for place in places if wanted(place)), 0)

    def settle(self) -> None:
        """Stand somewhere: where an entry was taken back, else where the run goes on or the slot in hand still is."""
        view = self.job.view
        stood, self._stood = self._stood, view.standing
        if self.draft is None and len(self._stood) < len(stood):
            self._take_back(slot for slot in stood if slot not in self._stood and slot.phase == view.phase)
        elif self._left and self._left[-1][0] == self.slot and self.slot in self._stood and self.slot not in stood:
            self.slot = self._left.pop()[1]
        known = self.slot is not None and view.job.has_point(self.slot.point)
        if self.slot is None or not known or self.slot.phase != view.phase:
            self.slot = view.resume_slot() or (view.slots(view.job.plan[-1])[-1] if view.job.plan else None)

    def _take_back(self, slots: Iterable[Slot]) -> None:
        """Stand where the first entry was taken back, to make it again."""
        here = next((slot for slot in slots if self.job.job.has_point(slot.point)), None)
        if here is not None and self.slot is not None:
            self._left.append((here, self.slot))
            self.slot = here

    def go(self, slot: Slot) -> None:
        """Stand at another slot; what was being typed is dropped."""
        self._left = []
        self.slot = slot
        self.draft = None

    def type(self, position: int, text: str) -> tuple[Interpretation, bool]:
        """Something is typed at a position: what it means, and whether it is an entry's first digit."""
        slot = self.at(position)
        is_first = self.job.begin_entry(slot)
        self._typed = slot, text
        self.draft = self.job.draft_here(slot, text)
        return self.job.interpret(slot, text), is_first

    def whole_draft(self) -> View | None:
        """What is being typed, with the whole job around it; none where nothing is."""
        return self.job.draft(*self._typed) if self.draft is not None and self._typed is not None else None

    def keep(self, position: int, text: str) -> None:
        """Keep what was typed; it stays a draft while that can't be written."""
        self.slot = self.at(position)
        self.job.enter(self.slot, text.strip())
        self.draft = None

    @property
    def drafted(self) -> Stated | None:
        """What is stated at the point in hand with what is being typed; none where nothing is."""
        point = self.point
        return self.draft.at_once.stated_at(point.id) if self.draft is not None and point is not None else None
