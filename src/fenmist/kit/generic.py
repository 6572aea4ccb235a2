"""Generic parts of every kind with honest typical data: what a workshop has before it has measured anything.

All values are typical (common practice, no source) unless a part says otherwise; "unknown" stands where nothing honest
can be said. Each kind has one part at least that a new one is begun from.
"""

from collections.abc import Mapping
from dataclasses import replace

from fenmist.kit.detectorsheet import detector
from fenmist.kit.dialsheet import DB_MARKS
from fenmist.kit.matchsheet import CROSSING, NEEDLES, swr_scale
from fenmist.kit.part import (
    UNKNOWN_SHARE,
    Component,
    Indicator,
    Part,
    PartKind,
    Port,
    Position,
    Property,
    Range,
    SharedWithin,
    SpecKind,
    SpecTerm,
    Switch,
)
from fenmist.kit.scale import Scale
from fenmist.kit.shelf import (
    COMMON_PRACTICE,
    dummy_load,
    inline_meter,
    jumper,
    lead,
    limit,
    oscilloscope,
    probe,
    tee,
    transmitter,
    watt_scale,
)
from fenmist.measurand import Detector, Kind
from fenmist.rf.circuit import GROUND, BranchKind
from fenmist.rf.pad import pi_pad


def usual(share: float) -> SpecTerm:
    """± a share of the value, as is usual."""
    return limit(share, COMMON_PRACTICE)


def db(value: float, limit_db: float | None = None) -> Property:
    """A loss or coupling in dB and what it is known to, ±."""
    return Property(
        value, "dB", SpecTerm(SpecKind.ABSOLUTE, limit_db, "dB", basis=COMMON_PRACTICE) if limit_db else None
    )


def at_most(swr: float) -> Property:
    """A data sheet's ceiling on SWR."""
    return Property(swr, "")


def attenuator(
    part_id: str,
    label: str,
    loss_db: float,
    limit_db: float,
    power_w: float,
    *,
    far_power_w: float | None = None,
    swr: float = 1.2,
    span_hz: tuple[float | None, float | None] = (None, None),
    positions: tuple[float, ...] = (),
) -> Part:
    """A pad by its attenuation; the far port often bears a fraction of what the near one does."""
    ports = (
        Port("in", "", *span_hz, power_limit_w=power_w),
        Port("out", "", *span_hz, power_limit_w=far_power_w or power_w),
    )
    switch = tuple(Position(f"{value:g} dB", {"loss_db": db(value, limit_db)}) for value in positions)
    return Part(
        part_id,
        PartKind.ATTENUATOR,
        label,
        ports=ports,
        properties={"loss_db": db(positions[0] if positions else loss_db, limit_db), "swr": at_most(swr)},
        switches=(Switch("step", switch),) if switch else (),
    )


def built_pad(part_id: str, label: str, attenuation_db: float, rating_w: float) -> Part:
    """A pi pad by its resistors, as one builds it; `rating_w` is each resistor's, derated."""
    places = (("shunt in", ("in", GROUND)), ("series", ("in", "out")), ("shunt out", ("out", GROUND)))
    return Part(
        part_id,
        PartKind.ATTENUATOR,
        label,
        ports=(Port("in"), Port("out")),
        components=tuple(
            Component(name, BranchKind.RESISTOR, nodes, value, tolerance=usual(0.01), power_limit_w=rating_w)
            for (name, nodes), value in zip(places, pi_pad(attenuation_db), strict=True)
        ),
    )


def resistive_tap(
    part_id: str,
    label: str,
    r1_ohm: float,
    r2_ohm: float,
    *,
    r1_power_w: float = 3.0,
    power_w: float = 100.0,
    pieces: tuple[str, str] = ("", ""),
) -> Part:
    """A tap of two resistors: R1 from the line to the side port, R2 across it."""
    return Part(
        part_id,
        PartKind.TAP,
        label,
        ports=(Port("in", power_limit_w=power_w), Port("out", power_limit_w=power_w), Port("side", side=True)),
        components=(
            Component(
                "R1",
                BranchKind.RESISTOR,
                ("in", "side"),
                r1_ohm,
                None,
                usual(0.05),
                0.0,
                r1_power_w,
                pieces[0],
            ),
            Component(
                "R2",
                BranchKind.RESISTOR,
                ("side", GROUND),
                r2_ohm,
                None,
                usual(0.05),
                0.0,
                0.25,
                pieces[1],
            ),
        ),
    )


