"""What a room shows of its results, as data: drawn by the desk and by paper alike.

Texts are ready to be set; nothing here knows a screen, a page or a question.
"""

import math

from fenmist.calibration.job import PlanPoint
from fenmist.frozen import dataclass
from fenmist.reading.event import AS_FOUND, AS_LEFT
from fenmist.units.display import rounded

Cell = str | float | int
"""What stands in a cell of a table for other programs."""

FREQUENCY, LEVEL, YEARS = "frequency", "level", "years"
AXIS_TITLES = {FREQUENCY: "frequency in MHz", LEVEL: "level in W, as planned", YEARS: "year and month"}
"""What runs across, with its unit."""

FAR, FAR_TOLERANCES = 75.0, 3.0
"""Value, or tolerances, beyond which a point no longer stretches the drawing (Fenmist's own)."""


@dataclass(frozen=True)
class ChartPoint:
    """One point with its bar, in the chart's unit."""

    point_id: str
    x: float  # MHz, W or years
    value: float
    low: float
    high: float
    tolerance: float  # half-width of the corridor there; 0 where nothing is claimed


@dataclass(frozen=True)
class ChartSeries:
    """Points of one level (or frequency) in one phase, rising."""

    label: str
    points: tuple[ChartPoint, ...]
    group: int = 0  # which level or frequency, from 0: the sign
    solid: bool = True  # false as found where there is an as left
    between: tuple[tuple[float, float], ...] = ()  # the curve through them, as places and values


MOST_TICKS, LETTERS_ACROSS = 24, 110
"""Places across a chart that are named, and the letters that there is room for."""


@dataclass(frozen=True)
class Chart:
    """A quantity with its uncertainty over frequency, level or years: a series per level (or frequency) and phase."""

    series: tuple[ChartSeries, ...]
    over: str = FREQUENCY
    quantity: str = "error"
    unit: str = "%"

    @property
    def groups(self) -> tuple[tuple[int, str], ...]:
        """Number and name of each level or frequency."""
        return tuple({line.group: line.label for line in self.series}.items())

    @property
    def phases_said(self) -> str:
        """What solid and hollow signs mean, where both stand."""
        return "" if all(line.solid for line in self.series) else f"hollow: {AS_FOUND}, solid: {AS_LEFT}"

    @property
    def places(self) -> tuple[float, ...]:
        """All places across, rising, each once."""
        return tuple(sorted({point.x for line in self.series for point in line.points}))

    @property
    def reach(self) -> float:
        """Largest value that must fit, at least 1 % or 0.1 dB; what lies far outside is drawn at the edge."""
        points = [point for line in self.series for point in line.points]
        found = [max(abs(point.low), abs(point.high), point.tolerance) for point in points]
        farthest = max([FAR, *(FAR_TOLERANCES * point.tolerance for point in points)])
        return min(max([1.0 if self.unit == "%" else 0.1, *found]), farthest)

    def tick(self, x: float) -> str:
        """What stands at a place across."""
        if self.over != YEARS:
            return f"{x:g}"
        return f"{int(x)}-{min(int((x - int(x)) * 12.0) + 1, 12):02d}"

    @property
    def ticks(self) -> tuple[tuple[float, str], ...]:
        """Places across with what stands at them: of many those nearest to even steps, as far as there is room."""
        found = self.places
        room = LETTERS_ACROSS // (2 + max((len(self.tick(x)) for x in found), default=1))
        count = min(MOST_TICKS, room)
        if len(found) > count:
            steps = (found[0] + n * (found[-1] - found[0]) / (count - 1) for n in range(count))
            nearest = (min((abs(x - step), x) for x in found)[1] for step in steps)
            found = tuple(dict.fromkeys(nearest))
        return tuple((x, self.tick(x)) for x in found)

    def said_at(self, point: ChartPoint) -> str:
        """A point's values in words, for the crosshair."""
        place = {FREQUENCY: f"{point.x:g}\u2009MHz", LEVEL: f"{point.x:g}\u2009W"}.get(self.over, self.tick(point.x))
        places = 1 if self.unit == "%" else 2
        low, high = rounded(point.low, places, plus=True), rounded(point.high, places, plus=True)
        claimed = f", tolerance ±{rounded(point.tolerance, places)}\u2009{self.unit}" if point.tolerance else ""
        return f"{place}: {rounded(point.value, places, plus=True)}\u2009{self.unit} ({low} to {high}){claimed}"

    @property
    def axis_title(self) -> str:
        """What runs across."""
        return AXIS_TITLES[self.over]

    @property
    def value_title(self) -> str:
        """What stands up."""
        return f"{self.quantity} in {'per cent' if self.unit == '%' else self.unit}"


