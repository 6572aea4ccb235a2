"""What a data sheet says of a needle and its dial: ranges, marks, law, accuracy of full scale."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import TypeVar

from fenmist.errors import FenmistError, OutOfRangeError
from fenmist.findings.note import Problem
from fenmist.kit.part import Part, Range, SpecKind
from fenmist.kit.scale import Scale, db_scale
from fenmist.kit.sheet import Fact, Field, Together, read_within, tidy, with_ports
from fenmist.kit.spectext import spec_from_text, text_of_spec
from fenmist.measurand import Detector
from fenmist.units.display import plain
from fenmist.units.typed import number_from_text

T = TypeVar("T")

SET_RANGES = "set ranges"
"""Setting of a part: names of ranges that its set control makes, a known power fixing a mark."""


def meter_accuracy() -> Fact:
    """Stated performance of a wattmeter's ranges; a bare share is of full scale."""

    def shown(part: Part) -> str:
        stated = part.indicators[0].stated
        text = text_of_spec(stated)
        return text.removesuffix(" of full scale") if len(stated) == 1 else text

    def taken(part: Part, text: str) -> Part:
        terms = spec_from_text(f"{text} of full scale" if text.endswith("%") else text, "W")
        shares = (SpecKind.OF_RANGE, SpecKind.OF_READING)
        if not terms or any(term.value > 1.0 and term.kind in shares for term in terms):
            raise OutOfRangeError("This is needed, up to 100 %.", "Type for example 5 %, or unknown.")
        return _with_ranges(part, lambda item: replace(item, spec=terms))

    return Fact(Field("accuracy", "accuracy, of full scale", "5 %"), shown, taken)


DETECTORS: Mapping[str, Detector] = {
    "averages volts": Detector.AVERAGE, "averages power": Detector.THERMAL, "holds crests": Detector.HOLD,
    "shows the true peak": Detector.PEAK,
}  # fmt: skip
"""What a meter's detector does, in words."""


def detects() -> Fact:
    """What the detector behind all that a meter shows makes of harmonics, and of anything but a steady carrier."""
    words = {detector: text for text, detector in DETECTORS.items()}

    def shown(part: Part) -> str:
        return words.get(part.indicators[0].detector, words[Detector.THERMAL])  # an rms detector averages power

    def taken(part: Part, text: str) -> Part:
        if text in ("", shown(part)):
            return part
        return replace(part, indicators=tuple(replace(item, detector=DETECTORS[text]) for item in part.indicators))

    says = "A steady carrier is the same to all; a job on waveforms tells which it is"
    return Fact(Field("detector", "its detector", "", says, tuple(DETECTORS)), shown, taken)


def _with_ranges(part: Part, change: Callable[[Range], Range]) -> Part:
    """The part with all its ranges changed: needles share the arc and what is stated of it."""
    indicators = tuple(replace(item, ranges=tuple(change(used) for used in item.ranges)) for item in part.indicators)
    return replace(part, indicators=indicators)


def set_ranges(part: Part) -> tuple[str, ...]:
    """Ranges of a meter whose full scale is what its set control was set to."""
    return tuple(part.settings.get(SET_RANGES, "").split())


def ranges_by_control() -> Fact:
    """Which of a dial's ranges exist by its set control alone."""

    def taken(part: Part, text: str) -> Part:
        known = [item.id for item in part.indicators[0].ranges]
        names = [f"{number:g}" for number in _numbers(text.replace(";", " ").replace("W", " "))]
        unknown = [name for name in names if name not in known]
        if unknown:
            raise OutOfRangeError(
                f"There is no range of {unknown[0]} W to be set.", f"It has {', '.join(known)}: type it there first."
            )
        others = {key: value for key, value in part.settings.items() if key != SET_RANGES}
        return replace(part, settings={**others, SET_RANGES: " ".join(names)} if names else others)

    field = Field(
        "set_ranges", "of these by its set control", "200 W",
        "A known power fixes the mark, at one frequency; left empty: none",
    )  # fmt: skip
    return Fact(field, lambda part: "; ".join(f"{name} W" for name in set_ranges(part)), taken)


DB_MARKS = "needle marks"
"""Setting of a part: what is printed under a needle that shows dB relative to its range."""


def needle_scale(part: Part) -> Scale | None:
    """The arc of a needle that shows dB relative to its range; none of a display."""
    text = part.settings.get(DB_MARKS, "")
    return db_scale(_numbers(text)) if text else None


