"""What a part does to waves at its ports, from whatever is known of it: no kind of part has a formula of its own.

In this order: measured S-parameters; the pieces inside it (resistors, windings, strays); a probe's divider; a length of
line; what ends a line (a measured or nominal impedance, an input's R and C); and at last levels in dB, a loss or a
coupler's figures, of which the phases are unknown. Only these leave phases open: their mismatch is an uncertainty, not
a correction. Page: docs/method/network.md.
"""

from collections.abc import Mapping
from dataclasses import replace
from functools import lru_cache
from types import MappingProxyType

import numpy as np
from numpy.typing import NDArray

from fenmist.frozen import dataclass
from fenmist.kit.characterisation import Characterisation, Footing, load_state
from fenmist.kit.impedance import IMPEDANCE
from fenmist.kit.lookup import LookUp, look_up
from fenmist.kit.part import SOURCES, Part, Property
from fenmist.kit.same import Same
from fenmist.rf.cable import Cable, cable_named, fit_cable
from fenmist.rf.circuit import GROUND, Branch, BranchKind, SolvedCircuit, solve_circuit
from fenmist.rf.probe import HENRY_PER_M
from fenmist.rf.reflection import reflection_from_impedance, reflection_from_swr
from fenmist.rf.twoport import renormalised

FloatArray = NDArray[np.float64]
ComplexArray = NDArray[np.complex128]

LOSS = "loss_db"
"""Quantity of a table, and name of a property: what a way through takes off."""

COUPLING = "coupling_db"
LOSS_10_MHZ, LOSS_100_MHZ = "loss_10_mhz_db_100m", "loss_100_mhz_db_100m"
"""Properties of a cable of one's own: dB per 100 m as data sheets say it."""

DEFAULT_SWR = 1.2
"""Ceiling on the SWR of a port of which nothing is stated (common practice for coaxial parts, no source)."""

SOURCE_SWR = 2.0
"""The same of a source: a transmitter is tuned to deliver, not to match; its own is rarely known (Fenmist's own)."""


MOST_REMEMBERED = 200
"""Parts whose networks are kept: a line with every position of its switches, many times over."""


@dataclass(frozen=True)
class PortMatch:
    """How a port is matched: |Γ|, and whether that is its magnitude or only a ceiling."""

    reflection: float
    is_ceiling: bool

    @property
    def mean_square(self) -> float:
        """Of |Γ|: of a ceiling half of it, Γ lying anywhere in that disc."""
        return self.reflection**2 / (2.0 if self.is_ceiling else 1.0)


@dataclass(frozen=True, eq=False)
class PartNetwork:
    """A part at n frequencies; ports in the order of the part's own."""

    ports: tuple[str, ...]
    scattering: ComplexArray  # (n, p, p)
    has_phase: bool  # False where only levels are known
    match: PortMatch  # of each port, where has_phase is False
    u_loss_db: FloatArray  # (n,), standard uncertainty of the way through
    footing: tuple[Footing, ...]
    circuit: SolvedCircuit | None = None


def part_network(
    part: Part, settings: Mapping[str, str], frequency_hz: FloatArray, z0_ohm: float = 50.0
) -> PartNetwork:
    """The part with its switches so set, at frequencies of shape (n,); the latest are remembered.

    Parameters
    ----------
    part : Part
        Of any kind.
    settings : mapping
        Position of each switch; the first where nothing is said.
    frequency_hz : array, shape (n,)
        In Hz.
    z0_ohm : float
        Real reference impedance in Ω.
    """
    f = np.atleast_1d(np.asarray(frequency_hz, float))
    return _remembered(Same(part), tuple(sorted(settings.items())), f.tobytes(), z0_ohm)


@lru_cache(maxsize=MOST_REMEMBERED)
def _remembered(
    same: Same[Part], positions: tuple[tuple[str, str], ...], frequencies: bytes, z0_ohm: float
) -> PartNetwork:
    part, settings, f = same.value, dict(positions), np.frombuffer(frequencies)
    known = part.at(settings)
    measured = _measured(part, settings, f, z0_ohm)
    if measured is not None:
        inside = _circuit(part, known, f, z0_ohm) if part.components else None
        return replace(measured, circuit=inside)  # for what its resistors take
    circuit = _circuit(part, known, f, z0_ohm)
    ports = tuple(port.id for port in part.ports)
    if circuit is not None:
        return _with_tables(_known(ports, circuit.scattering, f, circuit), part, settings, f)
    if len(ports) == 1:
        return _end(part, known, f, z0_ohm)
    return _levels_only(part, known, settings, f)


def setting_text(part: Part, settings: Mapping[str, str]) -> str:
    """Positions of all its switches in one text, as a table names them."""
    return ", ".join(switch.position(settings.get(switch.id, "")).label for switch in part.switches)


