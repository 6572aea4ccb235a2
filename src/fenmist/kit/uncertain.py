"""A part as waves see it, from everything uncertain in it: its scattering matrix as a function of named influences.

What is known of a part is taken in the order of `kit.network`: measured S-parameters, the pieces inside, a probe's
divider, a length of line, what ends a line, and at last levels of which the phases are open. Each number that is known
to something is an influence by part and property (`sallow-steps.loss@10 dB`); at its estimates the matrix is that of
`part_network`, but for a tee's arms. Page: docs/method/transfer.md.
"""

from collections.abc import Callable, Mapping, Sequence
from functools import cached_property, lru_cache
from itertools import product

import numpy as np
from numpy.typing import NDArray

from fenmist.frozen import dataclass
from fenmist.kit.characterisation import load_state
from fenmist.kit.impedance import HOT_IMPEDANCE, IMPEDANCE
from fenmist.kit.loadmodel import load_admittance, load_influences
from fenmist.kit.lookup import LookUp, look_up
from fenmist.kit.network import (
    COUPLING,
    LOSS,
    MOST_REMEMBERED,
    PartNetwork,
    PortMatch,
    cable_in,
    level_of,
    part_network,
    setting_text,
    solved_pieces,
    table_of,
)
from fenmist.kit.part import Part, Property
from fenmist.kit.same import Same
from fenmist.rf.probe import HENRY_PER_M, ProbeTip
from fenmist.rf.stub import INPUT_RESISTANCE_OHM, SPEED_OF_LIGHT_M_S
from fenmist.rf.twoport import matrices, uniform_line
from fenmist.uncertainty.influence import Distribution, FloatArray, Influence, influence, standard_u_from_limit

ComplexArray = NDArray[np.complex128]

Values = Mapping[str, FloatArray]
"""By influence id, arrays of one shape (..., n)."""

Scattering = Callable[[Values], ComplexArray]
"""A matrix (..., n, p, p) from the values of influences."""

TEE_VELOCITY_FACTOR = 0.7
"""Of a tee's arm, PTFE (any cable table); its length is known far worse."""

CABLE_LOSS_SHARE = 0.2
"""± part of a cable's tabled loss that a piece of it may be off (common practice, no source)."""


@dataclass(frozen=True, eq=False)
class UncertainPart:
    """A part at n frequencies."""

    ports: tuple[str, ...]
    influences: tuple[Influence, ...]
    scattering: Scattering
    has_phase: bool  # false where only levels are known
    match: PortMatch  # of each port, where has_phase is false; of an end what is usual unless it is stated
    name: str  # what its influences begin with
    shown_times: float = 1.0  # what an instrument behind it is set to multiply by
    divides: float = 1.0  # what it is stated to divide volts by
    tunes: bool = False  # a tuner at work: nothing behind it is seen in front

    @cached_property
    def estimated(self) -> ComplexArray:
        """Its matrix at the estimates; not to be written into."""
        return self.scattering({item.id: item.estimate for item in self.influences})


class _Gathered:
    """Numbers of a part on their way to a model: what is known to nothing is an influence, the rest is constant."""

    def __init__(self, part: Part, name: str, points: int) -> None:
        self.part, self.name, self.points = part, name, points
        self.influences: list[Influence] = []

    def add(
        self,
        what: str,
        label: str,
        value: FloatArray | float,
        u: FloatArray | float,
        unit: str = "",
        distribution: Distribution = Distribution.RECTANGULAR,
        basis: str = "as stated",
    ) -> Callable[[Values], FloatArray]:
        """How a number is read from the values: by its id where it is uncertain."""
        if not np.any(np.asarray(u) > 0):
            fixed = np.asarray(value, float)
            return lambda _: fixed
        again = self.name.partition("@")[2]  # the same part once more, in another place
        title = f"{self.part.label} ({again})" if again else self.part.label
        made = influence(
            f"{self.name}.{what}", f"{title}, {label}", value, u, points=self.points, unit=unit,
            source_id=self.name, distribution=distribution, basis=basis,
        )  # fmt: skip
        self.influences.append(made)
        return lambda x: x[made.id]

    def stated(
        self, known: Mapping[str, Property], what: str, short: str, label: str, otherwise: float = 0.0
    ) -> Callable[[Values], FloatArray]:
        """The same of a stated property, by a shorter name."""
        item = known.get(what)
        if item is None:
            return self.add(short, label, otherwise, 0.0)
        shape = item.spec.distribution if item.spec else Distribution.RECTANGULAR
        return self.add(short, label, item.value, item.u, item.unit, shape)


