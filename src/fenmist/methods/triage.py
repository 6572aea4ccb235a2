"""Transmitter, line or meter: odds of each suspect from what was read, and the next cheapest test between them.

Bayes over many ways drawn of each suspect (`chain.py`): each sighting weighs every way by how near it comes to what was
read, and the same way has to come near at every sighting. The next test is the one that takes away most of what is open
for what it costs, worked out by drawing what would be read. A frozen request: call it for the answer.

>>> answer = TriageRequest("15 W", own="0.9 W", external="1.5 W", swr="1.0")()
>>> answer.suspects[0].id in ("transmitter", "mode")
True
"""

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from functools import lru_cache

import numpy as np

from fenmist.errors import OutOfRangeError, UnreadableError
from fenmist.findings.note import Note, Severity
from fenmist.frozen import dataclass
from fenmist.methods.chain import (
    ANTENNA,
    FAR_LOAD,
    IDS,
    LOAD,
    NOTHING,
    SIGMA,
    SIGMA_RHO,
    SUSPECTS,
    Chain,
    FloatArray,
    Seen,
    Sighting,
)
from fenmist.units.display import percent, plain
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS

SURE = 0.9
"""Odds from which it is called by its name."""

LIKELY = 0.6
"""Odds from which it is called the likeliest."""

EXPLAINS = 0.03
"""Likelihood of one reading over the best suspect's for it, from which a suspect explains it (Fenmist's own)."""

STRANGE = 8.0
"""−ln of the likelihood of a reading, from which the best way that was drawn doesn't come near it (Fenmist's own)."""

ALARM_SWR = 2.0
"""SWR from which one stops and looks (common practice)."""

FOLDS_SWR, FOLDED = 1.7, 0.8
"""SWR from which transmitters begin to fold back, and the part of what is set below which one has (common practice, no
source)."""

OPEN = 20.0
"""SWR from which nearly all comes back: 82 % of the power and more (derived)."""

GOOD_LOAD_SWR = 1.3
"""SWR above which a good dummy load isn't what is seen (common practice, no source)."""

_TRIED, _WAYS = 40, 2400
"""Readings drawn for each test, and ways that they are held against, as many of each as it has weight."""


@dataclass(frozen=True)
class Next:
    """A test that can be made."""

    id: str
    what: str
    cost: float
    """Trouble it makes, of a look at one thing (common practice, no source)."""
    at: Callable[[Sighting], Sighting]
    """What is read then, from the last sighting."""


TESTS = (
    Next("mode", "set it to CW or FM, key down without speech, and read again", 0.5,
         lambda last: replace(last, exchanged=last.exchanged | {"mode"})),
    Next("low", "read again at a tenth of the power", 0.5, lambda last: replace(last, set_w=last.set_w / 10.0)),
    Next("load", "a dummy load right behind the external meter, and read again", 1.0,
         lambda last: replace(last, into=LOAD)),
    Next("supply", "read the supply's volts with the key down", 1.0, lambda last: replace(last, supply_v=0.0)),
    Next("jumper", "exchange the jumper between transmitter and external meter, and read again", 1.5,
         lambda last: replace(last, exchanged=last.exchanged | {"jumper"})),
    Next("adapter", "exchange the adapter behind the external meter, tighten what is screwed on, and read again", 1.5,
         lambda last: replace(last, exchanged=last.exchanged | {"adapter"})),
    Next("antenna", "line and antenna behind the external meter, and read again", 1.5,
         lambda last: replace(last, into=ANTENNA)),
    Next("external", "another meter in place of the external one, and read again", 2.0,
         lambda last: replace(last, exchanged=last.exchanged | {"external"})),
    Next("relay", "go past the relay, and read again", 2.0,
         lambda last: replace(last, exchanged=last.exchanged | {"relay"})),
    Next("far", "a dummy load at the far end of the line, and read again", 3.0,
         lambda last: replace(last, into=FAR_LOAD)),
)  # fmt: skip
"""What tells suspects apart, and what it costs."""


@dataclass(frozen=True)
class Named:
    """A suspect with its odds."""

    id: str
    what: str
    odds: float  # 0 to 1; all of them are 1 together
    why: str
    mend: str  # what is done about it
    explains: tuple[str, ...]  # what was read that it makes likely
    misses: tuple[str, ...]  # what it doesn't


