"""A transmitter's way to its load, or to its antenna, as it may be: many of them drawn, each with one thing wrong.

Set power → transmitter with its own meter → relay → jumper → external meter → adapter → load, or line and antenna. What
is normal of each part is drawn for all; in every row one suspect is drawn as it is when it is bad. Ratios and sizes are
common practice, no source. It fails where two things are wrong at once. Page: docs/method/triage.md.
"""

import math
from collections.abc import Callable, Collection, Mapping, Sequence
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass

FloatArray = NDArray[np.float64]

LOAD, ANTENNA, FAR_LOAD = "load", "antenna", "far load"
"""What stands behind the external meter: a load, line and antenna, or the line with a load at its end."""

DRAWN = 4000
"""Ways drawn of each suspect."""

LEAST = -9.0
"""Logarithm of the part of what is set below which nothing is shown."""

SIGMA = 0.06
"""Relative standard deviation of reading a power once, with what moves between two (common practice, no source)."""

SIGMA_RHO = 0.02
"""Standard deviation of ρ as it is read (common practice, no source)."""

_SEED = 20261128


@dataclass(frozen=True)
class Suspect:
    """Something that may be wrong, and alone."""

    id: str
    what: str
    prevalence: float
    """How often it is, of all that are brought in (common practice, no source)."""
    ground: str
    """What it does, and why."""
    mend: str
    """What is done about it."""


NOTHING = "nothing"

SUSPECTS = (
    Suspect("transmitter", "the transmitter", 0.13, "a tired or damaged output stage gives a part of what is set",
            "drive, tuning and output stage, by someone qualified: valve sets hold lethal DC"),
    Suspect("mode", "the wrong mode", 0.10, "without a carrier in SSB nothing is sent, AM sends a quarter of its PEP",
            "set CW or FM; nothing is broken"),
    Suspect("supply", "the supply", 0.08, "volts that sag under load limit the power; less power is given rightly",
            "look for volts lost under load along its leads and fuses; charge or replace it"),
    Suspect("fold-back", "fold-back that sets in too early", 0.04, "a protection that mistakes a good match for a bad "
            "one limits the power; less power is given rightly",
            "have its protection set where the match is known to be good"),
    Suspect("relay", "the changeover relay", 0.06, "burnt contacts lose power in front of the external meter, more or "
            "less each time", "clean its contacts, or replace it"),
    Suspect("jumper", "the jumper", 0.11, "between transmitter and external meter it loses power and sends some back",
            "replace it, and cut the old one up so that it can't come back"),
    Suspect("adapter", "an adapter or connector at the load", 0.13, "behind the external meter it sends power back, "
            "also into a good load",
            "take it apart: loose is tightened, green or wet is replaced, the rest dried and sealed"),
    Suspect("line", "the line", 0.10, "water or damage sends power back and loses some; a load in front of it is fine",
            "look for kinks, cuts and water, which runs along inside for metres; renew it and seal its ends"),
    Suspect("antenna", "the antenna", 0.14, "it sends power back; a load at the far end of its line is fine",
            "look at its joints and at what stands near; measure it with the transmitter off"),
    Suspect("external", "the external meter", 0.05, "it alone is off, whatever the power",
            "hold it against a third meter, then calibrate it"),
    Suspect("own", "the transmitter's own meter", 0.05, "it alone is off, whatever the power",
            "note by how much it is off, or have it set"),
    Suspect(NOTHING, "nothing that these readings show", 0.05, "everything is as it usually is", ""),
)  # fmt: skip
"""All of them. What is common is common practice, no source."""

IDS = tuple(item.id for item in SUSPECTS)


class Spread(NamedTuple):
    """How a figure is spread."""

    how: str  # of `_SAID`
    first: float
    second: float = 0.0

    def __call__(self, rng: np.random.Generator, shape: tuple[int, ...]) -> FloatArray:
        """So many drawn of it."""
        return np.asarray(_DRAWN_BY[self.how](rng, self.first, self.second, shape))

    def __str__(self) -> str:
        """It in words."""
        if self.how == "a mode":
            return "; ".join(f"{name} ({often:g} of them): {part}" for name, (often, part) in MODES.items())
        return _SAID[self.how].format(self.first, self.second)