def db_needle() -> Fact:
    """What is printed under a needle that shows dB."""

    def taken(part: Part, text: str) -> Part:
        others = {key: value for key, value in part.settings.items() if key != DB_MARKS}
        if not text.strip():
            return replace(part, settings=others)
        marks = _numbers(text.replace("−", "-"))
        if len(marks) > MOST_MARKS or any(abs(mark) > LARGEST_DB for mark in marks):
            raise OutOfRangeError("No dial has such marks.", "Type for example -10 -5 -3 -1 0 3.")
        made = db_scale(marks)  # refuses what doesn't rise
        return replace(part, settings={**others, DB_MARKS: " ".join(f"{mark:g}" for mark in made.marks)})

    field = Field(
        "db_marks", "marks under its needle, dB", "-10 -5 -3 -1 0 3", "Relative to the range; left empty: a display"
    )
    return Fact(field, lambda part: part.settings.get(DB_MARKS, ""), taken)


LARGEST_DB = 60.0
"""On a dial."""

_LAWS = {0.5: "square root", 1.0: "linear"}
"""Scale laws that have a name: deflection over value."""

MOST_RANGES, MOST_MARKS = 20, 500
"""Of a dial: ranges, and marks or divisions between two of them."""


def _dial_shown(part: Part) -> dict[str, str]:
    ranges = part.indicators[0].ranges
    scale = ranges[0].scale if ranges else None
    return {
        "ranges": "; ".join(tidy(plain(item.full_scale, "W")) for item in ranges),
        "marks": " ".join(f"{value:g}" for value in scale.marks) if scale else "",
        "divisions": " ".join(str(count) for count in scale.divisions) if scale else "",
        "law": _LAWS.get(scale.law, f"{scale.law:g}") if scale else "",
    }


def _dial_taken(part: Part, texts: Mapping[str, str]) -> Part | tuple[Problem, ...]:
    problems: list[Problem] = []
    nothing: tuple[float, ...] = ()
    none: tuple[int, ...] = ()

    def take(field_id: str, read: Callable[[str], T], default: T) -> T:
        try:
            return read(texts[field_id])
        except FenmistError as error:
            problems.append(Problem(field_id, error.headline, error.hint))
            return default

    ranges = take("ranges", _full_scales, nothing)
    marks = take("marks", _numbers, nothing)
    law = take("law", _law, 1.0) if marks else 1.0
    counts = take("divisions", _counts, none)
    if problems:
        return tuple(problems)
    scale = take("divisions", lambda _: Scale("arc", marks, counts, law) if marks else None, None)
    if problems:
        return tuple(problems)
    spec = part.indicators[0].stated
    made = tuple(Range(f"{full:g}", full, "W", scale, spec) for full in ranges)
    indicators = tuple(replace(item, ranges=made if item.ranges else ()) for item in part.indicators)
    bears = replace(part, indicators=(replace(indicators[0], ranges=made), *indicators[1:]))
    return with_ports(bears, (0, 1), lambda port: replace(port, power_limit_w=max(ranges)))


def _full_scales(text: str) -> tuple[float, ...]:
    found = tuple(sorted(_numbers(text.replace(";", " ").replace("W", " "))))
    if not 0 < len(found) <= MOST_RANGES or not all(1e-12 <= item <= 1e7 for item in found):
        raise OutOfRangeError("A meter needs a range above 0.", "Type for example 20 W; 200 W.")
    return found


def _law(text: str) -> float:
    known = next((law for law, name in _LAWS.items() if name == text.lower()), None)
    return read_within(text, "", 0.1, 4.0, "square root, linear or 0.5") if known is None else known


def _counts(text: str) -> tuple[int, ...]:
    found = tuple(round(count) for count in _numbers(text))
    if len(found) > MOST_MARKS or not all(1 <= count <= MOST_MARKS for count in found):
        raise OutOfRangeError("No dial has that many divisions.", "Type one count for each gap.")
    return found


def _numbers(text: str) -> tuple[float, ...]:
    return tuple(number_from_text(word)[0] for word in text.split())


DIAL = Together(
    (
        Field("ranges", "ranges", "20 W; 200 W", "Full scale of each range; they share the arc"),
        Field("marks", "printed marks", "0 20 40 60 100 140 200"),
        Field("divisions", "divisions between them", "4 4 4 4 4 6", "One count for each gap between marks"),
        Field("law", "scale law", "square root", "Square root, linear, or n in deflection = (value/top)^n"),
    ),
    _dial_shown, _dial_taken,
)  # fmt: skip
