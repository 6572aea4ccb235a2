"""What to turn, in words: desk and plain command say the same."""

from fenmist.methods.trim import Measure, Setting, TrimAnswer
from fenmist.units.display import THIN, percent, plain

NAMES = ("as found", "exact at the working level", "least worst case", "least squares")
"""Settings in the order in which they stand side by side."""


NOTHING = 5e-5
"""Errors below which nobody turns anything (Fenmist's own)."""


def settings_of(answer: TrimAnswer) -> tuple[tuple[str, Setting], ...]:
    """All four by name."""
    return tuple(zip(NAMES, (answer.as_found, answer.exact, answer.minimax, answer.least_squares), strict=True))


def error_said(error: float, measure: Measure) -> str:
    """An error as it is weighed, with its sign; what rounding leaves of nothing is nothing."""
    if abs(error) < NOTHING:
        return f"0{THIN}{'dB' if measure is Measure.DB else '%'}"
    return f"{error:+.2f}{THIN}dB" if measure is Measure.DB else percent(error, plus=True)


def advice(answer: TrimAnswer) -> str:
    """What to do, in a sentence."""
    best, found = answer.minimax, answer.as_found
    if answer.is_inside_u:
        return "Leave it: every error lies inside its uncertainty."
    left, was = (error_said(abs(item.worst), answer.measure).lstrip("+") for item in (best, found))
    turn = f"multiply what it shows by {best.gain:.4g}"
    if best.zero_w:
        turn += f" and add {plain(best.zero_w, 'W', 3)}"
    at = answer.working_w
    return (
        f"{turn[0].upper()}{turn[1:]} (make it read {plain(answer.reads(best), 'W', 3)} at {plain(at, 'W', 3)}): "
        f"the worst error falls from {was} to {left}."
    )


def trim_rows(answer: TrimAnswer) -> tuple[tuple[str, str], ...]:
    """Each setting: what to make it read at the working level, the worst error that is left and where."""
    return tuple(
        (
            name,
            f"× {setting.gain:.4f}"
            + (f" {'+' if setting.zero_w > 0 else '−'} {plain(abs(setting.zero_w), 'W', 3)}" if setting.zero_w else "")
            + f": reads {plain(answer.reads(setting), 'W', 4)} at {plain(answer.working_w, 'W', 3)}, "
            f"worst {error_said(setting.errors[setting.worst_at], answer.measure)} at "
            f"{plain(answer.reference_w[setting.worst_at], 'W')}",
        )
        for name, setting in settings_of(answer)
    )
