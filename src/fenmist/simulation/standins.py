"""What a stand-in on the wire understands and says: the instruments of a live bench behind the open command language.

Headers are those of SCPI-1999 for instruments of each kind. A home-built meter, and one with a digital display, sends
lines of its own instead.
"""

import math
from collections.abc import Callable, Iterator, Mapping

import numpy as np

from fenmist.errors import OutOfRangeError, UnknownIdError
from fenmist.frozen import dataclass
from fenmist.kit.part import Indicator, Part, PartKind
from fenmist.measurand import Kind
from fenmist.simulation.envelopes import NAMED
from fenmist.simulation.live import LiveBench
from fenmist.simulation.scpi import Given, Handler, Interpreter, ScpiError, block, nr3

MAKER = "SIMULATED"
"""First field of every stand-in's identity."""

SCPI, LINES, DIAL = "scpi", "lines", "dial"
"""How a stand-in speaks."""


@dataclass(frozen=True)
class StandIn:
    """One instrument on the wire."""

    id: str  # element, or "supply"
    kind: str  # as a driver calls it
    label: str
    speaks: str
    interpreter: Interpreter | None = None
    line: Callable[[], str] = str  # the next one, of what sends lines
    part: str = ""  # whose place it takes


def stand_ins(bench: LiveBench) -> tuple[StandIn, ...]:
    """Everything of a bench that can be read or set over a wire, and its dials."""
    setup = bench.setup
    found: list[StandIn] = []
    for place, part in _standing(bench):
        make = _MADE.get(part.kind)
        if make is not None:
            kind, headers = make
            identity = f"{MAKER},{kind.upper()},{part.serial or place},1.0"
            reset = (lambda: bench.set(on=False)) if part.kind in SENDERS else None
            interpreter = Interpreter(identity, headers(bench, part), reset)
            found.append(StandIn(place, kind, part.label, SCPI, interpreter, part=part.id))
        elif part.indicators and part.kind in METERS:
            found.append(_meter(bench, place, part))
    if setup.part(setup.source).kind is PartKind.TRANSMITTER:
        identity = f"{MAKER},DC SUPPLY,0,1.0"
        found.append(StandIn("supply", "DC supply", "supply", SCPI, Interpreter(identity, _supply(bench))))
    return tuple(found)


def _standing(bench: LiveBench) -> Iterator[tuple[str, Part]]:
    """Each part once, what is plugged in at first before the rest, with its place, or its id where that is taken."""
    seen: dict[str, str] = {}
    for setup in (bench.setup, *bench.setups.values()):
        for item in setup.hookup.elements:
            if item.part not in seen.values():
                place = item.part if item.id in seen else item.id
                seen[place] = item.part
                yield place, setup.parts[item.part]


def dials(bench: LiveBench) -> dict[str, dict[str, float]]:
    """Where each needle that is read by eye stands, W, by part and indicator; beyond its span the top of it."""
    found = {}
    for _, part in _standing(bench):
        needles = [shows for shows in part.indicators if any(used.scale is not None for used in shows.ranges)]
        if needles and part.kind in METERS:
            shown = {shows.id: bench.shown_by(part.id, shows.id) for shows in needles}
            found[part.id] = {name: value if math.isfinite(value) else 1e9 for name, value in shown.items()}
    return found


SENDERS = (PartKind.TRANSMITTER, PartKind.GENERATOR)
METERS = (PartKind.INLINE_METER, PartKind.SWR_METER, PartKind.HOME_BUILT)


def _meter(bench: LiveBench, place: str, part: Part) -> StandIn:
    has_dial = any(item.scale is not None for shows in part.indicators for item in shows.ranges)
    return StandIn(
        place, "line meter", part.label, DIAL if has_dial else LINES, line=lambda: said(bench, part), part=part.id
    )


LETTERS: Mapping[Kind, tuple[str, str]] = {
    Kind.INCIDENT: ("F", "W"), Kind.REFLECTED: ("R", "W"), Kind.SWR: ("SWR", ""), Kind.REFLECTION: ("RHO", ""),
    Kind.RETURN_LOSS: ("RL", "dB"),
}  # fmt: skip


