"""Tools that need no bench: their fields, and what they answer, as data: desk and plain commands say the same.

What is typed makes a frozen request (`methods`); its answer becomes a sentence, rows, notes and a picture.
"""

import math
from collections.abc import Callable, Mapping

import numpy as np

from fenmist.findings.note import Note
from fenmist.frozen import dataclass
from fenmist.kit.amplifier import CLASSES, FEEDS, NOT_SAID
from fenmist.kit.sheet import Field
from fenmist.methods.against_time import TUNERS_W, AgainstTimeAnswer, AgainstTimeRequest, Band
from fenmist.methods.chain import ANTENNA, FAR_LOAD
from fenmist.methods.chain import LOAD as LOAD_END
from fenmist.methods.efficiency import EfficiencyRequest
from fenmist.methods.leakage import LeakageRequest
from fenmist.methods.loss_from_pairs import LossAnswer, LossRequest
from fenmist.methods.plateau import PlateauRequest
from fenmist.methods.radiated import CURRENT, FIELD, POWER, Radiated, RadiatedRequest
from fenmist.methods.swr_seen import LOAD, TRANSMITTER, SwrAnswer, SwrRequest, swr_of
from fenmist.methods.triage import SURE, TriageRequest, odds_said
from fenmist.procedures.arriving import LEAST, arrivals
from fenmist.procedures.page import Bend, Course, Gap, Gaps, Picture, Rings, Span, Spans, Spot
from fenmist.procedures.triage.make import name_of
from fenmist.session.modulation import plateau_headline, plateau_rows
from fenmist.units.display import THIN, between, percent, plain, rounded, with_uncertainty
from fenmist.waveform.series import Series

Rows = tuple[tuple[str, str], ...]
"""What is answered, by name."""


@dataclass(frozen=True)
class Said:
    """What a tool answers."""

    headline: str
    rows: Rows
    picture: Picture | None
    notes: tuple[Note, ...]


@dataclass(frozen=True)
class Aid:
    """A tool: what it asks for, and what follows from it."""

    id: str
    title: str
    ask: str  # above its fields
    fields: tuple[Field, ...]
    example: Mapping[str, str]
    room: str  # question of a job about the same
    answer: Callable[[Mapping[str, str]], Said]
    """From the texts of the fields; raises UnreadableError, OutOfRangeError."""


def swr_rows(answer: SwrAnswer) -> Rows:
    """A reading of a match in every form."""
    low, high = answer.swr_window
    rows = [
        ("SWR", _swr(answer.swr)),
        ("Reflection", f"{plain(answer.rho, '', 3)}, {plain(100.0 * answer.rho**2, '', 3)} % of the power"),
        ("Return loss", f"{_swr(answer.return_loss_db)} dB"),
    ]
    if answer.net_w is not None:
        rows.append(("Delivered", plain(answer.net_w, "W")))
    if high > low:
        rows.append(("Window", f"{_swr(low)} to {_swr(high)}"))
    if answer.expected is not None and answer.shows is not None:
        low, high = (swr_of(end) for end in answer.shows)
        may = f", may show {_swr(low)} to {_swr(high)}" if high > low else ""
        rows.append(("That load", f"{_swr(swr_of(abs(answer.expected)))}{may}"))
    if answer.other is not None:
        low, high = (swr_of(end) for end in answer.other)
        rows.append(("Other meter", f"{_swr(low)}{f' to {_swr(high)}' if high > low else ''}, carried here"))
    if answer.swr_other_end is not None:
        rows.append((f"At the {answer.other_end}", _swr(answer.swr_other_end)))
        rows.append(("Line loses", f"{_swr(answer.line_total_loss_db or 0.0)} dB in all"))
    return tuple(rows)


