"""Data sheets as tables of facts: each fact is a field of a form and a place in a part.

A fact reads its text from a part and writes a typed text into it; a form is a list of facts. So a new kind of part
needs a list in `sheets` and a part to begin from on the shelf, and nothing else.
"""

from collections.abc import Callable, Mapping
from dataclasses import replace

from fenmist.errors import FenmistError, OutOfRangeError
from fenmist.findings.note import Problem
from fenmist.frozen import dataclass
from fenmist.kit.part import Component, Indicator, Part, Port, Position, Property, Range, SpecKind, Switch
from fenmist.kit.spectext import spec_from_text, text_of_spec
from fenmist.measurand import Detector, Kind
from fenmist.rf.cable import CABLES
from fenmist.rf.circuit import BranchKind
from fenmist.units.display import frequency, plain
from fenmist.units.level import dbm_from_watts
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS
from fenmist.waveform.harmonics import ASSUMED_DBC


@dataclass(frozen=True)
class Field:
    """One field of a form."""

    id: str
    label: str
    example: str = ""
    help: str = ""
    choices: tuple[str, ...] = ()


@dataclass(frozen=True)
class Fact:
    """A field and its place: how it is shown, and the part with what was typed (raises FenmistError)."""

    field: Field
    shown: Callable[[Part], str]
    taken: Callable[[Part, str], Part]
    component: str = ""  # the piece inside a part that it speaks of


@dataclass(frozen=True)
class Together:
    """Fields that only make sense together; `taken` gives the part, or what is wrong by field."""

    fields: tuple[Field, ...]
    shown: Callable[[Part], dict[str, str]]
    taken: Callable[[Part, Mapping[str, str]], Part | tuple[Problem, ...]]


Sheet = tuple[Fact | Together, ...]
"""All that a form says of a part, in its order."""


def fields_of(sheet: Sheet) -> tuple[Field, ...]:
    """The form's fields."""
    return tuple(field for item in sheet for field in (item.fields if isinstance(item, Together) else (item.field,)))


def shown_by(sheet: Sheet, part: Part) -> dict[str, str]:
    """What stands in the form's fields."""
    found: dict[str, str] = {}
    for item in sheet:
        found |= item.shown(part) if isinstance(item, Together) else {item.field.id: item.shown(part)}
    return found


def with_facts(part: Part, facts: Sheet, draft: Mapping[str, str]) -> Part | tuple[Problem, ...]:
    """The part with all fields of a draft, or what is wrong with them."""
    problems: list[Problem] = []
    for fact in facts:
        if isinstance(fact, Together):
            texts = {field.id: draft.get(field.id, "").strip() for field in fact.fields}
            found = part if texts == fact.shown(part) else fact.taken(part, texts)
            part = found if isinstance(found, Part) else part
            problems += () if isinstance(found, Part) else found
            continue
        text = draft.get(fact.field.id, "").strip()
        try:
            if text != fact.shown(part) or not text:  # what wasn't touched keeps all that was known of it
                part = fact.taken(part, text)
        except FenmistError as error:
            problems.append(
                Problem(fact.field.id, error.headline, error.hint or f"Type for example {fact.field.example}.")
            )
    return tuple(problems) or part


def read_within(text: str, unit: str, low: float, high: float, example: str) -> float:
    """SI value of what was typed; raises FenmistError where it is no value of that kind, or beyond the limits."""
    value = value_from_text(text, UNITS[unit], "this field", example)
    if not low <= value <= high:
        span = f"{_said(low, unit)} to {_said(high, unit)}"
        raise OutOfRangeError(f"It lies from {span}.", f"Type for example {example}.")
    return value


def _said(value: float, unit: str) -> str:
    return f"{100.0 * value:g}\u202f%" if unit == "%" else plain(value, UNITS[unit].base)


def tidy(text: str) -> str:
    """A shown number as it is typed: with a plain space."""
    return text.replace("\u202f", " ")


# properties