def transformer_tap(
    part_id: str,
    label: str,
    turns: float,
    resistor_ohm: float | None = 50.0,
    inductance_h: float = 100e-6,
    power_w: float = 200.0,
) -> Part:
    """A current transformer on the line with its own resistor across the winding; its inductance sets the low end."""
    own = (
        (Component("R2", BranchKind.RESISTOR, ("side", GROUND), resistor_ohm, None, usual(0.05), 0.0, 2.0),)
        if resistor_ohm
        else ()
    )
    return Part(
        part_id,
        PartKind.TAP,
        label,
        ports=(Port("in", power_limit_w=power_w), Port("out", power_limit_w=power_w), Port("side", side=True)),
        components=(
            Component("core", BranchKind.TURNS, ("in", "out", "side", GROUND), turns),
            Component("L", BranchKind.INDUCTOR, ("side", GROUND), inductance_h, None, usual(0.3)),
            *own,
        ),
    )


def gap_tap(part_id: str, label: str, gap_f: float = 0.05e-12, power_w: float = 200.0) -> Part:
    """A capacitive tap: coupling rises 6 dB an octave into 50 Ω."""
    return Part(
        part_id,
        PartKind.TAP,
        label,
        ports=(Port("in", power_limit_w=power_w), Port("out", power_limit_w=power_w), Port("side", side=True)),
        components=(Component("gap", BranchKind.CAPACITOR, ("in", "side"), gap_f, None, usual(0.3)),),
    )


def coupler(
    part_id: str,
    label: str,
    coupling_db: float,
    directivity_db: float,
    loss_db: float,
    power_w: float,
    span_hz: tuple[float | None, float | None] = (1.8e6, 500e6),
) -> Part:
    """A directional coupler with a port for forward and one for reflected power."""
    ends = tuple(Port(name, "", *span_hz, power_limit_w=power_w) for name in ("in", "out"))
    sides = tuple(Port(name, "", *span_hz, side=True) for name in ("forward", "reflected"))
    return Part(
        part_id,
        PartKind.COUPLER,
        label,
        ports=(*ends, *sides),
        properties={
            "coupling_db": db(coupling_db, 1.0),
            "directivity_db": db(directivity_db),
            "loss_db": db(loss_db, 0.1),
            "swr": at_most(1.15),
        },
    )


def cable(part_id: str, label: str, kind: str, length_m: float) -> Part:
    """A cable by kind and length."""
    return Part(
        part_id,
        PartKind.CABLE,
        label,
        ports=(Port("a"), Port("b")),
        properties={"length_m": Property(length_m, "m", SpecTerm(SpecKind.ABSOLUTE, 0.02, "m", basis=COMMON_PRACTICE))},
        settings={"cable": kind},
    )


def adapter(part_id: str, label: str, length_m: float, line_ohm: float) -> Part:
    """A piece of line of another impedance: a connector that isn't 50 Ω."""
    return Part(
        part_id,
        PartKind.ADAPTER,
        label,
        ports=(Port("a"), Port("b")),
        properties={
            "length_m": Property(length_m, "m", usual(0.2)),
            "line_ohm": Property(line_ohm, "Ω", usual(0.1)),
            "velocity_factor": Property(0.7, ""),
        },
    )


