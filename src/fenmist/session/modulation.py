"""What meters show on a waveform and where a gain's plateau begins, in words: desk and plain commands say the same."""

import math

from fenmist.methods.on_waveform import MetersAnswer
from fenmist.methods.plateau import End, PlateauAnswer
from fenmist.units.display import THIN, percent, plain, rounded, with_uncertainty
from fenmist.waveform.movement import Digits, Movement, Shown

NAMES = {
    "thermal": "Thermal meter", "averaging": "Averaging needle", "hold": "Hold", "peak": "True peak",
}  # fmt: skip
"""The four kinds of meter, by `USUAL`'s names."""


def name_of(answer: MetersAnswer, kind: str) -> str:
    """One of the four: the kit's meter by its label, where it stands for that kind."""
    return answer.meter[1] if answer.meter is not None and answer.meter[0] == kind else NAMES[kind]


def meters_headline(answer: MetersAnswer) -> str:
    """What one sees of a PEP, in a sentence."""
    shows = answer.shows
    if answer.moments.mean > 0.999:
        return f"On {_a(answer.waveform.name)} all four show {plain(answer.pep_w, 'W')}: that is what to calibrate on."
    return (
        f"{plain(answer.pep_w, 'W')} PEP is {plain(answer.mean_w, 'W', 3)} on average; an averaging needle shows "
        f"{plain(shows['averaging'].reading, 'W', 3)}, a hold {plain(shows['hold'].reading, 'W', 3)}."
    )


def meters_rows(answer: MetersAnswer) -> tuple[tuple[str, str], ...]:
    """A waveform's powers, and what each meter makes of them."""
    moments = answer.moments
    papr = rounded(abs(moments.papr_db), 2)  # of a carrier a rounding error below nothing
    below = f"{papr}{THIN}dB below PEP" if float(papr) else "which is its PEP"
    return (
        ("Waveform", answer.waveform.name),
        ("PEP", plain(answer.pep_w, "W")),
        ("Mean", f"{plain(answer.mean_w, 'W')}, {below}"),
        ("At the crest", f"{percent(moments.crest_share)} of the time within 1{THIN}dB of PEP"),
        *(
            (name_of(answer, kind), _shown(item, answer.pep_w, answer.movements[kind]))
            for kind, item in answer.shows.items()
        ),
    )


def _shown(item: Shown, pep_w: float, movement: Movement) -> str:
    said = f"{plain(item.reading, 'W')}, {percent(item.reading / pep_w)}"
    if item.high - item.low > 0.02 * pep_w:
        low = item.low if item.low > 1e-3 * pep_w else 0.0
        verb = "changes" if isinstance(movement.display, Digits) else "swings"
        said += f"; {verb} between {plain(low, 'W', 2)} and {plain(item.high, 'W', 2)}"
    return said


NEAR = 0.12
"""Ratio of a reading to what a kind of meter shows within which it may be of that kind (Fenmist's own)."""


def told_of(answer: MetersAnswer, device_w: float | None) -> str:
    """Which of the four a meter that showed so much would be on this waveform, in a sentence."""
    if device_w is None or device_w <= 0.0 or answer.moments.mean > 0.999:
        return ""
    fits = [
        name for name, item in answer.shows.items()
        if item.reading > 0.0 and abs(device_w / item.reading - 1.0) <= NEAR
    ]  # fmt: skip
    said = plain(device_w, "W", 3)
    passed = [
        name for name, item in answer.shows.items() if name not in fits and item.low <= device_w <= item.high
    ]  # fmt: skip
    within = f"within the swing of {' or '.join(_A[name] for name in passed)}"
    if not fits:
        return f"{said} lies {within}." if passed else f"{said} is what none of the four shows here."
    about = f"{said} is about what {' or '.join(_A[name] for name in fits)} shows"
    return f"{about}, and {within}." if passed else f"{about}."


_A = {"thermal": "a thermal meter", "averaging": "an averaging needle", "hold": "a hold", "peak": "a true peak meter"}


def plateau_headline(answer: PlateauAnswer) -> str:
    """Where to set the gain, in a sentence."""
    fit, clean = answer.fit, answer.clean
    limits = answer.setting is not None and clean is not None and clean < answer.knee_or_end
    if limits and answer.setting is not None and clean is not None:
        return (
            f"Distortion sets the limit, at {plain(clean, '', 3)}: set it to {plain(answer.setting, '')}, below that."
        )
    if fit is None or answer.setting is None:
        return f"There is no plateau to set the gain by: the power {_BEYOND[answer.end]}."
    return (
        f"The power stands at {plain(answer.plateau_w, 'W', 3)} from gain "
        f"{with_uncertainty(fit.gain, fit.expanded_u, '')}: set it to {plain(answer.setting, '')}, a touch below."
    )


_BEYOND = {
    End.STANDS: "stands", End.RISES: "bends but still rises", End.FALLS: "falls beyond the knee",
    End.UNSEEN: "still rises where the readings end",
}  # fmt: skip


_RISES = "the power rises as the square of the gain"


def plateau_rows(answer: PlateauAnswer) -> tuple[tuple[str, str], ...]:
    """The knee and what follows from it."""
    fit, distorts = answer.fit, _distorts(answer)
    if fit is None:
        set_to = () if answer.setting is None else (("Set", plain(answer.setting, "")),)
        return (("Plateau", "none seen"), ("Highest", plain(answer.plateau_w, "W")), *distorts, *set_to)
    return (
        ("Knee", f"{with_uncertainty(fit.gain, fit.expanded_u, '')}, between {plain(fit.low, '')} and "
                 f"{plain(fit.high, '')}"),
        ("Plateau", f"{with_uncertainty(fit.plateau_w, 2.0 * fit.u_plateau_w, 'W')}; beyond the knee it {answer.end}"),
        ("Below it", _RISES if fit.law > 1 else f"{plain(fit.slope, 'W', 3)} for each step of gain"),
        *distorts,
        ("Set", "nothing: no plateau" if answer.setting is None else plain(answer.setting, "")),
    )  # fmt: skip


def _a(name: str) -> str:
    return name if name.isupper() else f"a {name}"


def _distorts(answer: PlateauAnswer) -> tuple[tuple[str, str], ...]:
    if answer.clean is None:
        return ()
    said = f"from {plain(answer.clean, '', 3)}" if math.isfinite(answer.clean) else "nowhere in these readings"
    return (("Distorts", said),)
