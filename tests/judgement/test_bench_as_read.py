"""Notes on benches as they are read, for benches whose numbers were worked out by hand."""

from dataclasses import replace
from datetime import date

import numpy as np
import pytest

from fenmist.hookup import editing
from fenmist.judgement.bench import judge_bench
from fenmist.kit import generic, shelf
from fenmist.kit.part import CalibrationRecord, Part, PartKind, Property
from fenmist.kit.touchstone import Touchstone, characterisations_from
from fenmist.measurand import PlaneRef
from studies.benches import LOAD, SOURCE, bench
from support.texts import spaced


def pad(db=30.0, watts=150.0, **stated) -> Part:
    return generic.attenuator("pad", "pad", db, 0.1, watts, **stated)


def sensor(**stated) -> Part:
    return generic.power_meter("s", "sensor", **stated)


def tap(r1=2460.0) -> Part:
    return generic.resistive_tap("tap", "tap", r1, 50.0, r1_power_w=50.0)


def load(ohm) -> Part:
    return replace(LOAD, properties={**LOAD.properties, "nominal_ohm": Property(ohm, "Ω")})


def by(kind) -> Part:
    return next(part for part in generic.generics() if part.kind is kind)


def turned():
    made = bench(pad(far_power_w=5.0), sensor(damage_w=10.0))
    return made.with_hookup(editing.turned_round(made.hookups[1], made.parts, "attenuator"))


def too_little():
    """1 dB of 100 W are 126 W."""
    made = bench(shelf.jumper("j", "cable", 1.0, 0.1), LOAD)
    hookup = made.hookups[1]
    return made.with_hookup(replace(hookup, stated=PlaneRef(hookup.id, "jumper", "b")))


def stub():
    """cos 0.2263 − ωCZ0·sin 0.2263, with ωCZ0 = 0.0358: 0.9665, squared and turned over 7.1 % more."""
    tee, scope = shelf.tee("tee", "tee"), shelf.oscilloscope("o", "Sedge", 1e9)
    made = bench(tee, LOAD, hang=(tee, shelf.lead("long", "long lead", 1.0)))
    return replace(made, kit=(*made.kit, scope)).with_hookup(editing.inserted(made.hookups[1], "lead", "b", scope))


def slow():
    """A quarter of the bandwidth: 1/(1 + 1/16) is −5.9 %."""
    tee = shelf.tee("t", "tee")
    return bench(tee, LOAD, hang=(tee, by(PartKind.VOLTMETER)), frequencies_hz=(25e6,))


def tabled(*frequencies_hz):
    s = np.zeros((2, 2, 2), complex)
    s[:, 0, 1] = s[:, 1, 0] = 0.5
    tables = characterisations_from(Touchstone(np.array([1e6, 10e6]), s, 50.0), "pad.s2p")
    return bench(replace(pad(6.0), characterisations=tables), LOAD, frequencies_hz=frequencies_hz)


def short_time():
    properties = {"short_power_w": Property(210.0, "W"), "short_s": Property(60.0, "s")}
    part = pad(3.0, 100.0)
    return bench(replace(part, properties={**part.properties, **properties}), LOAD, level_w=200.0)


def dated(*records):
    return bench(pad(), replace(sensor(damage_w=1.0), history=records))