@dataclass(frozen=True)
class Answer:
    """What was read, weighed."""

    suspects: tuple[Named, ...]  # the likeliest first
    next_test: Next | None  # none where it is sure, or nothing tells more
    headline: str
    notes: tuple[Note, ...]


@lru_cache(maxsize=1)
def _chain() -> Chain:
    return Chain()


def weighed(sightings: Sequence[Sighting], alarm_swr: float = ALARM_SWR) -> Answer:
    """Odds of all suspects from one sighting or more.

    Parameters
    ----------
    sightings : sequence
        In the order in which they were read.
    alarm_swr : float
        SWR from which one stops and looks.

    Raises
    ------
    OutOfRangeError
        Where there is none, or none in which anything was read.
    """
    if not any(_read(one) for one in sightings):
        raise OutOfRangeError("Nothing was read.", "Give what a meter showed beside the power that was set.")
    chain, rated = _chain(), max(one.set_w for one in sightings)
    logs, single, least = _prior(chain), {}, []
    for turn, one in enumerate(sightings):
        seen = chain.seen(one, rated, turn)
        for name, surprise in chain.surprise(one, seen).items():
            logs = logs - surprise
            single[turn, name] = surprise
            least.append(float(surprise.min()))
    weights = np.exp(logs - logs.max())
    weights /= weights.sum()
    odds = weights.sum(axis=1)
    named = [_named(row, float(odds[row]), single) for row in range(len(IDS))]
    ordered = tuple(sorted(named, key=lambda item: -item.odds))
    test = None if ordered[0].odds >= SURE else _next(chain, sightings, rated, weights)
    best = float(_least_of_all(single))
    return Answer(ordered, test, _headline(ordered, test), tuple(_notes(sightings, best, alarm_swr)))


def _read(one: Sighting) -> bool:
    return any(value is not None for value in (one.own_w, one.external_w, one.swr, one.supply_v))


def _prior(chain: Chain) -> FloatArray:
    logs = np.log([item.prevalence / chain.shape[1] for item in SUSPECTS])
    return np.asarray(np.broadcast_to(logs[:, None], chain.shape))


def _least_of_all(single: "dict[tuple[int, str], FloatArray]") -> float:
    """Surprise a reading at the way that comes nearest to all of them."""
    return float(sum(single.values()).min()) / len(single)  # type: ignore[union-attr]


_WORDS = {"own": "its own meter", "external": "the external meter", "swr": "the SWR", "supply": "the supply's volts"}


def _named(row: int, odds: float, single: "dict[tuple[int, str], FloatArray]") -> Named:
    suspect = SUSPECTS[row]
    fits: dict[str, bool] = {}
    for (_, name), surprise in single.items():
        mean = np.exp(-surprise).mean(axis=1)
        fits[name] = fits.get(name, True) and bool(mean[row] >= EXPLAINS * mean.max())
    explains = tuple(_WORDS[name] for name, fit in fits.items() if fit)
    misses = tuple(_WORDS[name] for name, fit in fits.items() if not fit)
    why = suspect.ground if explains else ""
    if misses:
        why = f"{why}; but that doesn't explain {_and(misses)}" if why else f"it doesn't explain {_and(misses)}"
    return Named(suspect.id, suspect.what, odds, why, suspect.mend, explains, misses)


def _and(words: Sequence[str]) -> str:
    return " and ".join((", ".join(words[:-1]), words[-1])) if len(words) > 1 else "".join(words)


# the next test


def _next(chain: Chain, sightings: Sequence[Sighting], rated: float, weights: FloatArray) -> Next | None:
    """The test that leaves least open for what it costs."""
    rng = np.random.default_rng(7)
    ways = rng.choice(weights.size, _WAYS, p=weights.ravel())
    rows = ways // chain.shape[1]
    open_now, last = _entropy(np.bincount(rows, minlength=len(IDS)) / _WAYS), _last(sightings)
    best: tuple[float, Next | None] = (0.02, None)
    for test in TESTS:
        at = test.at(last)
        if at in (replace(one, own_w=last.own_w, external_w=last.external_w, swr=last.swr) for one in sightings):
            continue
        seen, left = chain.seen(at, max(rated, at.set_w), len(sightings), ways), 0.0
        for way in range(_TRIED):  # they were drawn in no order
            logs = -sum(chain.surprise(_drawn(at, seen, way, rng), seen).values(), np.zeros(ways.size))
            after = np.bincount(rows, np.exp(logs - np.max(logs)), minlength=len(IDS))
            left += _entropy(after / after.sum()) / _TRIED
        worth = (open_now - left) / test.cost
        if worth > best[0]:
            best = worth, test
    return best[1]