def quantity(
    field_id: str,
    label: str,
    example: str,
    name: str,
    unit: str,
    low: float,
    high: float,
    *,
    needed: bool = True,
    help: str = "",
    per: float = 1.0,
    kept_in: str | None = None,
) -> Fact:
    """A property of the part, in the unit's SI base.

    Parameters
    ----------
    per : float
        What one of the unit shown is kept as: 60 for minutes kept as seconds.
    kept_in : str, optional
        The unit it is kept in where that is another one.
    """
    base = UNITS[unit].base if kept_in is None else kept_in

    def shown(part: Part) -> str:
        stated = part.properties.get(name)
        if stated is None:
            return ""
        return percents(stated.value) if unit == "%" else tidy(plain(stated.value / per, UNITS[unit].base))

    def taken(part: Part, text: str) -> Part:
        kept = dict(part.properties)
        former = kept.pop(name, None)
        if text:
            value = read_within(text, unit, low, high, example) * per
            spec, measured = (former.spec, former.measured) if former else (None, False)
            kept[name] = Property(value, base, spec, measured)
        elif needed:
            raise OutOfRangeError("This is needed.", f"Type for example {example}.")
        return replace(part, properties=kept)

    return Fact(Field(field_id, label, example, help), shown, taken)


def percents(value: float) -> str:
    """A share as it is typed."""
    return f"{100 * value:g} %"


def both(fact: Fact, *others: Fact) -> Fact:
    """What is typed once and kept in several places; the first shows it."""

    def taken(part: Part, text: str) -> Part:
        for item in (fact, *others):
            part = item.taken(part, text)
        return part

    return replace(fact, taken=taken)


MOST_DB = 100.0
"""± in dB beyond which nothing is said of a loss (Fenmist's own, no source)."""


def known_to(field_id: str, label: str, example: str, name: str, unit: str, needed: bool = False) -> Fact:
    """What a property is known to, ±; a share in per cent or in its own unit. Comes behind the property."""

    def shown(part: Part) -> str:
        stated = part.properties.get(name)
        return "" if stated is None or stated.spec is None else text_of_spec((stated.spec,)).replace(" of reading", "")

    def taken(part: Part, text: str) -> Part:
        stated = part.properties.get(name)
        if stated is None:
            return part
        if needed and not text:
            raise OutOfRangeError("This is needed.", f"Type for example {example}.")
        terms = spec_from_text(text, unit)
        if any(item.value >= 1.0 and item.kind is SpecKind.OF_READING for item in terms):
            raise OutOfRangeError("It is known to better than 100 %.", f"Type for example {example}.")
        term = terms[0] if terms else None
        if unit == "dB" and any(item.value >= MOST_DB for item in terms):
            raise OutOfRangeError(f"It is known to better than {MOST_DB:g} dB.", f"Type for example {example}.")
        if term is not None and term.kind is SpecKind.DB:
            term = replace(term, kind=SpecKind.ABSOLUTE)  # dB of a property in dB
        return replace(part, properties={**part.properties, name: replace(stated, spec=term)})

    return Fact(
        Field(field_id, label, example, "±, rectangular; “; normal k=2” for what a certificate says"), shown, taken
    )


def limit_around(field_id: str, label: str, example: str, name: str, unit: str, about: float, help: str = "") -> Fact:
    """A property that is known by its limits alone: about nothing in a unit, or about 1 as a share."""

    def shown(part: Part) -> str:
        stated = part.properties.get(name)
        return "" if stated is None or stated.spec is None else text_of_spec((stated.spec,)).replace(" of reading", "")

    def taken(part: Part, text: str) -> Part:
        kept = {key: value for key, value in part.properties.items() if key != name}
        terms = spec_from_text(text, unit)
        if terms:
            term = terms[0]
            if term.kind is SpecKind.DB:  # of watts
                term = replace(term, kind=SpecKind.OF_READING, value=10.0 ** (term.value / 10.0) - 1.0)
            if (term.kind is SpecKind.ABSOLUTE) == bool(about) or term.value >= 1.0:
                raise OutOfRangeError(f"“{text}” can't be taken here.", f"Type for example {example}.")
            kept[name] = Property(about, UNITS[unit].base, term)
        return replace(part, properties=kept)

    return Fact(Field(field_id, label, example, help), shown, taken)


AT_MOST, MEASURED = "at most", "as measured"


def is_measured(field_id: str, label: str, name: str) -> Fact:
    """Whether a property is a data sheet's ceiling or was measured. Comes behind the property."""

    def shown(part: Part) -> str:
        stated = part.properties.get(name)
        return MEASURED if stated is not None and stated.measured else AT_MOST

    def taken(part: Part, text: str) -> Part:
        stated = part.properties.get(name)
        if stated is None:
            return part
        return replace(part, properties={**part.properties, name: replace(stated, measured=text == MEASURED)})

    why = "A known magnitude costs √2·|Γ1Γ2|, a ceiling |Γ1Γ2|/√2"
    return Fact(Field(field_id, label, "", why, (AT_MOST, MEASURED)), shown, taken)