def said(bench: LiveBench, part: Part) -> str:
    """A line of a meter: each thing that it shows, its letter and unit; detectors as counts, 12 bits over 5 V."""
    words = []
    for shows in part.indicators:
        value = bench.shown_by(part.id, shows.id)
        if shows.quantity is Kind.DETECTED:
            words.append(f"{shows.id[:1].upper()}={min(round(value / 5.0 * 4095), 4095)}")
            continue
        letter, unit = LETTERS.get(shows.quantity, (shows.id, shows.unit))
        words.append(f"{letter}={_digits(value, shows)}{unit and ' ' + unit}")
    return " ".join(words)


def _digits(value: float, shows: Indicator) -> str:
    if not math.isfinite(value):
        return "----"
    if shows.quantity in (Kind.SWR, Kind.REFLECTION):
        return f"{value:.2f}"
    return f"{value:.2f}" if abs(value) < 100.0 else f"{value:.1f}"


# what each kind understands


def _refused(error: Exception) -> ScpiError:
    return ScpiError(-221 if isinstance(error, OutOfRangeError) else -224)


def _scope(bench: LiveBench, part: Part) -> Mapping[str, Handler]:
    form = {"data": "ASC"}
    taken: dict[str, np.ndarray] = {}

    def trace() -> np.ndarray:
        taken["volts"] = bench.trace(part.id)
        return taken["volts"]

    def data(_: Given) -> str | bytes:
        volts = trace()
        if form["data"] == "REAL":
            return block(np.asarray(volts, ">f4").tobytes())
        return ",".join(nr3(float(one)) for one in volts)

    def preamble(_: Given) -> str:
        rate = bench.scope(part.id).rate_hz(bench.keyed.frequency_hz)
        return f"{taken.get('volts', trace()).size},{nr3(1.0 / rate)}"

    def choose(given: Given) -> None:
        form["data"] = "REAL" if given.texts[:1] and given.texts[0].upper() == "REAL" else "ASC"

    return {
        "MEASure:VOLTage[:AC]#?": lambda _: nr3(float(np.std(trace()))),
        "MEASure:VOLTage:PTPeak#?": lambda _: nr3(float(np.ptp(trace()))),
        "MEASure:FREQuency#?": lambda _: nr3(bench.keyed.frequency_hz if bench.keyed.on else math.nan),
        "FORMat[:DATA]": choose, "FORMat[:DATA]?": lambda _: form["data"], "TRACe#[:DATA]?": data,
        "TRACe#:PREamble?": preamble,
    }  # fmt: skip


def _power_meter(bench: LiveBench, part: Part) -> Mapping[str, Handler]:
    state, tuned = {"unit": "DBM"}, {"hz": 50e6}

    def read(_: Given) -> str:
        watts = bench.shown_by(part.id, part.indicators[0].id)
        if state["unit"] == "W" or not math.isfinite(watts):
            return nr3(watts)
        return nr3(10.0 * math.log10(watts * 1e3)) if watts > 0.0 else nr3(math.nan)

    def unit(given: Given) -> None:
        state["unit"] = given.choice("W", "DBM")

    def tune(given: Given) -> None:
        tuned["hz"] = given.number("HZ", 1e3, 50e9)

    def zero(_: Given) -> None:
        try:
            bench.zero(part.id)
        except OutOfRangeError as error:
            raise _refused(error) from error

    return {
        **dict.fromkeys(("MEASure[:SCALar][:POWer][:AC]?", "READ?", "FETCh?"), read),
        "UNIT:POWer": unit, "UNIT:POWer?": lambda _: state["unit"], "SENSe:FREQuency": tune,
        "SENSe:FREQuency?": lambda _: nr3(tuned["hz"]), "CALibration:ZERO:AUTO": zero,
    }  # fmt: skip


def _shows(header: str) -> Callable[[LiveBench, Part], Mapping[str, Handler]]:
    def made(bench: LiveBench, part: Part) -> Mapping[str, Handler]:
        return {header: lambda _: nr3(bench.shown_by(part.id, part.indicators[0].id))}

    return made


