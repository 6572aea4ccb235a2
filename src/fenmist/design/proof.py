"""A design held against what an analyser measured of it, and the strays that would explain the difference.

The file may have two ports, the line's near end and the side (of a pad: its two ends), with the line going on into a
real load; or three, in, out and side. An analyser's own uncertainty grows with what it has to see through: U = base +
what a floor F below would add, 20·log10(1 + 10^((A − F)/20)): a hand-held one that sees down to 50 dB is off by some
2.5 dB at 40 dB (2 to 3 dB at −40 dB: common practice, no source). Page: docs/method/designer.md.
"""

import math
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from fenmist.design.design import Design
from fenmist.design.response import respond
from fenmist.design.shapes import ENDS, TAPS
from fenmist.design.strays import Strays
from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.kit.touchstone import Touchstone

FloatArray = NDArray[np.float64]

LEAST_POINTS = 3

KNOWN_WITHIN = 0.7
"""Standard deviation of ln of a stray before anything was measured: a factor of two (Fenmist's own)."""

LEAST_STRAY = {"across_f": 0.02e-12, "joint_f": 0.05e-12, "lead_h": 2e-9, "output_f": 0.1e-12, "trim_f": 0.02e-12}
"""Taken as begun with where a stray is said to be nothing: F, H."""

MOST_FITTED = 200
"""Frequencies that strays are fitted at."""


@dataclass(frozen=True)
class Analyser:
    """How well it knows a transmission: U in dB (k = 2) at little loss, and how far down it sees."""

    label: str
    base_db: float
    floor_db: float

    def expanded_u_db(self, loss_db: FloatArray) -> FloatArray:
        """U at a loss, any shape."""
        return np.asarray(self.base_db + 20.0 * np.log10(1.0 + 10.0 ** ((loss_db - self.floor_db) / 20.0)))


ANALYSERS = (
    Analyser("hand-held", 0.2, 50.0),
    Analyser("bench", 0.1, 90.0),
)
"""What can be chosen; figures are common practice, no source."""


@dataclass(frozen=True, eq=False)
class Proof:
    """What was measured beside the design. Arrays have shape (n,)."""

    frequency_hz: FloatArray
    measured_db: FloatArray  # the main figure; of an end its SWR as a ratio in dB
    designed_db: FloatArray
    expanded_u_db: FloatArray
    swr: FloatArray  # measured at the near end
    designed_swr: FloatArray
    z0_ohm: float

    @property
    def off_db(self) -> FloatArray:
        """Measured less designed."""
        return self.measured_db - self.designed_db

    @property
    def explained(self) -> bool:
        """Whether the analyser's uncertainty covers the difference at 95 of 100 frequencies."""
        return bool(np.mean(np.abs(self.off_db) <= self.expanded_u_db) >= 0.95)

    @property
    def worst(self) -> int:
        """Where the difference is largest beside what the analyser knows."""
        return int(np.argmax(np.abs(self.off_db) / self.expanded_u_db))


def under_test(design: Design, z0_ohm: float) -> Design:
    """The same as an analyser sees it: its own Z0 at the side."""
    return replace(design, ask=replace(design.ask, sensor_ohm=z0_ohm, sensor_f=0.0))


def prove(design: Design, file: Touchstone, analyser: Analyser) -> Proof:
    """A file over the design.

    Raises
    ------
    OutOfRangeError
        Where the file can't be of such a thing.
    """
    tested = under_test(design, file.z0_ohm)
    is_end = design.shape in ENDS
    wanted = (1,) if is_end else (2, 3) if design.layout.side or design.layout.second else (2,)
    if file.ports not in wanted or file.frequency_hz.size < LEAST_POINTS:
        ports = " or ".join(str(count) for count in wanted)
        raise OutOfRangeError(
            f"A file of {file.ports} ports at {file.frequency_hz.size} frequencies isn't of a {design.shape}.",
            f"It has {ports} ports, in, then side or out; at {LEAST_POINTS} frequencies or more.",
        )
    if abs(file.z0_ohm - design.ask.z0_ohm) > 0.01 * design.ask.z0_ohm:
        raise OutOfRangeError(
            f"The file is of {file.z0_ohm:g} Ω, the design of {design.ask.z0_ohm:g} Ω.", "Measure it between its own."
        )
    response = respond(tested, file.frequency_hz)
    gamma = np.minimum(np.abs(file.scattering[:, 0, 0]), 1.0 - 1e-9)
    swr = (1.0 + gamma) / (1.0 - gamma)
    if is_end:
        measured = 20.0 * np.log10(swr)
        u = analyser.base_db + 20.0 * np.log10(1.0 + 10.0 ** ((20.0 - analyser.floor_db) / 20.0)) * np.ones_like(swr)
        return Proof(file.frequency_hz, measured, response.main_db, u, swr, response.swr, file.z0_ohm)
    way = file.ports - 1 if design.shape in TAPS else 1
    lost = -20.0 * np.log10(np.maximum(np.abs(file.scattering[:, way, 0]), 1e-9))
    main = lost
    if design.shape in TAPS and response.through_db is not None:  # against what goes on, not what came
        through = response.through_db
        if file.ports == 3:
            through = -20.0 * np.log10(np.maximum(np.abs(file.scattering[:, 1, 0]), 1e-9))
        main = lost - through
    u = analyser.expanded_u_db(lost)
    return Proof(file.frequency_hz, main, response.main_db, u, swr, response.swr, file.z0_ohm)


@dataclass(frozen=True)
class Explained:
    """Strays that fit best, from what was taken for them, and what is left."""

    strays: Strays
    gain_db: float  # the same at all frequencies: what the resistors are off by
    left_db: float  # root mean square of what is left, dB
    was_db: float


def fitted_strays(design: Design, proof: Proof) -> Explained:
    """Strays and one gain by least squares, each held to within a factor of two or so of what it was taken for.

    A stray that is nothing and whose like isn't there at all (a trim wire) stays nothing.
    """
    from scipy.optimize import least_squares  # heavy: imported on first use

    step = max(proof.frequency_hz.size // MOST_FITTED, 1)
    f, measured, u = proof.frequency_hz[::step], proof.measured_db[::step], proof.expanded_u_db[::step] / 2.0
    tested = under_test(design, proof.z0_ohm)
    names = [
        name for name in LEAST_STRAY
        if (name != "trim_f" or design.strays.trim_f > 0.0) and (name not in ("output_f",) or design.layout.output)
    ]  # fmt: skip
    begun = np.array([max(getattr(design.strays, name), LEAST_STRAY[name]) for name in names])

    def strays(logs: FloatArray) -> Strays:
        values = dict(zip(names, (begun * np.exp(logs)).tolist(), strict=True))
        return replace(design.strays, **values)

    def left(x: FloatArray) -> FloatArray:
        off = respond(replace(tested, strays=strays(x[:-1])), f).main_db + x[-1] - measured
        # many frequencies share an analyser's error: they count as ten
        weight = math.sqrt(min(10.0 / f.size, 1.0))
        return np.concatenate([weight * off / u, x[:-1] / KNOWN_WITHIN, x[-1:] / 0.5])

    found = least_squares(left, np.zeros(len(names) + 1), bounds=(-6.0, 6.0))
    after = respond(replace(tested, strays=strays(found.x[:-1])), f).main_db + found.x[-1] - measured
    before = respond(tested, f).main_db - measured
    return Explained(
        strays(found.x[:-1]), float(found.x[-1]), float(np.sqrt(np.mean(after**2))), float(np.sqrt(np.mean(before**2)))
    )