SWR = (
    quantity(
        "swr", "SWR of its ports", "1.2", "swr", "", 1.0, 1e3, needed=False, help="Left empty: at most 1.2 is assumed"
    ),
    is_measured("swr_is", "that SWR is", "swr"),
)


# ports


def port_power(field_id: str, label: str, example: str, *places: int, needed: bool = False, help: str = "") -> Fact:
    """What ports bear, in W; the first of them is shown."""

    def shown(part: Part) -> str:
        limit = part.ports[places[0]].power_limit_w
        return tidy(plain(limit, "W")) if limit else ""

    def taken(part: Part, text: str) -> Part:
        if needed and not text:
            raise OutOfRangeError("This is needed.", f"Type for example {example}.")
        limit = read_within(text, "W", 1e-6, 1e6, example) if text else None
        return with_ports(part, places, lambda port: replace(port, power_limit_w=limit))

    return Fact(Field(field_id, label, example, help), shown, taken)


def port_volts(field_id: str, label: str, example: str, place: int = 0, needed: bool = False) -> Fact:
    """What a port bears, V peak."""

    def shown(part: Part) -> str:
        limit = part.ports[place].volts_limit_vpk
        return tidy(plain(limit, "V")) if limit else ""

    def taken(part: Part, text: str) -> Part:
        if needed and not text:
            raise OutOfRangeError("This is needed.", f"Type for example {example}.")
        limit = read_within(text, "V", 1e-3, 1e6, example) if text else None
        return with_ports(part, (place,), lambda port: replace(port, volts_limit_vpk=limit))

    return Fact(Field(field_id, label, example), shown, taken)


def with_ports(part: Part, places: tuple[int, ...], change: Callable[[Port], Port]) -> Part:
    """The part with some of its ports changed."""
    ports = tuple(change(port) if number in places else port for number, port in enumerate(part.ports))
    return replace(part, ports=ports)


def _span_shown(part: Part) -> str:
    low, high = part.ports[0].frequency_min_hz, part.ports[0].frequency_max_hz
    return tidy(f"{frequency(low)} to {frequency(high)}") if low and high else ""


def _span_taken(part: Part, text: str) -> Part:
    if not text:
        return replace(part, ports=tuple(replace(p, frequency_min_hz=None, frequency_max_hz=None) for p in part.ports))
    low_text, _, high_text = text.replace("–", " to ").partition(" to ")
    if not any(letter.isalpha() for letter in low_text):
        low_text += "".join(letter for letter in high_text if letter.isalpha())  # "1.8 to 30 MHz"
    low, high = (value_from_text(item, UNITS["MHz"], "this field", "1.8 to 30 MHz") for item in (low_text, high_text))
    if not 0 <= low < high:
        raise OutOfRangeError("A span rises.", "Type for example 1.8 to 30 MHz.")
    low = max(low, 1.0)
    return replace(part, ports=tuple(replace(p, frequency_min_hz=low, frequency_max_hz=high) for p in part.ports))


SPAN = Fact(
    Field("span", "frequency span", "1.8 to 30 MHz", "Lowest and highest frequency it is specified for"),
    _span_shown,
    _span_taken,
)


# switches


def _positions_shown(part: Part) -> str:
    if not part.switches:
        return ""
    return "; ".join(
        f"{item.label}: {item.properties['loss_db'].value:g} dB" if "loss_db" in item.properties else item.label
        for item in part.switches[0].positions
    )


def _positions_taken(part: Part, text: str) -> Part:
    words = [word.strip() for word in text.split(";") if word.strip()]
    if not words:
        return replace(part, switches=())
    positions = []
    for word in words:
        label, _, stated = word.partition(":")
        value = read_within(stated.strip() or label, "dB", 0.0, 200.0, "10 dB: 10.1 dB")
        own = part.properties.get("loss_db")
        term = own.spec if own else None
        positions.append(Position(label.strip(), {"loss_db": Property(value, "dB", term)}))
    if len({item.label for item in positions}) != len(positions):
        raise OutOfRangeError("Two positions have one name.", "Name each once: 0 dB; 10 dB; 20 dB.")
    return replace(part, switches=(Switch("step", tuple(positions)),))


