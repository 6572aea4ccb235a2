"""Faults that can be planted in a bench, each with what a technician would see of it.

A fault changes only what is true: what was noted of the bench stays as it is. Its strength is in a unit of its own.
"""

import math
from collections.abc import Callable
from dataclasses import replace

from fenmist.errors import UnknownIdError
from fenmist.frozen import dataclass
from fenmist.hookup.line import Joint
from fenmist.kit.part import Part, PartKind, Property
from fenmist.simulation.needle import HOLD
from fenmist.simulation.netlist import Contact
from fenmist.simulation.screens import TrueScope, TrueSensor
from fenmist.simulation.setup import Setup, TrueInstrument
from fenmist.simulation.wattmeter import TrueWattmeter

METERS = (PartKind.INLINE_METER, PartKind.SWR_METER, PartKind.HOME_BUILT)
LOADS = (PartKind.LOAD, PartKind.MISMATCH)


@dataclass(frozen=True)
class Fault:
    """One kind of fault."""

    id: str
    title: str
    seen: str  # what a technician would see
    unit: str  # of its strength
    usual: float  # a strength at which it is met
    planted: Callable[[Setup, float], Setup | None]  # none where the bench has no place for it


def plant(setup: Setup, fault: str, strength: float | None = None) -> Setup:
    """A set-up with a fault in it.

    Raises
    ------
    UnknownIdError
        Where there is no such fault, or the bench has no part that could have it.
    """
    known = {item.id: item for item in FAULTS}
    if fault not in known:
        raise UnknownIdError(f"There is no fault “{fault}”.", f"There are {', '.join(known)}.")
    made = known[fault].planted(setup, known[fault].usual if strength is None else strength)
    if made is None:
        raise UnknownIdError(f"This bench has no part for “{known[fault].title}”.", "Choose another bench.")
    return made


# where


def _places(setup: Setup, *kinds: PartKind) -> list[str]:
    return [item.id for item in setup.hookup.elements if setup.part(item.id).kind in kinds]


def _with(setup: Setup, element: str, instrument: TrueInstrument) -> Setup:
    return replace(setup, instruments={**setup.instruments, element: instrument})


def _meter(setup: Setup) -> tuple[str, TrueWattmeter] | None:
    """The first meter in the line."""
    for element in _places(setup, *METERS):
        true = setup.instruments.get(element)
        if isinstance(true, TrueWattmeter):
            return element, true
    return None


def _metered(change: Callable[[TrueWattmeter, float], TrueWattmeter]) -> Callable[[Setup, float], Setup | None]:
    def planted(setup: Setup, strength: float) -> Setup | None:
        found = _meter(setup)
        return _with(setup, found[0], change(found[1], strength)) if found else None

    return planted


def _with_truth(setup: Setup, element: str, change: Callable[[Part], Part]) -> Setup:
    truth = setup.true.truths[element]
    truths = {**setup.true.truths, element: replace(truth, part=change(truth.part))}
    return replace(setup, true=replace(setup.true, truths=truths))


def _with_property(part: Part, name: str, value: float) -> Part:
    return replace(part, properties={**part.properties, name: Property(value, part.properties[name].unit)})


def _at_load(contact: Callable[[float], Contact]) -> Callable[[Setup, float], Setup | None]:
    def planted(setup: Setup, strength: float) -> Setup | None:
        places = _places(setup, *LOADS)
        if not places:
            return None
        at = (places[0], setup.part(places[0]).ports[0].id)
        contacts = {**setup.true.contacts, at: contact(strength)}
        return replace(setup, true=replace(setup.true, contacts=contacts))

    return planted


# what


def _turned(setup: Setup, _: float) -> Setup | None:
    found = _meter(setup)
    if found is None:
        return None
    near, far = setup.part(found[0]).ends
    other = {(found[0], near): (found[0], far), (found[0], far): (found[0], near)}
    hookup = setup.true.hookup
    joints = tuple(Joint(other.get(joint.a, joint.a), other.get(joint.b, joint.b)) for joint in hookup.joints)
    return replace(setup, true=replace(setup.true, hookup=replace(hookup, joints=joints)))


def _probe(setup: Setup, ratio: float) -> Setup | None:
    places = _places(setup, PartKind.PROBE)
    return _with_truth(setup, places[0], lambda part: _with_property(part, "ratio", ratio)) if places else None


def _termination(setup: Setup, ohm: float) -> Setup | None:
    """What hangs on a tap isn't 50 Ω."""
    for element in _places(setup, PartKind.TAP):
        hung = setup.hookup.mate(element, setup.part(element).side_ports[0].id)
        if hung is not None:
            z0, truth = setup.hookup.z0_ohm, setup.true.truths[hung[0]]
            gamma = (ohm - z0) / (ohm + z0)
            phases = {**truth.phases, hung[1]: 0.0 if gamma > 0.0 else math.pi}
            truth = replace(truth, phases=phases, reflections={**truth.reflections, hung[1]: abs(gamma)})
            made = replace(setup, true=replace(setup.true, truths={**setup.true.truths, hung[0]: truth}))
            sensor = setup.instruments.get(hung[0])
            if isinstance(sensor, TrueSensor):  # its detector takes the volts there, not the wave that goes in
                made = _with(made, hung[0], replace(sensor, gain=sensor.gain * (1.0 + gamma) ** 2))
            return made
    return None


def _aged(setup: Setup, per_cent: float) -> Setup | None:
    places = _places(setup, PartKind.DIVIDER, PartKind.TAP)

    def older(part: Part) -> Part:
        first, *rest = part.components
        return replace(part, components=(replace(first, measured=first.value * (1.0 + per_cent / 100.0)), *rest))

    return _with_truth(setup, places[0], older) if places else None


