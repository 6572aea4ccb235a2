"""The designer as data: its fields by what is built, a design from their texts, and all that is said of it.

Desk and plain commands say the same. Page: docs/method/designer.md.
"""

import math
import re
from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from fenmist.design.choice import chosen, options
from fenmist.design.design import Ask, Design, FloatArray
from fenmist.design.proof import LEAST_STRAY, Explained, Proof
from fenmist.design.response import Span, aim_db, holds, respond, sensitivities
from fenmist.design.rules import judge
from fenmist.design.shapes import ENDS, PADS, SPLITTERS, TAPS, Shape, Target
from fenmist.design.shortcut import high_corner_hz, low_corner_hz, shortcut_db
from fenmist.design.spread import Spread, spread
from fenmist.design.stack import Ranked
from fenmist.design.stock import Stock, stock_from_text
from fenmist.design.strays import STRAY_LABELS, Strays
from fenmist.design.stress import PortStrain, Strain, port_strains, strains
from fenmist.errors import UnreadableError
from fenmist.findings.note import Note
from fenmist.frozen import dataclass
from fenmist.kit.sheet import Field
from fenmist.procedures.page import Sweep, SweepLine
from fenmist.rf.circuit import LEAST_H, LEAST_OHM, BranchKind
from fenmist.units.display import THIN, frequency, percent, plain, resistance, rounded, swr
from fenmist.units.typed import value_from_text, values_from_text
from fenmist.units.unit import UNITS

OPEN = "open"

_ASKS = {
    Target.COUPLING: ("coupling, line to sensor", "40 dB", "dB"), Target.LOSS: ("attenuation", "10 dB", "dB"),
    Target.RATIO: ("ratio of volts", "10", ""), Target.SWR: ("SWR; below 1 on the low side", "2", ""),
}  # fmt: skip

_BAND = Field("band", "band", "1.8 54 MHz", "Its low and its high end")
_WITHIN = Field("within", "holds within ±", "0.5 dB")
_POWER = Field("power", "power on the line", "100 W", "The most there will be")
_KEYDOWN = Field("keydown", "key-down at a time", "60 s")
_Z0 = Field("z0", "impedance of the line", "50 Ω")
_SENSOR = Field("sensor", "it is connected to", "50 Ω", "50 Ω · 1 MΩ 15 pF · open: ask this before any figure")
_R2 = Field("shunt", "R2, across the output", "50 Ω", "50 Ω: an open port still looks like 50 Ω; 0 for none")
_STOCK = Field("stock", "made from", "E24 5 % 2 W", "A series, or the drawer: 820 Ω 2 W × 6; 100 Ω; measured 56.2 Ω")
_STRAYS = (
    Field("across", "C across each resistor", "0.05 pF", "0.05 to 0.3 pF are met"),
    Field("joint", "C from each joint to the box", "0.2 pF", "A tight build has less"),
    Field("lead", "L of each resistor's leads", "5 nH", "About 1 nH a millimetre"),
    Field("output", "C from the output to the box", "0 pF"),
)
_TRIM = Field("trim", "C of the trim wire", "0 pF", "From the line to the output; worked out by a key")


def fields_of(shape: Shape) -> tuple[Field, ...]:
    """What is asked of a shape, what it will be connected to first."""
    found = [_SENSOR] if Design(shape).layout.side else []
    if _target(shape) in _ASKS:
        name, example, _ = _ASKS[_target(shape)]
        found.append(Field("target", name, example))
    if Design(shape).layout.side:
        found.append(_R2)
    if shape is Shape.TRANSFORMER_TAP:
        found.append(Field("winding", "A_L of the core", "600 nH", "Inductance of one turn: the core's data sheet"))
    if shape is Shape.RESISTIVE_TAP:
        found.append(Field("block", "capacitor against DC", "0.1 µF", "Left empty: none"))
    found.append(_Z0)
    if shape in PADS:
        found.append(Field("far", "impedance at “out”", "50 Ω"))
    found += [_POWER, _KEYDOWN, _BAND, _WITHIN, _STOCK, *_STRAYS]
    if shape in (Shape.RESISTIVE_TAP, Shape.PI_PAD, Shape.TEE_PAD, Shape.DIVIDER):
        found.append(_TRIM)
    return tuple(found)