POSITIONS = Fact(
    Field(
        "positions", "switch positions", "0 dB; 10 dB: 10.1 dB; 20 dB",
        "Leave empty for a fixed part; the first position counts until it is set",
    ),
    _positions_shown, _positions_taken,
)  # fmt: skip


OUTPUT = "output"
"""Name of a source's switch where it has several outputs."""


def outputs() -> Fact:
    """The outputs of a source that has several: a switch of which each position is one."""

    def shown(part: Part) -> str:
        return "; ".join(item.label for switch in part.switches if switch.id == OUTPUT for item in switch.positions)

    def taken(part: Part, text: str) -> Part:
        names = tuple(dict.fromkeys(name.strip() for name in text.split(";") if name.strip()))
        if len(names) == 1:
            raise OutOfRangeError("One output needs no name.", "Type two or more, or leave it empty: front; rear.")
        others = tuple(switch for switch in part.switches if switch.id != OUTPUT)
        made = (Switch(OUTPUT, tuple(Position(name) for name in names)),) if names else ()
        return replace(part, switches=(*others, *made))

    field = Field("outputs", "outputs, where it has several", "front; rear", "Compared in turn, step by step")
    return Fact(field, shown, taken)


# what is inside


PIECES: Mapping[BranchKind, tuple[float, float]] = {
    BranchKind.RESISTOR: (1e-3, 1e9), BranchKind.CAPACITOR: (1e-15, 1e-3), BranchKind.TURNS: (1.0, 1e4),
    BranchKind.INDUCTOR: (1e-12, 10.0),
}  # fmt: skip
"""From where to where a piece's value may lie, in Ω, F, turns or H."""


def piece(
    field_id: str, label: str, example: str, component: str, kind: BranchKind, nodes: tuple[str, ...], unit: str,
    *, needed: bool = True, help: str = "",
) -> Fact:  # fmt: skip
    """The nominal value of a piece; the piece is made where it is typed first and goes where the field is emptied."""

    def shown(part: Part) -> str:
        found = _component(part, component)
        return "" if found is None else tidy(plain(found.nominal, UNITS[unit].base))

    def taken(part: Part, text: str) -> Part:
        others = tuple(item for item in part.components if item.id != component)
        if not text:
            if needed:
                raise OutOfRangeError("This is needed.", f"Type for example {example}.")
            return replace(part, components=others)
        value = read_within(text, unit, *PIECES[kind], example)
        former = _component(part, component) or Component(component, kind, nodes, value)
        return replace(part, components=(*others, replace(former, nominal=value, nodes=nodes)))

    return Fact(Field(field_id, label, example, help), shown, taken, component)


def piece_measured(field_id: str, label: str, example: str, component: str, unit: str) -> Fact:
    """What a piece measured, with ± its standard uncertainty where it was typed: "2455 ± 5 Ω"."""

    def shown(part: Part) -> str:
        found = _component(part, component)
        if found is None or found.measured is None:
            return ""
        known = f" ± {tidy(plain(found.u_measured, UNITS[unit].base))}" if found.u_measured else ""
        return f"{tidy(plain(found.measured, UNITS[unit].base))}{known}"

    def taken(part: Part, text: str) -> Part:
        value_text, _, u_text = text.partition("±")
        lowest, highest = PIECES[BranchKind.RESISTOR]
        value = read_within(value_text.strip(), unit, lowest, highest, example) if text else None
        u = read_within(u_text.strip(), unit, 0.0, highest, example) if u_text.strip() else 0.0
        return _with_component(part, component, lambda item: replace(item, measured=value, u_measured=u))

    return Fact(
        Field(field_id, label, example, "Counts in place of the nominal value; ± its standard uncertainty"),
        shown,
        taken,
        component,
    )


def piece_power(field_id: str, label: str, example: str, component: str) -> Fact:
    """What a piece bears; derate to half (common practice, no source)."""

    def shown(part: Part) -> str:
        found = _component(part, component)
        return tidy(plain(found.power_limit_w, "W")) if found and found.power_limit_w else ""

    def taken(part: Part, text: str) -> Part:
        limit = read_within(text, "W", 1e-6, 1e6, example) if text else None
        return _with_component(part, component, lambda item: replace(item, power_limit_w=limit))

    return Fact(Field(field_id, label, example, "Of the whole stack, derated to half"), shown, taken, component)


