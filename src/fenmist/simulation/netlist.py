"""Any hook-up as it truly is: hidden truths drawn from what is stated, solved by nodes.

Every connector has a voltage and each part a current into each of its connectors. A part adds as many equations as it
has connectors, from its pieces, its chain matrix, its impedance, or (where only levels are stated) from waves with a
phase that nobody knows. Joined connectors share a voltage and their currents cancel; an open one takes none. The system
is solved as a whole. Nothing here is shared with `hookup.transfer`, `hookup.network` or `kit.network`: an import
contract forbids it. A cable's loss by its kind isn't known here: one of a stated loss is taken with that.
"""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import field, replace
from typing import Any

import numpy as np

from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.hookup.line import Element, HookUp, source_of
from fenmist.kit.characterisation import Characterisation
from fenmist.kit.part import SOURCES, Part, Property
from fenmist.simulation.nodes import Equations
from fenmist.uncertainty.influence import Distribution

Terms = dict[Any, complex]
"""Factors of unknowns in one equation: ("v" | "i", (element, connector)), ("n", element, inner node), ("t", …)."""


@dataclass(frozen=True)
class Truth:
    """A part as it really is."""

    part: Part  # with drawn values in place of the stated ones
    phases: Mapping[str, float]  # rad, of what only levels are stated of
    reflections: Mapping[str, float]  # |Γ| of its connectors, where only an SWR is stated
    impedance: Callable[[float], complex] | None = None  # of a load, Ω at a frequency in Hz


@dataclass(frozen=True)
class Contact:
    """Two connectors screwed together: what stands between their pins, and from them to the shell."""

    ohm: float = 0.0
    siemens: float = 0.0  # water, dirt
    farad: float = 0.0  # beside it


@dataclass(frozen=True)
class TrueHookUp:
    """A hook-up with hidden truths."""

    hookup: HookUp
    truths: Mapping[str, Truth]  # by element
    source_ohm: complex = 50.0 + 0j
    contacts: Mapping[tuple[str, str], Contact] = field(default_factory=dict)  # by (element, connector), either side

    def solve(self, frequency_hz: float) -> "Solved":
        """Volts and currents at every connector for a source of 1 V."""
        return _System(self, frequency_hz).nodes()


@dataclass(frozen=True)
class Solved:
    """Phasors, rms: by (element, connector)."""

    volts: Mapping[tuple[str, str], complex]
    amperes: Mapping[tuple[str, str], complex]  # into the part
    z0_ohm: float

    def waves(self, at: tuple[str, str]) -> tuple[complex, complex]:
        """Waves into and out of a part at a connector, √W."""
        v, i, root = self.volts[at], self.amperes[at], math.sqrt(self.z0_ohm)
        return (v + self.z0_ohm * i) / (2.0 * root), (v - self.z0_ohm * i) / (2.0 * root)


# drawing truths


UNKNOWN_SWR = 2.0
"""Ceiling on the match of a source that states none."""


def draw(
    hookup: HookUp, parts: Mapping[str, Part], rng: np.random.Generator, source_swr: float = 0.0,
    before: Sequence[TrueHookUp] = (),
) -> TrueHookUp:  # fmt: skip
    """Truths within what is stated of every part.

    Parameters
    ----------
    rng : Generator
        The seed decides.
    source_swr : float
        Ceiling on the source's own match; where none is given what the source states, or 2: it is rarely known.
    before : sequence
        The same bench plugged together otherwise: what was drawn of a part is true here, too.
    """
    known = {_as_set(item): one.truths[item.id] for one in reversed(before) for item in one.hookup.elements}
    truths = {
        item.id: known.get(_as_set(item)) or _drawn(parts[item.part], dict(item.settings), rng)
        for item in hookup.elements
    }
    source = hookup.element(begin_of(hookup, parts)).part
    for one in before:
        if one.hookup.element(begin_of(one.hookup, parts)).part == source:
            return TrueHookUp(hookup, truths, one.source_ohm)
    first = parts[source]
    stated = first.properties.get("swr")
    source_swr = source_swr or (stated.value if stated else UNKNOWN_SWR)
    rho = (source_swr - 1.0) / (source_swr + 1.0) * math.sqrt(rng.uniform())
    gamma = rho * np.exp(1j * rng.uniform(0.0, 2.0 * math.pi))
    return TrueHookUp(hookup, truths, complex(hookup.z0_ohm * (1.0 + gamma) / (1.0 - gamma)))


