"""Makers of the parts that the first hook-up takes, as the kit's forms use them.

Typical values are common practice, no source, unless the basis says otherwise.
"""

from collections.abc import Mapping

from fenmist.kit.part import Indicator, Part, PartKind, Port, Property, Range, SpecKind, SpecTerm
from fenmist.kit.scale import Scale
from fenmist.measurand import Detector, Kind
from fenmist.rf.probe import KNEE_HZ
from fenmist.units.unit import UNITS

COMMON_PRACTICE = "common practice, no source"
DEFAULT_SCOPE_ACCURACY = 0.03
"""± part of the reading that a scope's vertical gain may be off; 2 to 3 % is usual (common practice, no source)."""


def limit(value: float, basis: str = "data sheet", kind: SpecKind = SpecKind.OF_READING) -> SpecTerm:
    """± `value` as a share (or, for ABSOLUTE, in SI units), rectangular."""
    return SpecTerm(kind, value, basis=basis)


def transmitter(
    part_id: str,
    label: str,
    power_w: float,
    serial: str = "",
    *,
    harmonics_dbc: Mapping[int, float] | None = None,
    measured: bool = False,
) -> Part:
    """A source of a steady carrier up to `power_w`; its harmonics over the carrier, where they are known."""
    levels = {
        f"harmonic_{order}_dbc": Property(level, "dB", measured=measured)
        for order, level in (harmonics_dbc or {}).items()
    }
    return Part(
        part_id, PartKind.TRANSMITTER, label, serial,
        ports=(Port("out", power_limit_w=power_w),),
        properties={"power_w": Property(power_w, "W"), **levels},
    )  # fmt: skip


def inline_meter(
    part_id: str,
    label: str,
    full_scales_w: tuple[float, ...],
    scale: Scale | None,
    of_full_scale: float | tuple[SpecTerm, ...],
    *,
    serial: str = "",
    span_hz: tuple[float | None, float | None] = (1.8e6, 30e6),
    power_limit_w: float | None = None,
    loss_db: float = 0.05,
    loss_limit_db: float = 0.05,
) -> Part:
    """An in-line wattmeter: ranges on one arc (none for a display), accuracy of full scale or as stated, own loss."""
    spec = of_full_scale
    if not isinstance(spec, tuple):
        spec = (SpecTerm(SpecKind.OF_RANGE, spec, basis="data sheet"),)
    ranges = tuple(Range(f"{full:g}", full, "W", scale, spec) for full in full_scales_w)
    bears = power_limit_w or max(full_scales_w)
    return Part(
        part_id, PartKind.INLINE_METER, label, serial,
        ports=tuple(Port(name, "", *span_hz, power_limit_w=bears) for name in ("in", "out")),
        indicators=(Indicator("forward", "forward needle", Kind.INCIDENT, "W", ranges, Detector.AVERAGE),),
        properties={
            "loss_db": Property(loss_db, "dB", SpecTerm(SpecKind.ABSOLUTE, loss_limit_db, "dB", basis=COMMON_PRACTICE))
        },
    )  # fmt: skip


def jumper(part_id: str, label: str, loss_db: float, loss_limit_db: float) -> Part:
    """A short cable with a stated loss and what it is known to, in dB."""
    spec = SpecTerm(SpecKind.ABSOLUTE, loss_limit_db, "dB", basis="measured or data sheet")
    return Part(
        part_id, PartKind.JUMPER, label,
        ports=(Port("a"), Port("b")), properties={"loss_db": Property(loss_db, "dB", spec)},
    )  # fmt: skip


def tee(part_id: str, label: str, arm_m: float = 0.02, capacitance_f: float = 1e-12) -> Part:
    """A tee adapter: two through ports and a side port, an arm to the load known to half, its body's capacitance."""
    return Part(
        part_id, PartKind.TEE, label,
        ports=(Port("a"), Port("b"), Port("side")),
        properties={
            "arm_m": Property(arm_m, "m", limit(0.5, COMMON_PRACTICE)),
            "capacitance_f": Property(capacitance_f, "F", limit(1.0, COMMON_PRACTICE)),
        },
    )  # fmt: skip