def uncertain_part(
    part: Part,
    settings: Mapping[str, str],
    frequency_hz: FloatArray,
    z0_ohm: float = 50.0,
    name: str = "",
    heat: float | None = None,
) -> UncertainPart:
    """A part with its switches so set; the latest are remembered.

    Parameters
    ----------
    frequency_hz : array, shape (n,)
        In Hz.
    name : str
        What its influences begin with; the part's id where nothing is said.
    heat : float, optional
        How hot a load is, 0 to 1; somewhere between its cold and its hot table where nothing is said.
    """
    f = np.atleast_1d(np.asarray(frequency_hz, float))
    positions = tuple(sorted(settings.items()))
    return _remembered(Same(part), positions, f.tobytes(), z0_ohm, name or part.id, heat)


@lru_cache(maxsize=MOST_REMEMBERED)
def _remembered(
    same: Same[Part],
    positions: tuple[tuple[str, str], ...],
    frequencies: bytes,
    z0_ohm: float,
    name: str,
    heat: float | None,
) -> UncertainPart:
    part, settings, f = same.value, dict(positions), np.frombuffer(frequencies)
    known, own = part.at(settings), _Gathered(part, name, f.size)
    base = part_network(part, settings, f, z0_ohm)
    scattering, times = _scattering(own, known, settings, f, z0_ohm, base, heat)
    reflects = not base.has_phase and ("swr" in known or len(base.ports) == 1)
    return UncertainPart(
        base.ports, tuple(own.influences), scattering, base.has_phase,
        base.match if reflects else PortMatch(0.0, False), own.name, times,
        known["ratio"].value if "ratio" in known else 1.0, part.tunes(settings),
    )  # fmt: skip


def _scattering(
    own: _Gathered,
    known: Mapping[str, Property],
    settings: Mapping[str, str],
    f: FloatArray,
    z0_ohm: float,
    base: PartNetwork,
    heat: float | None,
) -> tuple[Scattering, float]:
    part = own.part
    if _is_measured(part, settings):
        return _measured(own, settings, f, base), 1.0
    if part.components:
        return _of_pieces(own, settings, f, z0_ohm, base), 1.0
    if "ratio" in known and "ground_m" in known:
        setting = known["setting"].value if "setting" in known else known["ratio"].value
        return _probe(own, known, f, z0_ohm), setting
    if len(part.ports) == 2 and "length_m" in known:
        return _line(own, known, f, z0_ohm), 1.0
    if len(part.ports) == 3 and "arm_m" in known:
        return _tee(own, known, f, z0_ohm), 1.0
    if len(part.ports) == 1:
        return _end(own, known, f, z0_ohm, base, heat), 1.0
    return _levels(own, known, settings, f, base), 1.0


def _is_measured(part: Part, settings: Mapping[str, str]) -> bool:
    count, setting = len(part.ports), setting_text(part, settings)
    names = [f"s{out + 1}{into + 1}" for out in range(count) for into in range(count)]
    tables = (part.characterisation(name, setting) or part.characterisation(name) for name in names)
    return bool(names) and all(table is not None for table in tables)


def _at(settings: Mapping[str, str], part: Part) -> str:
    """Ends the name of what belongs to a position of a switch."""
    text = setting_text(part, settings)
    return f"@{text}" if text else ""


# from S-parameters


