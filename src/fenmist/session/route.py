"""The route of a job: how far each step is, and what it still needs."""

import numpy as np

from fenmist.calibration.gather import load_at, load_of
from fenmist.calibration.receipt import LOOK_OVER
from fenmist.findings.note import unanswered
from fenmist.frozen import dataclass
from fenmist.judgement.job_rules import highest_level
from fenmist.kit.characterisation import Footing
from fenmist.session.view import View


@dataclass(frozen=True)
class StepState:
    """One step: `fill` is 0 for not begun, 1 for done, between for begun."""

    title: str
    fill: float
    needs: str = ""
    is_offered: bool = True  # false where a question has no such step


def route(view: View, *, judged: bool = True) -> tuple[StepState, ...]:
    """All steps in working order; before a job was judged nothing says how many of its notes are unanswered."""
    return (
        _receive(view), _hookup(view), _parts(view), _plan(view), _readings(view), _results(view), _adjust(view),
        _certificate(view, judged),
    )  # fmt: skip


def _receive(view: View) -> StepState:
    missing = view.job.receipt.missing
    if not missing:
        return StepState("Receive", 1.0, "with a fault" if view.job.receipt.faults else "")
    begun = len(missing) < len(LOOK_OVER)
    return StepState("Receive", 0.5 if begun else 0.0, f"{len(missing)} to look at" if begun else "")


def _plan(view: View) -> StepState:
    wanted = view.job.to_read
    if not wanted:
        return StepState("Plan", 0.0, "all left out" if view.job.plan else "nothing planned")
    refused = sum(1 for point in wanted if point.id in view.unserved)
    return StepState("Plan", 0.5 if refused else 1.0, f"{refused} can't be measured" if refused else "")


def _hookup(view: View) -> StepState:
    plan = highest_level(view.job)
    if plan is None:
        return StepState("Hook-up", 0.5, "nothing planned")
    if any(not over.is_marginal for over in plan.overloads):
        return StepState("Hook-up", 0.5, "a part over its limit")
    return StepState("Hook-up", 1.0)


def _parts(view: View) -> StepState:
    frequencies = np.array(sorted({point.frequency_hz for point in view.job.to_read}))
    if not frequencies.size:
        return StepState("Parts", 0.0)
    if load_of(view.job) is None:
        return StepState("Parts", 1.0)
    _, state = load_at(view.job, frequencies)
    unknown = sum(item is Footing.UNKNOWN for item in state.footing)
    if not unknown:
        return StepState("Parts", 1.0)
    fill = 0.5 if unknown < frequencies.size else 0.0
    return StepState("Parts", fill, f"load: {unknown} of {frequencies.size} open")


def _readings(view: View) -> StepState:
    planned = view.result.wanted
    if not planned:
        return StepState("Readings", 0.0)
    done = planned - view.result.missing
    if not view.result.missing:
        return StepState("Readings", 1.0)
    begun = bool(view.standing)
    return StepState("Readings", 0.5 if begun else 0.0, f"{done} of {planned} rounds" if begun else "")


def _results(view: View) -> StepState:
    if view.result.says_nothing:
        return StepState("Results", 0.0)
    if view.result.complete:
        return StepState("Results", 1.0)
    return StepState("Results", 0.5, f"{len(view.result.stated)} of {view.job.answers_wanted} points")


def _adjust(view: View) -> StepState:
    """Begun once it was adjusted, done once all was read as left; never asked for."""
    if view.procedure.turnables is None:
        return StepState("Adjust", 0.0, is_offered=False)
    if not view.job.is_adjusted:
        return StepState("Adjust", 0.0)
    return StepState("Adjust", 1.0 if view.left is not None and view.left.complete else 0.5)


def _certificate(view: View, judged: bool) -> StepState:
    if view.result.says_nothing:
        return StepState("Certificate", 0.0)
    doubts = unanswered(view.notes, view.job.answers) if judged else ()
    if doubts:
        return StepState("Certificate", 0.5, f"{len(doubts)} unanswered")
    return StepState("Certificate", 1.0 if judged and view.result.complete else 0.5)