def _known(
    ports: tuple[str, ...], scattering: ComplexArray, f: FloatArray, circuit: SolvedCircuit | None = None
) -> PartNetwork:
    footing = (Footing.MEASURED,) * f.size
    return PartNetwork(ports, scattering, True, PortMatch(0.0, False), np.zeros(f.size), footing, circuit)


def _measured(part: Part, settings: Mapping[str, str], f: FloatArray, z0_ohm: float) -> PartNetwork | None:
    """From S-parameters, where all of them are there for this setting."""
    count, setting = len(part.ports), setting_text(part, settings)
    names = [f"s{out + 1}{into + 1}" for out in range(count) for into in range(count)]
    tables = [part.characterisation(name, setting) or part.characterisation(name) for name in names]
    if not part.ports or any(table is None for table in tables):
        return None
    found = [look_up(table, f) for table in tables if table is not None]
    scattering = np.stack([item.value for item in found], axis=1).reshape(f.size, count, count).astype(complex)
    reference = next((table.termination_ohm for table in tables if table and table.termination_ohm), z0_ohm)
    through = max(found, key=lambda item: float(np.min(np.abs(item.value))))
    with np.errstate(divide="ignore"):
        u = 20.0 / np.log(10.0) * through.u / np.maximum(np.abs(through.value), 1e-9)
    return PartNetwork(
        tuple(port.id for port in part.ports), renormalised(scattering, reference, z0_ohm), True, PortMatch(0.0, False),
        np.asarray(u), found[0].footing,
    )  # fmt: skip


def _circuit(part: Part, known: Mapping[str, Property], f: FloatArray, z0_ohm: float) -> SolvedCircuit | None:
    """From what is inside, or from a length of line; none where neither is known."""
    ports = [port.id for port in part.ports]
    if part.components:
        return solved_pieces(part, f, z0_ohm)
    if "ratio" in known and "ground_m" in known:
        return _probe_circuit(known, ports, f, z0_ohm)
    if len(ports) == 2 and "length_m" in known:
        return _line_circuit(part, known, ports, f, z0_ohm)
    if len(ports) == 3 and "arm_m" in known:
        farad = known["capacitance_f"].value
        body = [Branch("body", BranchKind.CAPACITOR, ("n", GROUND), farad)] if farad > 0 else []
        return solve_circuit(body, ["n"] * 3, f, z0_ohm)
    return None


def solved_pieces(
    part: Part, frequency_hz: FloatArray, z0_ohm: float, values: Mapping[str, FloatArray] = MappingProxyType({})
) -> SolvedCircuit:
    """The circuit of the pieces inside a part.

    Parameters
    ----------
    frequency_hz : array, shape (n,)
        In Hz.
    values : mapping
        Values of pieces that differ from what is known of them, by id, shape (n,).
    """
    pieces = [Branch(item.id, item.kind, item.nodes, values.get(item.id, item.value)) for item in part.components]
    named = {node for item in pieces for node in item.nodes}
    ports = [port.id for port in part.ports]
    nodes = [port if port in named else part.onward(port) or port for port in ports]
    return solve_circuit(pieces, nodes, frequency_hz, z0_ohm)


def _with_tables(made: PartNetwork, part: Part, settings: Mapping[str, str], f: FloatArray) -> PartNetwork:
    """A circuit with its levels as measured, where a table says so; its phases stay."""
    scattering, u, footing = made.scattering, made.u_loss_db, made.footing
    ends = [port.id for port in part.ports if not port.hangs][:2]
    if len(ends) < 2:
        return made
    near, far = (made.ports.index(name) for name in ends)
    through = np.abs(scattering[:, far, near])
    if table_of(part, LOSS, settings) is not None:
        found = level_of(part, LOSS, settings, f)
        scattering = _scaled(scattering, near, far, 10.0 ** (-np.real(found.value) / 20.0) / through)
        u, footing = found.u, found.footing
    if part.side_ports and table_of(part, COUPLING, settings) is not None:
        found = level_of(part, COUPLING, settings, f)
        side = made.ports.index(part.side_ports[0].id)
        wanted = np.abs(scattering[:, far, near]) * 10.0 ** (-np.real(found.value) / 20.0)
        factor = wanted / np.abs(scattering[:, side, near])
        for end in (near, far):
            scattering = _scaled(scattering, end, side, factor)
        footing = found.footing
    return replace(made, scattering=scattering, u_loss_db=u, footing=footing)


def _scaled(scattering: ComplexArray, one: int, other: int, factor: FloatArray) -> ComplexArray:
    made = scattering.copy()
    made[:, one, other] *= factor
    made[:, other, one] *= factor
    return made


