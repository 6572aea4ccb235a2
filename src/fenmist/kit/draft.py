"""Parts as they are typed: a draft is texts by field; here they become a part, or problems by field."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from datetime import date

from fenmist.errors import FenmistError
from fenmist.findings.note import Problem
from fenmist.kit import shelf
from fenmist.kit.generic import starter_shelf
from fenmist.kit.part import CalibrationRecord, Part, PartKind, SpecKind, SpecTerm
from fenmist.kit.scale import Scale
from fenmist.kit.sheet import Field, with_facts
from fenmist.kit.sheets import EXTRAS, SHEETS
from fenmist.kit.spectext import spec_from_text, text_of_spec
from fenmist.rf.cable import CABLES
from fenmist.units.display import frequency, plain
from fenmist.units.typed import number_from_text, value_from_text
from fenmist.units.unit import UNITS
from fenmist.waveform.harmonics import ASSUMED_DBC
from fenmist.waveform.response import BandwidthModel

MOST_RANGES, MOST_MARKS = 20, 500
"""Of a dial: ranges, and marks or divisions between two of them."""

_COMMON = (Field("label", "name", "Bittern 200"), Field("serial", "serial number"))
_HISTORY = (
    Field("compared_on", "compared on", "2026-03-12", "Date of the last comparison with something better"),
    Field("compared_by", "compared by", "standards room"),
    Field("due", "due", "2027-03-12"),
)
_FIELDS: Mapping[PartKind, tuple[Field, ...]] = {
    PartKind.TRANSMITTER: (
        Field("power", "power", "100 W"),
        Field("harmonic_2", "second harmonic", "-50 dBc", f"Left out: at most {ASSUMED_DBC:g} dBc is taken"),
        Field("harmonic_3", "third harmonic", "-45 dBc", f"Left out: at most {ASSUMED_DBC:g} dBc is taken"),
        Field("harmonics_are", "these are", choices=("at most", "measured")),
    ),
    PartKind.INLINE_METER: (
        Field("ranges", "ranges", "20 W; 200 W", "Full scale of each range; they share the arc"),
        Field("marks", "printed marks", "0 20 40 60 100 140 200"),
        Field("divisions", "divisions between them", "4 4 4 4 4 6", "One count for each gap between marks"),
        Field("law", "law of the movement", "0.5", "Deflection goes as (value/top)^law: 0.5 if linear in volts"),
        Field("accuracy", "accuracy, of full scale", "5 %"),
        Field("loss", "its own loss", "0.05 dB", "Counts where power is stated at its input"),
        Field("span", "its span", "1.8 to 30 MHz", "Lowest and highest frequency it is made for"),
        *_HISTORY,
    ),
    PartKind.JUMPER: (Field("loss", "loss", "0.02 dB"), Field("loss_limit", "known to ±", "0.02 dB")),
    PartKind.TEE: (
        Field("arm", "middle to the load", "20 mm"),
        Field("body", "capacitance of its body", "1 pF"),
    ),
    PartKind.LEAD: (
        Field("length", "length", "0.3 m"),
        Field("velocity_factor", "velocity factor", "0.66"),
        Field("line", "line impedance", "50 Ω"),
        Field("cable", "kind of cable", choices=("not said", *(item.label for item in CABLES)), help="For its loss"),
    ),
    PartKind.PROBE: (
        Field("ratio", "divides by", "10"),
        Field("setting", "scope multiplies by", "10"),
        Field("accuracy", "ratio known to ±", "2 %"),
        Field("capacitance", "tip capacitance", "12 pF"),
        Field("ground", "ground lead", "100 mm", "0 mm for a coaxial tip adapter"),
        Field("bandwidth", "bandwidth", "200 MHz"),
        Field("volts_limit", "rating, peak", "600 V"),
        Field("knee", "rating falls from", "2 MHz"),
    ),
    PartKind.OSCILLOSCOPE: (
        Field("bandwidth", "bandwidth", "100 MHz"),
        Field("response", "shape of its response", choices=tuple(str(model) for model in BandwidthModel)),
        Field("accuracy", "accuracy, of reading", "3 %"),
        Field("capacitance", "input capacitance", "16 pF"),
        Field("noise", "noise on the trace", "0.5 %", "Standard deviation over the amplitude; 0 leaves it out"),
        Field("volts_limit", "input limit, peak", "300 V"),
        Field("form", "volts are read as", choices=("Vpp", "Vpk", "Vrms")),
        *_HISTORY,
    ),
    PartKind.LOAD: (
        Field("power", "rated power", "100 W"),
        Field("nominal", "nominal impedance", "50 Ω"),
        Field("minutes", "bears it for, minutes", "5"),
        Field("cooling", "cools in, minutes", "15", "Time constant: after it a third of the rise is left"),
        *_HISTORY,
    ),
}


def fields_for(kind: PartKind) -> tuple[Field, ...]:
    """Fields of a kind of part."""
    if kind in SHEETS:
        return (*_COMMON, *(fact.field for fact in SHEETS[kind]), *_HISTORY)
    return (*_COMMON, *_FIELDS[kind], *(fact.field for fact in EXTRAS.get(kind, ())))


def draft_from_part(part: Part) -> dict[str, str]:
    """A part as texts."""
    own = _READERS[part.kind](part) if part.kind in _READERS else {}
    facts = SHEETS.get(part.kind, ()) or EXTRAS.get(part.kind, ())
    draft = {"label": part.label, "serial": part.serial, **own, **{f.field.id: f.shown(part) for f in facts}}
    if part.history:
        latest = part.history[-1]
        draft |= {"compared_on": latest.on, "compared_by": latest.by, "due": latest.due}
    return draft


def part_from_draft(base: Part, draft: Mapping[str, str]) -> Part | tuple[Problem, ...]:
    """The part a draft describes; `base` gives its id, kind and what no form shows (characterisations).

    Returns
    -------
    Part, or Problems
        One for each field that can't be taken.
    """
    asked = _Asked(draft)
    if not draft.get("label", "").strip():
        asked.problems.append(Problem("label", "A part needs a name.", "Type what stands on it."))
    for field_id in ("compared_on", "due"):
        asked.date(field_id)
    if base.kind in SHEETS:
        written = with_facts(base, SHEETS[base.kind], draft)
    else:
        untouched = all(draft.get(field_id, "") == text for field_id, text in _READERS[base.kind](base).items())
        plain_part = base if untouched else _WRITERS[base.kind](base, asked)
        written = with_facts(plain_part, EXTRAS.get(base.kind, ()), draft) if plain_part else ()
    history = _history(base, draft)
    if asked.problems or isinstance(written, tuple):
        return (*asked.problems, *(written if isinstance(written, tuple) else ()))
    made = written
    return replace(
        made, label=draft.get("label", "").strip(), serial=draft.get("serial", "").strip(), history=history,
        characterisations=base.characterisations, remarks=base.remarks,
    )  # fmt: skip


class _Asked:
    """Reads fields of a draft and collects what is wrong with them."""

    def __init__(self, draft: Mapping[str, str]) -> None:
        self.draft = draft
        self.problems: list[Problem] = []

    def value(self, field_id: str, unit: str, low: float, high: float) -> float:
        """SI value of a field within limits; NaN where there is a problem."""
        text = self.draft.get(field_id, "").strip()
        example = next((f.example for fields in _FIELDS.values() for f in fields if f.id == field_id), "")
        try:
            value = value_from_text(text, UNITS[unit], "this field", example) if text else float("nan")
        except FenmistError as error:
            self.problems.append(Problem(field_id, error.headline, error.hint))
            return float("nan")
        if not low <= value <= high:
            base = UNITS[unit].base
            what = f"It lies from {plain(low, base)} to {plain(high, base)}." if text else "This is needed."
            self.problems.append(Problem(field_id, what, f"Type for example {example}."))
            return float("nan")
        return value

    def spec(self, field_id: str) -> tuple[SpecTerm, ...]:
        """A statement of performance; a bare share is of the reading."""
        try:
            terms = spec_from_text(self.draft.get(field_id, ""), "V")
        except FenmistError as error:
            self.problems.append(Problem(field_id, error.headline, error.hint))
            return ()
        if not terms or any(term.value >= 1.0 and term.kind is SpecKind.OF_READING for term in terms):
            self.problems.append(Problem(field_id, "This is needed, below 100 %.", "Type for example 3 %, or unknown."))
        return terms

    def date(self, field_id: str) -> None:
        """Check that a field holds a day, if anything."""
        text = self.draft.get(field_id, "").strip()
        try:
            if text:
                date.fromisoformat(text)
        except ValueError:
            self.problems.append(Problem(field_id, f"“{text}” is no day.", "Type year-month-day: 2026-03-12."))

    def span(self, field_id: str) -> tuple[float, float] | tuple[None, None]:
        """Two frequencies such as "1.8 to 30 MHz" in Hz; none where nothing stands there."""
        text = self.draft.get(field_id, "").strip()
        if not text:
            return None, None
        low, _, high = text.replace("–", " to ").partition(" to ")
        try:
            ends = [value_from_text(part, UNITS["MHz"], "this field", "1.8 to 30 MHz") for part in (low, high)]
        except FenmistError as error:
            self.problems.append(Problem(field_id, error.headline, "Type for example 1.8 to 30 MHz."))
            return None, None
        if not 0 < ends[0] < ends[1]:
            self.problems.append(Problem(field_id, "A span rises from above 0.", "Type for example 1.8 to 30 MHz."))
            return None, None
        return ends[0], ends[1]

    def numbers(self, field_id: str, separators: str = " ") -> tuple[float, ...]:
        """Numbers of a list such as "0 20 40"."""
        text = self.draft.get(field_id, "")
        for separator in separators:
            text = text.replace(separator, " ")
        try:
            return tuple(number_from_text(word)[0] for word in text.split())
        except FenmistError as error:
            self.problems.append(Problem(field_id, error.headline, error.hint))
            return ()


def _history(base: Part, draft: Mapping[str, str]) -> tuple[CalibrationRecord, ...]:
    on = draft.get("compared_on", "").strip()
    if not on:
        return base.history if "compared_on" not in draft else ()
    number = base.history[-1].reference if base.history else ""
    record = CalibrationRecord(on, draft.get("compared_by", "").strip(), draft.get("due", "").strip(), number)
    kept = tuple(item for item in base.history if item.on != on)
    return (*kept, record)


# what stands in the fields, by kind


def _shown(part: Part, name: str, unit: str) -> str:
    value = part.properties.get(name)
    return plain(value.value, unit) if value else ""


def _share(value: float) -> str:
    return f"{100 * value:g} %"


def _meter_texts(part: Part) -> dict[str, str]:
    ranges = part.indicators[0].ranges
    scale = ranges[0].scale
    return {
        "ranges": "; ".join(plain(item.full_scale, "W") for item in ranges),
        "marks": " ".join(f"{value:g}" for value in scale.marks) if scale else "",
        "divisions": " ".join(str(count) for count in scale.divisions) if scale else "",
        "law": f"{scale.law:g}" if scale else "",
        "accuracy": _accuracy_text(part.indicators[0].stated),
        "loss": _shown(part, "loss_db", "dB"),
        "span": _span(part),
    }


def _accuracy_text(spec: tuple[SpecTerm, ...]) -> str:
    """A meter's accuracy: a bare share is of full scale."""
    return text_of_spec(spec).removesuffix(" of full scale") if len(spec) == 1 else text_of_spec(spec)