def _sender(bench: LiveBench, _: Part) -> Mapping[str, Handler]:
    def level(given: Given) -> None:
        text = given.text().upper()
        if text.endswith("W"):
            bench.set(watts=given.number("W", 0.0, 2000.0))
        else:
            bench.set(watts=1e-3 * 10.0 ** (given.number("DBM", -60.0, 63.0) / 10.0))

    def tune(given: Given) -> None:
        bench.set(frequency_hz=given.number("HZ", 1e4, 1e9))

    def switch(given: Given) -> None:
        bench.set(on=given.switch())

    def send(given: Given) -> None:
        try:
            bench.set(envelope=given.text())
        except UnknownIdError as error:
            raise _refused(error) from error

    def shown_level(_: Given) -> str:
        return nr3(10.0 * math.log10(max(bench.keyed.set_w, 1e-12) * 1e3))

    return {
        "[SOURce:]POWer[:LEVel]": level, "[SOURce:]POWer[:LEVel]?": shown_level,
        "[SOURce:]FREQuency[:CW]": tune, "[SOURce:]FREQuency[:CW]?": lambda _: nr3(bench.keyed.frequency_hz),
        "OUTPut[:STATe]": switch, "OUTPut[:STATe]?": lambda _: str(int(bench.keyed.on)),
        "[SOURce:]FUNCtion[:SHAPe]": send, "[SOURce:]FUNCtion:CATalog?": lambda _: ",".join(f'"{n}"' for n in NAMED),
    }  # fmt: skip


def _supply(bench: LiveBench) -> Mapping[str, Handler]:
    return {
        "MEASure:VOLTage[:DC]?": lambda _: nr3(bench.setup.transmitter.supply_v),
        "MEASure:CURRent[:DC]?": lambda _: nr3(bench.drawn_a()),
    }


def _analyser(bench: LiveBench, part: Part) -> Mapping[str, Handler]:
    sweep = {"start": 1e6, "stop": 30e6, "points": 101.0, "marker": 14e6}
    form = {"marker": "COMPlex"}

    def set_to(name: str, low: float, high: float, unit: str = "HZ") -> Handler:
        def change(given: Given) -> None:
            sweep[name] = given.number(unit, low, high)

        return change

    def said(name: str) -> Handler:
        return lambda _: nr3(sweep[name])

    def frequencies() -> np.ndarray:
        return np.linspace(sweep["start"], sweep["stop"], int(sweep["points"]))

    def at(frequency_hz: float) -> complex:
        bench.set(frequency_hz=float(frequency_hz))
        return bench.reflection(part.id)

    def data(_: Given) -> str:
        values = (at(f) for f in frequencies())
        return ",".join(f"{nr3(one.real)},{nr3(one.imag)}" for one in values)

    def marker(_: Given) -> str:
        one = at(sweep["marker"])
        if form["marker"] == "SWR":
            return nr3((1.0 + abs(one)) / (1.0 - abs(one)) if abs(one) < 1.0 else math.inf)
        return f"{nr3(one.real)},{nr3(one.imag)}"

    def shape(given: Given) -> None:
        form["marker"] = given.choice("COMPlex", "SWR")

    edges = (1e4, 1e9)
    return {
        "SENSe:FREQuency:STARt": set_to("start", *edges), "SENSe:FREQuency:STARt?": said("start"),
        "SENSe:FREQuency:STOP": set_to("stop", *edges), "SENSe:FREQuency:STOP?": said("stop"),
        "SENSe:SWEep:POINts": set_to("points", 2, 2001, ""), "SENSe:SWEep:POINts?": said("points"),
        "CALCulate:MARKer:X": set_to("marker", *edges), "CALCulate:MARKer:X?": said("marker"),
        "CALCulate:FORMat": shape, "CALCulate:FORMat?": lambda _: form["marker"],
        "CALCulate:MARKer:Y?": marker, "CALCulate:DATA?": data,
        "SENSe:FREQuency:DATA?": lambda _: ",".join(nr3(float(f)) for f in frequencies()),
    }  # fmt: skip


_MADE: Mapping[PartKind, tuple[str, Callable[[LiveBench, Part], Mapping[str, Handler]]]] = {
    PartKind.OSCILLOSCOPE: ("oscilloscope", _scope),
    PartKind.POWER_METER: ("power meter", _power_meter),
    PartKind.VOLTMETER: ("RF voltmeter", _shows("MEASure:VOLTage[:AC]?")),
    PartKind.AMMETER: ("RF ammeter", _shows("MEASure:CURRent[:AC]?")),
    PartKind.TRANSMITTER: ("generator", _sender),
    PartKind.GENERATOR: ("generator", _sender),
    PartKind.ANALYSER: ("analyser", _analyser),
}
