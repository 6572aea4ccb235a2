"""What a data sheet says of a meter of match: what it shows, on which arc, how well; where its detector begins."""

from collections.abc import Mapping
from dataclasses import replace

from fenmist.errors import FenmistError, OutOfRangeError
from fenmist.findings.note import Problem
from fenmist.kit.part import Indicator, Part, Range
from fenmist.kit.scale import Scale
from fenmist.kit.sheet import Fact, Field, Together, chosen, quantity
from fenmist.kit.spectext import spec_from_text, text_of_spec
from fenmist.measurand import OF_MATCH, Kind
from fenmist.units.typed import number_from_text

SWR, RHO, LOSS = "SWR", "reflection coefficient", "return loss"

_SHOWS: Mapping[str, tuple[str, Kind, str]] = {
    SWR: ("swr", Kind.SWR, ""),
    RHO: ("rho", Kind.REFLECTION, ""),
    LOSS: ("return_loss", Kind.RETURN_LOSS, "dB"),
}
"""What a meter of match shows: id, kind and unit of the indicator, by what it is called."""

FORWARD, BOTH, ALL_THREE = "forward alone", "forward and reflected", "forward, reflected and SWR"
"""What a wattmeter shows."""

MOST_MARKS = 100


def match_shows() -> Fact:
    """Whether a meter shows SWR, ρ or return loss."""

    def shown(part: Part) -> str:
        found = _of_match(part)
        return next((name for name, (_, kind, _) in _SHOWS.items() if found and found.quantity is kind), SWR)

    def taken(part: Part, text: str) -> Part:
        name, kind, unit = _SHOWS[text or SWR]
        known = _of_match(part)
        if known is not None and known.quantity is kind:
            return part
        others = tuple(item for item in part.indicators if item is not known)
        return replace(part, indicators=(*others, Indicator(name, text or SWR, kind, unit)))

    return Fact(Field("shows", "it shows", choices=tuple(_SHOWS)), shown, taken)


def _of_match(part: Part) -> Indicator | None:
    """The indicator of SWR, ρ or return loss."""
    return next((item for item in part.indicators if item.quantity in OF_MATCH[1:]), None)


def swr_scale(marks: tuple[float, ...] = (1.0, 1.2, 1.5, 2.0, 3.0, 5.0), divisions: tuple[int, ...] = ()) -> Scale:
    """An SWR arc: a needle stands at ρ = (S − 1)/(S + 1), full scale is an SWR without end.

    >>> swr_scale().deflection(3.0)
    0.5
    """
    counts = divisions or tuple(2 for _ in marks[1:])
    return Scale("SWR", marks, counts, places=tuple((mark - 1.0) / (mark + 1.0) for mark in marks))


def _arc_shown(part: Part) -> dict[str, str]:
    found = _of_match(part)
    scale = found.ranges[0].scale if found and found.ranges else None
    return {
        "swr_marks": " ".join(f"{value:g}" for value in scale.marks) if scale else "",
        "swr_divisions": " ".join(str(count) for count in scale.divisions) if scale else "",
        "swr_accuracy": text_of_spec(found.stated) if found else "",
    }


def _arc_taken(part: Part, texts: Mapping[str, str]) -> Part | tuple[Problem, ...]:
    found = _of_match(part)
    if found is None:
        return part
    problems = []
    terms, scale = found.stated, None
    try:
        terms = spec_from_text(texts["swr_accuracy"], found.unit)
    except FenmistError as error:
        problems.append(Problem("swr_accuracy", error.headline, error.hint))
    try:
        scale = _scale(texts["swr_marks"], texts["swr_divisions"], found.quantity)
    except FenmistError as error:
        problems.append(Problem("swr_marks", error.headline, error.hint))
    if problems:
        return tuple(problems)
    ranges = () if scale is None else (Range(found.label, scale.top, found.unit, scale, terms),)
    made = replace(found, ranges=ranges, spec=() if ranges else terms)
    return replace(part, indicators=tuple(made if item is found else item for item in part.indicators))


def _scale(marks_text: str, divisions_text: str, kind: Kind) -> Scale | None:
    marks = tuple(number_from_text(word)[0] for word in marks_text.split())
    if not marks:
        return None
    if kind is Kind.RETURN_LOSS:
        raise OutOfRangeError("A return loss is read off a display here.", "Leave the marks empty.")
    counts = tuple(round(number_from_text(word)[0]) for word in divisions_text.split())
    if len(marks) > MOST_MARKS or any(not 1 <= count <= MOST_MARKS for count in counts):
        raise OutOfRangeError("No dial has that many marks or divisions.", "Type them as they are printed.")
    if kind is Kind.SWR:
        if marks[0] < 1.0:
            raise OutOfRangeError("An SWR begins at 1.", "Type for example 1 1.2 1.5 2 3 5.")
        return swr_scale(marks, counts)
    if marks[-1] > 1.0:
        raise OutOfRangeError("ρ ends at 1.", "Type for example 0 0.1 0.2 0.5 1.")
    return Scale("ρ", marks, counts, places=marks)


ARC = Together(
    (
        Field("swr_marks", "printed marks", "1 1.2 1.5 2 3 5", "Of its SWR or ρ arc; left empty: a display"),
        Field("swr_divisions", "divisions between them", "2 3 5 5 4", "One count for each gap between marks"),
        Field(
            "swr_accuracy", "accuracy of its scale, ±", "10 % of reading",
            "of reading, a number in its unit, dB, or digits; left empty: its directivity alone is claimed",
        ),
    ),
    _arc_shown, _arc_taken,
)  # fmt: skip


def watts_shown() -> Fact:
    """Which of forward, reflected and SWR a wattmeter shows; reflected power on the ranges of forward power."""

    def shown(part: Part) -> str:
        kinds = {item.quantity for item in part.indicators}
        if Kind.REFLECTED not in kinds:
            return FORWARD
        return ALL_THREE if Kind.SWR in kinds else BOTH

    def taken(part: Part, text: str) -> Part:
        if shown(part) == (text or FORWARD):
            return part
        forward, *others = part.indicators
        kept = [item for item in others if item.quantity not in (Kind.REFLECTED, Kind.SWR)]
        if text in (BOTH, ALL_THREE):
            kept.append(replace(forward, id="reflected", label="reflected", quantity=Kind.REFLECTED))
        if text == ALL_THREE:
            kept.append(Indicator("swr", SWR, Kind.SWR, ""))
        return replace(part, indicators=(forward, *kept))

    return Fact(Field("shows", "it shows", choices=(FORWARD, BOTH, ALL_THREE)), shown, taken)


NEEDLES, CROSSING = "needles", "crossing over one dial"
"""Setting of a part, and what it says where forward and reflected power have a needle each over one dial."""


def needles() -> Fact:
    """How a wattmeter's needles stand."""
    return chosen(
        NEEDLES, "its needles", NEEDLES, ("one after the other", CROSSING),
        "Two that cross: both are read, and where they cross is the SWR",
    )  # fmt: skip


def crosses(part: Part) -> bool:
    """Whether a meter has two crossing needles."""
    kinds = {item.quantity for item in part.indicators}
    return part.settings.get(NEEDLES) == CROSSING and {Kind.INCIDENT, Kind.REFLECTED} <= kinds


FLOOR = quantity(
    "floor", "reflected power is shown from", "10 mW", "floor_w", "W", 1e-12, 1e3, needed=False,
    help="Where its detector begins; below, an SWR looks too good",
)  # fmt: skip