def _warming_load(setup: Setup, per_cent: float) -> Setup | None:
    places = _places(setup, *LOADS)
    return replace(setup, warms={**setup.warms, places[0]: per_cent / 100.0}) if places else None


def _tuned(setup: Setup, swr: float) -> Setup | None:
    rho = (swr - 1.0) / (swr + 1.0)
    siemens = 2.0 * rho / math.sqrt(1.0 - rho**2) / setup.hookup.z0_ohm
    return _at_load(lambda s: Contact(farad=s / (2.0 * math.pi * _TUNED_HZ)))(setup, siemens)


_TUNED_HZ = 7e6


def _loose(setup: Setup, ohm: float) -> Setup | None:
    places = _places(setup, *LOADS)
    if not places:
        return None
    return replace(setup, loose={**setup.loose, (places[0], setup.part(places[0]).ports[0].id): ohm})


def _folds(setup: Setup, swr: float) -> Setup:
    return replace(setup, transmitter=replace(setup.transmitter, folds_above_swr=swr))


def _hot_pad(setup: Setup, decibels: float) -> Setup | None:
    places = [item for item in _places(setup, PartKind.ATTENUATOR) if not setup.part(item).switches]
    known = [item for item in places if "loss_db" in setup.true.truths[item].part.properties]
    return replace(setup, warms_db={**setup.warms_db, known[0]: decibels}) if known else None


def _switched(setup: Setup, decibels: float) -> Setup | None:
    places = [item for item in _places(setup, PartKind.ATTENUATOR) if setup.part(item).switches]

    def moved(part: Part) -> Part:
        return _with_property(part, "loss_db", max(part.properties["loss_db"].value + decibels, 0.0))

    return _with_truth(setup, places[0], moved) if places else None


def _not_zeroed(setup: Setup, watts: float) -> Setup | None:
    for element in _places(setup, PartKind.POWER_METER):
        true = setup.instruments[element]
        if isinstance(true, TrueSensor):
            return _with(setup, element, replace(true, zero_w=true.zero_w + watts))
    return None


def _alike(setup: Setup, decibels: float) -> Setup | None:
    found = _meter(setup)
    others = [(name, true) for name, true in setup.instruments.items() if isinstance(true, TrueScope | TrueSensor)]
    if found is None or not others:
        return None
    made = _with(setup, found[0], replace(found[1], error_db=found[1].error_db + decibels))
    for name, true in others:
        per_decade = 20.0 if isinstance(true, TrueScope) else 10.0
        made = _with(made, name, replace(true, gain=true.gain * 10.0 ** (decibels / per_decade)))
    return made


def _one_frequency(true: TrueWattmeter, per_octave_db: float) -> TrueWattmeter:
    """Right at 7 MHz, off by so much more with each octave away from it."""
    octaves = range(-6, 7)
    return replace(true, bands=tuple((_TUNED_HZ * 2.0**n, per_octave_db * n) for n in octaves))


FAULTS = (
    Fault("ports", "meter's ports swapped", "forward shows next to nothing, reflected shows the power", "", 1.0,
          _turned),
    Fault("port", "wrong port for the band", "reads a third to a half, less the lower the frequency", "MHz", 10.0,
          _metered(lambda true, mhz: replace(true, volts_corner_hz=mhz * 1e6, amperes_corner_hz=mhz * 1e6))),
    Fault("probe", "x10 probe set to x1", "volts ten times too high, watts a hundred times", "", 1.0, _probe),
    Fault("termination", "wrong termination of a tap", "up to 6 dB too much at its side port", "Ω", 1e6, _termination),
    Fault("resistor", "aged divider resistor", "volts behind it read low by as much as R1 grew", "%", 15.0, _aged),
    Fault("wet", "wet connector at the load", "SWR up, less power arrives than leaves", "Ω", 150.0,
          _at_load(lambda ohm: Contact(siemens=1.0 / ohm))),
    Fault("drift", "load drifting with heat", "two instruments drift apart while the key is down", "%", 20.0,
          _warming_load),
    Fault("tuner", "tuner left in", "SWR on a good load isn't 1, and differs from band to band", "SWR", 1.5, _tuned),
    Fault("hold", "peak button that is only a hold", "steady on a carrier, low on speech and dots", "s", 1.0,
          _metered(lambda true, s: replace(true, movement=replace(
              true.movement, detector=HOLD, charge_s=0.02, decay_s=s)))),
    Fault("one", "meter right at one frequency only", "error grows with each octave away from it", "dB", 0.4,
          _metered(_one_frequency)),
    Fault("arc", "wrong arc read", "off by the ratio of two ranges, at every point", "", 0.1,
          _metered(lambda true, ratio: replace(true, error_db=true.error_db + 10.0 * math.log10(ratio)))),
    Fault("loose", "loose adapter", "readings jump between rounds, SWR with them", "Ω", 5.0, _loose),
    Fault("fold-back", "transmitter that folds back", "power falls where SWR rises", "SWR", 1.1, _folds),
    Fault("hot-pad", "pad turned round, its small end hot", "the sensor sinks against the meter while the key is down",
          "dB", 0.5, _hot_pad),
    Fault("switch", "switch in the wrong position", "off by one step, at every point", "dB", 10.0, _switched),
    Fault("zero", "zero not set", "the same watts too much everywhere, worst at the lowest level", "W", 1e-6,
          _not_zeroed),
    Fault("alike", "two instruments wrong alike", "they agree; only a third of another principle tells", "dB", 0.6,
          _alike),
)  # fmt: skip
"""All of them; what is common in the trade, no source."""