_SAID = {
    "about": "{0:g} ± {1:g}", "evenly": "{0:g} to {1:g}", "as logarithms": "{0:.2g} to {1:g}, evenly as logarithms",
    "a factor": "a factor of {0:g} to {1:g}, up or down", "over a disc": "0 to {0:g}, evenly over a disc",
    "always": "{0:g}",
}  # fmt: skip


def _logs(rng: np.random.Generator, low: float, high: float, shape: tuple[int, ...]) -> FloatArray:
    return rng.uniform(np.log(low), np.log(high), shape)


def _either_way(rng: np.random.Generator, low: float, high: float, shape: tuple[int, ...]) -> FloatArray:
    return np.asarray(_logs(rng, low, high, shape) * rng.choice((-1.0, 1.0), shape))


def _disc(rng: np.random.Generator, most: float, _: float, shape: tuple[int, ...]) -> FloatArray:
    return np.asarray(most * np.sqrt(rng.uniform(size=shape)))


def _of_modes(rng: np.random.Generator, _: float, __: float, shape: tuple[int, ...]) -> FloatArray:
    """Of AM's carrier, SSB with nothing said, and data with pauses, each as often as it is met."""
    kind = rng.uniform(size=shape)
    quarter, half, nothing = (MODES[name][1](rng, shape) for name in ("AM", "pauses", "nothing said"))
    often = MODES["nothing said"][0]
    return np.asarray(np.where(kind < often, nothing, np.where(kind < often + MODES["AM"][0], quarter, half)))


_DRAWN_BY: Mapping[str, Callable[[np.random.Generator, float, float, tuple[int, ...]], FloatArray]] = {
    "about": lambda rng, mean, u, shape: rng.normal(mean, u, shape),
    "evenly": lambda rng, low, high, shape: rng.uniform(low, high, shape),
    "as logarithms": _logs, "a factor": _either_way, "over a disc": _disc, "a mode": _of_modes,
    "always": lambda _, value, __, shape: np.full(shape, value),
}  # fmt: skip

MODES: Mapping[str, tuple[float, Spread]] = {
    "nothing said": (0.45, Spread("as logarithms", math.exp(LEAST), 0.15)),
    "AM": (0.30, Spread("as logarithms", 0.2, 0.3)), "pauses": (0.25, Spread("as logarithms", 0.3, 0.7)),
}  # fmt: skip
"""How often each is met where the mode is wrong, and the part of what is set (common practice, no source)."""

USUAL: Mapping[str, Spread] = {
    "set": Spread("about", 0.0, 0.05), "own": Spread("about", 0.0, 0.08), "external": Spread("about", 0.0, 0.06),
    "gain": Spread("always", 0.0), "top": Spread("always", math.inf), "mode": Spread("always", 0.0),
    "volts": Spread("about", 13.6, 0.3), "threshold": Spread("evenly", 1.7, 2.8),
    "relay": Spread("evenly", 0.0, 0.1), "scatter": Spread("always", 0.0), "jumper": Spread("evenly", 0.0, 0.1),
    "jumper_rho": Spread("over a disc", 0.03), "adapter": Spread("over a disc", 0.03),
    "load": Spread("over a disc", 0.04), "antenna": Spread("evenly", 0.02, 0.25),
    "line": Spread("over a disc", 0.03), "line_db": Spread("evenly", 0.1, 1.5),
}  # fmt: skip
"""Each part in order: logarithms of powers, dB, ρ, SWR of fold-back, volts (common practice, no source)."""

