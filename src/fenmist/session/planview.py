"""The plan as it stands: the state of each point, and what the run will take in time and heat."""

import math
from enum import StrEnum

from fenmist.calibration.gather import load_of
from fenmist.calibration.job import Job
from fenmist.calibration.schedule import READING_S, schedule
from fenmist.session.view import View
from fenmist.session.warmth import WARM, duration


class PlanState(StrEnum):
    """What has come of a point."""

    PLANNED = "planned"
    BEGUN = "begun"
    READ = "read"
    TO_REPEAT = "to repeat"
    UNSERVED = "can't be measured"
    BLOCKED = "left out"

    @property
    def sign(self) -> str:
        """Its sign on the map: shape, not colour, tells."""
        return _SIGNS[self]


_SIGNS = {
    PlanState.PLANNED: "", PlanState.BEGUN: "◐", PlanState.READ: "●", PlanState.TO_REPEAT: "↻",
    PlanState.UNSERVED: "✕", PlanState.BLOCKED: "–",
}  # fmt: skip


def plan_states(view: View) -> dict[str, PlanState]:
    """The state of each point; one to repeat has an open entry or a doubt that wasn't answered."""
    doubted = {
        note.about.split("/")[0]
        for note in view.notes
        if "/" in note.about and note.severity.rank <= 1 and not _answered(view, note.key)
    }
    states = {}
    for item in view.result.readings:
        point = item.point
        if point.blocked:
            state = PlanState.BLOCKED
        elif item.open_entries or point.id in doubted:
            state = PlanState.TO_REPEAT
        elif item.wanted and item.complete_rounds >= item.wanted:
            state = PlanState.READ
        elif item.entered:
            state = PlanState.BEGUN
        else:
            state = PlanState.UNSERVED if point.id in view.unserved else PlanState.PLANNED
        states[point.id] = state
    return states


def signs_in_words() -> str:
    """What the signs on the map mean."""
    return "  ".join(f"{state.sign} {state}" for state in PlanState if state.sign)


def _answered(view: View, key: str) -> bool:
    answer = view.job.answers.get(key)
    note = next((note for note in view.notes if note.key == key), None)
    return answer is not None and note is not None and answer.holds_for(note)


def run_estimate(job: Job) -> str:
    """Carrier time, rests and the whole of the run, by the load's data, in words."""
    if not job.to_read:
        return ""
    laid_out = schedule(job)
    if laid_out.too_much is not None:
        return f"One round at {laid_out.too_much.point.target_w:g} W is more than the load is rated for."
    end = load_of(job)
    load = end.label if end is not None else "the line's end"
    rested, rise = laid_out.rest_s, laid_out.stints[-1].rise_after
    resting = f", {load} rests {duration(rested)} in between" if rested >= 1.0 else ""
    warm = f"; it ends at {100 * rise:.0f}\u2009% of its rise" if rise > WARM / 2 else ""
    return (
        f"About {duration(laid_out.carrier_s)} min of carrier at {READING_S:g}\u2009s a reading{resting}{warm}; "
        f"{duration(laid_out.total_s)} in all with changes of band. An estimate."
    )


def point_time(job: Job, point_id: str) -> str:
    """Key-down and rest of a point's rounds, in words; the longest rest counts."""
    stints = schedule(job).of_point(point_id)
    if not stints:
        return ""
    rest = max(item.rest_s for item in stints)
    if math.isinf(rest):
        return "too much for the load"
    keyed = (
        f"{len(stints)} × {stints[0].key_down_s:.0f}\u2009s"
        if len(stints) > 1
        else f"{stints[0].key_down_s:.0f}\u2009s"
    )
    return f"{keyed}, rest {duration(rest)}" if rest >= 1.0 else keyed