def loss_rows(answer: LossAnswer) -> Rows:
    """What pairs of powers say of a loss."""
    came_out = with_uncertainty(answer.loss_db, answer.expanded_u_db, "dB")
    seen = (("Loss", came_out),)
    bound = (("Loss", f"less than {answer.bound_db:.2g}{THIN}dB"), ("Came out", came_out))
    return (
        *(seen if answer.is_seen else bound),
        ("Through", percent(answer.efficiency)),
        ("Ratio", f"{plain(answer.coupler_ratio, '', 5)} without the part"),
    )


def _swr(value: float) -> str:
    return "without end" if math.isinf(value) else plain(value, "", 3)


def _answer_swr(texts: Mapping[str, str]) -> Said:
    request = SwrRequest(**texts)
    answer = request()
    return Said(_swr_headline(request, answer), swr_rows(answer), _rings(request, answer), answer.notes)


def _swr_headline(request: SwrRequest, answer: SwrAnswer) -> str:
    """The answer in a sentence."""
    is_read = bool(request.swr.strip() or request.forward.strip())
    low, high = answer.swr_window
    window = "" if high <= low else _window(low, high)
    if not is_read:
        begin = f"That load is SWR {_swr(answer.swr)}" + (f"; a meter may show {window}" if window else "")
    elif window:
        begin = f"A meter that shows SWR {_swr(answer.swr)} says that it lies {window}"
    else:
        begin = f"SWR {_swr(answer.swr)}: {plain(100.0 * answer.rho**2, '', 3)}{THIN}% of the power comes back"
    if answer.swr_other_end is None:
        return f"{begin}."
    return f"{begin}; at the {answer.other_end} it is {_swr(answer.swr_other_end)}."


def _window(low: float, high: float) -> str:
    """ "between 1.2 and 1.5", "below 1.1", "above 30", or "anywhere"."""
    if math.isinf(high):
        return "anywhere" if low <= 1.0 else f"above {_swr(low)}"
    return f"below {_swr(high)}" if low <= 1.0 else f"between {_swr(low)} and {_swr(high)}"


def _rings(request: SwrRequest, answer: SwrAnswer) -> Rings:
    """Ring of what was read, spot of the load."""
    is_read = bool(request.swr.strip() or request.forward.strip())
    low, high = answer.window
    end = answer.expected
    spots = () if end is None else (Spot("load", end.real, end.imag, 0.0, 0.0),)
    shows = answer.shows or (answer.rho, answer.rho)
    agrees = all(note.code != "swr.unexplained" for note in answer.notes)
    means = f"{_swr(swr_of(low))} to {_swr(swr_of(high))}" if high > low else _swr(swr_of(high))
    ring = f"ring: {'the truth behind what is read' if is_read else 'what such a meter may show'}, {means}"
    lines = [ring]
    if end is not None:
        lines.append(f"spot: the load, SWR {_swr(swr_of(abs(end)))}")
    if end is not None and is_read and shows[1] > shows[0]:
        lines.append(f"bar: what it may show with that, {_swr(swr_of(shows[0]))} to {_swr(swr_of(shows[1]))}")
    if answer.other is not None:
        lines.append("dotted: what the other meter says of the same place")
    return Rings(
        f"where it was seen: {request.at}", low, answer.rho, high, spots, answer.has_phase, shows,
        ((high, f"SWR {_swr(swr_of(high))}"),), tuple(lines), agrees,
        f"SWR {_swr(answer.swr)}, {means}", answer.other,
    )  # fmt: skip


def _answer_loss(texts: Mapping[str, str]) -> Said:
    def given(name: str) -> tuple[str, ...]:
        return tuple(text for key, text in texts.items() if key.split("-")[0] == name and text.strip())

    answer = LossRequest(given("direct"), given("through"), given("swapped_direct"), given("swapped_through"))()
    rows = loss_rows(answer)
    if answer.loss_db < -answer.expanded_u_db:
        headline = f"More comes out than goes in: {rows[-3][1]} came out as a loss, and no passive part does that."
    elif answer.is_seen:
        kept = percent(1.0 - answer.efficiency)
        headline = f"The part loses {rows[0][1]}: {kept} of the power stays in it."
    else:
        least = 10.0 ** (-answer.bound_db / 10.0)
        headline = f"The loss is {rows[0][1]}: it can't be seen. At least {percent(least)} comes through."
    picture = Gaps(
        "pair by pair", "dB", ("direct", "through"),
        tuple(
            Gap(f"pair {n}{', exchanged' if item.is_swapped else ''}", item.direct_db, item.through_db)
            for n, item in enumerate(answer.pairs, start=1)
        ),
        answer.loss_db, answer.loss_db - answer.expanded_u_db, answer.loss_db + answer.expanded_u_db,
        answer.expanded_u_db, answer.bound_db, headline,
    )  # fmt: skip
    return Said(headline, rows, picture, answer.notes)


