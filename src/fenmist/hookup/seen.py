"""The reflection that a connector sees, with everything uncertain behind it by name.

What has a known phase is solved with the line (`hookup.transfer`). Of a part of which only levels are known the network
passes what comes back, weakened; its own reflections add to that in an open phase: each is an influence with a real and
an imaginary part. Of a load of which only |Z| and SWR were noted a positive reactance is taken: the size of what it
reflects doesn't depend on that. Page: docs/method/reflection.md.
"""

import math
from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.hookup.line import HookUp, Stop
from fenmist.hookup.transfer import Transfer, transfer_of
from fenmist.kit.part import Part
from fenmist.kit.uncertain import UncertainPart, Values
from fenmist.measurand import Kind, PlaneRef
from fenmist.rf.twoport import cascaded, seen_reflection
from fenmist.uncertainty.influence import Distribution, FloatArray, Influence, influence, standard_u_from_limit

ComplexArray = NDArray[np.complex128]

SMALLEST = 1e-6
"""Reflection below which a part's own is left out: −120 dB."""


@dataclass(frozen=True, eq=False)
class SeenMatch:
    """What a plane sees at n frequencies, from one set of influences."""

    bench: Transfer
    plane: PlaneRef
    open_phase: tuple[tuple[Influence, Influence], ...]  # real and imaginary part of each reflection of open phase
    influences: tuple[Influence, ...]

    def gamma(self, x: Values) -> ComplexArray:
        """Γ there.

        Parameters
        ----------
        x : mapping
            Values of `influences` by id, arrays of one shape (..., n).

        Returns
        -------
        complex array, shape (..., n)
        """
        at = (self.plane.element, self.plane.port)
        waves = self.bench.waves(x)
        forward, back = (
            (waves.into[at], waves.out[at]) if at in waves.forward_is_in else (waves.out[at], waves.into[at])
        )
        gamma = back / forward
        for real, imaginary in self.open_phase:
            gamma = gamma + x[real.id] + 1j * x[imaginary.id]
        return np.asarray(gamma)

    @property
    def estimates(self) -> Values:
        """The influences as they are estimated."""
        return {item.id: item.estimate for item in self.influences}


def seen_match(
    hookup: HookUp, parts: Mapping[str, Part], frequency_hz: FloatArray, plane: PlaneRef, heat: float | None = None
) -> SeenMatch:
    """What a connector on the line sees on its far side.

    Parameters
    ----------
    frequency_hz : array, shape (n,)
        In Hz.
    plane : PlaneRef
        A connector of the hook-up's main line, where power is stated too.
    heat : float, optional
        How hot a load is, 0 to 1.

    Raises
    ------
    UnknownIdError
        Where the line begins at no source.
    OutOfRangeError
        Where the line doesn't pass there.
    """
    bench = transfer_of(replace(hookup, stated=plane), parts, frequency_hz, ((Kind.INCIDENT, plane),), heat)
    own = {item.id: _with_sign(item) for name in bench.counting for item in _with_reactance(bench.elements[name])}
    opened = _open_reflections(bench, plane)
    return SeenMatch(bench, plane, opened, (*own.values(), *(half for both in opened for half in both)))


def _with_reactance(element: UncertainPart) -> tuple[Influence, ...]:
    """A reactance that nobody measured, of an end whose resistance is known to something: known to as much.

    Power in a load hardly depends on it; what it reflects does.
    """
    known = {item.id: item for item in element.influences}
    resistance = known.get(f"{element.name}.resistance")
    return tuple(
        replace(
            item, standard_u=np.where(item.standard_u > 0, item.standard_u, resistance.standard_u),
            basis="not measured: to as much as its resistance",
        )
        if resistance is not None and item.id == f"{element.name}.reactance" and np.any(item.standard_u == 0)
        else item
        for item in element.influences
    )  # fmt: skip


def _with_sign(item: Influence) -> Influence:
    """An open sign of a reactance taken as positive."""
    if item.distribution is not Distribution.TWO_POINT or not np.any(item.standard_u > 0):
        return item
    return replace(item, estimate=np.ones_like(item.estimate), standard_u=np.zeros_like(item.standard_u))


def _open_reflections(bench: Transfer, plane: PlaneRef) -> tuple[tuple[Influence, Influence], ...]:
    """Both ports of each part of open phase behind a plane, as large as they are seen there."""
    names = [stop.element for stop in bench.main]
    begin = names.index(plane.element) + (plane.port == bench.main[names.index(plane.element)].exit)
    waves = bench.waves()
    if begin == len(bench.main):  # an open connector
        return ()
    entry = (bench.main[begin].element, bench.main[begin].entry)
    found = []
    for stop in bench.main[begin:]:
        element = bench.elements[stop.element]
        if not element.match.reflection:
            continue
        forward = np.abs(waves.into[stop.element, stop.entry] / waves.into[entry])
        found.append(_halves(bench, stop, stop.entry, element, element.match.reflection * forward**2))
        if stop.exit:  # what comes back from behind meets its far port
            back = np.abs(waves.into[stop.element, stop.exit] / waves.into[entry])
            found.append(_halves(bench, stop, stop.exit, element, element.match.reflection * back**2))
    return tuple(both for both in found if np.any(both[0].standard_u > SMALLEST))