def example_of(shape: Shape) -> dict[str, str]:
    """Texts to begin with."""
    made = {item.id: item.example for item in fields_of(shape) if item.id not in ("block",)}
    if shape is Shape.L_PAD:
        made["z0"] = "75 Ω"
    if shape is Shape.DIVIDER:
        made |= {"sensor": "10 MΩ 10 pF", "shunt": "1 kΩ", "band": "0.1 10 MHz"}
    if shape is Shape.TRANSFORMER_TAP:
        made |= {"target": "26 dB"}
    return made


def _target(shape: Shape) -> Target:
    return Design(shape).layout.target


def design_from(shape: Shape, texts: Mapping[str, str], typed: Mapping[str, str] | None = None) -> Design:
    """The design that texts say; what is left empty is as usual.

    Parameters
    ----------
    shape : Shape
    texts : mapping
        By field.
    typed : mapping, optional
        Values by piece, typed in place of those that follow.

    Raises
    ------
    UnreadableError, OutOfRangeError
        Names the field.
    """
    usual = Ask()

    def given(name: str, unit: str, otherwise: float) -> float:
        text = texts.get(name, "").strip()
        field = next((item for item in fields_of(shape) if item.id == name), None)
        return value_from_text(text, UNITS[unit], field.label, field.example) if text and field else otherwise

    low, high = usual.low_hz, usual.high_hz
    if texts.get("band", "").strip():
        band = values_from_text(texts["band"], "MHz", _BAND.label, _BAND.example)
        if len(band) != 2:
            raise UnreadableError(f"“{texts['band']}” is no band.", f"Type its two ends, for example {_BAND.example}.")
        low, high = band
    unit = _ASKS[_target(shape)][2] if _target(shape) in _ASKS else ""
    sensor_ohm, sensor_f = _sensor(texts.get("sensor", ""))
    ask = Ask(
        given("target", unit, usual.target), given("z0", "Ω", usual.z0_ohm), given("far", "Ω", usual.far_ohm),
        sensor_ohm, sensor_f, given("shunt", "Ω", usual.shunt_ohm), given("power", "W", usual.power_w),
        given("keydown", "s", usual.keydown_s), low, high, given("within", "dB", usual.within_db),
        given("winding", "nH", usual.winding_h), given("block", "µF", 0.0),
    )  # fmt: skip
    usually = Strays()
    strays = Strays(
        given("across", "pF", usually.across_f), given("joint", "pF", usually.joint_f),
        given("lead", "nH", usually.lead_h), given("output", "pF", 0.0), given("trim", "pF", 0.0),
    )  # fmt: skip
    return Design(shape, ask, _typed(shape, typed or {}), strays=strays)


_LEAST = {BranchKind.RESISTOR: LEAST_OHM, BranchKind.INDUCTOR: LEAST_H}
_UNITS = {"resistor": "Ω", "capacitor": "pF", "inductor": "µH", "turns": ""}


def _typed(shape: Shape, texts: Mapping[str, str]) -> dict[str, float]:
    found = {}
    for spot in Design(shape).layout.spots:
        if text := texts.get(spot.id, "").strip():
            value = value_from_text(text, UNITS[_UNITS[spot.kind]], spot.id, "820 Ω")
            if not _LEAST.get(spot.kind, 0.0) < value < 1e12:
                raise UnreadableError(f"{spot.id}: “{text}” is no value of a piece.", "It is above 0 and no short.")
            found[spot.id] = value
    return found


def _sensor(text: str) -> tuple[float, float]:
    """Resistance and capacitance of what is plugged in."""
    said = text.strip()
    if not said:
        return Ask().sensor_ohm, 0.0
    if said.lower() in (OPEN, "nothing"):
        return math.inf, 0.0
    match = re.fullmatch(r"(?P<ohm>.*?)(?:[\s,∥]+(?P<farad>[\d.,]+\s*[pn]F))?", said)
    ohm, farad = (match["ohm"], match["farad"]) if match else (said, None)
    example = "50 Ω, or 1 MΩ 15 pF"
    return (
        value_from_text(ohm, UNITS["Ω"], _SENSOR.label, example),
        value_from_text(farad, UNITS["pF"], _SENSOR.label, example) if farad else 0.0,
    )