def _last(sightings: Sequence[Sighting]) -> Sighting:
    """The last one, with something in each place that was ever read, and no volts."""

    def ever(name: str) -> float | None:
        return 1.0 if any(getattr(one, name) is not None for one in sightings) else None

    return replace(
        sightings[-1], own_w=ever("own_w"), external_w=ever("external_w"), swr=ever("swr"), supply_v=None,
        set_w=max(one.set_w for one in sightings),
    )  # fmt: skip


def _drawn(at: Sighting, seen: Seen, way: int, rng: np.random.Generator) -> Sighting:
    """What would be read there of one way."""
    rho = seen.rho_external[way] if at.external_w is not None else seen.rho_own[way]
    rho = min(max(rho + SIGMA_RHO * rng.normal(), 0.0), 0.99)

    def watts(log: float) -> float:
        return float(at.set_w * math.exp(log + SIGMA * rng.normal()))

    return replace(
        at, own_w=watts(seen.own[way]) if at.own_w is not None else None,
        external_w=watts(seen.external[way]) if at.external_w is not None else None,
        swr=(1.0 + rho) / (1.0 - rho) if at.swr is not None else None,
        supply_v=float(seen.supply_v[way] + 0.2 * rng.normal()) if at.supply_v is not None else None,
    )  # fmt: skip


def _entropy(odds: FloatArray) -> float:
    return float(-np.sum(odds * np.log(np.maximum(odds, 1e-12))))


# in words


def odds_said(odds: float) -> str:
    """Odds as people say them: of nothing is one ever quite sure."""
    return "over 99\u202f%" if odds > 0.99 else "under 1\u202f%" if odds < 0.01 else percent(odds)


def _headline(suspects: Sequence[Named], test: Next | None) -> str:
    first, second = suspects[:2]
    then = f" Next: {test.what}." if test is not None else ""
    if first.id == NOTHING and first.odds >= LIKELY:
        return f"These readings show nothing wrong ({odds_said(first.odds)}).{then}"
    if first.odds >= SURE:
        return f"It is {first.what} ({odds_said(first.odds)})."
    if first.odds >= LIKELY:
        return f"Most likely {first.what} ({odds_said(first.odds)}).{then}"
    return f"Not sure yet: {first.what} ({odds_said(first.odds)}) or {second.what} ({odds_said(second.odds)}).{then}"


def _notes(sightings: Sequence[Sighting], nearest: float, alarm_swr: float) -> Iterator[Note]:
    last = sightings[-1]
    swr = last.swr if last.swr is not None else 1.0
    if swr >= alarm_swr:
        yield Note(
            "triage.swr", Severity.STOP, "line", f"SWR {swr:.3g}: key up, and look before keying again.",
            "What comes back heats the output stage; many transmitters fold back from an SWR of 2."
            + (" Nearly all of it comes back: an open, a short, or nothing plugged in." if swr >= OPEN else ""),
            f"Little power until it is found; {alarm_swr:.3g} is where you stop.", {"swr": swr, "alarm_swr": alarm_swr},
        )  # fmt: skip
    if swr < alarm_swr and last.into == LOAD and swr > GOOD_LOAD_SWR:
        yield Note(
            "triage.load", Severity.WATCH, "line", f"SWR {swr:.3g} on a dummy load: it must be 1.",
            "A good load sends nothing back.", "Look at jumpers and adapters first: loose, wet, corroded.",
            {"swr": swr},
        )  # fmt: skip
    if all(one.into != LOAD for one in sightings):
        yield Note(
            "triage.load_first", Severity.WATCH, "line", "Nothing was read into a dummy load yet.",
            "On an antenna transmitter, line and antenna are judged together, and every fault is on the air.",
            f"Load first, rated for {plain(last.set_w, 'W', 3)} and for as long as the key is down.", {},
        )  # fmt: skip
    if last.into == ANTENNA:
        yield Note(
            "triage.on_air", Severity.GOOD_TO_KNOW, "line", f"{plain(last.set_w, 'W', 3)} go on the air.",
            "Only with a licence, on a permitted frequency, identified; what people near it may be exposed to is local "
            "law.",
            "The least power that does it; a dummy load wherever that will do.", {"set_w": last.set_w},
        )  # fmt: skip
    if _folded(last):
        yield Note(
            "triage.folded", Severity.GOOD_TO_KNOW, "transmitter",
            f"{percent(_share(last))} of what is set at a high SWR: that is what a fold-back looks like.",
            "It is its protection and no fault: power falls while the key is down, and comes back with the match.",
            "Judge its power into a good load; look for what sends power back first.",
            {"swr": swr, "share": _share(last)},
        )  # fmt: skip
    if nearest > STRANGE:
        yield Note(
            "triage.strange", Severity.DOUBT, "job", "None of these alone comes near what was read.",
            "Two things may be wrong at once, or a reading is.", "Read again; then one part at a time.",
            {"surprise": nearest},
        )  # fmt: skip


