"""What is planned at each connector, and what would be over its rating: before anyone keys.

The planned power is incident at the stated plane into the load as known at that frequency. Beside that stand the worst
a switch left in another position can do, and the fault: open, short or anything reflecting all at the load, any length
of line away, with the source pushing on as before unless its fold-back is proven. On the line volts are what a matched
line's would be times 1 + ρ, the most there can be; on a branch they are the network's own. Levels are plans, never
facts: without a wire nobody knows whether the carrier is on, and no safety advice may depend on it.
Page: docs/method/levels.md.
"""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from functools import cached_property
from itertools import product

import numpy as np
from numpy.typing import NDArray

from fenmist.frozen import dataclass
from fenmist.hookup.line import HookUp, main_way, side_ways, source_of
from fenmist.hookup.network import LineNetwork, line_network
from fenmist.kit.part import SOURCES, Part, Port
from fenmist.measurand import PlaneRef
from fenmist.rf.probe import derated_volts

FloatArray = NDArray[np.float64]
ComplexArray = NDArray[np.complex128]

PHASES = np.exp(2j * np.pi * np.arange(16) / 16.0)
"""Turns of a reflection tried where the length of line before it is unknown; between them at most 2 % of volts."""

MOST_AT_ONCE = 2048
"""Frequencies solved together: what a line of many parts takes in memory stays small."""

MOST_POSITIONS = 32
"""Combinations of switch positions that are all looked at; beyond that one switch at a time."""

HIGH_IMPEDANCE = 0.05
"""Share of the incident power taken up below which only volts mean anything at a connector."""

PROVEN = "fold-back"
"""Property of a source: share of its power left when everything comes back, where that was proven."""


PLANNED, FAULT = "planned", "fault"


@dataclass(frozen=True)
class PlaneLevel:
    """The planned level at one connector."""

    plane: PlaneRef
    incident_w: float | None  # away from the source; none where nearly all comes back and only volts mean anything
    volts_rms: float
    reflected_w: float = 0.0

    @property
    def volts_peak(self) -> float:
        """Crest of the sine in V."""
        return self.volts_rms * math.sqrt(2.0)

    @property
    def swr(self) -> float | None:
        """What a meter there would see; none where only volts mean anything."""
        if self.incident_w is None or self.incident_w <= 0:
            return None
        rho = math.sqrt(min(self.reflected_w / self.incident_w, 1.0))
        return math.inf if rho > 0.9999 else (1.0 + rho) / (1.0 - rho)


PLAN_KNOWN_TO = 0.05
"""Part of its power that a plan is known to: levels are set no closer, losses and matches are as stated (common
practice, no source)."""


@dataclass(frozen=True)
class Overload:
    """A part that would be put over its rating."""

    element: str
    what: str  # "power" or "volts"
    planned: float  # W or V peak
    limit: float
    case: str = PLANNED  # or the positions of the switches, or "fault"
    port: str = ""
    component: str = ""  # a resistor inside it

    @property
    def times(self) -> float:
        """How many times the rating, as power."""
        return (self.planned / self.limit) ** (1 if self.what == "power" else 2)

    @property
    def is_marginal(self) -> bool:
        """True where the plan is over the rating by no more than it is known to."""
        return self.times <= 1.0 + PLAN_KNOWN_TO


@dataclass(frozen=True)
class Dissipation:
    """Power in one resistor inside a part, in W."""

    element: str
    component: str
    planned_w: float
    worst_w: float
    fault_w: float
    limit_w: float | None