DRAWN = 16
"""Places below a knee between which its line is drawn straight."""


def _answer_plateau(texts: Mapping[str, str]) -> Said:
    answer = PlateauRequest(texts["gain"], texts["power"], texts["distortion"], texts["limit"])()
    fit, headline = answer.fit, plateau_headline(answer)
    low, high = (fit.low, fit.high) if fit else (0.0, 0.0)
    points = tuple(zip(answer.gain.tolist(), answer.power_w.tolist(), strict=True))
    knee = fit.gain if fit else None
    at = np.array([]) if fit is None else np.append(np.linspace(answer.gain[0], fit.gain, DRAWN), answer.gain[-1])
    lines = () if fit is None else tuple(zip(at.tolist(), fit.power(at).tolist(), strict=True))
    picture = Bend(
        "gain", "power shown", "W", points, knee, low, high, answer.plateau_w, lines, answer.setting, headline
    )
    return Said(headline, plateau_rows(answer), picture, answer.notes)


def _answer_series(texts: Mapping[str, str]) -> Said:
    more = tuple(texts[name] for name in _BANDS if texts.get(name, "").strip())
    answer = AgainstTimeRequest(
        texts["times"], texts["powers"], texts["limit"], texts["swr"], most=texts.get("most", ""),
        band=texts.get("band", ""), more=more,
    )()  # fmt: skip
    series, limit = answer.series, answer.limit_w
    whole, above = plain(series.span_s, "s", 3), f"{answer.above_s:.2g}"
    headline = f"Above {plain(limit, 'W')} for {above} of {whole}; {plain(series.mean_w, 'W', 3)} on average."
    others: tuple[tuple[str, tuple[tuple[float, float], ...]], ...] = ()
    if more:
        enough = sum(answer.above(band) >= band.series.span_s for band in answer.bands)
        headline = f"Enough all the time on {enough} of {len(answer.bands)} bands; at {answer.worst.name} above "
        headline += f"{plain(limit, 'W')} for {above} of {whole}."
        rows = tuple((band.name, _band_said(answer, band)) for band in answer.bands)
        others = tuple((band.name, _points(band.series)) for band in answer.bands if band is not answer.worst)
    else:
        wanted = sorted({*TUNERS_W, limit})
        rows = (
            ("Lowest", plain(series.lowest_w, "W")), ("Highest", plain(series.highest_w, "W")),
            ("Mean over time", plain(series.mean_w, "W")),
            *((f"Above {plain(level, 'W')}", f"{plain(series.seconds_above(level), 's', 3)} of {whole}")
              for level in wanted),
        )  # fmt: skip
    picture = Course(
        "power", "W", _points(series), limit, series.times_above(limit), headline, label=answer.worst.name,
        others=others, most=answer.most_w,
    )  # fmt: skip
    return Said(headline, rows, picture, answer.notes)


def _points(series: Series) -> tuple[tuple[float, float], ...]:
    return tuple(zip(series.seconds, series.powers_w, strict=True))


def _band_said(answer: AgainstTimeAnswer, band: Band) -> str:
    series = band.series
    return (
        f"{plain(series.lowest_w, '', 3)} to {plain(series.highest_w, 'W', 3)}, mean {plain(series.mean_w, 'W', 3)}; "
        f"above {plain(answer.limit_w, 'W')} for {plain(answer.above(band), 's', 3)} of {plain(series.span_s, 's', 3)}"
    )


