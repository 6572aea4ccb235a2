"""Benches to practise on, by name: what is plugged together, what is set, and what is wrong with it.

All instruments are invented. The same name and number always make the same bench.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from types import MappingProxyType

import numpy as np

from fenmist.errors import UnknownIdError
from fenmist.frozen import dataclass
from fenmist.hookup.line import HookUp
from fenmist.hookup.templates import OF_HOME_BUILT, OF_MATCH, OF_METERS, Template, from_template
from fenmist.kit import generic, shelf
from fenmist.kit.impedance import table_from_rows
from fenmist.kit.part import Part, PartKind, Property
from fenmist.kit.scale import Scale
from fenmist.simulation.faults import METERS, plant
from fenmist.simulation.live import LiveBench
from fenmist.simulation.setup import Setup, set_up


@dataclass(frozen=True)
class Scenario:
    """One bench."""

    name: str
    title: str  # a sentence that tells what stands there, and not what is wrong
    template: Template
    parts: Callable[[], tuple[Part, ...]]
    frequency_hz: float
    level_w: float
    faults: Mapping[str, float | None]  # by id; none: of their usual strength

    def bench(self) -> tuple[HookUp, Mapping[str, Part]]:
        """The hook-up as it is noted, and its parts."""
        parts = self.parts()
        device = next(part for part in parts if part.kind in METERS)
        made = from_template(self.template, parts, self.name, device)
        return made.hookup, {part.id: part for part in made.parts}


def scenario(name: str) -> Scenario:
    """The scenario named; raises UnknownIdError."""
    found = next((item for item in SCENARIOS if item.name == name), None)
    if found is None:
        raise UnknownIdError(f"There is no bench “{name}”.", f"There are {', '.join(s.name for s in SCENARIOS)}.")
    return found


def live_bench(chosen: Scenario, seed: int, more: Mapping[str, float | None] = MappingProxyType({})) -> LiveBench:
    """A scenario switched on, carrier off, with further faults planted; raises UnknownIdError of a fault."""
    made = job_bench(*chosen.bench(), seed, {**chosen.faults, **more})
    made.set(chosen.level_w, chosen.frequency_hz)
    return made


def job_bench(
    hookup: HookUp, parts: Mapping[str, Part], seed: int, faults: Mapping[str, float | None] = MappingProxyType({}),
    others: Sequence[HookUp] = (),
) -> LiveBench:  # fmt: skip
    """Any hook-up switched on, carrier off, with hidden truths and faults; raises UnknownIdError of a fault.

    The same parts may be plugged together otherwise, too: `LiveBench.plug`.
    """
    rng = np.random.default_rng(seed)
    first = _warming(set_up(hookup, parts, rng))
    for name, strength in faults.items():
        first = plant(first, name, strength)
    made = [first]
    for other in others:
        made.append(_warming(set_up(other, parts, rng, made)))
    crest = rng.uniform(-CREST_DB, CREST_DB)
    first, *rest = (replace(one, transmitter=replace(one.transmitter, modulated_db=crest)) for one in made)
    return LiveBench(first, seed + 1, rest)


def _warming(setup: Setup) -> Setup:
    loads = [item.id for item in setup.hookup.elements if setup.part(item.id).kind is PartKind.LOAD]
    return replace(setup, warms=dict.fromkeys(loads, WARM_LOAD))


CREST_DB = 0.2
"""By which a transmitter's crest when modulated lies off its carrier, at most (common practice, no source)."""

WARM_LOAD = 0.02
"""Part of its ohms that a load in order gains once at its rating (common practice, no source)."""


# what stands there


def _digital(name: str, label: str) -> Part:
    """A digital meter in line."""
    made = next(part for part in generic.generics() if part.id == "generic-digital")
    return replace(made, id=name, label=label, serial="D-1")


def _arc() -> Scale:
    return Scale("outer", (0.0, 20.0, 40.0, 60.0, 100.0, 140.0, 200.0), (4, 8, 4, 8, 4, 6), 0.5)


def _common() -> tuple[Part, ...]:
    load = shelf.dummy_load("reedmace", "Reedmace 150", 150.0, minutes=10.0, cooling_minutes=12.0, serial="R150-2")
    table = table_from_rows([(1e5, "51.2"), (1e7, "51.4+j0.6"), (3e7, "52.1+j1.9")], 0.005, "workshop analyser")
    load = replace(load, characterisations=(table,))
    return (shelf.transmitter("plover", "Plover 150", 150.0, "P-1207"), load)


def _sensor(name: str, label: str) -> Part:
    return replace(
        generic.power_meter(name, label, damage_w=0.02, noise_w=1e-9, top_w=0.02), serial=f"{name[:2].upper()}-1"
    )


def _scope() -> tuple[Part, ...]:
    tee, lead = shelf.tee("tee", "tee"), shelf.lead("lead", "lead 0.3 m", 0.3)
    return tee, lead, shelf.oscilloscope("sedge", "Sedge 200", 200e6, accuracy=0.02, serial="S200-31")