def begin_of(hookup: HookUp, parts: Mapping[str, Part]) -> str:
    """The element that the line begins with; raises OutOfRangeError where there is no source."""
    found = source_of(hookup, parts)
    if found is None:
        raise OutOfRangeError(f"“{hookup.label}” begins nowhere.", "Plug in what sends.")
    return found


def _as_set(item: Element) -> tuple[str, frozenset[tuple[str, str]]]:
    """A part with its switches as they stand."""
    return item.part, frozenset(item.settings.items())


def _drawn(part: Part, settings: dict[str, str], rng: np.random.Generator) -> Truth:
    known = part.at(settings)
    properties = {name: _one(item, rng) for name, item in known.items()}
    components = tuple(
        replace(
            item,
            measured=item.value + _shape(
                item.u, Distribution.NORMAL if item.measured is not None or item.tolerance is None
                else item.tolerance.distribution, rng,
            ),
        )
        for item in part.components
    )  # fmt: skip
    made = replace(part, properties=properties, components=components, switches=())
    names = [port.id for port in part.ports]
    phases = {name: rng.uniform(0.0, 2.0 * math.pi) for name in (*names, "through", "leak", "side")}
    stated = known.get("swr")
    rho = (stated.value - 1.0) / (stated.value + 1.0) if stated else 0.0
    reflections = {name: rho if stated and stated.measured else rho * math.sqrt(rng.uniform()) for name in names}
    quiet = properties.get("directivity_db")
    if quiet is not None and not quiet.measured:  # at least so many dB: what leaks is anywhere in that disc
        better = replace(quiet, value=quiet.value - 10.0 * math.log10(rng.uniform()))
        made = replace(made, properties={**properties, "directivity_db": better})
    return Truth(made, phases, reflections, _load(part, rng))


def _one(item: Property, rng: np.random.Generator) -> Property:
    shape = item.spec.distribution if item.spec else Distribution.RECTANGULAR
    return replace(item, value=item.value + _shape(item.u, shape, rng), spec=None)


def _shape(u: float, shape: Distribution, rng: np.random.Generator) -> float:
    """One value of that standard deviation and shape, about 0."""
    if u <= 0.0:
        return 0.0
    if shape is Distribution.NORMAL:
        return float(rng.normal(0.0, u))
    return float(u * math.sqrt(3.0) * rng.uniform(-1.0, 1.0))


def _load(part: Part, rng: np.random.Generator) -> Callable[[float], complex] | None:
    """Impedance of a load by its first table, straight between its points, or nominal; none for anything else."""
    if len(part.ports) != 1 or "nominal_ohm" not in part.properties or "swr" in part.properties:
        return None
    table: Characterisation | None = next((t for t in part.characterisations if t.quantity == "impedance_ohm"), None)
    if table is None:
        stated = part.properties["nominal_ohm"]  # a tolerance of it says nothing of a reactance: as much is met
        nominal = complex(stated.value + stated.u * rng.normal(), stated.u * rng.normal())
        return lambda _: nominal
    imag = table.imag or (0.0,) * len(table.real)
    off = table.u_relative * complex(rng.normal(), rng.normal() if any(imag) else 0.0)

    def impedance(frequency_hz: float) -> complex:
        at = (float(np.interp(frequency_hz, table.frequency_hz, values)) for values in (table.real, imag))
        z = complex(*at)
        return z + abs(z) * off

    return impedance


# the system of equations