def _accuracy(asked: "_Asked") -> tuple[SpecTerm, ...]:
    text = asked.draft.get("accuracy", "").strip()
    if text.endswith("%"):
        text += " of full scale"
    try:
        terms = spec_from_text(text, "W")
    except FenmistError as error:
        asked.problems.append(Problem("accuracy", error.headline, error.hint))
        return ()
    if not terms or any(term.value > 1.0 and term.kind in (SpecKind.OF_RANGE, SpecKind.OF_READING) for term in terms):
        asked.problems.append(Problem("accuracy", "This is needed, up to 100 %.", "Type for example 5 %, or unknown."))
    return terms


def _span(part: Part) -> str:
    low, high = part.ports[0].frequency_min_hz, part.ports[0].frequency_max_hz
    return f"{frequency(low)} to {frequency(high)}" if low and high else ""


def _scope_texts(part: Part) -> dict[str, str]:
    bandwidth, limit = part.properties.get("bandwidth_hz"), part.ports[0].volts_limit_vpk
    return {
        "bandwidth": frequency(bandwidth.value) if bandwidth else "",
        "response": part.settings.get("response", ""),
        "accuracy": text_of_spec(part.indicators[0].spec).replace(" of reading", ""),
        "capacitance": _shown(part, "capacitance_f", "F"),
        "noise": _share(part.properties["noise"].value) if "noise" in part.properties else "",
        "volts_limit": plain(limit, "V") if limit else "",
        "form": part.indicators[0].unit,
    }