def _live() -> tuple[Part, ...]:
    return (*_common(), _digital("knot", "Knot 200"), shelf.jumper("jumper", "jumper 0.5 m", 0.02, 0.02), *_scope())


def _probe() -> tuple[Part, ...]:
    return tuple(shelf.probe("probe", "probe 10:1") if part.id == "lead" else part for part in _live())


def _dial() -> tuple[Part, ...]:
    meter = shelf.inline_meter("bittern", "Bittern 200", (20.0, 200.0), _arc(), 0.05, serial="B2-0417")
    return (*_common(), meter, shelf.jumper("jumper", "jumper 0.5 m", 0.02, 0.02), *_scope())


def _tap(*more: Part) -> tuple[Part, ...]:
    tap = generic.resistive_tap("curlew", "Curlew tap 40 dB", 2460.0, 50.0, power_w=200.0)
    return (*_common(), _digital("knot", "Knot 200"), tap, *more, _sensor("snipe", "Snipe +13 dBm"))


def _steps() -> tuple[Part, ...]:
    return _tap(generic.attenuator("sallow", "Sallow steps", 10.0, 0.2, 1.0, positions=(10.0, 0.0, 20.0, 30.0)))


def _pad() -> tuple[Part, ...]:
    pad = generic.attenuator("bulrush", "Bulrush 40 dB", 40.0, 0.3, 100.0, far_power_w=5.0)
    return (*_common(), _digital("knot", "Knot 200"), pad, _sensor("snipe", "Snipe +13 dBm"))


def _divider() -> tuple[Part, ...]:
    volts = next(part for part in generic.generics() if part.kind is PartKind.VOLTMETER)
    volts = replace(volts, id="wigeon", label="Wigeon voltmeter", serial="W-3")
    return (
        *_common(), _digital("knot", "Knot 200"), shelf.tee("tee", "tee"),
        generic.divider("garganey", "Garganey divider", 22e3, 2.66e3), volts,
    )  # fmt: skip


def _mismatch() -> tuple[Part, ...]:
    kit = {part.id: part for part in generic.generics()}
    end = replace(kit["generic-mismatch"], id="stint", label="Stint 100 Ω")
    end = replace(end, properties={**end.properties, "nominal_ohm": Property(100.0, "Ω")})
    return (*_common(), _digital("knot", "Knot 200"), end)


def _home_built() -> tuple[Part, ...]:
    made = next(part for part in generic.generics() if part.kind is PartKind.HOME_BUILT)
    return (*_common(), replace(made, id="sanderling", label="Sanderling, home-built"), *_scope())


def _of(templates: tuple[Template, ...], *kinds: PartKind) -> Template:
    """The first template of these kinds alone, whatever may be left out of it."""
    return next(item for item in templates if set(item.kinds) - set(item.optional) == set(kinds) - set(item.optional))


_K = PartKind
_LINE = (_K.TRANSMITTER, _K.INLINE_METER)
_TEED = (_K.TEE, _K.LOAD, _K.LEAD, _K.OSCILLOSCOPE)
_ACROSS = _of(OF_METERS, *_LINE, *_TEED)

SCENARIOS = (
    Scenario("live", "A digital meter in line, an oscilloscope across the load, all on the wire.",
             _ACROSS, _live, 8.291e6, 50.0, {}),
    Scenario("dial", "A needle to be read by eye, an oscilloscope across the load.",
             _ACROSS, _dial, 8.291e6, 50.0, {}),
    Scenario("probe", "The first bench with a divider probe at the tee.", _ACROSS, _probe, 8.291e6, 50.0, {}),
    Scenario("tap", "A tap with a sensor behind a digital meter.",
             _of(OF_METERS, *_LINE, _K.LOAD, _K.TAP, _K.POWER_METER), _tap, 8.291e6, 50.0, {}),
    Scenario("steps", "The same, with steps before the sensor.",
             _of(OF_METERS, *_LINE, _K.LOAD, _K.TAP, _K.POWER_METER), _steps, 8.291e6, 50.0, {}),
    Scenario("pad", "A digital meter and a sensor behind a pad.",
             _of(OF_METERS, *_LINE, _K.ATTENUATOR, _K.POWER_METER), _pad, 8.291e6, 50.0, {}),
    Scenario("divider", "A voltmeter behind a divider, below one megahertz.",
             _of(OF_METERS, *_LINE, _K.TEE, _K.LOAD, _K.DIVIDER, _K.VOLTMETER), _divider, 4.75e5, 20.0, {}),
    Scenario("mismatch", "A meter of SWR in front of a known end.",
             _of(OF_MATCH, *_LINE, _K.MISMATCH), _mismatch, 8.291e6, 5.0, {}),
    Scenario("home-built", "A home-built meter that sends counts, an oscilloscope across the load.",
             _of(OF_HOME_BUILT, _K.TRANSMITTER, _K.HOME_BUILT, *_TEED), _home_built, 8.291e6, 50.0, {}),
    Scenario("worn", "The first bench after some years; something is wrong with it.",
             _ACROSS, _live, 8.291e6, 50.0, {"loose": None}),
)  # fmt: skip
"""What can be switched on by name."""