def _measured(own: _Gathered, settings: Mapping[str, str], f: FloatArray, base: PartNetwork) -> Scattering:
    """Ways between ports are known in level, reflections in both parts."""
    part, count = own.part, len(own.part.ports)
    setting, at = setting_text(part, settings), _at(settings, own.part)
    side = part.ports.index(part.side_ports[0]) if part.side_ports else -1
    ways, ends = [], []
    for into in range(count):
        for out in range(into, count):
            quantity = f"s{out + 1}{into + 1}"
            table = part.characterisation(quantity, setting) or part.characterisation(quantity)
            u = look_up(table, f).u if table is not None else np.zeros(f.size)
            if out == into:
                halves = [f"{quantity}.{half}{at}" for half in ("real", "imaginary")]
                parts = [own.add(half, half, 0.0, u, "", Distribution.NORMAL, "table") for half in halves]
                ends.append((out, parts))
                continue
            u_db = 20.0 / np.log(10.0) * u / np.maximum(np.abs(base.scattering[:, out, into]), 1e-9)
            what = {(0, 1): "loss", (0, side): "coupling"}.get((into, out), quantity)
            ways.append((out, into, own.add(f"{what}{at}", what, 0.0, u_db, "dB", Distribution.NORMAL, "table")))

    def scattering(x: Values) -> ComplexArray:
        made = _spread(base.scattering, *(read(x) for *_, read in ways), *(r(x) for _, both in ends for r in both))
        for out, into, read in ways:
            factor = _amplitude(read(x))
            made[..., out, into] *= factor
            made[..., into, out] *= factor
        for place, (real, imaginary) in ends:
            made[..., place, place] += real(x) + 1j * imaginary(x)
        return made

    return scattering


def _spread(base: ComplexArray, *values: FloatArray) -> ComplexArray:
    """A matrix (n, p, p) for each of the values' rows, to be written into."""
    shape = np.broadcast_shapes(base.shape[:1], *(value.shape for value in values))
    made = matrices(shape, base.shape[-1])
    made[...] = base
    return made


def _amplitude(loss_db: FloatArray) -> FloatArray:
    return np.asarray(10.0 ** (-np.asarray(loss_db) / 20.0))


# from what is inside


def _of_pieces(
    own: _Gathered, settings: Mapping[str, str], f: FloatArray, z0_ohm: float, base: PartNetwork
) -> Scattering:
    """By the pieces; where a ratio or a loss was measured at a level, that counts and not what they are known to."""
    part = own.part
    tables = [quantity for quantity in (LOSS, COUPLING) if table_of(part, quantity, settings) is not None]
    if tables:
        return _of_levels_measured(own, settings, f, base, tables)
    moving = [item for item in part.components if item.u > 0]
    for item in moving:
        nominal = item.tolerance if item.measured is None else None
        shape = nominal.distribution if nominal else Distribution.NORMAL
        basis = "tolerance of its nominal value" if nominal else "as measured"
        own.add(item.id, item.id, item.value, item.u, _UNITS.get(item.kind, ""), shape, basis)
    names = {item.id: f"{own.name}.{item.id}" for item in moving}

    def scattering(x: Values) -> ComplexArray:
        values = {item.id: np.asarray(x[names[item.id]]) for item in moving}
        made = _spread(base.scattering, *values.values())
        rows = made.reshape(-1, *base.scattering.shape)
        flat = {key: np.broadcast_to(value, made.shape[:-2]).reshape(rows.shape[:2]) for key, value in values.items()}
        moved = [value != item.value for item, value in zip(moving, flat.values(), strict=True)]
        changed = np.flatnonzero(np.any(moved, axis=(0, 2))) if moved else np.zeros(0, int)
        if changed.size:  # most rows of a stencil move other parts: these are solved once
            here = {key: value[changed].ravel() for key, value in flat.items()}
            solved = solved_pieces(part, np.tile(f, changed.size), z0_ohm, here)
            rows[changed] = solved.scattering.reshape(changed.size, *base.scattering.shape)
        return made

    return scattering


_UNITS = {"resistor": "Ω", "capacitor": "F", "inductor": "H"}