def _probe_circuit(known: Mapping[str, Property], ports: list[str], f: FloatArray, z0_ohm: float) -> SolvedCircuit:
    ground = HENRY_PER_M * known["ground_m"].value
    tip = "tip" if ground > 0 else ports[0]
    pieces = [
        Branch("tip", BranchKind.CAPACITOR, (tip, GROUND), max(known["capacitance_f"].value, 1e-18)),
        Branch("divider", BranchKind.FOLLOWER, (tip, GROUND, ports[1]), 1.0 / known["ratio"].value),
    ]
    if ground > 0:
        pieces.append(Branch("ground lead", BranchKind.INDUCTOR, (ports[0], tip), ground))
    return solve_circuit(pieces, ports, f, z0_ohm)


def cable_in(part: Part, known: Mapping[str, Property]) -> Cable | None:
    """Of the kind that is named, or by its own losses at two frequencies; none where neither is said."""
    label = part.settings.get("cable", "")
    if label:
        return cable_named(label)
    losses = [known[name].value / 100.0 for name in (LOSS_10_MHZ, LOSS_100_MHZ) if name in known]
    return fit_cable(part.label, 50.0, 0.66, [10e6, 100e6], losses) if len(losses) == 2 and min(losses) > 0 else None


def _line_circuit(
    part: Part, known: Mapping[str, Property], ports: list[str], f: FloatArray, z0_ohm: float
) -> SolvedCircuit:
    cable = cable_in(part, known)
    length = known["length_m"].value
    loss = length * cable.loss_db_per_m(f) if cable else np.full(f.shape, known[LOSS].value if LOSS in known else 0.0)
    factor = known["velocity_factor"].value if "velocity_factor" in known else (cable.velocity_factor if cable else 0.7)
    line_ohm = known["line_ohm"].value if "line_ohm" in known else (cable.line_ohm if cable else z0_ohm)
    line = Branch("line", BranchKind.LINE, (ports[0], ports[1]), line_ohm, length / factor, loss)
    return solve_circuit([line], ports, f, z0_ohm)


def _end(part: Part, known: Mapping[str, Property], f: FloatArray, z0_ohm: float) -> PartNetwork:
    """A part with one port: its impedance, its input's R and C, or a match of which only the SWR is stated."""
    ports = (part.ports[0].id,)
    table = part.characterisation(IMPEDANCE)
    if table is not None or ("nominal_ohm" in known and "swr" not in known):
        nominal = known["nominal_ohm"].value if "nominal_ohm" in known else z0_ohm
        state = load_state(table, f, nominal)
        gamma = reflection_from_impedance(state.resistance_ohm + 1j * state.reactance_ohm, z0_ohm)
        made = _known(ports, gamma[:, None, None], f)
        return PartNetwork(made.ports, made.scattering, True, made.match, made.u_loss_db, state.footing)
    if "capacitance_f" in known or "resistance_ohm" in known:
        resistance = known["resistance_ohm"].value if "resistance_ohm" in known else 1e6
        farad = known["capacitance_f"].value if "capacitance_f" in known else 0.0
        y = z0_ohm * (1.0 / resistance + 2j * np.pi * f * farad)
        return _known(ports, ((1.0 - y) / (1.0 + y))[:, None, None], f)
    footing = (Footing.UNKNOWN,) * f.size
    match = port_match(known, SOURCE_SWR if part.kind in SOURCES else DEFAULT_SWR)
    return PartNetwork(ports, np.zeros((f.size, 1, 1), complex), False, match, np.zeros(f.size), footing)


def port_match(known: Mapping[str, Property], usual: float = DEFAULT_SWR) -> PortMatch:
    """From a stated SWR: measured is a magnitude, a data sheet's is a ceiling; else what is usual."""
    stated = known.get("swr")
    swr = stated.value if stated else usual
    return PortMatch(float(reflection_from_swr(swr)), not (stated and stated.measured))


def _levels_only(part: Part, known: Mapping[str, Property], settings: Mapping[str, str], f: FloatArray) -> PartNetwork:
    """Ways through and side ports by their levels; no reflections, no phases."""
    ports = tuple(port.id for port in part.ports)
    scattering = np.zeros((f.size, len(ports), len(ports)), complex)
    loss = level_of(part, LOSS, settings, f)
    through = 10.0 ** (-np.real(loss.value) / 20.0)
    for port in part.ports:
        far = part.onward(port.id)
        if far is not None:
            scattering[:, ports.index(far), ports.index(port.id)] = through
    _couple(part, known, settings, scattering, f)
    return PartNetwork(ports, scattering, False, port_match(known), loss.u, loss.footing)


def table_of(part: Part, quantity: str, settings: Mapping[str, str]) -> Characterisation | None:
    """The table of a quantity in the setting; where the part has no switch, whatever it was measured in."""
    return part.characterisation(quantity, setting_text(part, settings)) or part.characterisation(quantity)