_BANDS = ("second", "third", "fourth", "fifth")


def _answer_leakage(texts: Mapping[str, str]) -> Said:
    answer = LeakageRequest(texts["working"], texts["replaced"], texts["moved"])()
    fell = f"{'at least ' if answer.is_bound else ''}{rounded(answer.drop_db, 1)}{THIN}dB"
    low = "without end" if math.isinf(answer.lowest_db) else f"{rounded(answer.lowest_db, 2)}{THIN}dB"
    good = "enough" if not answer.notes else "not good enough"
    rows = (
        ("Falls by", fell),
        ("Off by at most", f"{rounded(answer.worst_db, 2, plus=True)} and {low}"),
        ("Uncertainty from it", f"{plain(answer.u_db, 'dB', 2)} standard"),
    )
    return Said(f"With its feed replaced the sensor falls by {fell}: {good}.", rows, None, answer.notes)


def radiated_rows(answer: Radiated) -> Rows:
    """Radiated power in every form, and where its limit is reached."""
    rows = [
        ("EIRP", f"{plain(answer.eirp_w, 'W', 3)} ({between(*answer.interval_w, 'W')}), over an isotropic radiator"),
        ("ERP", f"{plain(answer.erp_w, 'W', 3)}, over a half-wave dipole"),
        ("e.m.r.p.", f"{plain(answer.emrp_w, 'W', 3)}, over a short vertical on perfect ground"),
    ]
    if answer.resistance_ohm is not None:
        rows.append(("Radiation resistance", plain(answer.resistance_ohm, "Ω", 3)))
    if answer.base_ohm is not None:
        low, high = answer.base_interval_ohm
        rows.append(
            (
                "Whole antenna",
                f"{plain(answer.base_ohm, 'Ω', 3)} ({between(low, high, 'Ω')}): power over current squared",
            )
        )
    if answer.heat_w is not None:
        rows.append(("Heat in coil and ground", plain(answer.heat_w, "W", 3)))
    if answer.gain_dbi is not None:
        rows.append(("Gain from both", f"{rounded(answer.gain_dbi, 1, plus=True)}{THIN}dBi"))
    if answer.field_v_per_m is not None and not any(note.code == "radiated.exposure_near" for note in answer.notes):
        field, most = answer.field_v_per_m
        rows.append(("Field where people are", f"{plain(field, 'V/m', 2)}, at most {plain(most, 'V/m', 2)}"))
    if answer.power_at_limit_w is not None:
        rows.append(("Power at the limit", _at_limit(answer, answer.power_at_limit_w, "W", 1.0)))
    if answer.current_at_limit_a is not None:
        rows.append(("Current at the limit", _at_limit(answer, answer.current_at_limit_a, "A", 0.5)))
    return tuple(rows)


def _at_limit(answer: Radiated, value: float, unit: str, root: float) -> str:
    low, high = ((answer.eirp_w / end) ** root for end in reversed(answer.interval_w))
    return f"{plain(value, unit, 2)} ({between(value * low, value * high, unit)})"


def radiated_headline(answer: Radiated) -> str:
    """The answer in a sentence."""
    begin = (
        f"EIRP {plain(answer.eirp_w, 'W', 2)} ({between(*answer.interval_w, 'W')}), from the {_WAYS[answer.way.name]}"
    )
    if answer.limit_w is None:
        return f"{begin}."
    reached = (
        _at_limit(answer, answer.power_at_limit_w, "W", 1.0) if answer.power_at_limit_w is not None
        else _at_limit(answer, answer.current_at_limit_a, "A", 0.5) if answer.current_at_limit_a is not None
        else ""
    )  # fmt: skip
    limit = f"{plain(answer.limit_w, 'W', 3)} EIRP"
    return f"{begin}; {limit} is reached at {reached}." if reached else f"{begin}; the limit is {limit}."


_WAYS = {POWER: "transmitter's power", CURRENT: "antenna's current", FIELD: "field"}