def stock_of(texts: Mapping[str, str]) -> Stock:
    """What it is made from; raises as `stock_from_text` does."""
    return stock_from_text(texts.get("stock", "") or _STOCK.example)


@dataclass(frozen=True, eq=False)
class Worked:
    """A design with all that follows from it."""

    design: Design
    strains: tuple[Strain, ...]
    ports: tuple[PortStrain, ...]
    spread: Spread
    span: Span | None
    notes: tuple[Note, ...]

    @property
    def main_db(self) -> float:
        """The main figure in the middle of the band without strays, dB."""
        return float(respond(self.design.as_drawn, self.design.ask.middle_hz).main_db[0])


def worked(design: Design) -> Worked:
    """All of it; raises OutOfRangeError where the circuit has no solution."""
    pieces, ports, by_tolerance = strains(design), port_strains(design), spread(design)
    notes = judge(design, pieces, ports, by_tolerance)
    return Worked(design, pieces, ports, by_tolerance, holds(design), notes)


def figure(design: Design, value_db: float) -> str:
    """The main figure as people say it: dB, a ratio, an SWR."""
    if design.shape in ENDS:
        return f"SWR {swr(10.0 ** (value_db / 20.0))}"
    if design.shape is Shape.DIVIDER:
        return f"{plain(10.0 ** (value_db / 20.0), '', 4)} to 1"
    return f"{rounded(value_db, 2)}\u202fdB"


def headline(made: Worked) -> str:
    """What it does, in a sentence."""
    design, ask, span = made.design, made.design.ask, made.span
    what = figure(design, made.main_db)
    if design.shape in TAPS and ask.by_volts:
        what = f"{what} of volts"
    hold = "and doesn't hold what is asked" if span is None else f"and holds it within {plain(ask.within_db, 'dB')}"
    if span is not None and not (math.isinf(span.high_hz) and span.low_hz <= 0.0):
        ends = f"from {plain(span.low_hz, 'Hz', 3)} " if span.low_hz > 0.0 else ""
        ends += "on" if math.isinf(span.high_hz) else f"to {plain(span.high_hz, 'Hz', 3)}"
        hold = f"{hold} {ends}".replace("  ", " ")
    return f"The {design.shape} makes {what} {hold}."


def rows(made: Worked) -> tuple[tuple[str, str], ...]:
    """Its figures by name."""
    design, ask = made.design, made.design.ask
    low = respond(design.as_drawn, ask.middle_hz)
    found: list[tuple[str, str]] = []
    for spot in design.resistors:
        stack = design.stacks.get(spot.id)
        wanted = resistance(design.wanted[spot.id])
        if stack is None:
            found.append((spot.id, f"{wanted}, {spot.label}"))
        else:
            found.append((spot.id, f"{stack.said()}: {plain(stack.ohm, 'Ω', 4)} for {wanted}, {spot.label}"))
    for spot in design.present:
        if spot not in design.resistors:
            unit = {"capacitor": "F", "inductor": "H"}.get(str(spot.kind), "")
            found.append((spot.id, f"{plain(design.values[spot.id], unit, 3)}, {spot.label}"))
    name = str(design.layout.target).capitalize() if design.shape not in ENDS else "Match"
    found.append((name or "Loss", figure(design, made.main_db)))
    if low.through_db is not None:
        found.append(("Through", f"{float(low.through_db[0]):.2g}\u202fdB, SWR {swr(float(low.swr[0]))}"))
    elif design.shape in PADS:
        seen = swr(float(low.swr_far[0])) if low.swr_far is not None else "—"
        found.append(("SWR", f"{swr(float(low.swr[0]))} at “in”, {seen} at “out”"))
    if low.reverse_db is not None and design.shape in TAPS:
        found.append(("From the other end", figure(design, float(low.reverse_db[0]))))
    if low.second_db is not None and low.isolation_db is not None and design.shape in SPLITTERS:
        found.append(("To the other", figure(design, float(low.second_db[0]))))
        found.append(("Between outputs", figure(design, float(low.isolation_db[0]))))
    if (off := shortcut_db(design)) is not None:
        found.append(("Shortcut", f"{off.formula}: {rounded(off.off_db, 2, plus=True)}\u202fdB off"))
    if (corner := low_corner_hz(design)) is not None:
        found.append(("Low corner", plain(corner, "Hz", 3)))
    if (corner := high_corner_hz(design)) is not None:
        found.append(("High corner", plain(corner, "Hz", 3)))
    tolerance = made.spread
    ends = f"{rounded(tolerance.low_db, 2, plus=True)} to {rounded(tolerance.high_db, 2, plus=True)}\u202fdB at worst"
    found.append(("Tolerance", f"{ends}, {percent(tolerance.share)} of them within {plain(ask.within_db, 'dB')}"))
    return tuple(found)