def piece_tolerance(field_id: str, label: str, example: str, component: str) -> Fact:
    """What a piece's nominal value is good to."""

    def shown(part: Part) -> str:
        found = _component(part, component)
        return text_of_spec((found.tolerance,)).replace(" of reading", "") if found and found.tolerance else ""

    def taken(part: Part, text: str) -> Part:
        terms = spec_from_text(text, "")
        return _with_component(part, component, lambda item: replace(item, tolerance=terms[0] if terms else None))

    return Fact(Field(field_id, label, example), shown, taken, component)


def _component(part: Part, name: str) -> Component | None:
    return next((item for item in part.components if item.id == name), None)


def _with_component(part: Part, name: str, change: Callable[[Component], Component]) -> Part:
    return replace(part, components=tuple(change(item) if item.id == name else item for item in part.components))


def resistor(
    name: str, nodes: tuple[str, ...], example: str, *, needed: bool = True, help: str = ""
) -> tuple[Fact, ...]:  # fmt: skip
    """All facts of one resistor."""
    key, kind = name.lower(), BranchKind.RESISTOR
    return (
        piece(key, f"{name}, nominal", example, name, kind, nodes, "Ω", needed=needed, help=help),
        piece_tolerance(f"{key}_tolerance", f"{name}, good to ±", "5 %", name),
        piece_measured(f"{key}_measured", f"{name}, measured", f"{example} ± 5 Ω", name, "Ω"),
        piece_power(f"{key}_power", f"{name}, rating", "3 W", name),
    )


# what it shows


def indicator_spec(unit: str) -> Fact:
    """Stated performance of the first indicator, as the data sheet says it."""

    def shown(part: Part) -> str:
        return text_of_spec(part.indicators[0].spec) if part.indicators else ""

    def taken(part: Part, text: str) -> Part:
        if not part.indicators:
            return part
        first = replace(part.indicators[0], spec=spec_from_text(text, unit))
        return replace(part, indicators=(first, *part.indicators[1:]))

    example = "3 % of full scale + 1 digit"
    why = "of full scale, of reading, dB, digits, or unknown; rectangular unless “; normal k=2” stands behind it"
    return Fact(Field("accuracy", "stated accuracy", example, why), shown, taken)


_SOURCE_SHOWS = {"setting": 0, "own_meter": 1}
"""What a source shows of its power comes before all else it shows."""


def claim(indicator_id: str, label: str, why: str) -> Fact:
    """What a source says of its own power, with its accuracy."""
    field = Field(indicator_id, label, "10 % of reading", f"of reading, dB, or unknown; {why}")
    return _where_typed(field, label.partition(",")[0], Kind.INCIDENT, "W")


def own_swr_meter() -> Fact:
    """A source's own SWR meter, with the accuracy of its scale."""
    field = Field(
        "own_swr", "its own SWR meter, ±", "unknown", "10 % of reading, or unknown: its directivity alone is claimed; "
        "left empty: it has none",
    )  # fmt: skip
    return _where_typed(field, "SWR", Kind.SWR, "")


def supply_meter(indicator_id: str, label: str, kind: Kind, unit: str) -> Fact:
    """A meter of the DC that goes into a source, with its accuracy."""
    field = Field(indicator_id, f"{label}, ±", "1 %", "of its meter; left empty: it isn't read")
    return _where_typed(field, label, kind, unit)


def _where_typed(field: Field, name: str, kind: Kind, unit: str) -> Fact:
    """An indicator with its accuracy, that is there where something is typed."""
    indicator_id = field.id

    def shown(part: Part) -> str:
        found = next((item for item in part.indicators if item.id == indicator_id), None)
        return text_of_spec(found.spec) if found else ""

    def taken(part: Part, text: str) -> Part:
        others = tuple(item for item in part.indicators if item.id != indicator_id)
        if not text.strip():
            return replace(part, indicators=others)
        shows = Indicator(indicator_id, name, kind, unit, spec=spec_from_text(text, unit))
        ordered = sorted((*others, shows), key=lambda item: _SOURCE_SHOWS.get(item.id, 2))
        return replace(part, indicators=tuple(ordered))

    return Fact(field, shown, taken)