def _dbc(part: Part, order: int) -> str:
    level = part.properties.get(f"harmonic_{order}_dbc")
    return f"{level.value:g} dBc" if level else ""


def _jumper_texts(part: Part) -> dict[str, str]:
    loss = part.properties["loss_db"]
    return {"loss": plain(loss.value, "dB"), "loss_limit": plain(loss.spec.value if loss.spec else 0.0, "dB")}


_READERS: Mapping[PartKind, Callable[[Part], dict[str, str]]] = {
    PartKind.TRANSMITTER: lambda part: {
        "power": _shown(part, "power_w", "W"),
        "harmonic_2": _dbc(part, 2),
        "harmonic_3": _dbc(part, 3),
        "harmonics_are": "measured" if any(item.measured for item in part.properties.values()) else "at most",
    },
    PartKind.INLINE_METER: _meter_texts,
    PartKind.JUMPER: _jumper_texts,
    PartKind.TEE: lambda part: {"arm": _shown(part, "arm_m", "m"), "body": _shown(part, "capacitance_f", "F")},
    PartKind.LEAD: lambda part: {
        "length": _shown(part, "length_m", "m"),
        "velocity_factor": _shown(part, "velocity_factor", ""),
        "line": _shown(part, "line_ohm", "Ω"),
        "cable": part.settings.get("cable", "not said"),
    },
    PartKind.PROBE: lambda part: {
        "ratio": _shown(part, "ratio", ""),
        "setting": _shown(part, "setting", ""),
        "accuracy": _share(spec.value) if (spec := part.properties["ratio"].spec) else "",
        "capacitance": _shown(part, "capacitance_f", "F"),
        "ground": _shown(part, "ground_m", "m"),
        "bandwidth": _shown(part, "bandwidth_hz", "Hz"),
        "volts_limit": plain(part.ports[0].volts_limit_vpk or 0.0, "V"),
        "knee": _shown(part, "knee_hz", "Hz"),
    },
    PartKind.OSCILLOSCOPE: _scope_texts,
    PartKind.LOAD: lambda part: {
        "power": plain(part.ports[0].power_limit_w or 0.0, "W"),
        "nominal": _shown(part, "nominal_ohm", "Ω"),
        "minutes": f"{part.properties['rated_time_s'].value / 60:g}",
        "cooling": f"{part.properties['cooling_s'].value / 60:g}" if "cooling_s" in part.properties else "",
    },
}