def strain_rows(made: Worked) -> tuple[tuple[str, ...], ...]:
    """Pieces, then connectors (their volts also where all comes back): by `STRAIN_HEADINGS`."""
    seconds = made.design.ask.keydown_s
    found = []
    for item in made.strains:
        used, rise = item.used, item.rise(seconds)
        found.append((
            item.id, item.label, plain(item.power_w, "W", 3) if item.is_resistor else "—",
            plain(item.fault_w, "W", 3) if item.is_resistor else "—",
            "not said" if used is None else percent(used), "—" if rise is None else percent(rise),
            plain(item.volts, "V", 3),
        ))  # fmt: skip
    for port in made.ports:
        both = f"{plain(port.volts, 'V', 3)}, {plain(port.fault_volts, 'V', 3)}"
        found.append((f"“{port.port}”", "connector", plain(port.power_w, "W", 3), "—", "—", "—", both))
    return tuple(found)


STRAIN_HEADINGS = ("piece", "value", "takes", "if all comes back", "of rating", "warm after", "volts")
"""Of `strain_rows`: the last are what it warms by in the key-down, and volts rms."""


def stack_row(item: Ranked) -> tuple[str, ...]:
    """A stack that is offered: what it is, its error, tolerance, heat."""
    heat = "not said" if item.heat is None else percent(item.heat)
    return (
        item.stack.said(), resistance(item.stack.ohm, 5), percent(item.error, plus=True),
        f"±{percent(item.stack.tolerance)}", heat,
    )  # fmt: skip


STACK_HEADINGS = ("stack", "makes", "error", "tolerance", "heat")
"""Of `stack_row`; heat is of what may be used of the ratings."""


def with_stacks(design: Design, texts: Mapping[str, str]) -> Design:
    """With the best stack for each resistor; raises as `options` does."""
    return chosen(design, stock_of(texts))


def stacks_for(design: Design, name: str, texts: Mapping[str, str]) -> tuple[Ranked, ...]:
    """What can be chosen for a resistor."""
    return options(design, name, stock_of(texts))


DRAWN = 140
"""Places at which a response is drawn."""

TRIMS = (0.7, 1.3)
"""Parts of a trim wire's capacitance that are drawn beside it: too little, too much (Fenmist's own)."""


def sweep_of(design: Design, proof: Proof | None = None) -> Sweep:
    """The response as a picture: with a third less and more of a trim wire, and a file over it."""
    ask = design.ask
    f = np.geomspace(ask.low_hz / 1.6, 1.6 * ask.high_hz, DRAWN)
    lines = [SweepLine("designed", _line(design, f))]
    if design.strays.trim_f > 0.0:
        for times, name in zip(TRIMS, ("less wire", "more wire"), strict=True):
            wire = replace(design.strays, trim_f=times * design.strays.trim_f)
            lines.append(SweepLine(name, _line(replace(design, strays=wire), f), "beside"))
    around: tuple[tuple[float, float, float], ...] = ()
    if proof is not None:
        kept = (proof.frequency_hz >= f[0]) & (proof.frequency_hz <= f[-1])
        mhz, value, u = proof.frequency_hz[kept] / 1e6, proof.measured_db[kept], proof.expanded_u_db[kept]
        lines.append(SweepLine("measured", tuple(zip(mhz.tolist(), value.tolist(), strict=True)), "measured"))
        around = tuple(zip(mhz.tolist(), (value - u).tolist(), (value + u).tolist(), strict=True))
    title = {Target.RATIO: "ratio of volts", Target.NONE: "loss"}.get(design.layout.target, str(design.layout.target))
    unit, aim, within = "dB", aim_db(design), ask.within_db
    if design.shape in ENDS:
        title, unit = "SWR", ""
        aim, within = _ratio(aim), _ratio(aim + within) - _ratio(aim)
        lines = [replace(item, points=tuple((x, _ratio(y)) for x, y in item.points)) for item in lines]
        around = tuple((x, _ratio(low), _ratio(high)) for x, low, high in around)
    span = holds(design)
    said = f"{title} over frequency" + ("" if span is None else f", holds to {plain(span.high_hz, 'Hz', 3)}")
    return Sweep(
        title, unit, tuple(item for item in lines if item.points), aim, within, ask.low_hz / 1e6, ask.high_hz / 1e6,
        around, said,
    )  # fmt: skip


