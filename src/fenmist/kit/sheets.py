"""Which facts each kind of part has on its sheet."""

from collections.abc import Mapping

from fenmist.kit.amplifier import CLASSES, FEEDS, NOT_SAID
from fenmist.kit.detectorsheet import arms, detector_unit
from fenmist.kit.dialsheet import DIAL, db_needle, detects, meter_accuracy, ranges_by_control
from fenmist.kit.matchsheet import ARC, FLOOR, match_shows, needles, watts_shown
from fenmist.kit.network import LOSS_10_MHZ, LOSS_100_MHZ
from fenmist.kit.part import Component, Part, PartKind
from fenmist.kit.sheet import (
    POSITIONS,
    SPAN,
    SWR,
    Fact,
    Sheet,
    both,
    cable_choice,
    chosen,
    claim,
    harmonic,
    harmonics_are,
    indicator_spec,
    is_measured,
    known_to,
    limit_around,
    outputs,
    own_swr_meter,
    piece,
    port_power,
    port_volts,
    quantity,
    ranges_in,
    resistor,
    scope_accuracy,
    supply_meter,
    volts_form,
)
from fenmist.kit.timesheet import follows
from fenmist.kit.tuner import TUNE_LEAST, TUNE_MOST
from fenmist.measurand import Kind
from fenmist.rf.cable import CABLES
from fenmist.rf.circuit import GROUND, BranchKind
from fenmist.waveform.response import BandwidthModel

_LOSS = (
    quantity("loss", "loss", "0.05 dB", "loss_db", "dB", 0.0, 200.0),
    known_to("loss_limit", "known to ±", "0.05 dB", "loss_db", "dB"),
)
_SHORT = (
    quantity("short_power", "short-time rating", "200 W", "short_power_w", "W", 1e-6, 1e5, needed=False),
    quantity("short_time", "for, seconds", "5", "short_s", "", 0.1, 1e5, needed=False, help="Then it has to cool"),
)
_THROUGH_POWER = port_power("power", "rating", "200 W", 0, 1)
_LENGTH = quantity("length", "length", "1 m", "length_m", "m", 0.0, 1e4)
_OWN_LOSS = (
    quantity(
        "loss_10",
        "loss at 10 MHz, per 100 m",
        "4.6 dB",
        LOSS_10_MHZ,
        "dB",
        0.0,
        500.0,
        needed=False,
        help="Of a cable that isn't in the list, as its data sheet says",
    ),
    quantity(
        "loss_100",
        "loss at 100 MHz, per 100 m",
        "16.1 dB",
        LOSS_100_MHZ,
        "dB",
        0.0,
        500.0,
        needed=False,
        help="Both together give k1·√f + k2·f",
    ),
)
_LINE_OHM = quantity("line", "line impedance", "50 Ω", "line_ohm", "Ω", 1.0, 1e3, needed=False)
_FACTOR = quantity("velocity_factor", "velocity factor", "0.66", "velocity_factor", "", 0.1, 1.0, needed=False)
_INPUT_C = quantity("capacitance", "input capacitance", "3 pF", "capacitance_f", "pF", 0.0, 1e-9)
_DIRECTIVITY = quantity("directivity", "directivity", "25 dB", "directivity_db", "dB", 0.0, 80.0, needed=False)


def _piece(
    field_id: str, label: str, example: str, name: str, kind: BranchKind, nodes: tuple[str, ...], unit: str
) -> Fact:
    return piece(field_id, label, example, name, kind, nodes, unit, needed=False)


_RESPONSES = (BandwidthModel.UNKNOWN, BandwidthModel.ONE_POLE, BandwidthModel.GAUSSIAN, BandwidthModel.FLAT)