def _answer_radiated(texts: Mapping[str, str]) -> Said:
    answer = RadiatedRequest(**texts)()
    headline = radiated_headline(answer)
    spans = tuple(
        Span(f"by {way.name}", way.interval_w[0], way.eirp_w, way.interval_w[1], way is answer.way)
        for way in answer.ways
    )
    limit = "" if answer.limit_w is None else f"limit {plain(answer.limit_w, 'W', 3)}"
    picture = Spans("EIRP", "W", spans, answer.limit_w, limit, headline)
    return Said(headline, radiated_rows(answer), picture, answer.notes)


_PAIR = "Both in the order in front, behind, as read at once or one right after the other"

SWR = Aid(
    "swr", "SWR", "What was read, or a load; both where a reading is to be held against it",
    (
        Field("forward", "forward power", "100 W"),
        Field("reflected", "reflected power", "4 W"),
        Field("swr", "SWR as shown", "1.8", "Beside forward and reflected: whether the three belong together"),
        Field("load", "known load", "75", "75 · 45+j12 · |57.7| swr 1.2"),
        Field("at", "seen at the", choices=(LOAD, TRANSMITTER), help="End of the line at which the meter stands"),
        Field("line_loss", "line loss, matched", "1 dB", "One way"),
        Field("directivity", "directivity of the meter", "25 dB"),
        Field("set_error", "set control, ±", "5 %"),
        Field("other_swr", "another meter, other end", "1.6", "SWR that another such meter shows there"),
    ),
    {"swr": "1.4", "load": "75", "directivity": "25 dB", "at": LOAD}, "reflection", _answer_swr,
)  # fmt: skip
"""What a reading of a match means."""

LOSS = Aid(
    "loss", "Insertion loss", "Pairs of powers, in front and behind, in the order in which they are read",
    (
        Field("direct", "direct", "104 W 103.4 W", _PAIR),
        Field("through", "through", "103 W 97.6 W", _PAIR),
        Field("direct-2", "direct again", "102 W 101.5 W", _PAIR),
        Field("through-2", "through again", "101 W 95.7 W", _PAIR),
        Field("direct-3", "direct, third", "104 W 103.4 W", _PAIR),
        Field("through-3", "through, third", "103 W 97.6 W", _PAIR),
        Field("swapped_direct", "exchanged, direct", "103 W 103.6 W", "Both instruments exchanged"),
        Field("swapped_through", "exchanged, through", "102 W 97.8 W", "Both instruments exchanged"),
        Field("swapped_direct-2", "exchanged, direct again", "103 W 103.6 W", "Both instruments exchanged"),
        Field("swapped_through-2", "exchanged, through again", "102 W 97.8 W", "Both instruments exchanged"),
    ),
    {
        "direct": "104 W 103.4 W", "through": "103 W 97.6 W", "direct-2": "102 W 101.5 W",
        "through-2": "101 W 95.7 W",
    }, "loss", _answer_loss,
)  # fmt: skip
"""What a part loses."""

PLATEAU = Aid(
    "plateau", "Gain plateau", "Powers shown at rising gain, speaking or with two tones, each held alike",
    (
        Field("gain", "gain", "10 20 30 40 50 60", "Settings of the microphone gain, or of the compression"),
        Field("power", "power shown", "8 22 41 58 60 60 W", "One for each gain, in the same order"),
        Field("distortion", "distortion beside it", "-42 -40 -36 -31 -25 -20 dB", "Below the wanted signal, if noted"),
        Field("limit", "which may reach", "-30 dB", "The setting stays below it"),
    ),
    {"gain": "10 20 30 40 50 60", "power": "8 22 41 58 60 60 W"}, "modulation", _answer_plateau,
)  # fmt: skip
"""Where level control begins to limit."""