# from the fields to a part, by kind


def _transmitter(base: Part, asked: _Asked) -> Part | None:
    power = asked.value("power", "W", 1e-6, 1e5)
    levels = {
        order: asked.value(f"harmonic_{order}", "dB", -120.0, -3.0)
        for order in (2, 3)
        if asked.draft.get(f"harmonic_{order}", "").strip()
    }
    measured = asked.draft.get("harmonics_are") == "measured"
    if asked.problems:
        return None
    return shelf.transmitter(base.id, "", power, harmonics_dbc=levels, measured=measured)


def _meter(base: Part, asked: _Asked) -> Part | None:
    ranges = asked.numbers("ranges", ";W")
    marks, counts = asked.numbers("marks"), asked.numbers("divisions")
    accuracy = _accuracy(asked)
    law = asked.value("law", "", 0.1, 4.0) if marks else 1.0
    loss = asked.value("loss", "dB", 0.0, 10.0) if asked.draft.get("loss", "").strip() else 0.05
    span = asked.span("span")
    if not 0 < len(ranges) <= MOST_RANGES or not all(1e-12 <= item <= 1e7 for item in ranges):
        asked.problems.append(Problem("ranges", "A meter needs a range above 0.", "Type for example 20 W; 200 W."))
    if len(marks) > MOST_MARKS or not all(1 <= count <= MOST_MARKS for count in counts):
        asked.problems.append(Problem("divisions", "No dial has that many divisions.", "Type one count for each gap."))
    if asked.problems:
        return None
    try:
        scale = Scale("arc", marks, tuple(round(count) for count in counts), law) if marks else None
    except FenmistError as error:
        asked.problems.append(Problem("divisions", error.headline, error.hint))
        return None
    made = shelf.inline_meter(
        base.id, "", tuple(sorted(ranges)), scale, accuracy, loss_db=loss, loss_limit_db=max(loss, 0.02), span_hz=span
    )
    first = made.indicators[0]
    others = tuple(replace(item, ranges=first.ranges if item.ranges else ()) for item in base.indicators[1:])
    ports = base.ports if len(base.ports) > 2 else made.ports
    return replace(made, indicators=(first, *others), ports=ports)