def scope_accuracy() -> Fact:
    """Stated performance of a trace; a bare share is of the reading."""

    def shown(part: Part) -> str:
        return text_of_spec(part.indicators[0].spec).replace(" of reading", "")

    def taken(part: Part, text: str) -> Part:
        terms = spec_from_text(text, "V")
        if not terms or any(term.value >= 1.0 and term.kind is SpecKind.OF_READING for term in terms):
            raise OutOfRangeError("This is needed, below 100 %.", "Type for example 3 %, or unknown.")
        return replace(part, indicators=(replace(part.indicators[0], spec=terms), *part.indicators[1:]))

    return Fact(Field("accuracy", "accuracy, of reading", "3 %"), shown, taken)


def volts_form() -> Fact:
    """How the volts on a screen are read."""

    def taken(part: Part, text: str) -> Part:
        first = replace(part.indicators[0], unit=UNITS[text or "Vpp"].symbol)
        return replace(part, indicators=(first, *part.indicators[1:]))

    choices = ("Vpp", "Vpk", "Vrms")
    return Fact(Field("form", "volts read as", choices=choices), lambda part: part.indicators[0].unit, taken)


def harmonic(field_id: str, label: str, example: str, order: int) -> Fact:
    """A harmonic's level over the carrier, which its data sheet states or somebody measured."""
    name = f"harmonic_{order}_dbc"

    def shown(part: Part) -> str:
        level = part.properties.get(name)
        return f"{level.value:g} dBc" if level else ""

    made = quantity(field_id, label, example, name, "dB", -120.0, -3.0, needed=False)
    return Fact(
        Field(field_id, label, example, f"Left empty: at most {ASSUMED_DBC:g} dBc is assumed"), shown, made.taken
    )


def harmonics_are() -> Fact:
    """Whether all harmonics stated are ceilings or were measured. Comes behind them."""

    def taken(part: Part, text: str) -> Part:
        kept = {
            name: replace(item, measured=text == MEASURED) if name.startswith("harmonic_") else item
            for name, item in part.properties.items()
        }
        return replace(part, properties=kept)

    def shown(part: Part) -> str:
        stated = [item.measured for name, item in part.properties.items() if name.startswith("harmonic_")]
        return MEASURED if any(stated) else AT_MOST

    return Fact(Field("harmonics_are", "harmonics are", choices=(AT_MOST, MEASURED)), shown, taken)


def ranges_in(unit: str, example: str) -> Fact:
    """Full scales of the first indicator; a relative scale's ranges are levels, and the needle is added."""

    def shown(part: Part) -> str:
        if not part.indicators:
            return ""
        if unit == "dBm":
            return "; ".join(f"{float(dbm_from_watts(item.full_scale)):g} dBm" for item in part.indicators[0].ranges)
        return "; ".join(tidy(plain(item.full_scale, unit)) for item in part.indicators[0].ranges)

    def taken(part: Part, text: str) -> Part:
        words = [word.strip() for word in text.split(";") if word.strip()]
        values = sorted(value_from_text(word, UNITS[unit], "this field", example) for word in words)
        if not part.indicators or not values:
            return part
        made = tuple(_range(value, unit) for value in values)
        return replace(part, indicators=(replace(part.indicators[0], ranges=made), *part.indicators[1:]))

    return Fact(Field("ranges", "ranges", example, "Full scale of each"), shown, taken)


def _range(value: float, unit: str) -> Range:
    if unit == "dBm":
        dbm = float(dbm_from_watts(value))
        return Range(f"{dbm:+g}", value, "W", pointer_offset_db=dbm)
    return Range(f"{value:g}", value, UNITS[unit].base)


def shows(
    label: str, quantity: Kind, unit: str, detector: Detector, *, negative: bool = False
) -> tuple[Indicator, ...]:
    """One indicator to begin from."""
    return (Indicator("reading", label, quantity, unit, detector=detector, can_be_negative=negative),)


def chosen(field_id: str, label: str, setting: str, choices: tuple[str, ...], help: str = "") -> Fact:
    """One of a few words, kept among the part's settings; the first is what holds where nothing was said."""

    def taken(part: Part, text: str) -> Part:
        others = {key: value for key, value in part.settings.items() if key != setting}
        return replace(part, settings=others if text in ("", choices[0]) else {**others, setting: text})

    return Fact(Field(field_id, label, "", help, choices), lambda part: part.settings.get(setting, choices[0]), taken)


def cable_choice() -> Fact:
    """The kind of cable, for loss, impedance and velocity."""
    labels = ("not said", *(item.label for item in CABLES))
    return chosen(
        "cable", "cable type", "cable", labels, "Gives loss (k1·√f + k2·f), impedance and velocity factor"
    )  # fmt: skip