AS_READ = [
    (
        lambda: bench(shelf.jumper("j", "jumper", 0.1, 0.1)),
        "line.no_load", "stop", "line 2 jumper",
        "The line ends at jumper: there is no load on it.",
        "A transmitter without a load can destroy itself, and the open end carries twice the voltage.",
        "Put a load at its end, rated for the power and the time, before anything is keyed.",
    ),
    (
        lambda: bench(load(110.0)),
        "load.poor", "doubt", "line 2 load",
        "The load has an SWR of 2.20 at 7.125 MHz.",
        "That is no longer a dummy load: an antenna, a broken load, or its wrong range.",
        "Use a load of SWR 1.1 or less; on the air only with a licence, at the least power that does the job.",
    ),
    (
        stub,
        "lead.stub", "doubt", "line 2 lead",
        "The long lead adds 7.1 % of power at 7.125 MHz.",
        "A cable that ends in a high impedance is an open stub: its end sees more volts.",
        "Keep it short, end it in its own impedance, or use a divider probe.",
    ),
    (
        too_little,
        "source.too_little", "watch", "line 2 tx",
        "Plover gives 120 W; 126 W are needed for the plan.",
        "100 W are planned at the stated plane, behind what lies between.",
        "Plan less, or use a source that gives it.",
    ),
    (
        lambda: bench(pad(20.0), sensor(damage_w=4.0)),
        "sensor.near_damage", "watch", "line 2 meter",
        "The sensor is 6.0 dB below what destroys it.",
        "+30.0 dBm (1 W) arrive at the highest planned power.",
        "Keep 10 dB: put 4.0 dB more in front of it.",
    ),
    (
        lambda: bench(pad(30.0), sensor(damage_w=100.0, noise_w=0.05)),
        "sensor.near_floor", "doubt", "line 2 meter",
        "The sensor drowns in its noise: +20.0 dBm arrive, its floor is +17.0 dBm.",
        "10.0 dB above the floor the noise is still up to 10 % of the reading.",
        "Take 7.0 dB out of what is in front of it, or use a sensor for that level.",
    ),
    (
        lambda: bench(pad(40.0, positions=(40.0, 20.0)), sensor(damage_w=0.5)),
        "switch.over_rating", "doubt", "line 2 meter",
        "With pad at 20 dB sensor sees 1 W, rated 500 mW.",
        "One turn of a knob while the carrier is on is enough.",
        "Set and check the switch before keying, or put a fixed pad in front.",
    ),
    (
        lambda: bench(tap(), LOAD, hang=(tap(), sensor(damage_w=0.02))),
        "fault.over_rating", "watch", "line 2 meter",
        "An open or shorted load would put sensor at 38.9 mW, rated 20 mW.",
        "Volts or amperes double where everything comes back: four times the power at a tap, +6 dB.",
        "Begin at low power, watch the SWR; or prove that the transmitter folds back.",
    ),
    (
        turned,
        "pad.turned", "stop", "line 2 attenuator",
        "The pad is the wrong way round: its out port is rated 5 W.",
        "100 W arrive there; its other port is rated 150 W.",
        "Turn it round.",
    ),
    (
        lambda: bench(tap(740.0), pad(), LOAD, hang=(tap(740.0), sensor(damage_w=0.01))),
        "sensor.wrong_side", "stop", "line 2 meter",
        "The sensor is on the wrong side of pad.",
        "100 mW arrive at it, rated 10 mW; behind that pad it would be 100 µW.",
        "Put the pad in front of it.",
    ),
    (
        slow,
        "instrument.bandwidth", "watch", "line 2 voltmeter",
        "The generic RF voltmeter is too slow for 25 MHz: that is 1/4 of its bandwidth.",
        "A one-pole response shows −5.9 % of power there.",
        "Use one with five times the carrier, three at the very least.",
    ),
    (
        lambda: bench(by(PartKind.TUNER), load(110.0)),
        "tuner.high_power", "stop", "line 2 tuner",
        "The generic tuner would be tuned at 100 W into an SWR of 2.20.",
        "Switching under power into a bad match burns contacts, and the amplifier sees every step of it.",
        "Tune with 20 W or less, then raise the power.",
    ),
    (
        lambda: bench(LOAD, source=replace(SOURCE, settings={"output": "valves"})),
        "caution.valves", "good to know", "line 2 tx",
        "Plover holds lethal DC inside.",
        "Valve stages run on some hundreds to thousands of volts, and keep them after switching off.",
        "Inside only for people qualified for it.",
    ),
    (
        lambda: bench(LOAD, source=replace(SOURCE, settings={"carrier": "speech only"})),
        "source.not_steady", "doubt", "line 2 tx",
        "Plover gives no steady carrier.",
        "Averaging meters, hold circuits and oscilloscopes each make something else of a varying envelope.",
        "Use key-down CW, FM or FSK, or another source.",
    ),
    (
        lambda: bench(generic.adapter("a", "adapter", 0.025, 35.0), LOAD, frequencies_hz=(160e6,)),
        "connector.not_z0", "watch", "line 2 adapter",
        "The adapter is 35 Ω, not 50 Ω: no plane for calibration at 160 MHz.",
        "A few centimetres of another impedance turn the reflection with frequency.",
        "Above some 150 MHz use connectors of 50 Ω.",
    ),
    (
        lambda: tabled(12e6),
        "part.extrapolated", "doubt", "line 2 attenuator",
        "The pad was not measured at 12 MHz.",
        "Its table goes from 1 MHz to 10 MHz. Its end value is held there.",
        "Measure it at the frequencies that are used.",
    ),
    (
        lambda: tabled(12e6, 16e6),
        "part.extrapolated", "doubt", "line 2 attenuator",
        "The pad was not measured at 12 MHz to 16 MHz.",
        "Its table goes from 1 MHz to 10 MHz. Beyond 1.5 times its end it counts as unknown.",
        "Measure it at the frequencies that are used.",
    ),
    (
        lambda: bench(pad(10.0, swr=1.4), sensor(damage_w=100.0, swr=1.4)),
        "mismatch.unknown_phase", "good to know", "line 2 meter",
        "Mismatch costs sensor 2.0 % of power, standard u.",
        "The phases are open; most of it is between pad and sensor.",
        "A pad of 6 to 10 dB between the two, or measured S-parameters, take it away.",
    ),
    (
        lambda: bench(pad(), sensor(damage_w=10.0)),
        "caution.rf_voltage", "good to know", "line 2 job",
        "71 V rms on the line at 100 W.",
        "RF burns, and what takes those 100 W stays hot for minutes. Load connected and tight before the carrier "
        "comes on.",
        "Carrier off before touching the tee or changing a lead.",
    ),
    (
        lambda: dated(
            CalibrationRecord("2024-05-01", "North Bench", "2026-11-24"),
            CalibrationRecord("2023-05-01", "x", "2030-01-01"),
        ),
        "reference.history", "watch", "meter",
        "The sensor was due on 2026-11-24.",
        "Last calibrated on 2024-05-01 by North Bench.",
        "Have it calibrated, or state the risk.",
    ),
    (
        dated,
        "reference.history", "watch", "meter",
        "The sensor has no calibration history.",
        "Its accuracy is taken from the data sheet; no calibration is on record.",
        "Enter its calibration in the kit, or say on the certificate that it is not traceable.",
    ),
    (
        short_time,
        "part.over_rating", "watch", "attenuator",
        "The pad: 200 W planned, rated 100 W at 7.125 MHz.",
        "Its rating allows 60 s; a round takes 40 s of carrier. It has to cool in between.",
        "Plan no more than 100 W, or use a part with a higher rating.",
    ),
    (
        lambda: bench(next(part for part in generic.generics() if part.ports[0].pair), LOAD, frequencies_hz=(145e6,)),
        "part.span", "doubt", "wattmeter",
        "The generic two-band wattmeter is not made for what is planned at 145 MHz.",
        "Its span is 1.8 MHz to 60 MHz. Outside it a meter may move, and read a half or a tenth.",
        "Use its VHF ports.",
    ),
    (
        lambda: bench(shelf.inline_meter("m2", "Teal", (200.0,), None, 0.05), LOAD, frequencies_hz=(1e6, 145e6)),
        "part.span", "doubt", "wattmeter",
        "Teal is not made for what is planned at 2 points, 1 MHz to 145 MHz.",
        "Its span is 1.8 MHz to 30 MHz. Outside it a meter may move, and read a half or a tenth.",
        "Plan inside its span, use the port for that band, or state it as an out-of-span check.",
    ),
]  # fmt: skip


@pytest.mark.parametrize(("made", "code", "severity", "about", "what", "why", "remedy"), AS_READ)
def test_a_bench_is_told_what_is_wrong_with_it(made, code, severity, about, what, why, remedy):
    found = [note for note in judge_bench(made(), "line 2", date(2026, 11, 25)) if note.code == code]

    assert [(note.severity, note.about, *map(spaced, (note.what, note.why, note.remedy))) for note in found] == [
        (severity, about, what, why, remedy)
    ]
