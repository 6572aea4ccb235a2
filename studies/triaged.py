"""Triage on simulated set-ups: one thing is wrong, the sightings and tests are gone through as a technician would.

Physics by nodes (`simulation`): contacts of some ohms, water across a line's end, an antenna of another impedance; what
a part is when it is bad is drawn here anew, apart from `methods.chain`.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from fenmist.hookup.line import Element, HookUp, Joint
from fenmist.kit import generic, shelf
from fenmist.kit.impedance import table_from_rows
from fenmist.kit.part import Part
from fenmist.measurand import PlaneRef
from fenmist.methods.chain import ANTENNA, FAR_LOAD, LOAD, NOTHING, Sighting
from fenmist.methods.triage import Answer, weighed
from fenmist.simulation.live import LiveBench
from fenmist.simulation.netlist import Contact
from fenmist.simulation.setup import Setup, set_up

SHARES = {
    "antenna": 14, "transmitter": 13, "adapter": 13, "jumper": 11, "mode": 10, "line": 10, "supply": 8, "relay": 6,
    "external": 5, "own": 5, "fold-back": 4, NOTHING: 1,
}  # fmt: skip
"""How often each is planted (common practice, no source)."""

MOST = 6
"""Sightings that are made at most."""


@dataclass(frozen=True)
class Case:
    """One set-up with what is wrong with it."""

    fault: str
    rated_w: float
    frequency_hz: float
    antenna_ohm: complex
    line_db: float
    seed: int
    strength: float  # 0 to 1: from what is hardly met to what is badly wrong
    kind: float  # 0 to 1: which of several kinds


def case(seed: int) -> Case:
    """A set-up drawn from a number."""
    rng = np.random.default_rng([seed, 11])
    names = list(SHARES)
    fault = str(rng.choice(names, p=np.array(list(SHARES.values())) / sum(SHARES.values())))
    gamma = rng.uniform(0.03, 0.2) * np.exp(2j * math.pi * rng.uniform())
    if fault == "antenna":
        gamma = rng.uniform(0.4, 0.95) * np.exp(2j * math.pi * rng.uniform())
    return Case(
        fault, float(rng.choice((15.0, 50.0, 100.0, 150.0))), float(rng.choice((1.9e6, 7.1e6, 14.2e6, 28.5e6))),
        complex(50.0 * (1.0 + gamma) / (1.0 - gamma)), rng.uniform(0.2, 1.2), seed, rng.uniform(), rng.uniform(),
    )  # fmt: skip


def _parts(made: Case) -> dict[str, Part]:
    f = made.frequency_hz
    meter = next(part for part in generic.generics() if part.id == "generic-digital")
    load = replace(shelf.dummy_load("load", "load", 1000.0), characterisations=(table_from_rows([(f, "50.5")], 0.01),))
    ohm = made.antenna_ohm
    antenna = f"{ohm.real:.4f}{'+' if ohm.imag >= 0 else '-'}j{abs(ohm.imag):.4f}"
    return {
        "tx": shelf.transmitter("tx", "tx", made.rated_w), "jumper": shelf.jumper("jumper", "jumper", 0.05, 0.03),
        "meter": replace(meter, id="meter"), "load": load,
        "line": shelf.jumper("line", "line", made.line_db, 0.05),
        "antenna": replace(load, id="antenna", characterisations=(table_from_rows([(f, antenna)], 0.001),)),
    }  # fmt: skip


def _line(name: str, parts: dict[str, Part], *elements: str) -> HookUp:
    joints = tuple(Joint((a, parts[a].ports[-1].id), (b, parts[b].ports[0].id)) for a, b in pairwise(elements))
    plane = PlaneRef(name, "meter", parts["meter"].ports[-1].id)
    return HookUp(name, name, tuple(Element(item, item) for item in elements), joints, plane)


class Bench:
    """It, with a person in front of it who reads and exchanges."""

    def __init__(self, made: Case) -> None:
        self.case = made
        self.parts = _parts(made)
        rng = np.random.default_rng([made.seed, 5])
        head = ("tx", "jumper", "meter")
        ends = {LOAD: ("load",), ANTENNA: ("line", "antenna"), FAR_LOAD: ("line", "load")}
        self.setups: dict[str, Setup] = {}
        for name, end in ends.items():
            hookup = _line(name, self.parts, *head, *end)
            self.setups[name] = set_up(hookup, self.parts, rng, list(self.setups.values()))
        self.own_off = rng.normal(0.0, 0.06)
        self._rng = rng
        self.volts = rng.uniform(13.2, 13.9)

    def sight(self, wanted: Sighting) -> Sighting:
        """What is read at a sighting, in the fields that are filled."""
        made = self.case
        bad = made.fault not in wanted.exchanged
        live = LiveBench(self._wrong(self.setups[wanted.into]) if bad else self.setups[wanted.into], made.seed + 1)
        live.set(watts=wanted.set_w * (self._mode() if made.fault == "mode" and bad else 1.0),
                 frequency_hz=made.frequency_hz, on=True)  # fmt: skip
        live.advance(8.0)
        ahead = abs(live.put("tx", self.parts["tx"].ports[0].id).waves(1)[1]) ** 2
        back = abs(live.put("tx", self.parts["tx"].ports[0].id).waves(1)[0]) ** 2
        own = ahead * math.exp(self.own_off)
        external = live.shown("meter", "forward")
        swr = live.shown("meter", "swr")
        if made.fault == "own" and bad:
            own *= self._factor()
        if made.fault == "external" and bad:
            external *= self._factor()
        if wanted.external_w is None:
            rho = min(math.sqrt(back / max(ahead, 1e-30)), 0.99)
            swr = (1.0 + rho) / (1.0 - rho)
        sags = made.fault == "supply" and bad
        volts = self.volts - (1.6 + 3.5 * made.strength if sags else 0.2)

        def read(value: float, digits: int) -> float:
            return float(f"{max(value, 0.0) * math.exp(0.01 * self._rng.normal()):.{digits}g}")

        return replace(
            wanted, own_w=read(own, 2) if wanted.own_w is not None else None,
            external_w=read(external, 3) if wanted.external_w is not None else None,
            swr=max(read(min(swr, 99.0), 3), 1.0) if wanted.swr is not None else None,
            supply_v=round(volts, 1) if wanted.supply_v is not None else None,
        )  # fmt: skip

    # what is wrong

    def _mode(self) -> float:
        return 0.25 if self.case.kind < 0.35 else 0.5 if self.case.kind < 0.5 else 0.03 * self.case.strength + 1e-4

    def _factor(self) -> float:
        factor = math.exp(math.log(1.4) + math.log(5.0) * self.case.strength)
        return factor if self.case.kind < 0.5 else 1.0 / factor

    def _wrong(self, setup: Setup) -> Setup:
        make = _WRONG.get(self.case.fault)
        return make(self, setup) if make is not None else setup


def _touched(setup: Setup, at: tuple[str, str], contact: Contact) -> Setup:
    return replace(setup, true=replace(setup.true, contacts={**setup.true.contacts, at: contact}))


def _weak(bench: Bench, setup: Setup) -> Setup:
    off = -1.5 - 14.0 * bench.case.strength
    return replace(setup, transmitter=replace(setup.transmitter, error_db=setup.transmitter.error_db + off))


def _limited(part: Callable[[float], float]) -> Callable[[Bench, Setup], Setup]:
    return lambda bench, setup: replace(
        setup, transmitter=replace(setup.transmitter, top_w=bench.case.rated_w * part(bench.case.strength))
    )


def _burnt(bench: Bench, setup: Setup) -> Setup:
    """Contacts of some ohms in front of the jumper, another each time."""
    ohm = (15.0 + 120.0 * bench.case.strength) * bench._rng.uniform(0.7, 1.4)
    return _touched(setup, ("jumper", "a"), Contact(ohm=ohm))


def _bad_jumper(bench: Bench, setup: Setup) -> Setup:
    strength = bench.case.strength
    if bench.case.kind < 0.5:
        return _touched(setup, ("jumper", "a"), Contact(ohm=20.0 + 150.0 * strength))
    return _touched(setup, ("jumper", "b"), Contact(siemens=(0.4 + 3.0 * strength) / 50.0))


def _at_end(setup: Setup) -> tuple[str, str]:
    meter = setup.part("meter")
    return "meter", meter.ports[-1].id


def _bad_adapter(bench: Bench, setup: Setup) -> Setup:
    strength, at = bench.case.strength, _at_end(setup)
    if bench.case.kind < 0.5:
        return _touched(setup, at, Contact(ohm=20.0 + 150.0 * strength))
    return _touched(setup, at, Contact(siemens=(0.5 + 3.0 * strength) / 50.0))


def _wet_line(bench: Bench, setup: Setup) -> Setup:
    if setup.element_of("line") is None:
        return setup
    return _touched(setup, ("line", "b"), Contact(siemens=(0.8 + 4.0 * bench.case.strength) / 50.0))


_WRONG: dict[str, Callable[[Bench, Setup], Setup]] = {
    "transmitter": _weak, "supply": _limited(lambda s: 0.7 - 0.5 * s), "fold-back": _limited(lambda s: 0.5 - 0.4 * s),
    "relay": _burnt, "jumper": _bad_jumper, "adapter": _bad_adapter, "line": _wet_line,
}  # fmt: skip
"""An antenna is drawn bad, a meter reads otherwise, a mode sends otherwise: nothing of the network."""


@dataclass(frozen=True)
class Gone:
    """A case gone through."""

    fault: str
    order: tuple[str, ...]  # the likeliest first
    odds: dict[str, float]
    sightings: int
    first: dict[str, float]  # odds after the first sighting


def go_through(seed: int) -> Gone:
    """As a technician would: what is set, both meters and the SWR; then the tests that are offered."""
    made = case(seed)
    bench = Bench(made)
    blank = Sighting(made.rated_w, ANTENNA if seed % 2 else LOAD, 1.0, 1.0, 1.0)
    sightings = [bench.sight(blank)]
    answer = first = weighed(sightings)
    while answer.next_test is not None and len(sightings) < MOST:
        wanted = answer.next_test.at(replace(blank, into=sightings[-1].into, exchanged=sightings[-1].exchanged))
        sightings.append(bench.sight(wanted))
        answer = weighed(sightings)
    return Gone(
        made.fault, tuple(item.id for item in answer.suspects), _odds(answer), len(sightings), _odds(first)
    )  # fmt: skip


def _odds(answer: Answer) -> dict[str, float]:
    return {item.id: item.odds for item in answer.suspects}
