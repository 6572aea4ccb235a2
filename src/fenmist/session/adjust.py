"""What to turn on the meter of a job, range by range: three settings, what each leaves, and what it did."""

import math
from dataclasses import replace

import numpy as np

from fenmist.calibration.job import Job, Leg, PlanPoint
from fenmist.errors import FenmistError, OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.methods.trim import Control, Measure, Setting, TrimAnswer, trimmed
from fenmist.procedures.page import Explained, Factors, Turnable, TurnPlace
from fenmist.session.trim import NAMES, advice, error_said, settings_of
from fenmist.session.view import View
from fenmist.units.display import frequency, percent, plain

HEADINGS = ("setting", "multiply by", "make it read", "worst left, with its U", "at", "inside tolerance")
"""Columns of the settings."""

MEASURES = tuple(str(item) for item in Measure)
CONTROLS = tuple(str(item) for item in Control)


@dataclass(frozen=True)
class Chosen:
    """What is asked of a range: how errors are weighed, what can be turned, where it is set."""

    range_id: str = ""
    measure: Measure = Measure.PER_CENT
    control: Control = Control.GAIN
    point: str = ""  # at which it is set; the highest level where nothing is said
    band_hz: float = 0.0  # where each band has a control of its own: the frequency; all where nothing is said


@dataclass(frozen=True)
class Turned:
    """A range's settings, worked out."""

    turnable: Turnable
    answer: TrimAnswer
    at: TurnPlace  # where it is set

    def u_left(self, place: TurnPlace) -> float:
        """U of what a setting leaves at a place, relative: its ratio's, and that of reading the setting itself."""
        return math.hypot(place.expanded_u, self.at.u_again)

    def error(self, place: TurnPlace, setting: Setting) -> float:
        """What a setting leaves there, as a share of the power."""
        return (setting.gain * place.indicated_w + setting.zero_w) / place.reference_w - 1.0


def ranges_of(view: View) -> tuple[Turnable, ...]:
    """What can be turned, by the readings as found; nothing where the question has no such step."""
    of = view.procedure.turnables
    return of(view.found) if of is not None else ()


def explained(view: View) -> Explained | None:
    """Why the device errs, by the readings as found; none of too few, or where the question says nothing of it."""
    of = view.procedure.explain
    return of(view.found) if of is not None else None


def factors(view: View) -> Factors | None:
    """What readings are to be multiplied by, of the phase in hand; none where nothing decided."""
    of = view.procedure.factors
    return of(view.result) if of is not None else None


def with_one_more(job: Job, said: Explained) -> Job:
    """The job with the reading that would decide planned last; raises OutOfRangeError where there is none."""
    if said.point is None:
        raise OutOfRangeError("No one reading tells more.", "Plan points by hand.")
    return replace(job, plan=(*job.plan, said.point))


def next_sighting(view: View) -> tuple[PlanPoint, str] | None:
    """The point that would tell most, with what is to be done there; none where the question goes no further."""
    of = view.procedure
    point = of.next_point(view.result) if of.next_point is not None else None
    return None if point is None or of.offer is None else (point, of.offer(view.result))


def with_sighting(job: Job, point: PlanPoint) -> Job:
    """The job with a point planned last, and its visit where that is a new one."""
    known = any(leg.id == point.leg for leg in job.legs)
    legs = job.legs if known else (*job.legs, Leg(point.leg, point.hookup, by_itself=True))
    return replace(job, legs=legs, plan=(*job.plan, point))


def turned(view: View, chosen: Chosen) -> Turned | None:
    """The settings of a range; none where nothing was read, raises OutOfRangeError where they can't be worked out."""
    found = ranges_of(view)
    if not found:
        return None
    one = _of_band(next((item for item in found if item.range_id == chosen.range_id), found[0]), chosen.band_hz)
    places = one.places
    at = next((n for n, item in enumerate(places) if item.point.id == chosen.point), -1)
    if at < 0:
        at = max(range(len(places)), key=lambda n: (places[n].point.target_w, -abs(n - len(places) / 2.0)))
    answer = trimmed(
        np.array([item.reference_w for item in places]), np.array([item.indicated_w for item in places]),
        chosen.measure, control=chosen.control, full_scale_w=one.full_scale_w, exact_at=at,
        expanded_u=np.array([item.expanded_u for item in places]),
    )  # fmt: skip
    return Turned(one, answer, places[at])


def _of_band(one: Turnable, band_hz: float) -> Turnable:
    """The readings of one band; all of the range's where none is chosen, or nothing was read there."""
    here = tuple(item for item in one.places if item.point.frequency_hz == band_hz)
    return replace(one, places=here) if here else one


def place_said(place: TurnPlace) -> str:
    """A reading by its level and frequency."""
    return point_said(place.point)


def point_said(point: PlanPoint) -> str:
    """A point by its level and frequency."""
    return f"{plain(point.target_w, 'W')} at {frequency(point.frequency_hz)}"


def rows(found: Turned) -> list[list[str]]:
    """As found, then each setting: what it takes and what it leaves."""
    return [_row(found, name, setting) for name, setting in settings_of(found.answer)]