def power_meter(
    part_id: str,
    label: str,
    *,
    damage_w: float = 0.2,
    noise_w: float = 1e-9,
    ranges_dbm: tuple[float, ...] = (),
    top_w: float = 0.01,
    span_hz: tuple[float, float] = (100e3, 500e6),
    swr: float = 1.15,
    cal_factor: float = 1.0,
    accuracy: tuple[SpecTerm, ...] = (),
) -> Part:
    """A terminating meter: what destroys it, what it can't see, its ranges; relative ones add the needle."""
    ranges = tuple(Range(f"{dbm:+g}", 1e-3 * 10.0 ** (dbm / 10.0), "W", pointer_offset_db=dbm) for dbm in ranges_dbm)
    ranges = ranges or (Range(f"{top_w:g}", top_w, "W"),)
    spec = accuracy or (SpecTerm(SpecKind.DB, 0.2, "dB", basis=COMMON_PRACTICE),)
    return Part(
        part_id,
        PartKind.POWER_METER,
        label,
        ports=(Port("in", "", *span_hz, power_limit_w=damage_w),),
        indicators=(
            Indicator("reading", "level", Kind.INCIDENT, "dBm", ranges, Detector.THERMAL, spec, can_be_negative=True),
        ),
        properties={
            "swr": at_most(swr),
            "noise_floor_w": Property(noise_w, "W"),
            "cal_factor": Property(cal_factor, "", usual(0.02)),
            "zero_w": Property(0.0, "W", SpecTerm(SpecKind.ABSOLUTE, noise_w, "W", basis=COMMON_PRACTICE)),
        },
    )


def divider(part_id: str, label: str, r1_ohm: float, r2_ohm: float, stray_f: float = 5e-12) -> Part:
    """Two resistors in front of a meter of high impedance; a nominal 10 kΩ + 1 kΩ is 11 to 1."""
    return Part(
        part_id,
        PartKind.DIVIDER,
        label,
        ports=(Port("a"), Port("b")),
        components=(
            Component("R1", BranchKind.RESISTOR, ("a", "b"), r1_ohm, None, usual(0.05), power_limit_w=1.0),
            Component("R2", BranchKind.RESISTOR, ("b", GROUND), r2_ohm, None, usual(0.05), power_limit_w=0.25),
            Component("stray", BranchKind.CAPACITOR, ("b", GROUND), stray_f, None, usual(0.5)),
        ),
    )


def ammeter(part_id: str, label: str, full_scale_a: float, resistance_ohm: float = 0.2) -> Part:
    """A thermocouple ammeter in the line: burns out just above full scale."""
    top_w = (1.2 * full_scale_a) ** 2 * 50.0
    return Part(
        part_id,
        PartKind.AMMETER,
        label,
        ports=(Port("in", power_limit_w=top_w), Port("out", power_limit_w=top_w)),
        indicators=(
            Indicator(
                "current",
                "current",
                Kind.CURRENT,
                "A",
                (Range(f"{full_scale_a:g}", full_scale_a, "A"),),
                Detector.THERMAL,
                (SpecTerm(SpecKind.OF_RANGE, 0.02, basis=COMMON_PRACTICE),),
            ),
        ),
        components=(
            Component(
                "heater",
                BranchKind.RESISTOR,
                ("in", "out"),
                resistance_ohm,
                None,
                usual(0.2),
                power_limit_w=(1.2 * full_scale_a) ** 2 * resistance_ohm,
            ),
        ),
    )


def _unknown() -> tuple[SpecTerm, ...]:
    return (SpecTerm(SpecKind.UNKNOWN, UNKNOWN_SHARE, basis="unknown"),)