@dataclass(frozen=True)
class Voice:
    """What one reference says at a point, in the picture's unit."""

    name: str
    value: float
    low: float
    high: float
    weight: float  # in the consensus
    is_odd: bool
    is_reference: bool


@dataclass(frozen=True)
class Tie:
    """What two of them share, by their places."""

    a: int
    b: int
    correlation: float
    by: str  # names of the parts


FAR_APART = 2.0
"""How far beyond the others a value still stretches the picture, in widths of theirs (Fenmist's own)."""


@dataclass(frozen=True)
class Voices:
    """How the references of a point agree: each with its U, the consensus as a band, what they share as ties."""

    where: str  # "at 14.2 MHz, 100 W"
    unit: str
    voices: tuple[Voice, ...]
    low: float  # of the consensus
    value: float
    high: float
    ties: tuple[Tie, ...]
    said: str  # in a sentence
    name: str = "agreement"
    title: str = "How the references agree, where they lie farthest apart"

    @property
    def weight(self) -> float:
        """What makes one of several worth a place on paper: how far apart they lie, as a ratio."""
        low, high = self.reach
        return high / max(low, 1e-30)

    @property
    def reach(self) -> tuple[float, float]:
        """Lowest and highest value that must fit: what stands apart by more than that is drawn at the edge."""
        inside = [item for item in self.voices if not item.is_odd]
        low = min(self.low, *(item.low for item in inside))
        high = max(self.high, *(item.high for item in inside))
        room = FAR_APART * (high - low)
        odd = [item for item in self.voices if item.is_odd and low - room <= item.value <= high + room]
        return min([low, *(item.low for item in odd)]), max([high, *(item.high for item in odd)])


@dataclass(frozen=True)
class Gap:
    """One round: two marks and what lies between them."""

    name: str  # "round 1"
    first: float  # without the part
    second: float  # with it


@dataclass(frozen=True)
class Gaps:
    """A difference of two readings round by round, and what came of it on an axis with what can't be seen as a wash."""

    where: str  # "at 14.2 MHz, 100 W"
    unit: str
    marks: tuple[str, str]  # what the two are
    rows: tuple[Gap, ...]
    value: float
    low: float
    high: float
    unseen: float  # below that only a bound is a fact
    bound: float
    said: str
    name: str = "rounds"
    title: str = "Round by round, where it is largest"

    @property
    def weight(self) -> float:
        """What makes one of several worth a place on paper: its size."""
        return self.value


@dataclass(frozen=True)
class Spot:
    """A known reflection in the plane, with half the width of what it is known to along both axes."""

    name: str
    x: float  # real part of Γ
    y: float
    u_x: float  # U
    u_y: float
    is_here: bool = True  # false of the other ends, which are drawn faintly


@dataclass(frozen=True)
class Rings:
    """The reflection plane: a ring for what a meter's reading means, a spot for the end that is known."""

    where: str
    low: float  # of the ring
    shown: float
    high: float
    spots: tuple[Spot, ...]
    has_phase: bool  # else the spot may lie anywhere around the centre
    window: tuple[float, float]  # what the meter may show with that spot
    marks: tuple[tuple[float, str], ...]  # radii that are named
    lines: tuple[str, ...]  # beside the drawing
    agrees: bool
    said: str
    other: tuple[float, float] | None = None  # ring of another meter, carried to the same plane
    name: str = "ring and spot"
    title: str = "Ring and spot, where it is farthest from what it should show"

    @property
    def weight(self) -> float:
        """What makes one of several worth a place on paper: how far the meter is off."""
        spot = next(item for item in self.spots if item.is_here)
        return abs(self.shown - float((spot.x**2 + spot.y**2) ** 0.5))

    @property
    def reach(self) -> float:
        """Radius that must fit; the rim is 1."""
        far = [max(abs(item.x) + item.u_x, abs(item.y) + item.u_y) for item in self.spots if item.is_here]
        wanted = 1.3 * max(self.high, self.window[1], *far, 0.02)
        return 1.05 if wanted > RIM_FITS else wanted


@dataclass(frozen=True)
class Stem:
    """One step: where it stands on the ladder, and how far it is off."""

    name: str
    at: float  # dB against the reference step
    value: float
    low: float
    high: float
    is_here: bool = False


@dataclass(frozen=True)
class Stems:
    """Each step's departure as a stem over the ladder, what is claimed as a corridor, floor and ceiling shaded."""

    where: str  # "at 14.2 MHz"
    unit: str
    stems: tuple[Stem, ...]
    tolerance: float
    floor: float | None  # from there down the indicator leaves its law
    ceiling: float | None  # from there up
    said: str
    name: str = "steps"
    title: str = "Step by step, where they depart most"

    @property
    def weight(self) -> float:
        """What makes one of several worth a place on paper: the largest departure."""
        return max((abs(item.value) for item in self.stems), default=0.0)


