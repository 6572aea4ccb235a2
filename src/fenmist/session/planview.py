"""The plan as it stands: the state of each point, and what the run will take in time and heat."""

import math
from enum import StrEnum

from fenmist.calibration.gather import part_of_kind
from fenmist.calibration.job import Job
from fenmist.hookup.heat import heat_model
from fenmist.judgement.run_rules import READING_S
from fenmist.kit.part import PartKind
from fenmist.session.view import View
from fenmist.session.warmth import WARM, duration


class PlanState(StrEnum):
    """What has come of a point."""

    PLANNED = "planned"
    BEGUN = "begun"
    READ = "read"
    TO_REPEAT = "to repeat"
    UNSERVED = "can't be served"
    BLOCKED = "left out"

    @property
    def sign(self) -> str:
        """Its sign on the map: shape, not colour, tells."""
        return {"planned": "", "begun": "◐", "read": "●", "to repeat": "↻", "can't be served": "✕", "left out": "–"}[
            self
        ]


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
    """Carrier time and rests of the whole run, by the load's data, in words."""
    wanted = job.to_read
    if not wanted:
        return ""
    model = heat_model(part_of_kind(job, PartKind.LOAD))
    keyed = rested = rise = 0.0
    for point in wanted:
        for _ in range(point.repeats):
            seconds = READING_S * len(point.sequence)
            if model is not None:
                rest = model.rest_before(rise, point.target_w, seconds)
                if math.isinf(rest):
                    return f"One round at {point.target_w:g} W is more than the load bears."
                rise = model.after(model.after(rise, 0.0, rest), point.target_w, seconds)
                rested += rest
            keyed += seconds
    load = part_of_kind(job, PartKind.LOAD).label
    resting = f", {load} rests {duration(rested)} in between" if rested >= 1.0 else ""
    warm = f"; it ends at {100 * rise:.0f}\u2009% of its rise" if model is not None and rise > WARM / 2 else ""
    return (
        f"About {duration(keyed)} min of carrier at {READING_S:g}\u2009s a reading{resting}{warm}. An estimate; "
        "changing bands takes its own time."
    )