def _of_levels_measured(
    own: _Gathered, settings: Mapping[str, str], f: FloatArray, base: PartNetwork, tables: Sequence[str]
) -> Scattering:
    part, at = own.part, _at(settings, own.part)
    ends = [port.id for port in part.ports if not port.hangs][:2]
    near, far = (base.ports.index(name) for name in ends)
    side = base.ports.index(part.side_ports[0].id) if part.side_ports else -1
    read: dict[str, Callable[[Values], FloatArray]] = {}
    for quantity, short in ((LOSS, "loss"), (COUPLING, "coupling")):
        if quantity in tables:
            found = level_of(part, quantity, settings, f)
            read[quantity] = own.add(f"{short}{at}", short, 0.0, found.u, "dB", Distribution.NORMAL, _footing(found))

    def scattering(x: Values) -> ComplexArray:
        made = _spread(base.scattering, *(item(x) for item in read.values()))
        if LOSS in read:
            factor = _amplitude(read[LOSS](x))
            for out, into in ((near, far), (far, near)):
                made[..., out, into] *= factor
        if COUPLING in read and side >= 0:
            factor = _amplitude(read[COUPLING](x))
            for end in (near, far):
                made[..., side, end] *= factor
                made[..., end, side] *= factor
        return made

    return scattering


def _footing(found: LookUp) -> str:
    return "; ".join(dict.fromkeys(item.value for item in found.footing))


# probes, lines, tees


def _probe(own: _Gathered, known: Mapping[str, Property], f: FloatArray, z0_ohm: float) -> Scattering:
    """Its tip across the line, and an ideal source of the divided volts behind it."""
    ratio = own.stated(known, "ratio", "ratio", "ratio")
    tip = own.stated(known, "capacitance_f", "capacitance", "tip capacitance")
    ground = own.stated(known, "ground_m", "ground", "ground lead")

    def scattering(x: Values) -> ComplexArray:
        made_tip = ProbeTip(tip(x), ground(x) * HENRY_PER_M)
        y = 1j * z0_ohm * made_tip.admittance_s(f)
        reflected = (1.0 - y) / (1.0 + y)
        through = (1.0 + reflected) * made_tip.transfer(f) / ratio(x)
        made = matrices(np.broadcast_shapes(through.shape, f.shape), 2)
        made[..., 0, 0], made[..., 0, 1], made[..., 1, 0], made[..., 1, 1] = reflected, 0.0, through, -1.0
        return made

    return scattering


def _line(own: _Gathered, known: Mapping[str, Property], f: FloatArray, z0_ohm: float) -> Scattering:
    """A length of line; a cable's loss is a table's, and a piece of it may be off that."""
    cable = cable_in(own.part, known)
    length = own.stated(known, "length_m", "length", "length")
    usual = cable.velocity_factor if cable else TEE_VELOCITY_FACTOR
    factor = own.stated(known, "velocity_factor", "velocity_factor", "velocity factor", usual)
    line = own.stated(known, "line_ohm", "line", "line impedance", cable.line_ohm if cable else z0_ohm)
    if cable is not None:
        tabled = known["length_m"].value * cable.loss_db_per_m(f)
        u = float(standard_u_from_limit(CABLE_LOSS_SHARE, Distribution.RECTANGULAR))
        share = own.add("loss", "loss", 1.0, u, "", Distribution.RECTANGULAR, "of its table")
    else:
        tabled, share = np.ones(f.size), own.stated(known, LOSS, "loss", "loss")

    def scattering(x: Values) -> ComplexArray:
        theta = 2.0 * np.pi * f * length(x) / (factor(x) * SPEED_OF_LIGHT_M_S)
        return uniform_line(line(x), theta, tabled * share(x), z0_ohm)

    return scattering


def _tee(own: _Gathered, known: Mapping[str, Property], f: FloatArray, z0_ohm: float) -> Scattering:
    """Three ports on one node with its body's capacitance; between node and ends of the line an arm each."""
    arm = own.stated(known, "arm_m", "arm", "from its middle to the load")
    body = own.stated(known, "capacitance_f", "capacitance", "capacitance of its body")
    hangs = [port.hangs for port in own.part.ports]

    def scattering(x: Values) -> ComplexArray:
        node = 2.0 / (3.0 + 2j * np.pi * f * body(x) * z0_ohm)
        turned = np.exp(-2j * np.pi * f * arm(x) / (TEE_VELOCITY_FACTOR * SPEED_OF_LIGHT_M_S))
        there_and_back = turned * turned
        made = matrices(np.broadcast_shapes(node.shape, turned.shape), 3)
        for out, into in product(range(3), repeat=2):
            met = node - 1.0 if out == into else node
            ends = hangs[out] + hangs[into]  # of two ways, how many end at the node itself
            made[..., out, into] = met if ends == 2 else met * (turned if ends else there_and_back)
        return made

    return scattering