@dataclass(frozen=True, eq=False)
class Between:
    """What lies between two planes of one line at n frequencies, as far as a reflection carried from one to the other
    is concerned."""

    s: ComplexArray  # (n, 2, 2), the first plane's port first
    loss_db: FloatArray  # (n,)
    u_loss_db: FloatArray  # (n,), standard
    open_rho: FloatArray  # (n,): the most that reflections of open phase add, as seen at the first plane
    elements: tuple[str, ...]

    def carried(self, low: FloatArray, high: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Least and most |Γ| at the first plane, where at the second |Γ| lies between two values in any phase.

        Parameters
        ----------
        low, high : array, shape (n,)
            0 to 1.

        Notes
        -----
        Γ1 = S11 + S12·S21·Γ2/(1 − S22·Γ2), over a grid of sizes and phases; ± 2 u of the loss there and back, and what
        reflections of open phase may add or take.
        """
        phases = np.exp(2j * np.pi * np.arange(PHASES) / PHASES)
        sizes = low + (high - low) * np.linspace(0.0, 1.0, SIZES)[:, None]
        far = sizes[:, None, :] * phases[None, :, None]
        found = np.abs(seen_reflection(self.s, far))
        times = 10.0 ** (2.0 * self.u_loss_db / 10.0)
        return (
            np.maximum(np.min(found, axis=(0, 1)) / times - self.open_rho, 0.0),
            np.minimum(np.max(found, axis=(0, 1)) * times + self.open_rho, 1.0),
        )


PHASES, SIZES = 72, 9
"""Steps of the grid over what is known of a reflection: 5° of phase."""


def between(seen: SeenMatch, second: PlaneRef) -> Between:
    """What lies between a plane and another one further on.

    Parameters
    ----------
    seen : SeenMatch
        What the first plane sees.
    second : PlaneRef
        A connector behind it where the line leaves a part.

    Raises
    ------
    OutOfRangeError
        Where that isn't behind it.
    """
    bench, names = seen.bench, [stop.element for stop in seen.bench.main]
    first = names.index(seen.plane.element) + 1
    if second.element not in names[first:]:
        raise OutOfRangeError("The second meter isn't behind the first one.", "Look at the hook-up.")
    stops = bench.main[first : names.index(second.element) + 1]
    blocks, loss, u_square = [], np.zeros(bench.frequency_hz.size), np.zeros(bench.frequency_hz.size)
    for stop in stops:
        element = bench.elements[stop.element]
        s = np.broadcast_to(element.estimated, (bench.frequency_hz.size, len(element.ports), len(element.ports)))
        kept = [element.ports.index(stop.entry), element.ports.index(stop.exit or stop.entry)]
        block = s[:, kept][:, :, kept]
        blocks.append(block)
        loss = loss - 20.0 * np.log10(np.maximum(np.abs(block[:, 1, 0]), 1e-9))
        u_square = u_square + sum(
            (item.standard_u**2 for item in element.influences if item.id.startswith(f"{element.name}.loss") and
             item.unit == "dB"), np.zeros(bench.frequency_hz.size),
        )  # fmt: skip
    inside = {stop.element for stop in stops}
    most = np.zeros(bench.frequency_hz.size)
    for real, _ in seen.open_phase:
        if real.id.partition(".")[0] in inside:
            most = most + real.standard_u * (2.0 if real.distribution is Distribution.DISC else math.sqrt(2.0))
    return Between(cascaded(blocks), loss, np.sqrt(u_square), most, tuple(stop.element for stop in stops))


def _halves(
    bench: Transfer, stop: Stop, port: str, element: UncertainPart, size: FloatArray
) -> tuple[Influence, Influence]:
    """Real and imaginary part of a reflection of known size, or of one that lies anywhere below a ceiling."""
    shape = Distribution.DISC if element.match.is_ceiling else Distribution.U_SHAPED
    f = bench.frequency_hz
    u = standard_u_from_limit(np.broadcast_to(size, f.shape), shape)
    part = bench.hookup.element(stop.element).part
    real, imaginary = (
        influence(
            f"{stop.element}.{port}.match.{half}", f"{stop.element}, its own match at “{port}”, {half} part", 0.0, u,
            points=f.size, source_id=part, distribution=shape, sharing=bench.of_frequency,
            basis="phase not known",
        )
        for half in ("real", "imaginary")
    )  # fmt: skip
    return real, imaginary