def _folded(one: Sighting) -> bool:
    return one.swr is not None and one.swr >= FOLDS_SWR and _share(one) < FOLDED


def _share(one: Sighting) -> float:
    """What is shown of what is set, by its own meter where that is read; all of it where nothing is."""
    shown = one.own_w if one.own_w is not None else one.external_w
    return 1.0 if shown is None else shown / one.set_w


# as typed


@dataclass(frozen=True)
class TriageRequest:
    """What was read, as typed; `more` holds further sightings, each as “set 1.5 W, own 1.4 W, into load”."""

    set_power: str
    own: str = ""
    external: str = ""
    swr: str = ""
    into: str = LOAD
    supply: str = ""
    more: tuple[str, ...] = ()

    def __call__(self) -> Answer:
        """The answer; raises UnreadableError, OutOfRangeError."""
        return weighed(self.sightings())

    def sightings(self) -> tuple[Sighting, ...]:
        """What was read, in order; raises the same."""
        first = sighting_from(
            {"set": self.set_power, "own": self.own, "external": self.external, "swr": self.swr, "into": self.into,
             "supply": self.supply}
        )  # fmt: skip
        return (first, *(sighting_from(_fields(line)) for line in self.more))


_FIELDS = ("set", "own", "external", "swr", "into", "supply", "exchanged")


def _fields(line: str) -> dict[str, str]:
    found: dict[str, str] = {}
    for part in line.replace(";", ",").split(","):
        name, _, value = part.strip().partition(" ")
        if name.casefold() not in _FIELDS or not value.strip():
            raise UnreadableError(
                f"“{part.strip()}” says nothing of a sighting.",
                "Write “set 1.5 W, own 1.4 W, swr 1.1, into load, exchanged jumper”.",
            )
        known = found.get(name.casefold())
        found[name.casefold()] = value.strip() if known is None else f"{known} {value.strip()}"
    return found


def sighting_from(texts: "dict[str, str]") -> Sighting:
    """A sighting from texts by field; raises UnreadableError, OutOfRangeError."""

    def number(name: str, unit: str, example: str, low: float) -> float | None:
        text = texts.get(name, "").strip()
        if not text:
            return None
        value = value_from_text(text, UNITS[unit], name, example)
        if not value >= low:
            raise OutOfRangeError(f"{name} “{text}” makes no sense.", f"Type for example {example}.")
        return value

    power = number("set", "W", "15 W", 0.0)
    if not power:
        raise UnreadableError("The power that is set is missing.", "Type for example 15 W.")
    into = texts.get("into", "").strip() or LOAD
    if into not in (LOAD, ANTENNA, FAR_LOAD):
        raise UnreadableError(f"Nothing is sent into “{into}”.", f"Type {LOAD}, {ANTENNA} or {FAR_LOAD}.")
    exchanged = frozenset(texts.get("exchanged", "").split())
    if strange := exchanged - set(IDS[:-1]):
        raise UnreadableError(f"“{min(strange)}” is no part that is exchanged.", f"There are {', '.join(IDS[:-1])}.")
    return Sighting(
        power, into, number("own", "W", "0.9 W", 0.0), number("external", "W", "1.5 W", 0.0),
        number("swr", "", "1.1", 1.0), number("supply", "V", "13.2 V", 0.0), exchanged,
    )  # fmt: skip