BAD: Mapping[str, Mapping[str, Spread]] = {
    "transmitter": {"gain": Spread("as logarithms", 0.01, 0.75)}, "mode": {"mode": Spread("a mode", 0.0)},
    "supply": {"top": Spread("evenly", 0.1, 0.8), "volts": Spread("evenly", 8.0, 12.2)},
    "fold-back": {"top": Spread("evenly", 0.05, 0.6), "threshold": Spread("evenly", 1.1, 1.5)},
    "relay": {"relay": Spread("evenly", 1.0, 12.0), "scatter": Spread("evenly", 0.1, 0.6)},
    "jumper": {"jumper": Spread("evenly", 0.3, 10.0), "jumper_rho": Spread("evenly", 0.1, 0.8)},
    "adapter": {"adapter": Spread("evenly", 0.12, 0.95)},
    "line": {"line": Spread("evenly", 0.2, 0.9), "line_db": Spread("evenly", 0.5, 6.0)},
    "antenna": {"antenna": Spread("evenly", 0.35, 0.98)},
    "external": {"external": Spread("a factor", 1.3, 10.0)},
    "own": {"own": Spread("a factor", 1.3, 10.0)}, NOTHING: {},
}  # fmt: skip
"""How each suspect is when it is bad (common practice, no source)."""

_LEAK = Spread("over a disc", 0.03)
"""ρ of what leaks into a meter's reflected arm (common practice, no source)."""


@dataclass(frozen=True)
class Sighting:
    """What was read at once; nothing of what wasn't."""

    set_w: float
    into: str = LOAD
    own_w: float | None = None
    external_w: float | None = None
    swr: float | None = None  # by the external meter where it is read, else by the transmitter's own
    supply_v: float | None = None  # while the key is down
    exchanged: frozenset[str] = frozenset()  # suspects that were exchanged, bypassed, or set right for certain

    def __post_init__(self) -> None:
        """Raises OutOfRangeError of a power that isn't one, or of an SWR below 1."""
        shown = (self.own_w, self.external_w, self.supply_v)
        if not 0.0 < self.set_w < math.inf or any(value is not None and not 0.0 <= value < math.inf for value in shown):
            raise OutOfRangeError("What was read is no power.", "Leave out what stood off its scale.")
        if self.swr is not None and not self.swr >= 1.0:
            raise OutOfRangeError(f"An SWR of {self.swr:g} makes no sense.", "Give 1 or more.")


@dataclass(frozen=True, eq=False)
class Seen:
    """What would be read; arrays have shape (suspects, DRAWN) unless they are of some ways."""

    own: FloatArray  # ln of the part of what is set
    external: FloatArray
    rho_external: FloatArray
    rho_own: FloatArray
    supply_v: FloatArray


