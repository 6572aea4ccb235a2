"""A bench that is switched on: time runs, the carrier warms loads, needles move, instruments are read.

Time is moved by whoever reads (`advance`), in steps of any length: a stand-in on the wire by its clock, a study
by what a reading takes. Everything that is random comes from one seed.
"""

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from fenmist.errors import OutOfRangeError, UnknownIdError
from fenmist.kit.part import Indicator, PartKind
from fenmist.measurand import Kind
from fenmist.simulation.envelopes import Envelope, carrier, sent
from fenmist.simulation.needle import Needle
from fenmist.simulation.netlist import Contact, Solved, TrueHookUp
from fenmist.simulation.put import Put
from fenmist.simulation.screens import TrueAmmeter, TrueAnalyser, TrueScope, TrueSensor, TrueVoltmeter
from fenmist.simulation.setup import Setup
from fenmist.simulation.transmitter import Keyed, drawn_a, folded, given_w
from fenmist.simulation.wattmeter import FORWARD, REFLECTED, TrueWattmeter

OWN_METER = "own_meter"
"""Indicator of a transmitter's own meter; anything else that it shows is its setting."""

SCREEN_SAMPLES = 1024
"""Samples that an oscilloscope takes for one measurement."""

_STEP_S = 0.25
"""The longest over which level and heat are taken for steady while something changes."""

_WARMTH_STEP = 0.002
"""Parts of full warmth by which a load is solved anew."""

_KEPT = 60
"""Solutions that are kept: a level on the way to its heat passes many."""

_LOAD_S = 300.0
"""Time constant of a load's heat where none is stated."""