SERIES = Aid(
    "series", "Power against time", "Powers as they were read, or a captured envelope's file and its highest power",
    (
        Field("times", "times", "0 0.5 1 2 4 s", "Rising; or a file: envelope.csv"),
        Field("powers", "powers", "12 4 9 30 30 W", "One for each time; of a file the power of its highest"),
        Field("limit", "is it enough for", "10 W", "Some tuners want 10 W, others 20 W"),
        Field("most", "and no more than", "20 W", "What the tuner bears while it hunts; left empty: nobody says"),
        Field("swr", "SWR beside it", "3 6 4 1.2 1.1", "One for each power; left empty where none was read"),
        Field("band", "that was on", "1.8 MHz", "Left empty where there is only one band"),
        *(Field(name, "another band", "3.6 MHz: 0 0.5 1 s; 14 6 30 W", "Its name: times; powers") for name in _BANDS),
    ),
    {"times": "0 0.5 1 2 4 s", "powers": "12 4 9 30 30 W", "limit": "10 W", "swr": "3 6 4 1.2 1.1"}, "output",
    _answer_series,
)  # fmt: skip
"""A tune cycle, a droop: for how long it is enough."""

LEAKAGE = Aid(
    "leakage", "Leakage", "Carrier on at the working level; off, a shielded 50 Ω in place of the feed; on again",
    (
        Field("working", "working level", "10.0 dBm", "What the sensor shows behind the tap"),
        Field("replaced", "with the feed replaced", "-28 dBm", "Where it shows nothing more: < -50 dBm"),
        Field("moved", "leads moved", "10.0 dBm", "The working level again, the sensor's leads lying otherwise"),
    ),
    {"working": "10.0 dBm", "replaced": "-28 dBm"}, "comparison", _answer_leakage,
)  # fmt: skip
"""What goes past a tap."""


def _answer_triage(texts: Mapping[str, str]) -> Said:
    more = tuple(texts[name] for name in _MORE if texts[name].strip())
    request = TriageRequest(
        texts["set"], texts["own"], texts["external"], texts["swr"], texts["into"], texts["supply"], more
    )
    sightings, answer = request.sightings(), request()
    rows = tuple(
        (odds_said(item.odds), f"{item.what}: {item.why}") for item in answer.suspects[:3] if item.odds >= LEAST
    )
    first = answer.suspects[0]
    rows += (("To be done", first.mend),) if first.odds >= SURE and first.mend else ()
    picture = arrivals(((name_of(one.into, one.exchanged), one) for one in sightings), answer)
    return Said(answer.headline, rows, picture, answer.notes)


_MORE = ("second", "third", "fourth")
_NEXT = "set 10 W, own 10, external 9.8, swr 1.0, into load"

TRIAGE = Aid(
    "triage", "Triage", "What was read with the key down; then what was read next, with one thing changed",
    (
        Field("set", "power that is set", "15 W"),
        Field("own", "its own meter", "0.9 W"),
        Field("external", "external meter", "1.5 W", "Behind a jumper"),
        Field("swr", "SWR", "1.0", "By the external meter, else by the transmitter's own"),
        Field("into", "into", choices=(LOAD_END, ANTENNA, FAR_LOAD), help="What stands behind the external meter"),
        Field("supply", "supply, key down", "13.2 V"),
        Field("second", "then", _NEXT, "Add “exchanged jumper”, adapter, relay, mode, external where that was new"),
        Field("third", "then", _NEXT, "As above"),
        Field("fourth", "then", _NEXT, "As above"),
    ),
    {"set": "15 W", "own": "0.9 W", "external": "1.5 W", "swr": "1.0", "into": LOAD_END}, "triage", _answer_triage,
)  # fmt: skip
"""Transmitter, line or meter."""


