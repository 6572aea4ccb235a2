"""How a meter moved through the years, in a sentence."""

from fenmist.calibration.history import RISK, Drift
from fenmist.units.display import THIN, percent, signed


def drift_sentence(line: Drift) -> str:
    """How a meter moved at one point through the years."""
    since = line.since[:7]
    relative = line.unit == "%"
    moved = percent(line.per_year, plus=True) if relative else f"{signed(f'{line.per_year:+.2g}')}{THIN}{line.unit}"
    slope = f"{moved} a year"
    if not line.is_seen:
        known = percent(line.u_per_year) if relative else f"{line.u_per_year:.2g}{THIN}{line.unit}"
        return f"Since {since} no drift can be seen: {slope} with a standard uncertainty of {known}."
    outside = bool(line.crosses_on) and line.crosses_on <= line.latest_on
    ending = f"; at that rate it leaves its tolerance in {line.crosses_on[:7]}" if line.crosses_on else ""
    ending = "; by now it is outside its tolerance" if outside else ending
    if not outside and (sooner := line.likely_outside_on(RISK)):
        ending += f", as likely as {percent(RISK)} already in {sooner[:7]}"
    return f"Since {since} it drifts by {slope}{ending}."