class LiveBench:
    """A set-up in time.

    Parameters
    ----------
    setup : Setup
        What is true, as it is plugged together at first.
    seed : int
        Of all that is random from now on.
    others : sequence
        The same plugged together otherwise, of the same parts.
    """

    def __init__(self, setup: Setup, seed: int, others: Sequence[Setup] = ()) -> None:
        self.setup = setup
        self.setups = {one.hookup.id: one for one in (*others, setup)}
        self.time_s = 0.0
        self.keyed = Keyed()
        self._rng = np.random.default_rng(seed)
        self._instruments = {
            one.part_in(element): true for one in self.setups.values() for element, true in one.instruments.items()
        }
        self._envelope: Envelope = carrier
        self._mean_share = 1.0  # of its power over that of its crest
        self._needles = {
            (part, arm): Needle(true.movement)
            for part, true in self._instruments.items() if isinstance(true, TrueWattmeter)
            for arm in (FORWARD, REFLECTED)
        }  # fmt: skip
        self._zeros = {part: 0.0 for part, true in self._instruments.items() if isinstance(true, TrueSensor)}
        self._warmth = {part: 0.0 for one in self.setups.values() for part in map(one.part_in, one.warms)}
        self._contacts = dict.fromkeys(setup.loose, 0.0)
        self._solutions: dict[object, Solved] = {}
        self._puts: dict[tuple[str, str], Put] = {}

    # its controls

    def set(
        self, watts: float | None = None, frequency_hz: float | None = None, on: bool | None = None, envelope: str = ""
    ) -> None:
        """Set the transmitter; what isn't given stays.

        Raises
        ------
        OutOfRangeError
            Of a level below 0 or a frequency that isn't above it.
        UnknownIdError
            Of an envelope that it can't send.
        """
        if watts is not None and not watts >= 0.0:
            raise OutOfRangeError(f"A level of {watts:g} W can't be set.", "Give 0 W or more.")
        if frequency_hz is not None and not frequency_hz > 0.0:
            raise OutOfRangeError(f"{frequency_hz:g} Hz can't be set.", "Give a frequency above 0.")
        made = sent(envelope) if envelope else None
        was = self.keyed
        self.keyed = replace(
            was, set_w=was.set_w if watts is None else watts, on=was.on if on is None else on,
            frequency_hz=was.frequency_hz if frequency_hz is None else frequency_hz,
        )  # fmt: skip
        if made is not None:
            self._envelope, self._mean_share = made
        self._puts.clear()

    def plug(self, hookup: str) -> None:
        """Plug it together as another of its hook-ups.

        Raises
        ------
        UnknownIdError
            Where it has none of that id.
        OutOfRangeError
            With the carrier on.
        """
        if hookup not in self.setups:
            raise UnknownIdError(f"This bench has no hook-up “{hookup}”.", f"It has {', '.join(self.setups)}.")
        if self.keyed.on and hookup != self.setup.hookup.id:
            raise OutOfRangeError("Nothing is plugged together anew with the carrier on.", "Key up first.")
        self.setup = self.setups[hookup]
        self._contacts = dict.fromkeys(self.setup.loose, 0.0)
        self._solutions.clear()
        self._puts.clear()

    def advance(self, seconds: float) -> None:
        """Let time run, 0 s or more."""
        steps = max(1, min(math.ceil(seconds / _STEP_S), 40))
        for _ in range(steps):
            self._step(seconds / steps)

    def _step(self, seconds: float) -> None:
        self.keyed = self.keyed.after(self.setup.transmitter, seconds, self._rng)
        self._puts.clear()
        for at, mean in self.setup.loose.items():
            self._contacts[at] = float(self._rng.exponential(mean))
        for part in self._warmth:
            self._heat(part, seconds)
        for part in self._zeros:
            walk = self._instruments[part]
            sd = walk.drift_w if isinstance(walk, TrueSensor) else 0.0
            self._zeros[part] += sd * math.sqrt(seconds / 3600.0) * float(self._rng.normal())
        for part, true in self._instruments.items():
            if isinstance(true, TrueWattmeter):
                put = self._put_of(part, self.setup.parts[part].ends[-1])
                for arm, drive in true.drives(put).items():
                    if self._envelope is carrier:
                        self._needles[part, arm].steady(drive, self.time_s, seconds)
                    else:
                        self._needles[part, arm].run(self._envelope, drive, self.time_s, seconds)
        self.time_s += seconds

    def _heat(self, part_id: str, seconds: float) -> None:
        part = self.setup.parts[part_id]
        port = part.ports[0]
        put = self._put_of(part_id, port.id)
        taken = sum((put.volts[n] * put.amperes[n].conjugate()).real for n in put.volts) * self._mean_share
        rated = port.power_limit_w or 100.0
        known = part.properties.get("rated_time_s")
        kept = math.exp(-seconds / (known.value if known else _LOAD_S))
        self._warmth[part_id] = self._warmth[part_id] * kept + (1.0 - kept) * taken / rated

    # what is where

    def put(self, element: str, port: str) -> Put:
        """What a connector is put to at the crest of the envelope, harmonics included."""
        known = self._puts.get((element, port))
        if known is not None:
            return known
        true, f = self.setup.transmitter, self.keyed.frequency_hz
        orders: dict[int, complex] = {1: 1.0, **true.harmonics}
        amplitude = self._amplitude(f)
        volts, amperes = {}, {}
        for order, ratio in orders.items():
            solved = self._solved(order * f)
            volts[order] = solved.volts[element, port] * amplitude * ratio
            amperes[order] = solved.amperes[element, port] * amplitude * ratio
        made = Put(f, volts, amperes, self.setup.hookup.z0_ohm)
        self._puts[element, port] = made
        return made

    def _put_of(self, part: str, port: str) -> Put:
        """The same of a part; nothing where it isn't plugged in."""
        element = self.setup.element_of(part)
        if element is not None:
            return self.put(element, port)
        return Put(self.keyed.frequency_hz, {1: 0j}, {1: 0j}, self.setup.hookup.z0_ohm)

    def true_w(self, kind: Kind = Kind.INCIDENT) -> float:
        """Power of the carrier at the stated plane as it truly is: incident on what follows, reflected or net."""
        plane = self.setup.hookup.stated
        amplitude = self._amplitude(self.keyed.frequency_hz)
        back, out = self._solved(self.keyed.frequency_hz).waves((plane.element, plane.port))
        forward, reflected = (abs(out) * amplitude) ** 2, (abs(back) * amplitude) ** 2
        return {Kind.INCIDENT: forward, Kind.REFLECTED: reflected}.get(kind, forward - reflected)

    def _amplitude(self, frequency_hz: float) -> float:
        """Volts behind the source's impedance that give its power into a matched load, folded back where it is."""
        setup = self.setup
        z0, z = setup.hookup.z0_ohm, setup.true.source_ohm
        back, out = self._solved(frequency_hz).waves((setup.source, setup.part(setup.source).ports[0].id))
        rho = min(abs(back / out), 0.999999)
        watts = given_w(setup.transmitter, self.keyed) * folded(setup.transmitter, (1.0 + rho) / (1.0 - rho))
        watts *= 10.0 ** (setup.transmitter.modulated_db / 10.0) if self._envelope is not carrier else 1.0
        return math.sqrt(watts * z0) * abs(z0 + z) / z0

    def _solved(self, frequency_hz: float) -> Solved:
        warm = (self._warmth[self.setup.part_in(element)] for element in self.setup.warms)
        loads = tuple(round(one / _WARMTH_STEP) for one in warm)
        carrier_warm = round(self.keyed.warmth / _WARMTH_STEP) * _WARMTH_STEP if self.setup.warms_db else 0.0
        key = (frequency_hz, loads, carrier_warm, tuple(self._contacts.values()))
        found = self._solutions.get(key)
        if found is None:
            if len(self._solutions) >= _KEPT:
                self._solutions.clear()
            found = self._as_it_is(loads, carrier_warm).solve(frequency_hz)
            self._solutions[key] = found
        return found

    def _as_it_is(self, loads: tuple[int, ...], carrier_warm: float) -> TrueHookUp:
        """The network with its loads as warm as they are and its loose contacts as they happen to lie."""
        true = self.setup.true
        changed = dict(true.truths)
        for (element, gained), steps in zip(self.setup.warms.items(), loads, strict=True):
            cold, factor = changed[element].impedance, 1.0 + gained * steps * _WARMTH_STEP
            if cold is not None:
                changed[element] = replace(changed[element], impedance=lambda f, z=cold, k=factor: z(f) * k)  # type: ignore[misc]
        for element, decibels in self.setup.warms_db.items():
            part = changed[element].part
            loss = part.properties["loss_db"]
            warmer = replace(loss, value=loss.value + decibels * carrier_warm)
            part = replace(part, properties={**part.properties, "loss_db": warmer})
            changed[element] = replace(changed[element], part=part)
        loose = {at: replace(true.contacts.get(at, Contact()), ohm=ohm) for at, ohm in self._contacts.items()}
        return replace(true, truths=changed, contacts={**true.contacts, **loose})

    # reading

    def shown(self, element: str, indicator: str) -> float:
        """What an indicator shows at this moment, W, V or A rms, ρ or SWR; infinite beyond its span.

        Raises
        ------
        UnknownIdError
            Where nothing of that name stands on the bench.
        """
        return self.shown_by(self.setup.part_in(element), indicator)

    def shown_by(self, part_id: str, indicator: str) -> float:
        """The same of a part, plugged in or not."""
        part = self.setup.parts[part_id]
        shows = part.indicator(indicator)
        if part.kind in (PartKind.TRANSMITTER, PartKind.GENERATOR):
            return self._ahead_w() if indicator == OWN_METER else self.keyed.set_w
        true = self._instruments[part_id]
        if isinstance(true, TrueWattmeter):
            return self._on_meter(part_id, true, shows)
        put = self._put_of(part_id, part.ports[0].id)
        if isinstance(true, TrueSensor):
            return true.watts(put, self._mean_share, self._zeros[part_id], self._rng)
        if isinstance(true, TrueVoltmeter):
            return true.volts(put) * math.sqrt(self._mean_share)
        if isinstance(true, TrueAmmeter):
            return true.amperes(put) * math.sqrt(self._mean_share)
        if isinstance(true, TrueScope):
            return float(np.std(self.trace(part_id)))
        return abs(self.reflection(part_id))

    def _ahead_w(self) -> float:
        """Power that leaves the source's connector, W: what its own meter shows where that is right."""
        element = self.setup.source
        return abs(self.put(element, self.setup.part(element).ports[0].id).waves(1)[1]) ** 2

    def _on_meter(self, part_id: str, true: TrueWattmeter, shows: Indicator) -> float:
        ahead, behind = (self._needles[part_id, arm].angle for arm in (FORWARD, REFLECTED))
        if true.movement.detector == "thermal":
            ahead, behind = math.sqrt(max(ahead, 0.0)), math.sqrt(max(behind, 0.0))
        if shows.quantity is Kind.DETECTED:
            return (behind if shows.id == REFLECTED else ahead) * true.full_v
        rho = true.reflection(ahead, behind)
        if shows.quantity is Kind.SWR:
            return (1.0 + rho) / (1.0 - rho) if rho < 1.0 else math.inf
        if shows.quantity is Kind.REFLECTION:
            return rho
        watts = true.watts(behind if shows.quantity is Kind.REFLECTED else ahead)
        return watts if watts <= _BEYOND * true.full_w else math.inf

    def scope(self, part: str) -> TrueScope:
        """What is true of an oscilloscope; raises UnknownIdError of anything else."""
        true = self._instruments.get(part)
        if not isinstance(true, TrueScope):
            raise UnknownIdError(f"{self.setup.parts[part].label} takes no samples.", "Ask an oscilloscope.")
        return true

    def trace(self, part: str, samples: int = SCREEN_SAMPLES) -> np.ndarray:
        """Samples of an oscilloscope's channel in V, shape (samples,), at its crest."""
        put = self._put_of(part, self.setup.parts[part].ports[0].id)
        return self.scope(part).trace(put, samples, self._rng)

    def reflection(self, part_id: str) -> complex:
        """Γ that an analyser at the head of the line shows; 1 where it isn't plugged in."""
        true, part = self._instruments[part_id], self.setup.parts[part_id]
        if not isinstance(true, TrueAnalyser):
            raise UnknownIdError(f"{part.label} shows no reflection.", "Ask an analyser.")
        element = self.setup.element_of(part_id)
        if element is None:
            return true.reflection(1.0, self._rng)
        back, out = self._solved(self.keyed.frequency_hz).waves((element, part.ports[0].id))
        return true.reflection(back / out, self._rng)

    def drawn_a(self) -> float:
        """DC current that the transmitter draws, A: more of it goes to heat where it folds back."""
        return drawn_a(self.setup.transmitter, given_w(self.setup.transmitter, self.keyed))

    def zero(self, part: str) -> None:
        """Zero a sensor: what its zero had walked, and stood at, is gone; raises OutOfRangeError with a carrier on."""
        if self.keyed.on:
            raise OutOfRangeError("A sensor can't be zeroed with the carrier on.", "Key up first.")
        true = self._instruments[part]
        if isinstance(true, TrueSensor):
            self._zeros[part] = -true.zero_w


_BEYOND = 1.2
"""Times full scale at which a needle lies against its stop."""