def _ratio(value_db: float) -> float:
    return float(10.0 ** (value_db / 20.0))


def _line(design: Design, f: FloatArray) -> tuple[tuple[float, float], ...]:
    return tuple(zip((f / 1e6).tolist(), respond(design, f).main_db.tolist(), strict=True))


def sensitivity_said(design: Design) -> str:
    """What a little more of each stray moves at the band's top."""
    moves = [
        f"{plain(item.step, 'H' if item.name == 'lead_h' else 'F', 2)} of {STRAY_LABELS[item.name]} "
        f"{rounded(item.db, 2, plus=True)}{THIN}dB"
        for item in sensitivities(design)
        if abs(item.db) >= SEEN_DB
    ]  # fmt: skip
    return f"At {frequency(design.ask.high_hz)} a little more moves it: {'; '.join(moves)}." if moves else ""


SEEN_DB = 0.005
"""dB below which a stray moves nothing that is seen (Fenmist's own)."""


def proof_said(proof: Proof) -> str:
    """What a file says of the design: its transmission, then its match at “in”."""
    worst = proof.worst
    off, u = float(proof.off_db[worst]), float(proof.expanded_u_db[worst])
    at = frequency(float(proof.frequency_hz[worst]))
    apart = f"{rounded(off, 2, plus=True)}{THIN}dB at {at}, U {rounded(u, 2)}{THIN}dB"
    agrees = "differs from the design:"
    if proof.explained:
        agrees = "agrees with the design within what the analyser knows: at most"
    place = int(np.argmax(proof.swr))
    seen = f"At “in” it shows SWR {swr(float(proof.swr[place]))} at most, where the design has "
    return f"The file {agrees} {apart}. {seen}{swr(float(proof.designed_swr[place]))}."


def known_said(made: Worked, proof: Proof) -> str:
    """Whether what was measured is known better than what is calculated, at the band's low end."""
    calculated = 2.0 * made.spread.u_db
    place = int(np.argmin(np.abs(np.log(proof.frequency_hz / made.design.ask.low_hz))))
    measured = float(proof.expanded_u_db[place])
    u = f"calculated U {rounded(calculated, 2)}{THIN}dB by tolerance, measured U {rounded(measured, 2)}{THIN}dB"
    if measured <= calculated:
        return f"At the low end: {u}. What was measured goes to the shelf."
    return (
        f"At the low end: {u}. What was measured goes to the shelf all the same; where strays don't count yet the "
        "calculation is the better one: leave the file out for use there."
    )


def explained_said(found: Explained, former: Strays) -> str:
    """Which strays would explain it."""
    moved = [
        f"{STRAY_LABELS[name]} {plain(getattr(found.strays, name), 'H' if name == 'lead_h' else 'F', 2)}"
        for name, least in LEAST_STRAY.items()
        if getattr(found.strays, name) > 0.0
        and abs(math.log(getattr(found.strays, name) / max(getattr(former, name), least))) > MOVED
    ]
    gain = ""
    if abs(found.gain_db) >= GAIN_SAID:
        gain = f"resistors that put {rounded(found.gain_db, 2, plus=True)}{THIN}dB on all of it"
    what = ", ".join(filter(None, (*moved, gain))) or "nothing that was moved"
    return f"{what} would explain it: {found.was_db:.2g} to {found.left_db:.2g}{THIN}dB."


GAIN_SAID = 0.05
"""dB from which a gain is named (Fenmist's own)."""

MOVED = 0.15
"""Of the logarithm of a stray: what moved by less isn't named (Fenmist's own)."""