@dataclass(frozen=True)
class Mark:
    """What a detector would show."""

    name: str
    value: float  # fraction of the carrier


@dataclass(frozen=True)
class Marked:
    """What was shown at one waveform, beside what detectors would show there."""

    name: str
    value: float  # fraction of the carrier
    low: float
    high: float
    marks: tuple[Mark, ...]
    is_here: bool = False


@dataclass(frozen=True)
class Marks:
    """What a meter shows at several waveforms of one PEP, against each kind of detector."""

    where: str  # "at 14.2 MHz, 50 W PEP"
    rows: tuple[Marked, ...]
    found: str  # name of the detector that it is; "" where that isn't sure
    said: str
    name: str = "waveforms"
    title: str = "What it shows at each waveform, and what detectors would"

    @property
    def weight(self) -> float:
        """What makes one of several worth a place on paper: how many waveforms tell."""
        return float(len(self.rows))


@dataclass(frozen=True)
class TurnPlace:
    """One reading that a control would move."""

    point: PlanPoint
    reference_w: float
    indicated_w: float
    expanded_u: float  # of their ratio, relative
    tolerance: float  # relative
    u_again: float  # expanded, relative: of reading it once more, against the same reference


@dataclass(frozen=True)
class Turnable:
    """A range with a control of its own, and everything read on it."""

    range_id: str
    full_scale_w: float  # 0 where it has none
    places: tuple[TurnPlace, ...]


@dataclass(frozen=True)
class Factors:
    """What readings are to be multiplied by: frequency down, level across."""

    headline: str
    headings: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    statements: tuple[str, ...]  # spans that aren't worth using; whether level and frequency can be taken apart


EXPLAINED = ("why", "its figure", "weight", "misses one left out by", "would show next")
"""Columns of what it may be."""


@dataclass(frozen=True)
class Explained:
    """Why the device errs: what it may be, the likeliest first, and the one reading that would decide."""

    headline: str
    rows: tuple[tuple[str, ...], ...]  # by EXPLAINED
    point: PlanPoint | None  # that isn't planned yet
    offer: str  # what each would show there
    chart: Chart  # what was read, with the curve of the likeliest


@dataclass(frozen=True)
class Bend:
    """Readings over a setting, the two lines that meet in them, the knee as a band, what to set."""

    axis_title: str  # "gain"
    value_title: str  # "power shown"
    unit: str
    points: tuple[tuple[float, float], ...]
    knee: float | None  # none where nothing bends
    low: float
    high: float
    plateau: float
    lines: tuple[tuple[float, float], ...]  # through the readings: rising, then standing
    setting: float | None
    said: str
    name: str = "plateau"
    title: str = "Where it stops rising"

    @property
    def weight(self) -> float:
        """What makes one of several worth a place on paper: there is one."""
        return 1.0


@dataclass(frozen=True)
class Course:
    """A value against time, straight between readings, with the level that is asked about."""

    value_title: str
    unit: str
    points: tuple[tuple[float, float], ...]  # seconds from the first, value
    limit: float
    above: tuple[tuple[float, float], ...]  # from when to when it is above that
    said: str
    name: str = "course"
    title: str = "Over time"
    label: str = ""  # of this course, where there are others
    others: tuple[tuple[str, tuple[tuple[float, float], ...]], ...] = ()  # name and points of the others
    most: float | None = None  # level that it is not to go beyond

    @property
    def weight(self) -> float:
        """What makes one of several worth a place on paper: there is one."""
        return 1.0


@dataclass(frozen=True)
class Span:
    """A value with its interval, by one way."""

    name: str
    low: float
    value: float
    high: float
    is_stated: bool  # the one that counts


@dataclass(frozen=True)
class Spans:
    """The same quantity by several ways, each with its interval, and a limit, on one axis of ratios."""

    value_title: str
    unit: str
    spans: tuple[Span, ...]
    limit: float | None
    limit_name: str
    said: str
    name: str = "ways"
    title: str = "By each way"

    @property
    def weight(self) -> float:
        """What makes one of several worth a place on paper: there is one."""
        return 1.0


@dataclass(frozen=True)
class Arrival:
    """Powers at one sighting, station by station, as parts of what is set; nothing where nothing was read."""

    name: str  # "into the load, SWR 1.05"
    parts: tuple[float | None, ...]


@dataclass(frozen=True)
class Arrivals:
    """From what is set to what arrives, a line for each sighting, and the odds of what may be wrong below."""

    stations: tuple[str, ...]
    sightings: tuple[Arrival, ...]
    odds: tuple[tuple[str, float], ...]  # the likeliest first
    said: str
    name: str = "arrivals"
    title: str = "From what is set to what arrives"

    @property
    def weight(self) -> float:
        """What makes one of several worth a place on paper: there is one."""
        return 1.0