def probe(
    part_id: str,
    label: str,
    *,
    ratio: float = 10.0,
    accuracy: float = 0.02,
    capacitance_f: float = 12e-12,
    ground_m: float = 0.1,
    bandwidth_hz: float = 200e6,
    rating_vpk: float = 600.0,
    knee_hz: float = KNEE_HZ,
    setting: float | None = None,
) -> Part:
    """A divider probe; tip capacitance known to 20 %, ground lead to 30 %, rating falling from a knee on."""
    return Part(
        part_id, PartKind.PROBE, label,
        ports=(Port("a", volts_limit_vpk=rating_vpk), Port("b")),
        properties={
            "ratio": Property(ratio, "", limit(accuracy)),
            "setting": Property(ratio if setting is None else setting, ""),
            "capacitance_f": Property(capacitance_f, "F", limit(0.2, COMMON_PRACTICE)),
            "ground_m": Property(ground_m, "m", limit(0.3, COMMON_PRACTICE)),
            "bandwidth_hz": Property(bandwidth_hz, "Hz"),
            "knee_hz": Property(knee_hz, "Hz"),
        },
    )  # fmt: skip


def lead(
    part_id: str,
    label: str,
    length_m: float,
    velocity_factor: float = 0.66,
    line_ohm: float = 50.0,
    cable: str = "",
) -> Part:
    """A coaxial lead from a tee to a scope; its length is known to 10 mm, its velocity factor to 3 %."""
    return Part(
        part_id, PartKind.LEAD, label,
        ports=(Port("a"), Port("b")),
        properties={
            "length_m": Property(length_m, "m", limit(0.01, COMMON_PRACTICE, SpecKind.ABSOLUTE)),
            "velocity_factor": Property(velocity_factor, "", limit(0.03, COMMON_PRACTICE)),
            "line_ohm": Property(line_ohm, "Ω", limit(0.04, COMMON_PRACTICE)),
        },
        settings={"cable": cable} if cable else {},
    )  # fmt: skip


def oscilloscope(
    part_id: str,
    label: str,
    bandwidth_hz: float,
    *,
    accuracy: float | tuple[SpecTerm, ...] = DEFAULT_SCOPE_ACCURACY,
    capacitance_f: float = 16e-12,
    model: str = "one-pole",
    limit_vpk: float | None = 300.0,
    serial: str = "",
    form: str = "Vpp",
    noise: float = 0.0,
) -> Part:
    """An oscilloscope: gain as a share of the reading, bandwidth with its shape, input capacitance ± 20 %.

    `noise` is the standard deviation of the trace's noise over the amplitude; peaks are corrected for it.
    """
    spec = accuracy if isinstance(accuracy, tuple) else (SpecTerm(SpecKind.OF_READING, accuracy, basis="data sheet"),)
    trace = Indicator(
        "trace", "volts on the screen", Kind.VOLTAGE, UNITS[form].symbol, detector=Detector.TRACE, spec=spec
    )
    return Part(
        part_id, PartKind.OSCILLOSCOPE, label, serial,
        ports=(Port("in", volts_limit_vpk=limit_vpk),),
        indicators=(trace,),
        properties={
            "bandwidth_hz": Property(bandwidth_hz, "Hz"),
            "capacitance_f": Property(capacitance_f, "F", limit(0.2, COMMON_PRACTICE)),
            "noise": Property(noise, ""),
        },
        settings={"response": model},
    )  # fmt: skip


def dummy_load(
    part_id: str,
    label: str,
    power_w: float,
    *,
    nominal_ohm: float = 50.0,
    minutes: float = 5.0,
    cooling_minutes: float | None = None,
    serial: str = "",
) -> Part:
    """A load with a rating and the time it bears it; its impedance is a characterisation, measured."""
    cooling = {} if cooling_minutes is None else {"cooling_s": Property(60.0 * cooling_minutes, "s")}
    return Part(
        part_id, PartKind.LOAD, label, serial,
        ports=(Port("in", power_limit_w=power_w),),
        properties={
            "nominal_ohm": Property(nominal_ohm, "Ω"),
            "rated_time_s": Property(60.0 * minutes, "s", limit(0.0, COMMON_PRACTICE)),
            **cooling,
        },
    )  # fmt: skip


def watt_scale() -> Scale:
    """A usual arc for watts: crowded upwards in figures, volts-linear below (law 0.5)."""
    return Scale("arc", (0.0, 20.0, 40.0, 60.0, 100.0, 140.0, 200.0), (4, 4, 4, 4, 4, 6), 0.5)
