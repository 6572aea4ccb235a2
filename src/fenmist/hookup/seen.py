"""The reflection that a connector sees, with everything uncertain behind it by name.

What has a known phase is solved with the line (`hookup.transfer`). Of a part of which only levels are known the network
passes what comes back, weakened; its own reflections add to that in an open phase: each is an influence with a real and
an imaginary part. Of a load of which only |Z| and SWR were noted a positive reactance is taken: the size of what it
reflects doesn't depend on that. Page: docs/method/reflection.md.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from fenmist.hookup.line import HookUp, Stop
from fenmist.hookup.transfer import Transfer, transfer_of
from fenmist.kit.part import Part
from fenmist.kit.uncertain import UncertainPart, Values
from fenmist.measurand import Kind, PlaneRef
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
    known = {item.id: item.estimate for item in bench.influences}
    waves = bench.waves(known)
    entry = (bench.main[begin].element, bench.main[begin].entry)
    found = []
    for stop in bench.main[begin:]:
        element = bench.elements[stop.element]
        if element.has_phase or not (element.states_match or len(element.ports) == 1):
            continue
        forward = np.abs(waves.into[stop.element, stop.entry] / waves.into[entry])
        found.append(_halves(bench, stop, stop.entry, element, element.match.reflection * forward**2))
        if stop.exit:  # what comes back from behind meets its far port
            back = np.abs(waves.into[stop.element, stop.exit] / waves.into[entry])
            found.append(_halves(bench, stop, stop.exit, element, element.match.reflection * back**2))
    return tuple(both for both in found if np.any(both[0].standard_u > SMALLEST))


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
            points=f.size, source_id=part, distribution=shape, sharing=np.unique(f, return_inverse=True)[1],
            basis="phase not known",
        )
        for half in ("real", "imaginary")
    )  # fmt: skip
    return real, imaginary