@dataclass(frozen=True)
class Twig:
    """One thing that a result leans on."""

    depth: int  # 1 directly, 2 by that
    label: str
    under: str  # when it was calibrated, by whom
    until: str  # "due 2027-05-05", or nothing
    is_loose: bool  # nothing of it is on record, or it was overdue
    is_weakest: bool


@dataclass(frozen=True)
class Tree:
    """From a result to every certificate that it leans on."""

    root: str
    twigs: tuple[Twig, ...]  # each followed by what it leans on
    said: str
    name: str = "what it leans on"
    title: str = "What the results lean on"

    @property
    def weight(self) -> float:
        """What makes one of several worth a place on paper: there is one."""
        return 1.0


@dataclass(frozen=True)
class SweepLine:
    """One curve over frequency."""

    name: str
    points: tuple[tuple[float, float], ...]  # MHz, value
    role: str = "design"  # or "beside" (too little, too much), "measured"


@dataclass(frozen=True)
class Sweep:
    """A figure over frequency: as designed, beside it, as measured with its U, and the corridor that is asked for."""

    value_title: str  # "coupling"
    unit: str
    lines: tuple[SweepLine, ...]
    aim: float
    within: float
    low: float  # of the band, MHz
    high: float
    measured_u: tuple[tuple[float, float, float], ...]  # MHz, lowest and highest value that was measured
    said: str
    name: str = "response"
    title: str = "What it does over frequency"

    @property
    def weight(self) -> float:
        """What makes one of several worth a place on paper: there is one."""
        return 1.0

    @property
    def reach(self) -> float:
        """How far from what is asked the drawing goes: all that lies within twelve times the corridor in the band."""
        off = [
            abs(value - self.aim) for line in self.lines for f, value in line.points if self.low <= f <= self.high
        ]  # fmt: skip
        wanted = min(max([3.0 * self.within, *(1.15 * item for item in off)]), 12.0 * self.within)
        step = 0.5 if wanted > 1.0 else 0.1
        return step * math.ceil(wanted / step - 1e-9)


@dataclass(frozen=True)
class CircuitPiece:
    """A piece of a drawn circuit, from a place to another: in hundredths of its width, and of 60 of its height."""

    id: str
    kind: str  # "resistor", "capacitor", "inductor", "turns", "wire", "ground", "port", "sensor", "trim"
    x1: float
    y1: float
    x2: float
    y2: float
    name: str = ""
    value: str = ""  # with its unit; typed in place on screen
    more: str = ""  # the stack that makes it


@dataclass(frozen=True)
class Circuit:
    """A circuit as it is drawn."""

    pieces: tuple[CircuitPiece, ...]
    said: str
    name: str = "circuit"
    title: str = "The circuit"

    @property
    def weight(self) -> float:
        """What makes one of several worth a place on paper: there is one."""
        return 1.0

    @property
    def valued(self) -> tuple[CircuitPiece, ...]:
        """Pieces that have a value."""
        return tuple(item for item in self.pieces if item.value)


RIM_FITS = 0.62
"""Radius from which the whole plane is drawn out to its rim (Fenmist's own)."""

Picture = Voices | Gaps | Rings | Stems | Marks | Bend | Course | Spans | Arrivals | Tree | Sweep | Circuit
"""What a room draws of a point beside its chart."""

LID, BENCH = "lid", "bench"
SIZES = {LID: (85.6, 54.0), BENCH: (148.0, 105.0)}
"""Width and height of a card in mm."""


@dataclass(frozen=True)
class Card:
    """Everything that stands on a card for a lid or a bench."""

    size: str
    width_mm: float
    height_mm: float
    title: str
    under: str  # serial, day, number
    columns: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    foot: str
    left_out: str  # what found no room, or nothing
    demo: bool
    curve: Chart | None = None  # stands in the place of columns and rows


@dataclass(frozen=True)
class Figures:
    """What runs along while a point is read."""

    name: str  # "error so far"
    value: str
    second: str  # the same otherwise: in dB
    expanded_u: str
    u_name: str  # "U, k = 2.00"
    scatter: str  # of the rounds
    drift: str  # of what it is compared with
    second_name: str = ""  # above the second, where it isn't the same otherwise

    NOTHING = "—"


@dataclass(frozen=True)
class ResultPage:
    """The answer: a row of texts for each point that could be worked out, and what paper says of them."""

    headline: str
    headings: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]  # in the order of the outcome's stated rows
    facts: tuple[tuple[str, str], ...]  # what was measured and how, for paper
    statements: tuple[str, ...]  # beneath the results, on paper
    below: tuple[str, ...] = ()  # beneath the chart, on the screen: what no row says