# ends and levels


def _end(
    own: _Gathered,
    known: Mapping[str, Property],
    f: FloatArray,
    z0_ohm: float,
    base: PartNetwork,
    heat: float | None,
) -> Scattering:
    part, name = own.part, own.name
    table = part.characterisation(IMPEDANCE)
    if table is not None or ("nominal_ohm" in known and "swr" not in known):
        stated = known.get("nominal_ohm")
        nominal, u_nominal = (stated.value, stated.u) if stated is not None else (z0_ohm, 0.0)
        state = load_state(table, f, nominal, part.characterisation(HOT_IMPEDANCE), heat, u_nominal)
        own.influences += load_influences(state, name)

        def of_load(x: Values) -> ComplexArray:
            return load_admittance(x, state, name).reflection(z0_ohm)[..., None, None]

        return of_load
    if "capacitance_f" in known or "resistance_ohm" in known:
        farad = own.stated(known, "capacitance_f", "capacitance", "input capacitance")
        ohm = own.stated(known, "resistance_ohm", "resistance", "input resistance", INPUT_RESISTANCE_OHM)

        def of_input(x: Values) -> ComplexArray:
            y = z0_ohm * (1.0 / ohm(x) + 2j * np.pi * f * farad(x))
            return np.asarray(((1.0 - y) / (1.0 + y))[..., None, None])

        return of_input
    return lambda _: base.scattering


def _levels(
    own: _Gathered,
    known: Mapping[str, Property],
    settings: Mapping[str, str],
    f: FloatArray,
    base: PartNetwork,
) -> Scattering:
    """Ways through and side ports by their levels. What leaks into a side port has an open phase."""
    part, at = own.part, _at(settings, own.part)
    loss = level_of(part, LOSS, settings, f)
    stated = np.real(loss.value)
    through = own.add(f"loss{at}", "loss", stated, loss.u, "dB", basis=_footing(loss))
    sides = [base.ports.index(port.id) for port in part.side_ports]
    ends = [base.ports.index(port.id) for port in part.ports if not port.hangs][:2]
    coupled = level_of(part, COUPLING, settings, f)
    coupling = own.add(f"coupling{at}", "coupling", 0.0, coupled.u if sides else 0.0, "dB", basis=_footing(coupled))
    directivity = known.get("directivity_db") if sides else None
    leaks = 10.0 ** (-directivity.value / 20.0) if directivity else 0.0
    shape = Distribution.U_SHAPED if directivity and directivity.measured else Distribution.DISC
    u = standard_u_from_limit(leaks, shape)
    parts = [own.add(f"directivity.{half}", f"directivity, {half} part", 0.0, u, "", shape, "phase open")
             for half in ("real", "imaginary")]  # fmt: skip

    def scattering(x: Values) -> ComplexArray:
        more, aside = through(x) - stated, coupling(x)
        real, imaginary = (read(x) for read in parts)
        made = _spread(base.scattering, more, aside, real, imaginary)
        passed = _amplitude(more)
        for out in range(len(base.ports)):
            for into in range(len(base.ports)):
                if out not in sides and into not in sides:
                    made[..., out, into] *= passed
        factor = _amplitude(aside)
        for number, side in enumerate(sides):
            taking, leaking = ends if number == 0 else ends[::-1]
            for end in ends:  # without a directivity it takes from both ways alike: volts, or amperes
                made[..., side, end] *= factor
                made[..., end, side] *= factor
            if directivity:
                leak = np.abs(made[..., side, taking]) * (real + 1j * imaginary)
                made[..., side, leaking] = made[..., leaking, side] = leak
        return made

    return scattering