def _row(found: Turned, name: str, setting: Setting) -> list[str]:
    answer, places = found.answer, found.turnable.places
    worst = max(places, key=lambda item: abs(_weighed(found, item, setting)))
    u = found.u_left(worst) * _weight(found, worst)
    zero = f" {'+' if setting.zero_w > 0 else '−'} {plain(abs(setting.zero_w), 'W', 3)}" if setting.zero_w else ""
    return [
        name, "—" if name == NAMES[0] else f"{setting.gain:.4f}{zero}",
        "—" if name == NAMES[0] else f"{plain(answer.reads(setting), 'W', 4)} at {plain(found.at.reference_w, 'W', 4)}",
        f"{error_said(_weighed(found, worst, setting), answer.measure)} ± {percent(u)}",
        place_said(worst), f"{_inside(found, setting)} of {len(places)}",
    ]  # fmt: skip


def _weighed(found: Turned, place: TurnPlace, setting: Setting) -> float:
    share = found.error(place, setting)
    if found.answer.measure is Measure.DB:
        return 10.0 * math.log10(max(1.0 + share, 1e-9))
    return share * _weight(found, place)


def _weight(found: Turned, place: TurnPlace) -> float:
    """What a share of the power there is of what errors are held against."""
    return place.reference_w / found.turnable.full_scale_w if found.answer.measure is Measure.FULL_SCALE else 1.0


def headline(view: View, chosen: Chosen) -> str:
    """What to turn, whether it is worth it; once it was read as left, whether it did what was predicted."""
    if view.procedure.turnables is None:
        return "This question has nothing to be turned."
    try:
        found = turned(view, chosen)
    except FenmistError as error:
        return error.headline
    if found is None:
        return "Nothing can be turned yet: no point was read as found (readings: Alt+5)."
    return _did(view, found, chosen.control) or _worth(found)


def _inside(found: Turned, setting: Setting) -> int:
    """How many readings would lie inside their tolerance."""
    return sum(abs(found.error(item, setting)) <= item.tolerance for item in found.turnable.places)


def best(found: Turned) -> tuple[str, Setting]:
    """The setting that brings most readings inside their tolerance; of several the one whose worst is the least."""

    def key(named: tuple[str, Setting]) -> tuple[int, float]:
        return _inside(found, named[1]), -max(abs(found.error(item, named[1])) for item in found.turnable.places)

    return max(settings_of(found.answer), key=key)


def _worth(found: Turned) -> str:
    """Whether to turn, and what."""
    answer, count = found.answer, len(found.turnable.places)
    if answer.is_inside_u:
        return advice(answer)
    name, setting = best(found)
    was, now = _inside(found, answer.as_found), _inside(found, setting)
    if setting is answer.as_found:
        return f"Leave it: no setting brings more than {was} of {count} readings inside the tolerance."
    inside = f"all {count}" if now == count else f"{now} of {count}"
    return (
        f"Make it read {plain(answer.reads(setting), 'W', 3)} where the reference says "
        f"{plain(found.at.reference_w, 'W', 3)}, at {frequency(found.at.point.frequency_hz)} ({name}): {inside} inside "
        f"the tolerance, {was} as found."
    )


def _did(view: View, found: Turned, control: Control) -> str:
    """Whether the readings as left are what the setting that they fit best leads to expect."""
    of = view.procedure.turnables
    left = of(view.left) if of is not None and view.left is not None else ()
    after = next((item for item in left if item.range_id == found.turnable.range_id), None)
    if after is None:
        return ""
    before = {item.point.id: item for item in found.turnable.places}
    pairs = [(before[item.point.id], item) for item in after.places if item.point.id in before]
    if not pairs:
        return ""
    shown = np.array([item.indicated_w for _, item in pairs])
    before_w = np.array([was.indicated_w * item.reference_w / was.reference_w for was, item in pairs])
    u = np.array([math.hypot(was.u_again, item.u_again) for was, item in pairs])
    gain, zero = float(np.exp(np.mean(np.log(shown / before_w)))), 0.0
    if control is Control.GAIN_AND_ZERO and len(pairs) > 1:
        weights = 1.0 / (shown * np.maximum(u, 1e-9))
        columns = np.stack([weights * before_w, weights], axis=1)
        gain, zero = (float(each) for each in np.linalg.lstsq(columns, weights * shown, rcond=None)[0])
    off = np.abs(shown / (gain * before_w + zero) - 1.0) / np.maximum(u, 1e-9)
    turned_by = percent(gain - 1.0, plus=True)
    if control is Control.GAIN_AND_ZERO:
        turned_by = f"{turned_by} and its zero by {plain(zero, 'W', 2, plus=True)}"
    if float(off.max()) > 1.0:
        where = pairs[int(np.argmax(off))][1]
        return (
            f"It was turned by {turned_by}, but {place_said(where)} moved otherwise: more than that was changed, or "
            "something drifted."
        )
    return f"It was turned by {turned_by}, and every reading moved by that, within its U."
