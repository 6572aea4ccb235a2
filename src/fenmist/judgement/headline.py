"""The sentence each screen opens with: written from the result, rounded to what the uncertainty supports."""

import numpy as np

from fenmist.calibration.gather import ends_of, load_at, load_of
from fenmist.calibration.job import Job, PlanPoint
from fenmist.calibration.levels import planned_levels
from fenmist.calibration.outcome import Outcome, Stated
from fenmist.calibration.planning import cannot_serve
from fenmist.calibration.receipt import LOOK_OVER
from fenmist.calibration.sent import level_said
from fenmist.findings.note import Note, Severity, unanswered
from fenmist.hookup.levels import FAULT
from fenmist.hookup.line import HookUp
from fenmist.kit.characterisation import Footing
from fenmist.kit.impedance import IMPEDANCE
from fenmist.kit.spectext import said_term
from fenmist.units.display import (
    THIN,
    count_of,
    frequency,
    opening,
    plain,
    uncertainty,
    with_uncertainty,
)


def tolerance_shown(job: Job) -> str:
    """A job's tolerance in words: "±5 % of full scale", "±(3 % of reading + 1 digit)"."""
    said = " + ".join(said_term(term).replace(" ", THIN, 1) for term in job.tolerances)
    return f"±({said})" if job.tolerance_more else f"±{said}"


def receive_headline(job: Job) -> str:
    """What came in, and what still needs a look."""
    name, receipt = opening(job.dut_part.label), job.receipt
    faults = receipt.faults
    if faults:
        return f"{name} came in with {'a fault' if len(faults) == 1 else f'{len(faults)} faults'}: {faults[0]}."
    if len(receipt.missing) == len(LOOK_OVER):
        return f"{name} has not been inspected yet."
    if receipt.missing:
        return f"{name}: {count_of(len(receipt.missing), 'item is', 'items are')} still to be inspected."
    return f"{name} passed inspection: it can be calibrated."


def plan_headline(job: Job) -> str:
    """What will be run, and what can't be."""
    wanted = job.to_read
    if not wanted:
        first = "All that is planned is left out: take a reason away, or" if job.plan else "Nothing is planned yet:"
        return f"{first} type frequencies and levels to add a grid of points."
    unserved = cannot_serve(job)
    rounds = sum(point.repeats for point in wanted)
    what = f"{len(wanted)} {'point' if len(wanted) == 1 else 'points'}, {rounds} {'round' if rounds == 1 else 'rounds'}"
    refused = [point for point in wanted if point.id in unserved]
    if refused:
        first = unserved[refused[0].id]
        return f"{what}; {count_of(len(refused), 'point', 'points')} can't be measured: {first}."
    out = len(job.plan) - len(wanted)
    return f"{what} are planned{f', {out} left out with a reason' if out else ''}; all of them can be measured."


def hookup_headline(job: Job, notes: tuple[Note, ...], hookup: HookUp) -> str:
    """Whether a hook-up bears the plan: as it is set, with a switch elsewhere, and with a fault at the load."""
    levels = planned_levels(job).get(hookup.id)
    if levels is None:
        if not job.plan:
            return (
                "Nothing is planned yet: add a frequency and a level in the step “plan” (Alt+4) to see the levels here."
            )
        return "This line has no source: put a transmitter or a generator at its left end."
    plan = levels.highest
    own = [note for note in notes if note.evidence.get("hookup") == hookup.id]
    over = [note for note in own if note.code == "part.over_rating" and note.severity is not Severity.WATCH]
    stops = [note for note in own if note.severity is Severity.STOP]
    if over:
        return f"At {plain(plan.power_w, 'W')} this hook-up is over a rating: {over[0].what}"
    if stops:
        return f"Don't key this hook-up: {stops[0].what}"
    said = f"At {plain(plan.power_w, 'W')} every part is within its rating"
    if plan.risks:
        risk = plan.risks[0]
        part = job.part(hookup.element(risk.element).part)
        what = f"{part.label}, {risk.component}," if risk.component else part.label
        case = "an open or shorted load" if risk.case == FAULT else risk.case
        return f"{said} as it is set; with {case} {what} would not be."
    volts = max(level.volts_rms for level in plan.levels)
    return f"{said}; the line carries up to {plain(volts, 'V', 2)} rms."