def _answer_efficiency(texts: Mapping[str, str]) -> Said:
    answer = EfficiencyRequest(**texts)()
    made, usual = answer.made, answer.amplifier.usual
    low, high = made.interval
    headline = f"{percent(made.share)} of what goes in comes out ({between(100.0 * low, 100.0 * high, '%')})"
    headline += f"; {plain(made.heat_w, 'W', 3)} stay as heat." if made.heat_w > 0.0 else ": that can't be."
    rows = [
        ("Goes in", f"{plain(made.dc_w, 'W', 3)} of DC"
         + (f" and {plain(made.drive_w, 'W', 3)} of drive" if made.drive_w else "")),
        ("Comes out", f"{plain(made.out_w[1], 'W', 3)} ({between(made.out_w[0], made.out_w[2], 'W')}), as a mean"),
        ("At most", f"{plain(made.ceiling_w, 'W', 3)}: more can't come out, with what their meters allow"),
    ]  # fmt: skip
    spans = [Span("comes out", *made.out_w, True)]
    if usual is not None:
        rows.append(("Usual", f"{percent(usual.low)} to {percent(usual.high)} at full power, less below"))
        ends = (usual.low * made.into_w, usual.high * made.into_w)
        spans.append(Span("usual", ends[0], math.sqrt(ends[0] * ends[1]), ends[1], False))
    picture = Spans(
        "RF", "W", tuple(spans), made.into_w, f"goes in {plain(made.into_w, 'W', 3)}", headline,
        "in and out", "What comes out of what goes in",
    )  # fmt: skip
    return Said(headline, tuple(rows), picture, answer.notes)


EFFICIENCY = Aid(
    "efficiency", "DC in, RF out", "Read at the same time, with the key down; limits behind ±",
    (
        Field("volts", "supply volts", "13.8 V ± 1 %"),
        Field("amperes", "supply amperes", "20 A ± 2 %"),
        Field("power", "RF power out", "100 W ± 5 %"),
        Field("sent", "which is the PEP of", "two-tone", "Left empty: a steady carrier. DC meters show a mean"),
        Field("drive", "drive", "5 W", "RF into a driven stage, which it may pass on"),
        Field("feeds", "the DC feeds", choices=FEEDS),
        Field("of_class", "class of its stage", choices=(NOT_SAID, *CLASSES)),
        Field("full", "full power", "100 W", "Well below it less of the DC becomes RF"),
        Field("heat", "heat it may take", "150 W"),
    ),
    {"volts": "13.8 V", "amperes": "20 A", "power": "100 W"}, "output", _answer_efficiency,
)  # fmt: skip
"""What an amplifier makes of its DC."""

RADIATED = Aid(
    "radiated", "Radiated power", "What is known; each with its limit behind ±, where better than usual is known",
    (
        Field("power", "forward power at the transmitter", "50 W ± 5 %"),
        Field("line_loss", "line loss, matched", "1 dB", "One way"),
        Field("swr", "SWR at the antenna", "1.5"),
        Field("gain", "antenna's gain", "-12 dBi ± 2 dB", "In dBi, or in dBd over a half-wave dipole"),
        Field("current", "current at its base", "2 A ± 5 %", "A rms, on a carrier"),
        Field("height", "height of a vertical", "15 m ± 20 %", "Short against the wavelength, over ground"),
        Field("top_loading", "top loading", "0.5", "Current at its top over that at its base: 0 bare, 1 at most"),
        Field("above", "current above its coil", "1.7 A", "What comes out of a loading coil at the top"),
        Field("coil_height", "coil at a height of", "0 m", "Left empty: at the base"),
        Field("frequency", "frequency", "474 kHz"),
        Field("field", "field strength", "10 mV/m ± 3 dB", "Far away; mV/m or dBµV/m"),
        Field("distance", "at a distance of", "5000 m"),
        Field("limit", "limit of the licence", "5 W", "EIRP; or 1 W ERP, 1 W EMRP"),
        Field("people", "nearest people, at", "30 m", "What they are exposed to; limits are local law"),
    ),
    {"power": "50 W", "current": "2 A", "height": "15 m", "frequency": "474 kHz", "limit": "5 W"}, "output",
    _answer_radiated,
)  # fmt: skip
"""What an antenna radiates, against a limit."""

AIDS = (SWR, LOSS, PLATEAU, SERIES, EFFICIENCY, LEAKAGE, TRIAGE, RADIATED)
"""Tools beside power from volts."""