def _jumper(base: Part, asked: _Asked) -> Part | None:
    loss, limit = asked.value("loss", "dB", 0.0, 60.0), asked.value("loss_limit", "dB", 0.0, 60.0)
    return None if asked.problems else shelf.jumper(base.id, "", loss, limit)


def _lead(base: Part, asked: _Asked) -> Part | None:
    length = asked.value("length", "m", 0.0, 100.0)
    factor = asked.value("velocity_factor", "", 0.1, 1.0)
    line = asked.value("line", "Ω", 10.0, 300.0)
    cable = asked.draft.get("cable", "")
    if asked.problems:
        return None
    return shelf.lead(base.id, "", length, factor, line, "" if cable == "not said" else cable)


def _tee(base: Part, asked: _Asked) -> Part | None:
    arm, body = asked.value("arm", "m", 0.0, 1.0), asked.value("body", "pF", 0.0, 1e-9)
    return None if asked.problems else shelf.tee(base.id, "", arm, body)


def _probe(base: Part, asked: _Asked) -> Part | None:
    ratio, setting = asked.value("ratio", "", 1.0, 1e5), asked.value("setting", "", 1.0, 1e5)
    accuracy = asked.value("accuracy", "%", 0.0, 0.5)
    capacitance = asked.value("capacitance", "pF", 0.0, 1e-9)
    ground = asked.value("ground", "m", 0.0, 1.0)
    bandwidth, knee = asked.value("bandwidth", "MHz", 1e3, 1e12), asked.value("knee", "MHz", 1.0, 1e12)
    rating = asked.value("volts_limit", "V", 0.1, 1e6)
    if asked.problems:
        return None
    return shelf.probe(
        base.id, "", ratio=ratio, accuracy=accuracy, capacitance_f=capacitance, ground_m=ground,
        bandwidth_hz=bandwidth, rating_vpk=rating, knee_hz=knee, setting=setting,
    )  # fmt: skip


def _scope(base: Part, asked: _Asked) -> Part | None:
    bandwidth = asked.value("bandwidth", "MHz", 1e3, 1e12)
    accuracy = asked.spec("accuracy")
    capacitance = asked.value("capacitance", "pF", 0.0, 1e-6)
    limit = asked.value("volts_limit", "V", 0.1, 1e6) if asked.draft.get("volts_limit") else None
    noise = asked.value("noise", "%", 0.0, 0.5) if asked.draft.get("noise", "").strip() else 0.0
    if asked.problems:
        return None
    return shelf.oscilloscope(
        base.id, "", bandwidth, accuracy=accuracy, capacitance_f=capacitance, limit_vpk=limit,
        model=asked.draft.get("response") or BandwidthModel.ONE_POLE, form=asked.draft.get("form") or "Vpp",
        noise=noise,
    )  # fmt: skip


def _load(base: Part, asked: _Asked) -> Part | None:
    power = asked.value("power", "W", 1e-6, 1e6)
    nominal = asked.value("nominal", "Ω", 1.0, 1e4)
    minutes = asked.value("minutes", "", 0.01, 1e5)
    stated = asked.draft.get("cooling", "").strip()
    cooling = asked.value("cooling", "", 0.01, 1e5) if stated else None
    if asked.problems:
        return None
    return shelf.dummy_load(
        base.id, "", power, nominal_ohm=nominal, minutes=minutes, cooling_minutes=cooling
    )  # fmt: skip


_WRITERS: Mapping[PartKind, Callable[[Part, _Asked], Part | None]] = {
    PartKind.TRANSMITTER: _transmitter,
    PartKind.INLINE_METER: _meter,
    PartKind.JUMPER: _jumper,
    PartKind.TEE: _tee,
    PartKind.LEAD: _lead,
    PartKind.PROBE: _probe,
    PartKind.OSCILLOSCOPE: _scope,
    PartKind.LOAD: _load,
}


def blank_part(part_id: str, kind: PartKind) -> Part:
    """A new part of a kind, with the starter shelf's typical values to begin from."""
    like = next(part for part in starter_shelf() if part.kind is kind)
    return replace(like, id=part_id, label=f"new {kind}", serial="")