def parts_headline(job: Job) -> str:
    """Whether the parts are known at the planned frequencies."""
    if not job.to_read:
        return _nothing_to_read(job, " to see where the load must be known")
    frequencies = np.array(sorted({point.frequency_hz for point in job.to_read}))
    ends = ends_of(job)
    if len(ends) > 1 or (ends and load_of(job) is None):
        measured = sum(part.characterisation(IMPEDANCE) is not None for part in ends)
        if len(ends) == 1:
            name = opening(ends[0].label)
            return f"{name} is measured." if measured else f"{name} isn't measured: what is stated of it counts."
        if measured == len(ends):
            return f"All {len(ends)} ends of the line are measured."
        if not measured:
            return f"None of the {len(ends)} ends of the line is measured: what is stated of them counts."
        verb = "is" if measured == 1 else "are"
        return f"{measured} of {len(ends)} ends {verb} measured; of the others what is stated counts."
    if not ends:
        return "No load ends this line: nothing has to be measured of one."
    load, state = load_at(job, frequencies)
    unknown = sum(item is Footing.UNKNOWN for item in state.footing)
    if unknown == frequencies.size:
        return f"{opening(load.label)} was not measured at any planned frequency: its nominal value costs 8 %."
    if unknown:
        return f"The impedance of {load.label} is still unknown at {unknown} of {frequencies.size} frequencies."
    worst = int(np.argmax(state.u_resistance_ohm / state.resistance_ohm))
    spread = 100.0 * float(state.u_resistance_ohm[worst] / state.resistance_ohm[worst])
    return f"{opening(load.label)} is known at every planned frequency, to {spread:.1f}{THIN}% (standard) at worst."


def _nothing_to_read(job: Job, why: str = "") -> str:
    if job.plan:
        return "All that is planned is left out: the step “plan” (Alt+4) says why."
    return f"Nothing is planned yet: add points in the step “plan” (Alt+4){why}."


def nothing_in_hand(job: Job, outcome: Outcome, has_point: bool) -> str:
    """What is said in the readings where no point is in hand; nothing where one is."""
    if not job.to_read:
        return _nothing_to_read(job)
    if not has_point:
        return remaining(outcome) if outcome.missing else f"All {job.answers_wanted} points are read."
    return ""


def to_plug(job: Job, point: PlanPoint) -> str:
    """What is to be plugged together before a point is read, where the entry made last was read on another hook-up."""
    entries = (event.entry for event in reversed(job.events) if event.entry is not None)
    last = next((entry.slot.point for entry in entries if job.has_point(entry.slot.point)), "")
    if not last or job.point(last).hookup == point.hookup or job.ledger.at(point.id):
        return ""
    return f"Carrier off, then plug in “{job.hookup(point.hookup).label}”."


def remaining(outcome: Outcome) -> str:
    """How many rounds are still to be read, as a sentence."""
    return f"{count_of(outcome.missing, 'round is', 'rounds are').capitalize()} still to be read."


def certificate_headline(job: Job, outcome: Outcome, notes: tuple[Note, ...]) -> str:
    """Whether the page can be given away."""
    if outcome.says_nothing:
        return "There is nothing to certify yet: no point has been read (readings: Alt+5)."
    doubts = unanswered(notes, job.answers)
    if not outcome.complete:
        return f"The certificate can be issued, but it will say that {remaining(outcome)[:-1].lower()}."
    if doubts:
        return f"The certificate is ready to issue; {count_of(len(doubts), 'doubt is', 'doubts are')} still open."
    return f"The certificate is ready to issue: {len(outcome.stated)} points, no doubt is open."


def budget_title(item: Stated, quantity: str) -> str:
    """What a point's budget is headed with."""
    return (
        f"Uncertainty of the {quantity} at {frequency(item.point.frequency_hz)}, {level_said(item.point)}: "
        f"u\u00a0=\u00a0{uncertainty(item.u, item.unit)}, k\u00a0=\u00a0{item.k:.2f}, "
        f"U\u00a0=\u00a0{uncertainty(item.expanded_u, item.unit)}"
        f"{'' if item.engine == 'linear' else ', by Monte Carlo'}"
    )


def value_headline(value_w: float, expanded_u_w: float, left_out: tuple[str, ...] = ()) -> str:
    """The tool's answer; what was left out of it is said."""
    shown = with_uncertainty(value_w, expanded_u_w, "W")
    if not left_out:
        return f"{shown} go into the load."
    return f"{shown} would go into the load if {' and '.join(left_out)} were left uncorrected."


def what_if_power(before_w: float, after_w: float) -> str:
    """What another uncertainty would make of U."""
    return f"What if: {other_u(before_w, after_w, 'W')}. None of this is kept."


def other_u(before: float, after: float, unit: str) -> str:
    """U as it would be, beside U as it is."""
    now, then = uncertainty(before, unit), uncertainty(after, unit)
    return f"U would stay {now}" if then == now else f"U would be {then} instead of {now}"