def generics() -> tuple[Part, ...]:
    """A generic part of every kind that isn't on the shelf for the first hook-up already."""
    watts = (Range("20", 20.0, "W"), Range("200", 200.0, "W"))
    spec = (
        SpecTerm(SpecKind.OF_READING, 0.05, basis=COMMON_PRACTICE),
        SpecTerm(SpecKind.DIGITS, 1.0, shared_within=SharedWithin.READING, basis=COMMON_PRACTICE),
    )
    through: Mapping[str, Property] = {"loss_db": db(0.05, 0.05), "swr": at_most(1.1)}

    def inline(part_id: str, label: str, kind: PartKind, *shown: Indicator) -> Part:
        ports = tuple(Port(name, "", 1.8e6, 30e6, power_limit_w=200.0) for name in ("in", "out"))
        return Part(part_id, kind, label, ports=ports, indicators=shown, properties=through)

    forward = Indicator("forward", "forward", Kind.INCIDENT, "W", watts, Detector.AVERAGE, spec)
    reflected = replace(forward, id="reflected", label="reflected", quantity=Kind.REFLECTED)
    swr = Indicator("swr", "SWR", Kind.SWR, "", (), Detector.AVERAGE, _unknown())
    arc = swr_scale((1.0, 1.2, 1.5, 2.0, 3.0, 5.0), (2, 3, 5, 5, 4))
    on_arc = replace(swr, ranges=(Range("SWR", arc.top, "", arc),), spec=())
    of_needles = (SpecTerm(SpecKind.OF_RANGE, 0.05, basis=COMMON_PRACTICE),)
    crossed = Scale("arc", (0.0, 20.0, 50.0, 100.0, 150.0, 200.0), (4, 6, 5, 5, 5), 0.5)
    two_bands = inline("generic-two-band", "generic two-band wattmeter", PartKind.INLINE_METER, forward)
    two_bands = replace(
        two_bands,
        ports=(
            Port("HF in", "", 1.8e6, 60e6, 200.0, pair="HF"),
            Port("HF out", "", 1.8e6, 60e6, 200.0, pair="HF"),
            Port("VHF in", "", 140e6, 525e6, 200.0, pair="VHF"),
            Port("VHF out", "", 140e6, 525e6, 200.0, pair="VHF"),
        ),
    )
    return (
        Part(
            "generic-generator",
            PartKind.GENERATOR,
            "generic signal generator",
            ports=(Port("out", power_limit_w=0.02),),
            indicators=(
                Indicator(
                    "level",
                    "its level",
                    Kind.INCIDENT,
                    "dBm",
                    (),
                    Detector.AVERAGE,
                    (SpecTerm(SpecKind.DB, 1.0, "dB", basis=COMMON_PRACTICE),),
                ),
            ),
            properties={"swr": at_most(1.5)},
        ),
        inline("generic-digital", "generic digital wattmeter", PartKind.INLINE_METER, forward, reflected, swr),
        replace(
            inline(
                "generic-crossing",
                "generic meter with crossing needles",
                PartKind.INLINE_METER,
                *(
                    replace(
                        item, ranges=tuple(replace(used, scale=crossed, spec=of_needles) for used in watts), spec=()
                    )
                    for item in (forward, reflected)
                ),
            ),
            settings={NEEDLES: CROSSING},
        ),
        two_bands,
        replace(
            inline("generic-swr-meter", "generic SWR meter with a set control", PartKind.SWR_METER, on_arc),
            properties={**through, "directivity_db": db(25.0), "set_power_w": Property(1.0, "W")},
        ),
        inline(
            "generic-home-built",
            "generic home-built meter",
            PartKind.HOME_BUILT,
            detector("forward"),
            detector("reflected"),
        ),
        ammeter("generic-ammeter", "generic thermocouple ammeter 2 A", 2.0),
        cable("generic-cable-5", "generic 50 Ω cable, 5 mm, 1 m", "50 Ω, 5 mm, solid polyethylene", 1.0),
        cable("generic-cable-10", "generic 50 Ω cable, 10 mm, 10 m", "50 Ω, 10 mm, solid polyethylene", 10.0),
        adapter("generic-adapter", "generic adapter, UHF type", 0.025, 35.0),
        attenuator(
            "generic-pad-30", "generic 30 dB pad 100 W", 30.0, 0.5, 100.0, far_power_w=5.0, span_hz=(0.0001e6, 500e6)
        ),
        attenuator("generic-pad-10", "generic 10 dB pad 1 W", 10.0, 0.3, 1.0),
        attenuator("generic-step", "generic step attenuator", 0.0, 0.3, 1.0, positions=(0.0, 10.0, 20.0, 30.0)),
        built_pad("generic-built-pad", "generic built pi pad 10 dB", 10.0, 1.0),
        resistive_tap(
            "generic-tap",
            "generic resistive tap 40 dB",
            2460.0,
            50.0,
            pieces=("3 × 820 Ω in series", "2 × 100 Ω in parallel"),
        ),
        transformer_tap("generic-transformer", "generic transformer tap, 10 turns", 10.0),
        gap_tap("generic-gap", "generic gap tap"),
        coupler("generic-coupler", "generic coupler 30 dB", 30.0, 25.0, 0.1, 200.0),
        coupler("generic-low-coupler", "generic coupler 30 dB, 50 kHz to 2 MHz", 30.0, 25.0, 0.1, 200.0, (50e3, 2e6)),
        Part(
            "generic-tuner",
            PartKind.TUNER,
            "generic tuner",
            ports=tuple(Port(name, "", 1.8e6, 30e6, 200.0) for name in ("in", "out")),
            properties={"loss_db": db(0.3, 0.3), "swr": at_most(1.5)},
            switches=(Switch("tuner", (Position("bypassed", {"loss_db": db(0.05, 0.05)}), Position("in line"))),),
        ),
        divider("generic-divider", "generic divider 10 kΩ + 1 kΩ", 10e3, 1e3),
        power_meter("generic-sensor", "generic sensor, +10 dBm", damage_w=0.01, noise_w=1e-9, top_w=0.01),
        replace(
            power_meter(
                "generic-relative",
                "generic level meter with ranges",
                damage_w=0.1,
                noise_w=1e-8,
                ranges_dbm=(-20.0, -15.0, -10.0, -5.0, 0.0, 5.0, 10.0),
            ),
            settings={DB_MARKS: "-10 -8 -6 -5 -4 -3 -2 -1 0 1 2"},
        ),
        Part(
            "generic-voltmeter",
            PartKind.VOLTMETER,
            "generic RF voltmeter",
            ports=(Port("in", volts_limit_vpk=300.0),),
            indicators=(
                Indicator(
                    "volts",
                    "volts",
                    Kind.VOLTAGE,
                    "Vrms",
                    (Range("3", 3.0, "V"), Range("30", 30.0, "V")),
                    Detector.RMS,
                    (SpecTerm(SpecKind.OF_RANGE, 0.05, basis=COMMON_PRACTICE),),
                ),
            ),
            properties={
                "resistance_ohm": Property(1e5, "Ω"),
                "capacitance_f": Property(3e-12, "F", usual(0.3)),
                "bandwidth_hz": Property(100e6, "Hz"),
            },
        ),
        Part(
            "generic-analyser",
            PartKind.ANALYSER,
            "generic network analyser",
            ports=(Port("1", "", 1e5, 500e6, 0.1),),
            indicators=(Indicator("impedance", "impedance", Kind.SWR, "", (), Detector.RMS, _unknown()),),
            properties={"swr": at_most(1.1), "power_w": Property(1e-3, "W")},
        ),
        Part(
            "generic-mismatch",
            PartKind.MISMATCH,
            "generic mismatch 2 to 1",
            ports=(Port("in", power_limit_w=10.0),),
            properties={
                "nominal_ohm": Property(100.0, "Ω", usual(0.02)),
                "rated_time_s": Property(300.0, "s"),
            },
        ),
    )


def starter_shelf() -> tuple[Part, ...]:
    """Parts a new logbook begins with."""
    return (
        transmitter("generic-transmitter", "generic transmitter", 100.0),
        inline_meter("generic-wattmeter", "generic wattmeter", (20.0, 200.0), watt_scale(), 0.05),
        jumper("generic-jumper", "generic jumper", 0.02, 0.02),
        tee("generic-tee", "generic tee"),
        lead("generic-lead", "generic lead", 0.3),
        probe("generic-probe", "generic 10:1 probe"),
        oscilloscope("generic-scope", "generic oscilloscope", 100e6),
        dummy_load("generic-load", "generic load", 100.0),
        *generics(),
    )