SHEETS: Mapping[PartKind, Sheet] = {
    PartKind.TRANSMITTER: (
        both(quantity("power", "power", "100 W", "power_w", "W", 1e-6, 1e5), port_power("power", "power", "100 W", 0)),
        harmonic("harmonic_2", "second harmonic", "-50 dBc", 2),
        harmonic("harmonic_3", "third harmonic", "-45 dBc", 3),
        harmonics_are(),
        chosen("carrier", "carrier", "carrier", ("steady", "speech only"), "Key-down CW, FM or FSK is steady"),
        chosen("output", "output stage", "output", ("transistors", "valves")),
        *SWR,
        quantity(
            "foldback",
            "power into a full mismatch",
            "25 %",
            "fold-back",
            "%",
            0.0,
            1.0,
            needed=False,
            help="After its fold-back: share of full power it still gives into an open or a short",
        ),
        is_measured("foldback_is", "that is", "fold-back"),
        quantity("droop", "droop when hot", "5 %", "droop", "%", 0.0, 1.0, needed=False, help="Over a long key-down"),
        quantity("step", "smallest level step", "1 W", "step_w", "W", 1e-6, 1e4, needed=False),
        claim("setting", "its power setting, ±", "as it is set; left empty: nothing is set"),
        claim("own_meter", "its own meter, ±", "often 10 % or worse; left empty: it has none"),
        own_swr_meter(),
        quantity("directivity", "directivity of that", "20 dB", "directivity_db", "dB", 0.0, 80.0, needed=False),
        supply_meter("supply_volts", "supply volts", Kind.SUPPLY_VOLTAGE, "V"),
        supply_meter("supply_amperes", "supply amperes", Kind.SUPPLY_CURRENT, "A"),
        quantity(
            "drive",
            "drive, at most",
            "0 W",
            "drive_w",
            "W",
            0.0,
            1e5,
            needed=False,
            help="RF into it, which a driven stage may pass on",
        ),
        chosen("feeds", "those feed", "feeds", FEEDS, "What its volts and amperes go into"),
        chosen("class", "class of its stage", "class", (NOT_SAID, *CLASSES), "What it can make of its DC"),
        quantity(
            "dissipation",
            "heat it may take",
            "150 W",
            "dissipation_w",
            "W",
            1e-3,
            1e5,
            needed=False,
            help="That its stage gets rid of for as long as the key is down",
        ),
    ),
    PartKind.INLINE_METER: (
        DIAL,
        ranges_by_control(),
        meter_accuracy(),
        watts_shown(),
        needles(),
        detects(),
        follows(),
        quantity(
            "loss",
            "insertion loss",
            "0.05 dB",
            "loss_db",
            "dB",
            0.0,
            10.0,
            needed=False,
            help="Counts where power is stated at its input",
        ),
        SPAN,
        *SWR,
        _DIRECTIVITY,
        FLOOR,
    ),
    PartKind.JUMPER: (
        quantity("loss", "loss", "0.02 dB", "loss_db", "dB", 0.0, 60.0),
        known_to("loss_limit", "known to ±", "0.02 dB", "loss_db", "dB", needed=True),
        *SWR,
    ),
    PartKind.TEE: (
        quantity("arm", "middle to load, length", "20 mm", "arm_m", "m", 0.0, 1.0),
        quantity("body", "body capacitance", "1 pF", "capacitance_f", "pF", 0.0, 1e-9),
    ),
    PartKind.LEAD: (
        quantity("length", "length", "0.3 m", "length_m", "m", 0.0, 100.0),
        quantity("velocity_factor", "velocity factor", "0.66", "velocity_factor", "", 0.1, 1.0),
        quantity("line", "line impedance", "50 Ω", "line_ohm", "Ω", 10.0, 300.0),
        chosen("cable", "cable type", "cable", ("not said", *(item.label for item in CABLES)), "For its loss"),
    ),
    PartKind.PROBE: (
        quantity("ratio", "ratio", "10", "ratio", "", 1.0, 1e5),
        quantity("setting", "scope set to", "10", "setting", "", 1.0, 1e5),
        known_to("accuracy", "ratio known to ±", "2 %", "ratio", "", needed=True),
        quantity("capacitance", "tip capacitance", "12 pF", "capacitance_f", "pF", 0.0, 1e-9),
        quantity("ground", "ground lead", "100 mm", "ground_m", "m", 0.0, 1.0, help="0 mm for a coaxial tip adapter"),
        quantity("bandwidth", "bandwidth", "200 MHz", "bandwidth_hz", "MHz", 1e3, 1e12),
        port_volts("volts_limit", "rating, peak", "600 V", needed=True),
        quantity("knee", "rating falls from", "2 MHz", "knee_hz", "MHz", 1.0, 1e12),
    ),
    PartKind.OSCILLOSCOPE: (
        quantity("bandwidth", "bandwidth", "100 MHz", "bandwidth_hz", "MHz", 1e3, 1e12),
        chosen("response", "shape of the response", "response", _RESPONSES),
        scope_accuracy(),
        quantity("capacitance", "input capacitance", "16 pF", "capacitance_f", "pF", 0.0, 1e-6),
        quantity(
            "noise",
            "noise on the trace",
            "0.5 %",
            "noise",
            "%",
            0.0,
            0.5,
            needed=False,
            help="Standard deviation over the amplitude; left empty or 0: no correction",
        ),
        port_volts("volts_limit", "input limit, peak", "300 V"),
        volts_form(),
    ),
    PartKind.LOAD: (
        port_power("power", "rated power", "100 W", 0, needed=True),
        quantity("nominal", "nominal impedance", "50 Ω", "nominal_ohm", "Ω", 1.0, 1e4),
        quantity("minutes", "for, minutes", "5", "rated_time_s", "", 0.01, 1e5, per=60.0, kept_in="s"),
        quantity(
            "cooling",
            "cooling time constant, minutes",
            "15",
            "cooling_s",
            "",
            0.01,
            1e5,
            needed=False,
            per=60.0,
            kept_in="s",
            help="After it, about a third of the temperature rise is left",
        ),
    ),
    PartKind.GENERATOR: (
        port_power("power", "maximum output", "13 dBm", 0, needed=True),
        *SWR,
        indicator_spec("dB"),
        outputs(),
    ),
    PartKind.ANALYSER: (
        port_power("power", "damage level", "20 dBm", 0, needed=True),
        quantity("output", "output", "0 dBm", "power_w", "dBm", 1e-15, 1.0),
        SPAN,
        *SWR,
    ),
    PartKind.SWR_METER: (
        match_shows(),
        ARC,
        SPAN,
        *_LOSS,
        _THROUGH_POWER,
        *SWR,
        _DIRECTIVITY,
        quantity(
            "set_power",
            "power for full scale",
            "1 W",
            "set_power_w",
            "W",
            1e-6,
            1e4,
            needed=False,
            help="Of a set control: the least power at which it reaches full scale; left empty: it has none",
        ),
        FLOOR,
    ),
    PartKind.HOME_BUILT: (
        arms(),
        detector_unit(),
        quantity(
            "step",
            "step of its converter",
            "3.2 mV",
            "step_v",
            "V",
            0.0,
            10.0,
            needed=False,
            help="Of the converter that reads volts; left empty: none",
        ),
        SPAN,
        *_LOSS,
        _THROUGH_POWER,
        *SWR,
        _DIRECTIVITY,
    ),
    PartKind.AMMETER: (
        ranges_in("A", "2 A"),
        indicator_spec("A"),
        *resistor("heater", ("in", "out"), "0.2 Ω", help="In series with the line"),
        quantity(
            "wire",
            "heater wire, across",
            "0.1 mm",
            "wire_m",
            "mm",
            1e-6,
            1e-2,
            needed=False,
            help="Skin effect makes it read high upwards in frequency",
        ),
        _THROUGH_POWER,
        SPAN,
    ),
    PartKind.CABLE: (cable_choice(), _LENGTH, *_OWN_LOSS, _FACTOR, _LINE_OHM),
    PartKind.ADAPTER: (_LENGTH, _LINE_OHM, _FACTOR, SPAN),
    PartKind.ATTENUATOR: (
        quantity("loss", "attenuation", "30 dB", "loss_db", "dB", 0.0, 200.0, needed=False),
        known_to("loss_limit", "known to ±", "0.5 dB", "loss_db", "dB"),
        POSITIONS,
        port_power("power", "rating of the in port", "100 W", 0),
        port_power("far_power", "rating of the out port", "5 W", 1),
        *_SHORT,
        *SWR,
        SPAN,
        _piece("series", "series resistor", "71.2 Ω", "series", BranchKind.RESISTOR, ("in", "out"), "Ω"),
        _piece("shunt_in", "shunt at in", "96.2 Ω", "shunt in", BranchKind.RESISTOR, ("in", GROUND), "Ω"),
        _piece("shunt_out", "shunt at out", "96.2 Ω", "shunt out", BranchKind.RESISTOR, ("out", GROUND), "Ω"),
    ),
    PartKind.TAP: (
        *resistor(
            "R1",
            ("in", "side"),
            "2460 Ω",
            needed=False,
            help="From the line to the tap: three 820 Ω in series are 2460 Ω",
        ),
        *resistor(
            "R2", ("side", GROUND), "50 Ω", needed=False, help="Across the tap; what is plugged in lies in parallel"
        ),
        _piece("turns", "turns", "10", "core", BranchKind.TURNS, ("in", "out", "side", GROUND), ""),
        _piece("gap", "capacitance to the line", "0.1 pF", "gap", BranchKind.CAPACITOR, ("in", "side"), "pF"),
        _piece("stray", "stray at the tap", "1 pF", "stray", BranchKind.CAPACITOR, ("side", GROUND), "pF"),
        _THROUGH_POWER,
        SPAN,
    ),
    PartKind.COUPLER: (
        quantity("coupling", "coupling", "30 dB", "coupling_db", "dB", 0.0, 120.0),
        known_to("coupling_limit", "known to ±", "1 dB", "coupling_db", "dB"),
        _DIRECTIVITY,
        *_LOSS,
        _THROUGH_POWER,
        *SWR,
        SPAN,
    ),
    PartKind.TUNER: (
        *_LOSS,
        _THROUGH_POWER,
        quantity("tune_least", "wants to tune, at least", "10 W", TUNE_LEAST, "W", 1e-6, 1e5, needed=False),
        quantity("tune_most", "and at most", "20 W", TUNE_MOST, "W", 1e-6, 1e5, needed=False, help="While it hunts"),
        SPAN,
        *SWR,
    ),
    PartKind.DIVIDER: (
        *resistor("R1", ("a", "b"), "10 kΩ", help="From the point measured to the meter"),
        *resistor("R2", ("b", GROUND), "1 kΩ", help="Across the meter; its own input lies in parallel"),
        _piece("stray", "stray across R2", "5 pF", "stray", BranchKind.CAPACITOR, ("b", GROUND), "pF"),
        port_volts("volts_limit", "rating, peak", "300 V"),
    ),
    PartKind.POWER_METER: (
        port_power("power", "damage level", "20 dBm", 0, needed=True),
        quantity("floor", "noise floor", "-60 dBm", "noise_floor_w", "dBm", 1e-18, 1.0, needed=False),
        limit_around("zero", "zero within ±", "1 nW", "zero_w", "W", 0.0, "After zeroing, with its drift"),
        limit_around("linearity", "linear within ±", "1 %", "linearity", "%", 1.0, "Between levels; in % or dB"),
        ranges_in("dBm", "-10 dBm; 0 dBm; 10 dBm"),
        db_needle(),
        indicator_spec("W"),
        detects(),
        follows(),
        quantity(
            "cal_factor",
            "calibration factor",
            "98 %",
            "cal_factor",
            "%",
            0.1,
            1.2,
            needed=False,
            help="K = η(1 − |Γ|²): contains the reflection",
        ),
        known_to("cal_limit", "known to ±", "2 %", "cal_factor", "%"),
        *SWR,
        SPAN,
    ),
    PartKind.VOLTMETER: (
        quantity("bandwidth", "bandwidth", "100 MHz", "bandwidth_hz", "MHz", 1.0, 1e12),
        quantity("resistance", "input resistance", "100 kΩ", "resistance_ohm", "kΩ", 1.0, 1e12),
        _INPUT_C,
        indicator_spec("V"),
        ranges_in("V", "3 V; 30 V"),
        port_volts("volts_limit", "input limit, peak", "300 V"),
    ),
    PartKind.MISMATCH: (
        port_power("power", "rated power", "10 W", 0, needed=True),
        quantity(
            "nominal",
            "resistance",
            "100 Ω",
            "nominal_ohm",
            "Ω",
            0.01,
            1e5,
            help="50·S or 50/S; a short is 0.01 Ω, an open 100 kΩ",
        ),
        known_to("nominal_limit", "known to ±", "2 %", "nominal_ohm", "Ω"),
    ),
}
"""What is said of each kind."""

_PIECE_UNITS = {BranchKind.RESISTOR: "Ω", BranchKind.CAPACITOR: "pF", BranchKind.INDUCTOR: "nH", BranchKind.TURNS: ""}


def sheet_for(part: Part) -> Sheet:
    """What is said of a part: of its kind, but where it has pieces of its own (a stack, strays) these instead."""
    own = SHEETS[part.kind]
    named = {fact.component for fact in own if isinstance(fact, Fact)}
    more = [item for item in part.components if item.id not in named and item.kind in _PIECE_UNITS]
    if not more:
        return own
    there = {item.id for item in part.components}
    kept = [
        fact for fact in own if not isinstance(fact, Fact) or not fact.component or fact.component in there
    ]  # fmt: skip
    return (*kept, *(fact for item in more for fact in _of_piece(item)))


def _of_piece(item: Component) -> Sheet:
    key, unit = item.id.lower(), _PIECE_UNITS[item.kind]
    if item.kind is BranchKind.RESISTOR:
        return resistor(item.id, item.nodes, "820 Ω")
    return (piece(key, item.id, f"1 {unit}".strip(), item.id, item.kind, item.nodes, unit),)