@dataclass(frozen=True)
class LevelPlan:
    """Planned levels of one hook-up at one power and frequency."""

    power_w: float
    frequency_hz: float
    levels: tuple[PlaneLevel, ...]
    overloads: tuple[Overload, ...]  # by the plan itself
    risks: tuple[Overload, ...] = ()  # by a switch in another position, or by a fault, where the plan itself does not
    worst: tuple[PlaneLevel, ...] = ()  # the most that any position of the switches makes, connector by connector
    fault: tuple[PlaneLevel, ...] = ()  # the most that any total reflection at the load makes
    dissipations: tuple[Dissipation, ...] = ()
    source_w: float = 0.0  # what the source has to give for it

    def at(self, element: str, port: str) -> PlaneLevel | None:
        """The level at a port, or none where it isn't worked out."""
        return self._by_port[0].get((element, port))

    def worst_at(self, element: str, port: str) -> PlaneLevel | None:
        """The same with the switches at their worst."""
        return self._by_port[1].get((element, port))

    def fault_at(self, element: str, port: str) -> PlaneLevel | None:
        """The same with everything reflected at the load."""
        return self._by_port[2].get((element, port))

    @cached_property
    def _by_port(self) -> tuple[dict[tuple[str, str], PlaneLevel], ...]:
        cases = (self.levels, self.worst, self.fault)
        return tuple({(item.plane.element, item.plane.port): item for item in case} for case in cases)


@dataclass(frozen=True, eq=False)
class Case:
    """Levels at n frequencies and p ports for 1 W at the stated plane; arrays of shape (n, p)."""

    forward: FloatArray  # W
    backward: FloatArray
    volts: FloatArray  # V rms
    resistors: Mapping[tuple[str, str], FloatArray]  # W by (element, component), shape (n,)


@dataclass(frozen=True, eq=False)
class LineLevels:
    """Levels of a hook-up over frequency, each for 1 W at the stated plane."""

    hookup: HookUp
    frequency_hz: FloatArray  # (n,)
    ports: tuple[tuple[str, str], ...]
    planned: Case
    worst: Case
    worst_positions: tuple[tuple[str, Case], ...]  # each combination of positions, named
    fault: Case
    source_w: FloatArray  # (n,)
    means_power: NDArray[np.bool_]  # (n, p)
    load: str  # element that ends the line, or ""

    def plan(self, parts: Mapping[str, Part], power_w: float, place: int = 0) -> LevelPlan:
        """The plan at one of the frequencies."""
        f = float(self.frequency_hz[place])
        planned, worst, fault = (_levels(self, case, power_w, place) for case in (self.planned, self.worst, self.fault))
        part_of = {item.id: parts[item.part] for item in self.hookup.elements}
        dissipations = tuple(self._dissipations(part_of, power_w, place))
        found = _all_overloads(self, part_of, power_w, place)
        overloads = tuple(item for item in found if item.case == PLANNED)
        risks = tuple(item for item in found if item.case != PLANNED)
        source_w = float(self.source_w[place]) * power_w
        return LevelPlan(power_w, f, planned, overloads, risks, worst, fault, dissipations, source_w)

    def overloads(self, parts: Mapping[str, Part], power_w: float, place: int) -> tuple[Overload, ...]:
        """What the plan itself overloads at one of the frequencies."""
        part_of = {item.id: parts[item.part] for item in self.hookup.elements}
        return tuple(_overloads(self, self.planned, part_of, power_w, place))

    def bears_w(self, parts: Mapping[str, Part]) -> FloatArray:
        """The most power at the stated plane that overloads nothing as it is set, W at each frequency; shape (n,)."""
        least = np.full(self.frequency_hz.size, np.inf)
        case, part_of = self.planned, {item.id: parts[item.part] for item in self.hookup.elements}
        for number, (element, port_id) in enumerate(self.ports):
            part = part_of[element]
            if part.kind in SOURCES:
                continue
            port = part.port(port_id)
            if port.power_limit_w is not None:
                most = np.maximum(case.forward[:, number], case.backward[:, number]) * self.means_power[:, number]
                least = np.minimum(least, port.power_limit_w / np.maximum(most, _NOTHING))
            if port.volts_limit_vpk is not None:
                limit = np.array([volts_limit_vpk(part, port, float(f)) for f in self.frequency_hz], float)
                least = np.minimum(least, (limit / np.maximum(case.volts[:, number], _NOTHING)) ** 2 / 2.0)
        for (element, component), power in case.resistors.items():
            limit_w = next((c.power_limit_w for c in part_of[element].components if c.id == component), None)
            if limit_w is not None:
                least = np.minimum(least, limit_w / np.maximum(power, _NOTHING))
        return least

    def _dissipations(self, part_of: Mapping[str, Part], power_w: float, place: int) -> Iterator[Dissipation]:
        for (element, component), planned in self.planned.resistors.items():
            limit = next((c.power_limit_w for c in part_of[element].components if c.id == component), None)
            made = (case.resistors[element, component][place] * power_w for case in (self.worst, self.fault))
            worst_w, fault_w = (float(item) for item in made)
            yield Dissipation(element, component, float(planned[place]) * power_w, worst_w, fault_w, limit)