class Chain:
    """Ways drawn for every suspect; the same each time."""

    def __init__(self, drawn: int = DRAWN) -> None:
        self.shape = len(IDS), drawn
        self._rng = np.random.default_rng(_SEED)
        self._known = self._normal()
        self._fresh = self._normal()  # what a part in order would be in its place
        for row, name in enumerate(IDS):
            for key, spread in BAD[name].items():
                self._known[key][row] = spread(self._rng, (drawn,))
        self._lies = [np.exp(2j * np.pi * self._rng.uniform(size=self.shape)) for _ in range(4)]
        leak = _LEAK(self._rng, self.shape)
        self._leak = leak * np.exp(2j * np.pi * self._rng.uniform(size=self.shape))

    def _normal(self) -> dict[str, FloatArray]:
        return {name: spread(self._rng, self.shape) for name, spread in USUAL.items()}

    def seen(self, at: Sighting, rated_w: float, turn: int, ways: NDArray[np.int64] | None = None) -> Seen:
        """What each way would show.

        Parameters
        ----------
        at : Sighting
            What is set, and into what; what was read there isn't looked at.
        rated_w : float
            Highest power that is set at all, W: what limits is drawn as a part of it.
        turn : int
            Number of the sighting: what scatters is drawn anew for each.
        ways : array, shape (n,), optional
            Places of some of them in the flattened arrays; else of all.
        """

        def some(values: "NDArray[Any]") -> "NDArray[Any]":
            return values if ways is None else values.ravel()[ways]

        part = {key: some(values) for key, values in self._parts(at.exchanged).items()}
        lies, leak = [some(one) for one in self._lies], some(self._leak)
        jitter = np.random.default_rng([_SEED, turn]).uniform(-1.0, 1.0, part["relay"].shape)
        relay = part["relay"] * (1.0 + part["scatter"] * jitter)
        through = 10.0 ** (-(relay + part["jumper"]) / 20.0)  # of a wave, one way
        behind = _behind(at.into, part, lies)
        ahead = _both(part["jumper_rho"] * lies[0], behind * through**2)
        asked = np.log(at.set_w) + part["gain"] + part["mode"]
        given = np.minimum(asked, np.log(rated_w) + np.log(part["top"])) + part["set"]
        first = (part["threshold"] - 1.0) / (part["threshold"] + 1.0)
        given = given + 2.0 * np.minimum(np.log(first / np.maximum(np.abs(ahead), 1e-6)), 0.0)
        passed = 2.0 * np.log(through) + np.log1p(-(np.minimum(part["jumper_rho"], 0.999) ** 2))
        own, external = given + part["own"], given + passed + part["external"]
        return Seen(
            np.maximum(own - np.log(at.set_w), LEAST), np.maximum(external - np.log(at.set_w), LEAST),
            np.minimum(np.abs(behind + leak), 0.999), np.minimum(np.abs(ahead + leak), 0.999),
            part["volts"],
        )  # fmt: skip

    def _parts(self, exchanged: Collection[str]) -> Mapping[str, FloatArray]:
        fresh = {key for name in exchanged for key in _OF[name]}
        return {key: self._fresh[key] if key in fresh else values for key, values in self._known.items()}

    def surprise(self, at: Sighting, seen: Seen) -> Mapping[str, FloatArray]:
        """−ln of the likelihood of each thing that was read, up to a constant, in every way."""
        found: dict[str, FloatArray] = {}
        for name, value, ways in (("own", at.own_w, seen.own), ("external", at.external_w, seen.external)):
            if value is not None:
                log = max(np.log(max(value, 1e-30) / at.set_w), LEAST)
                found[name] = _tail((ways - log) / SIGMA)
        if at.swr is not None:
            rho = (at.swr - 1.0) / (at.swr + 1.0) if np.isfinite(at.swr) else 1.0
            ways = seen.rho_external if at.external_w is not None else seen.rho_own
            found["swr"] = _tail((ways - rho) / SIGMA_RHO)
        if at.supply_v is not None:
            found["supply"] = _tail((seen.supply_v - at.supply_v) / 0.2)
        return found


def _behind(
    into: str, part: Mapping[str, FloatArray], lies: Sequence[NDArray[np.complex128]]
) -> NDArray[np.complex128]:
    """Γ behind the external meter."""
    end = part["load"] * lies[1]
    if into != LOAD:
        last = part["load"] if into == FAR_LOAD else part["antenna"]
        end = _both(part["line"] * lies[3], last * lies[1] * 10.0 ** (-part["line_db"] / 10.0))
    return _both(part["adapter"] * lies[2], end)


def _tail(off: FloatArray) -> FloatArray:
    """Of Student's t with four degrees of freedom: one reading that is far off doesn't decide alone."""
    return 2.5 * np.log1p(off**2 / 4.0)


def _both(a: NDArray[np.complex128], b: NDArray[np.complex128]) -> NDArray[np.complex128]:
    """Two reflections one behind the other, of parts that lose nothing; never above 1."""
    made = (a + b) / (1.0 + a * b)
    return np.asarray(made / np.maximum(np.abs(made), 1.0))


_OF: Mapping[str, tuple[str, ...]] = {
    "transmitter": ("gain", "set"), "mode": ("mode",), "supply": ("volts", "top"), "fold-back": ("top", "threshold"),
    "relay": ("relay", "scatter"), "jumper": ("jumper", "jumper_rho"), "adapter": ("adapter",),
    "line": ("line", "line_db"), "antenna": ("antenna",), "external": ("external",), "own": ("own",),
    NOTHING: (),
}  # fmt: skip
"""What is new when a suspect is exchanged."""
