"""What an instrument on a true bench is put to, and what a sensor makes of it: from the nodes alone."""

from fenmist.kit.part import Part
from fenmist.measurand import Kind
from fenmist.simulation.netlist import Solved, TrueHookUp


def shown(bench: TrueHookUp, solved: Solved, element: str, part: Part, kind: Kind, amplitude: float) -> float:
    """What an instrument without an error of its own would show, V or A rms, or W.

    Parameters
    ----------
    bench, solved : TrueHookUp, Solved
        The truth, and its nodes for a source of 1 V.
    element, part : str, Part
        The instrument: where it stands, and as it is stated.
    amplitude : float
        V of the source.
    """
    at = (element, part.ports[0].id)
    if kind is Kind.VOLTAGE:
        return abs(solved.volts[at]) * amplitude
    if kind is Kind.CURRENT:
        return abs(solved.amperes[at]) * amplitude
    incident = (abs(solved.waves(at)[0]) * amplitude) ** 2
    known = bench.truths[element].part.properties
    factor, zero = known.get("cal_factor"), known.get("zero_w")
    return incident * (factor.value if factor else 1.0) + (zero.value if zero else 0.0)