def line_levels(hookup: HookUp, parts: Mapping[str, Part], frequency_hz: FloatArray, risks: bool = True) -> LineLevels:
    """Levels at frequencies of shape (n,), for 1 W incident at the stated plane.

    Parameters
    ----------
    risks : bool
        Whether every position of the switches and a fault at the load are looked at, too.

    Raises
    ------
    UnknownIdError
        Where the line begins at no source.
    """
    if frequency_hz.size > MOST_AT_ONCE:
        pieces = np.array_split(frequency_hz, -(-frequency_hz.size // MOST_AT_ONCE))
        return _joined([line_levels(hookup, parts, piece, risks) for piece in pieces])
    network = line_network(hookup, parts, frequency_hz)
    exact = _exact_ports(network, parts)
    drive = _drive(network)  # √W from the source for 1 √W at the stated plane
    planned = _case(network, drive, exact, parts)
    tried = tuple(_positions(network, parts, drive, exact)) if risks else ()
    worst = _largest([planned, *(case for _, case in tried)])
    fault = _fault(network, parts, drive) if risks else planned
    return LineLevels(
        hookup, network.frequency_hz, tuple(network.number), planned, worst, tried, fault, drive**2,
        _means_power(network, planned), network.load[0] if network.load else "",
    )  # fmt: skip


def _joined(pieces: Sequence[LineLevels]) -> LineLevels:
    """Levels of several stretches of frequency as one."""
    first = pieces[0]
    positions = tuple(
        (name, _cases_joined([piece.worst_positions[number][1] for piece in pieces]))
        for number, (name, _) in enumerate(first.worst_positions)
    )
    return replace(
        first, frequency_hz=np.concatenate([piece.frequency_hz for piece in pieces]),
        planned=_cases_joined([piece.planned for piece in pieces]),
        worst=_cases_joined([piece.worst for piece in pieces]), worst_positions=positions,
        fault=_cases_joined([piece.fault for piece in pieces]),
        source_w=np.concatenate([piece.source_w for piece in pieces]),
        means_power=np.concatenate([piece.means_power for piece in pieces]),
    )  # fmt: skip


def _cases_joined(cases: Sequence[Case]) -> Case:
    return Case(
        np.concatenate([case.forward for case in cases]), np.concatenate([case.backward for case in cases]),
        np.concatenate([case.volts for case in cases]),
        {key: np.concatenate([case.resistors[key] for case in cases]) for key in cases[0].resistors},
    )  # fmt: skip


def _drive(network: LineNetwork) -> FloatArray:
    stated = (network.hookup.stated.element, network.hookup.stated.port)
    place = network.number.get(stated, network.drive)
    port = place if network.forward_is_in[place] else network.mate[place]
    forward = network.incident(network.load_reflection, np.array([port]))[:, 0]
    return np.asarray(1.0 / np.maximum(np.abs(forward), 1e-12))


def _exact_ports(network: LineNetwork, parts: Mapping[str, Part]) -> NDArray[np.bool_]:
    """Ports of branches between which and the load all phases are known."""
    exact = np.zeros(len(network.number), bool)
    stops = main_way(network.hookup, parts)
    ways = side_ways(network.hookup, parts)
    known = True
    for stop in reversed(stops):
        for (element, side), hanging in ways.items():
            if element == stop.element and known:
                exact[network.number[element, side]] = True
                places = [network.number[s.element, port] for s in hanging for port in (s.entry, s.exit) if port]
                exact[places] = True
        known = known and network.elements[stop.element].has_phase
    return exact


def _case(
    network: LineNetwork,
    drive: FloatArray,
    exact: NDArray[np.bool_],
    parts: Mapping[str, Part],
) -> Case:
    """Levels with the load as it is; where a phase is unknown, the most that any makes."""
    gamma, opened = network.load_reflection, np.flatnonzero(~(exact | network.on_line))
    made = _of_reflection(network, gamma, drive, parts, np.arange(exact.size))
    if not opened.size:
        return made
    most = _most(_of_reflection(network, gamma * PHASES[:, None], drive, parts, opened))
    for known, largest in zip((made.forward, made.backward, made.volts), (most.forward, most.backward, most.volts),
                              strict=True):  # fmt: skip
        known[:, opened] = largest
    return replace(made, resistors=most.resistors)


def _of_reflection(
    network: LineNetwork,
    reflection: ComplexArray,
    drive: FloatArray,
    parts: Mapping[str, Part],
    ports: NDArray[np.int64],
) -> Case:
    """Levels at some ports, and in all resistors, for a reflection (..., n) at the load."""
    pieces = [
        (name, element.circuit, np.array([network.number[name, port] for port in element.ports]))
        for name, element in network.elements.items()
        if element.circuit is not None and parts[network.hookup.element(name).part].components
    ]
    asked = [ports, network.mate[ports], *(places for *_, places in pieces)]
    waves = network.incident(reflection, np.concatenate(asked)) * drive[:, None]
    incident, leaving, *inside = np.split(waves, np.cumsum([item.size for item in asked[:-1]]), axis=-1)
    into, out = np.abs(incident), np.abs(leaving)
    volts = into + out
    off_line = np.flatnonzero(~network.on_line[ports])
    volts[..., off_line] = np.abs(incident[..., off_line] + leaving[..., off_line])
    volts *= math.sqrt(network.hookup.z0_ohm)
    into, out = into**2, out**2
    forward, backward = (np.where(network.forward_is_in[ports], *pair) for pair in ((into, out), (out, into)))
    resistors = {
        (name, component): power
        for (name, circuit, _), waves_in in zip(pieces, inside, strict=True)
        for component, power in circuit.dissipated_w(waves_in).items()
    }
    return Case(forward, backward, volts, resistors)


def _most(case: Case) -> Case:
    """The largest along the first axis."""
    resistors = {key: power.max(axis=0) for key, power in case.resistors.items()}
    return Case(case.forward.max(axis=0), case.backward.max(axis=0), case.volts.max(axis=0), resistors)


def _largest(cases: Sequence[Case]) -> Case:
    first = cases[0]
    if len(cases) == 1:
        return first
    stacked = Case(
        np.stack([case.forward for case in cases]), np.stack([case.backward for case in cases]),
        np.stack([case.volts for case in cases]),
        {key: np.stack([case.resistors[key] for case in cases]) for key in first.resistors},
    )  # fmt: skip
    return _most(stacked)


def _fault(network: LineNetwork, parts: Mapping[str, Part], drive: FloatArray) -> Case:
    """Everything comes back from the load, over any length of line."""
    source = source_of(network.hookup, parts)
    proven = parts[network.hookup.element(source).part].properties.get(PROVEN) if source else None
    left = math.sqrt(proven.value) if proven is not None and proven.measured else 1.0
    reflection = np.broadcast_to(PHASES[:, None], (PHASES.size, network.frequency_hz.size))
    return _most(_of_reflection(network, reflection, drive * left, parts, np.arange(len(network.number))))


def _positions(
    network: LineNetwork, parts: Mapping[str, Part], drive: FloatArray, exact: NDArray[np.bool_]
) -> Iterator[tuple[str, Case]]:
    """Every combination of switch positions but the one that is set, with the source as it was."""
    switches = [
        (item, switch) for item in network.hookup.elements for switch in parts[item.part].switches
    ]  # fmt: skip
    labels = [[position.label for position in switch.positions] for _, switch in switches]
    set_to = tuple(switch.position(item.settings.get(switch.id, "")).label for item, switch in switches)
    one_by_one = ((*set_to[:place], label, *set_to[place + 1 :]) for place, own in enumerate(labels) for label in own)
    all_of_them = math.prod(map(len, labels)) <= MOST_POSITIONS
    for combination in dict.fromkeys(product(*labels) if all_of_them else one_by_one):
        if combination == set_to or not switches:
            continue
        settings: dict[str, dict[str, str]] = {}
        for (item, switch), label in zip(switches, combination, strict=True):
            settings.setdefault(item.id, {})[switch.id] = label
        other = network.switched(parts, settings)
        changed = [
            f"{parts[item.part].label} at {label}"
            for (item, _), label, was in zip(switches, combination, set_to, strict=True)
            if label != was
        ]
        yield ", ".join(changed), _case(other, drive, exact, parts)


_NOTHING = 1e-60
"""Of a level for each watt: there is none."""

# at one frequency and power


def _levels(levels: LineLevels, case: Case, power_w: float, place: int) -> tuple[PlaneLevel, ...]:
    made = []
    for number, (element, port) in enumerate(levels.ports):
        forward, backward = (float(item[place, number]) * power_w for item in (case.forward, case.backward))
        volts = float(case.volts[place, number]) * math.sqrt(power_w)
        power = forward if levels.means_power[place, number] else None
        made.append(PlaneLevel(PlaneRef(levels.hookup.id, element, port), power, volts, backward))
    return tuple(made)


def _means_power(network: LineNetwork, planned: Case) -> NDArray[np.bool_]:
    """Where a connector takes up enough for watts to mean anything, shape (n, p)."""
    with np.errstate(divide="ignore", invalid="ignore"):
        taken = np.where(planned.forward > 0, 1.0 - planned.backward / planned.forward, 1.0)
    return np.asarray(network.on_line | (taken > HIGH_IMPEDANCE))


def _all_overloads(levels: LineLevels, parts: Mapping[str, Part], power_w: float, place: int) -> tuple[Overload, ...]:
    """What the plan overloads; then what a switch would, and what a fault would, where the plan doesn't."""
    found: dict[tuple[str, str, str], Overload] = {}
    cases = ((PLANNED, levels.planned), *levels.worst_positions, (FAULT, levels.fault))
    for name, case in cases:
        for over in _overloads(levels, case, parts, power_w, place, name == FAULT):
            key = (over.element, over.component, over.what)
            worse = found.get(key)
            if worse is None or (worse.case != PLANNED and over.planned > worse.planned) or worse.case == name:
                found[key] = replace(over, case=name)
    return tuple(found.values())


def _overloads(
    levels: LineLevels, case: Case, parts: Mapping[str, Part], power_w: float, place: int, is_fault: bool = False
) -> Iterator[Overload]:
    frequency_hz = float(levels.frequency_hz[place])
    ends = levels.load if is_fault else ""
    for level in _levels(levels, case, power_w, place):
        element, port_id = level.plane.element, level.plane.port
        if element == ends or parts[element].kind in SOURCES:
            continue  # what ends the line is the fault itself; what a source gives is no load on it
        port = parts[element].port(port_id)
        power, limit_w = level.incident_w, port.power_limit_w
        most = max(power, level.reflected_w) if power is not None else 0.0
        if limit_w is not None and most > limit_w * (1.0 + 1e-9):
            yield Overload(element, "power", most, limit_w, port=port_id)
        volts_limit = volts_limit_vpk(parts[element], port, frequency_hz)
        if volts_limit is not None and level.volts_peak > volts_limit:
            yield Overload(element, "volts", level.volts_peak, volts_limit, port=port_id)
    for (element, component), power_1w in case.resistors.items():
        limit_w = next((c.power_limit_w for c in parts[element].components if c.id == component), None)
        dissipated = float(power_1w[place]) * power_w
        if limit_w is not None and dissipated > limit_w * (1.0 + 1e-9):
            yield Overload(element, "power", dissipated, limit_w, component=component)


def volts_limit_vpk(part: Part, port: Port, frequency_hz: float) -> float | None:
    """What a port bears at a frequency, V peak: a probe's rating falls."""
    knee = part.properties.get("knee_hz")
    if port.volts_limit_vpk is None or knee is None:
        return port.volts_limit_vpk
    return float(derated_volts(port.volts_limit_vpk, frequency_hz, knee.value))