class _System(Equations):
    """Unknowns: a voltage a connector, a current into each part there, and what is inside."""

    def __init__(self, bench: TrueHookUp, frequency_hz: float) -> None:
        super().__init__(frequency_hz)
        self.bench, self.f, self.z0 = bench, frequency_hz, bench.hookup.z0_ohm
        source = begin_of(bench.hookup, {item.part: bench.truths[item.id].part for item in bench.hookup.elements})
        ports = [(name, port.id) for name, truth in bench.truths.items() for port in truth.part.ports]
        mates = {}
        for joint in bench.hookup.joints:
            mates[joint.a], mates[joint.b] = joint.b, joint.a
        for at in ports:
            other = mates.get(at)
            if other is None:
                self.row({("i", at): 1.0})
            elif at < other:
                contact = bench.contacts.get(at) or bench.contacts.get(other) or Contact()
                self.row({("v", at): 1.0, ("v", other): -1.0, ("i", other): -contact.ohm})
                across = contact.siemens + 1j * self.omega * contact.farad
                self.row({("i", at): 1.0, ("i", other): 1.0, ("v", at): across})
        for name, truth in bench.truths.items():
            if name == source:
                at = (name, truth.part.ports[0].id)
                self.row({("v", at): 1.0, ("i", at): -bench.source_ohm}, 1.0)
            else:
                _PARTS[_kind(truth)](self, name, truth)

    def nodes(self) -> Solved:
        """Solve it."""
        found = self.solved()

        def take(what: str) -> dict[tuple[str, str], complex]:
            return {key[1]: value for key, value in found.items() if isinstance(key, tuple) and key[0] == what}

        return Solved(take("v"), take("i"), self.z0)

    # parts

    def pieces(self, name: str, truth: Truth) -> None:
        """Resistors, capacitors, inductors, windings inside."""
        part = truth.part
        nodes = {node for item in part.components for node in item.nodes} - {"0"}
        currents: dict[str, Terms] = {}
        for port in part.ports:
            node = port.id if port.id in nodes else part.onward(port.id) or port.id
            self.row({("v", (name, port.id)): 1.0, ("n", name, node): -1.0})
            currents.setdefault(node, {})["i", (name, port.id)] = -1.0
        for item in part.components:
            self._piece(name, item.kind, item.nodes, item.value, currents)
        for terms in currents.values():
            self.row(terms)

    def _piece(self, name: str, kind: str, nodes: tuple[str, ...], value: float, currents: dict[str, Terms]) -> None:
        key: tuple[Any, ...]
        if kind == "turns":  # V(c, d) = value·V(a, b); the currents are the other way about
            a, b, c, d = nodes
            self.row(_between(name, c, d, 1.0, _between(name, a, b, -value, {})))
            for node, share in ((a, 1.0), (b, -1.0), (c, -1.0 / value), (d, 1.0 / value)):
                if node != "0":
                    here = currents.setdefault(node, {})
                    key = ("t", name, nodes)
                    here[key] = here.get(key, 0.0) + share
            return
        a, b = nodes
        y = {"resistor": 1.0 / value, "capacitor": 1j * self.omega * value}.get(kind, 0.0)
        y = 1.0 / (1j * self.omega * value) if kind == "inductor" else y
        for node, other in ((a, b), (b, a)):
            if node == "0":
                continue
            here = currents.setdefault(node, {})
            for end, sign in ((node, 1.0), (other, -1.0)):
                if end != "0":
                    key = ("n", name, end)
                    here[key] = here.get(key, 0.0) + sign * y

    def line(self, name: str, truth: Truth) -> None:
        """A length of line by its chain matrix."""
        near, far = ((name, port.id) for port in truth.part.ports)
        known = truth.part.properties
        ohm, speed = (known[key].value if key in known else usual for key, usual in
                      (("line_ohm", self.z0), ("velocity_factor", 0.7)))  # fmt: skip
        loss = known["loss_db"].value if "loss_db" in known else 0.0
        self._line(near, far, ohm, known["length_m"].value / speed, loss)

    def _line(self, near: tuple[str, str], far: tuple[str, str], ohm: float, length_m: float, loss_db: float) -> None:
        self.chain((("v", near), ("i", near)), (("v", far), ("i", far)), ohm, length_m, loss_db)

    def tee(self, name: str, truth: Truth) -> None:
        """Its middle, with a capacitance, and an arm to each end of the line."""
        part, known = truth.part, truth.part.properties
        inner = []
        for port in part.ports:
            at, middle = (name, port.id), (name, f"{port.id} inside")
            inner.append(middle)
            length = 0.0 if port.hangs else known["arm_m"].value
            self._line(at, middle, self.z0, length / 0.7, 0.0)
        first, *others = inner
        for other in others:
            self.row({("v", first): 1.0, ("v", other): -1.0})
        body = 1j * self.omega * max(known["capacitance_f"].value, 0.0)
        self.row({**{("i", middle): -1.0 for middle in inner}, ("v", first): -body})

    def probe(self, name: str, truth: Truth) -> None:
        """Ground lead and tip in series across the line; behind it an ideal source of the divided volts."""
        known, (tip, behind) = truth.part.properties, ((name, port.id) for port in truth.part.ports)
        coil, farad = 1j * self.omega * known["ground_m"].value * 1e-6, known["capacitance_f"].value
        self.row({("v", tip): 1.0, ("i", tip): -(coil + 1.0 / (1j * self.omega * farad))})
        self.row({("v", behind): known["ratio"].value, ("i", tip): -1.0 / (1j * self.omega * farad)})

    def load(self, name: str, truth: Truth) -> None:
        """An impedance."""
        at = (name, truth.part.ports[0].id)
        self.row({("v", at): 1.0, ("i", at): -(truth.impedance(self.f) if truth.impedance else self.z0)})

    def input(self, name: str, truth: Truth) -> None:
        """Resistance and capacitance of a voltmeter."""
        at, known = (name, truth.part.ports[0].id), truth.part.properties
        ohm = known["resistance_ohm"].value if "resistance_ohm" in known else 1e6
        farad = known["capacitance_f"].value if "capacitance_f" in known else 0.0
        self.row({("i", at): 1.0, ("v", at): -(1.0 / ohm + 1j * self.omega * max(farad, 0.0))})

    def levels(self, name: str, truth: Truth) -> None:
        """Waves of which only levels are stated: what is reflected, what passes, what is coupled, what leaks."""
        part, known = truth.part, truth.part.properties
        names = [port.id for port in part.ports]
        s = np.zeros((len(names), len(names)), complex)
        for number, port in enumerate(part.ports):
            s[number, number] = truth.reflections[port.id] * np.exp(1j * truth.phases[port.id])
            onward = part.onward(port.id)
            if onward is not None:
                loss = known["loss_db"].value if "loss_db" in known else 0.0
                s[names.index(onward), number] = 10.0 ** (-loss / 20.0) * np.exp(1j * truth.phases["through"])
        sides = [names.index(port.id) for port in part.side_ports]
        if sides:
            ends = [names.index(name) for name in part.ends]
            coupled = 10.0 ** (-known["coupling_db"].value / 20.0) * np.exp(1j * truth.phases["side"])
            quiet = known.get("directivity_db")
            leak = coupled * (10.0 ** (-quiet.value / 20.0) * np.exp(1j * truth.phases["leak"]) if quiet else 1.0)
            for number, side in enumerate(sides):
                for end, wave in zip(ends if number == 0 else ends[::-1], (coupled, leak), strict=True):
                    s[side, end] = s[end, side] = wave
        for row in range(len(names)):
            terms: Terms = {}
            for column, port_id in enumerate(names):
                own = 1.0 if row == column else 0.0
                terms["v", (name, port_id)] = own - s[row, column]
                terms["i", (name, port_id)] = -self.z0 * (own + s[row, column])
            self.row(terms)


def _between(name: str, a: str, b: str, factor: float, terms: Terms) -> Terms:
    made = dict(terms)
    for node, sign in ((a, 1.0), (b, -1.0)):
        if node != "0":
            key = ("n", name, node)
            made[key] = made.get(key, 0.0) + sign * factor
    return made


def _kind(truth: Truth) -> str:
    """By what is known of a part."""
    part, known = truth.part, truth.part.properties
    if part.kind in SOURCES:
        return "levels"
    if part.components:
        return "pieces"
    if "ratio" in known and "ground_m" in known:
        return "probe"
    if len(part.ports) == 2 and "length_m" in known:
        return "line"
    if "arm_m" in known:
        return "tee"
    if truth.impedance is not None:
        return "load"
    if len(part.ports) == 1 and ("capacitance_f" in known or "resistance_ohm" in known):
        return "input"
    return "levels"


_PARTS: Mapping[str, Callable[[_System, str, Truth], None]] = {
    "pieces": _System.pieces, "line": _System.line, "tee": _System.tee, "probe": _System.probe, "load": _System.load,
    "input": _System.input, "levels": _System.levels,
}  # fmt: skip