def computed_coupling_db(part: Part, frequency_hz: FloatArray, z0_ohm: float = 50.0) -> LookUp | None:
    """Ratio of line to side power from the pieces inside, with what they are known to; none without pieces.

    Compared with what was measured: each piece is moved by its standard uncertainty in turn (JCGM 100:2008, 5.1.3).

    Parameters
    ----------
    part : Part
        With resistors, turns or capacitors inside.
    frequency_hz : array, shape (n,)
        In Hz.
    z0_ohm : float
        Real reference impedance in Ω.
    """
    if not part.components or not part.side_ports:
        return None
    return _computed_coupling(Same(part), np.atleast_1d(np.asarray(frequency_hz, float)).tobytes(), z0_ohm)


@lru_cache(maxsize=MOST_REMEMBERED)
def _computed_coupling(same: Same[Part], frequencies: bytes, z0_ohm: float) -> LookUp:
    part, f = same.value, np.frombuffer(frequencies)

    def ratio(made: Part) -> FloatArray:
        circuit = _circuit(made, made.properties, f, z0_ohm)
        ports = [port.id for port in made.ports]
        side, far = ports.index(made.side_ports[0].id), ports.index(made.onward(ports[0]) or ports[0])
        s = circuit.scattering if circuit is not None else np.ones((f.size, len(ports), len(ports)), complex)
        return np.asarray(20.0 * np.log10(np.abs(s[:, far, 0] / s[:, side, 0])))

    value, square = ratio(part), np.zeros(f.size)
    for place, item in enumerate(part.components):
        if item.u > 0:
            moved = replace(item, measured=item.value + item.u)
            others = (*part.components[:place], moved, *part.components[place + 1 :])
            square += (ratio(replace(part, components=others)) - value) ** 2
    return LookUp(value, np.sqrt(square), (Footing.MEASURED,) * f.size)


def measured_coupling_db(part: Part, z0_ohm: float = 50.0) -> tuple[FloatArray, LookUp] | None:
    """The same ratio as it was measured, at its own frequencies: from a coupling table, or from S-parameters.

    Parameters
    ----------
    part : Part
        With a coupling table or S-parameters.
    z0_ohm : float
        Real reference impedance in Ω.
    """
    table = part.characterisation(COUPLING)
    if table is not None:
        f = np.asarray(table.frequency_hz)
        return f, look_up(table, f)
    table = part.characterisation("s31")
    if table is None or not part.side_ports:
        return None
    f = np.asarray(table.frequency_hz)
    made = part_network(part, {}, f, z0_ohm)
    s21, s31 = np.abs(made.scattering[:, 1, 0]), np.abs(made.scattering[:, 2, 0])
    u = 20.0 / np.log(10.0) * (np.asarray(table.u) / s31 if table.u else np.zeros(f.size))
    return f, LookUp(20.0 * np.log10(s21 / s31), np.asarray(u), (Footing.MEASURED,) * f.size)


def level_of(part: Part, quantity: str, settings: Mapping[str, str], frequency_hz: FloatArray) -> LookUp:
    """A loss or coupling in dB at frequencies of shape (n,): from its table for that setting, as stated, or 0.

    Parameters
    ----------
    part : Part
        Of any kind.
    quantity : str
        "loss_db" or "coupling_db".
    settings : mapping
        Position of each switch.
    frequency_hz : array, shape (n,)
        In Hz.
    """
    table = table_of(part, quantity, settings)
    if table is not None:
        return look_up(table, frequency_hz)
    stated = part.at(settings).get(quantity, Property(0.0, "dB"))
    size = np.size(frequency_hz)
    return LookUp(np.full(size, stated.value), np.full(size, stated.u), (Footing.UNKNOWN,) * size)


def _couple(
    part: Part, known: Mapping[str, Property], settings: Mapping[str, str], scattering: ComplexArray, f: FloatArray
) -> None:
    """Side ports: the first takes from waves that enter the first through port, the second from those the other way."""
    if not part.side_ports:
        return
    ports = [port.id for port in part.ports]
    ends = [port.id for port in part.ports if not port.hangs][:2]
    coupled = 10.0 ** (-np.real(level_of(part, COUPLING, settings, f).value) / 20.0)
    directivity = known.get("directivity_db")
    leaks = coupled * (10.0 ** (-directivity.value / 20.0) if directivity else 1.0)
    for number, side in enumerate(part.side_ports):
        for end, amount in zip(ends if number == 0 else ends[::-1], (coupled, leaks), strict=False):
            scattering[:, ports.index(side.id), ports.index(end)] = amount
            scattering[:, ports.index(end), ports.index(side.id)] = amount
