"""The references of points that are read alike: each as the power at the stated plane, all from one set of influences.

What an instrument shows becomes a quantity at its connector (`methods.indication`), and that a power at the stated
plane by the bench (`hookup.transfer`). What two of them share is one influence, so their estimates are correlated by
themselves.
"""

from collections.abc import Mapping, Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from fenmist.calibration.job import HEAT, Job, PlanPoint
from fenmist.calibration.rounds import ChannelMean, PointReadings, Scatter
from fenmist.errors import OutOfRangeError
from fenmist.frozen import dataclass
from fenmist.hookup.line import HookUp, Stop, main_way, side_ways
from fenmist.hookup.transfer import Transfer, reflection_behind, transfer_of, waves_along
from fenmist.hookup.waves import Waves
from fenmist.kit.part import FEEDS, Part
from fenmist.kit.same import Latest, Same
from fenmist.kit.tables import CORRECTION
from fenmist.measurand import Kind, Measurand, PlaneRef
from fenmist.methods.indication import Indication, Read, Source, calibration_factor
from fenmist.methods.modulated import of_carriers
from fenmist.uncertainty.influence import FloatArray, Influence, Inputs, each_once
from fenmist.uncertainty.propagation import Stencil
from fenmist.units.moment import years_since
from fenmist.waveform.harmonics import ASSUMED_DBC, Harmonics, harmonics_from_dbc

KIND, VERSION = "transfer", 3
"""How a reference's power is worked out, as it stands in a job's method."""

LEAST_SHOWN = 1e-20
"""V², A² or W for each watt below which nothing arrives: rounding."""

Values = Mapping[str, FloatArray]


Powers = tuple[tuple[FloatArray, ...], FloatArray]
"""What each reference says of the power at the stated plane, W, and the part of it that goes into the line's end."""


@dataclass(frozen=True, eq=False)
class _Shown:
    """What references that show something say of a power: the same as long as they show the same."""

    bench: Transfer
    stated: Kind
    indications: tuple[Indication, ...]
    planes: tuple[tuple[Kind, PlaneRef], ...]

    @cached_property
    def influences(self) -> tuple[Influence, ...]:
        return each_once(*(indication.influences() for indication in self.indications), self.bench.influences)

    @property
    def end(self) -> PlaneRef:
        last = self.bench.main[-1]
        return PlaneRef(self.bench.hookup.id, last.element, last.entry)

    def powers(self, x: Values) -> Powers:
        wanted = (*self.planes, (Kind.NET, self.end))
        *per_watt, net = self.bench.per_watt(x, wanted, self.stated)
        return tuple(
            indication.quantity(x) / share for indication, share in zip(self.indications, per_watt, strict=True)
        ), net

    @cached_property
    def beside(self) -> tuple[Stencil, Powers]:
        """Those powers at and beside the estimates."""
        stencil = Stencil(Inputs(self.influences))
        powers, net = self.powers(stencil.x)
        return stencil, (tuple(stencil.spread(power) for power in powers), stencil.spread(net))


@dataclass(frozen=True, eq=False)
class References:
    """References of n points on one hook-up."""

    means: tuple[ChannelMean, ...]
    source: Source  # without gains
    feeds: tuple[tuple[Stop, ...], ...]  # leads and probes in front of each
    waves: Waves  # at the estimates
    _shown: _Shown

    @property
    def bench(self) -> Transfer:
        """The bench that they stand on."""
        return self._shown.bench

    @property
    def stated(self) -> Kind:
        """What kind of power they say."""
        return self._shown.stated

    @property
    def indications(self) -> tuple[Indication, ...]:
        """What each of them shows."""
        return self._shown.indications

    @property
    def planes(self) -> tuple[tuple[Kind, PlaneRef], ...]:
        """Where each is read."""
        return self._shown.planes

    @property
    def influences(self) -> tuple[Influence, ...]:
        """Everything uncertain on the bench and in the instruments, each once."""
        return self._shown.influences

    @property
    def end(self) -> PlaneRef:
        """Where the line ends."""
        return self._shown.end

    def powers(self, x: Values, of: Stencil | None = None) -> Powers:
        """What they say of the power; `of` is the stencil that x may be the inputs of.

        Worked out once for all stencils of their influences: what else is uncertain doesn't move them.
        """
        if of is not None and x is of.x:
            stencil, (powers, net) = self._shown.beside
            rows = of.rows_in(stencil)
            if rows is not None:
                return tuple(power[rows] for power in powers), net[rows]
        return self._shown.powers(x)

    def trusted(self, limits: Mapping[str, float]) -> NDArray[np.bool_]:
        """Where each is a reference, shape (m, n): below its share of a bandwidth, leads and probes within limits, and
        what it shows of the waveform is known.
        """
        return np.array([
            self._low_enough(indication, limits) & self._short_enough(stops, limits) & mean.shares.known
            for indication, stops, mean in zip(self.indications, self.feeds, self.means, strict=True)
        ])  # fmt: skip

    def _low_enough(self, indication: Indication, limits: Mapping[str, float]) -> NDArray[np.bool_]:
        return np.asarray(self.bench.frequency_hz <= limits.get("reference_limit", 1.0) * indication.bandwidth_hz)

    def _short_enough(self, stops: Sequence[Stop], limits: Mapping[str, float]) -> NDArray[np.bool_]:
        fits = np.ones(self.bench.frequency_hz.size, bool)
        for stop in stops:
            raised = self.raised(stop)
            fits &= (np.abs(raised) ** 2 - 1.0 <= limits.get("lead_limit", np.inf)) & (np.real(raised) > 0.0)
        return fits

    def raised(self, stop: Stop) -> NDArray[np.complex128]:
        """Volts behind a lead or a probe over those in front of it, its ratio taken out; negative beyond resonance."""
        entry, leave = (stop.element, stop.entry), (stop.element, stop.exit or stop.entry)
        made = (self.waves.into[leave] + self.waves.out[leave]) / (self.waves.into[entry] + self.waves.out[entry])
        times = self.bench.elements[stop.element].divides
        return np.broadcast_to(np.asarray(made * times, complex), (self.bench.frequency_hz.size,))


def references_at(
    job: Job, read: Sequence[PointReadings], mean: Scatter, more: tuple[tuple[Kind, PlaneRef], ...] = ()
) -> References:
    """References of points of one hook-up that read the same channels; with what is asked at other planes."""
    f = np.array([item.point.frequency_hz for item in read])
    return _references(job, job.hookup(read[0].point.hookup), f, mean.references, more)


def _references(
    job: Job, hookup: HookUp, frequency_hz: FloatArray, means: tuple[ChannelMean, ...],
    more: tuple[tuple[Kind, PlaneRef], ...] = (),
) -> References:  # fmt: skip
    bench = _bench(job, hookup, frequency_hz, tuple(item.channel for item in means), more)
    key = (
        Same(bench), job.stated.kind, job.created_at,
        *((job.channel(item.channel), *item.shows) for item in means),
    )  # fmt: skip
    shown = _SHOWN.once(key, lambda: _made_shown(job, bench, means))
    return References(means, bench.source, bench.feeds, bench.waves, shown)


_SHOWN: Latest[_Shown] = Latest(4)
"""A reading is worked out again at each digit of the one beside it."""


def _made_shown(job: Job, bench: "_Bench", means: tuple[ChannelMean, ...]) -> _Shown:
    indications = tuple(
        _indication(job, bench, item, branch, Source(bench.source.id, bench.source.harmonics, gain))
        for item, branch, gain in zip(means, bench.branches, bench.gains, strict=True)
    )
    return _Shown(bench.transfer, job.stated.kind, indications, bench.planes)


def references_planned(job: Job, hookup_id: str, frequency_hz: FloatArray, channels: Sequence[str]) -> References:
    """References as they will be at frequencies of shape (n,), before anything was read: each shows 1."""
    n, ones = frequency_hz.size, np.ones(frequency_hz.size)
    none, never = np.zeros(n), np.full(n, np.inf)
    means = tuple(
        ChannelMean(name, ones, none, none, ("",) * n, ("",) * n, never, none, never, none, of_carriers(n))
        for name in channels
    )
    return references_of(job, hookup_id, frequency_hz, means)


def references_of(job: Job, hookup_id: str, frequency_hz: FloatArray, means: tuple[ChannelMean, ...]) -> References:
    """References at frequencies of shape (n,) that show what is given."""
    return _references(job, job.hookup(hookup_id), frequency_hz, means)


@dataclass(frozen=True, eq=False)
class _Bench:
    """What follows from the definition alone: the same for every reading."""

    transfer: Transfer
    waves: Waves
    source: Source
    planes: tuple[tuple[Kind, PlaneRef], ...]
    branches: tuple[tuple[Stop, ...], ...]
    feeds: tuple[tuple[Stop, ...], ...]
    gains: tuple[dict[int, FloatArray], ...]


def _bench(
    job: Job, hookup: HookUp, frequency_hz: FloatArray, channels: tuple[str, ...],
    more: tuple[tuple[Kind, PlaneRef], ...] = (),
) -> _Bench:  # fmt: skip
    """The bench at frequencies of shape (n,), remembered by hook-up and parts: neither plan nor readings count."""
    parts = tuple(Same(job.part(item.part)) for item in hookup.elements)
    read = tuple(job.channel(name).measurand for name in channels)
    key = (Same(hookup), parts, frequency_hz.tobytes(), read, job.method.parameters.get(HEAT), more)
    return _BENCHES.once(key, lambda: _made_bench(job, hookup, frequency_hz, channels, more))


_BENCHES: Latest[_Bench] = Latest(128)


def remember_bench(job: Job, point: PlanPoint) -> None:
    """Work out what the references of a point follow from before they are read, so that the first one needn't wait."""
    channels = job.references_of(point)
    if channels:
        _ = _bench(job, job.hookup(point.hookup), np.array([point.frequency_hz]), channels).transfer.influences


def _made_bench(
    job: Job, hookup: HookUp, frequency_hz: FloatArray, channels: tuple[str, ...],
    more: tuple[tuple[Kind, PlaneRef], ...],
) -> _Bench:  # fmt: skip
    parts, heat = job.parts, job.method.parameters.get(HEAT)
    read = [job.channel(name).measurand for name in channels]
    planes = tuple((item.kind, item.plane) for item in read)
    transfer = transfer_of(hookup, parts, frequency_hz, (*planes, *more), heat)
    waves = transfer.waves()
    for name, measurand in zip(channels, read, strict=True):
        _check_something_arrives(job, hookup, waves, name, measurand)
    source = _source(job, hookup)
    branches = tuple(_branch(hookup, parts, plane.element) for _, plane in planes)
    feeds = tuple(
        tuple(stop for stop in branch if parts[hookup.element(stop.element).part].kind in FEEDS) for branch in branches
    )
    gains = _gains(hookup, parts, frequency_hz, branches, source.harmonics, waves)
    return _Bench(transfer, waves, source, planes, branches, feeds, tuple(gains))


def _check_something_arrives(job: Job, hookup: HookUp, waves: Waves, channel: str, measurand: Measurand) -> None:
    plane = measurand.plane
    shown = waves.quantity(measurand.kind, (plane.element, plane.port), hookup.z0_ohm)
    if measurand.kind in (Kind.VOLTAGE, Kind.CURRENT, Kind.INCIDENT) and not np.all(shown > LEAST_SHOWN):
        raise OutOfRangeError(
            f"“{job.part_read(channel).label}” would show nothing on “{hookup.label}”.",
            "Look whether something ends the line, and whether a part stands the wrong way round.",
        )


def shown_per_watt(
    job: Job, hookup: HookUp, frequency_hz: FloatArray, channels: tuple[str, ...]
) -> tuple[FloatArray, ...]:
    """What channels show for each watt at the stated plane, V², A² or W, at the estimates; one array (n,) for each."""
    if not channels:
        return ()
    bench = _bench(job, hookup, frequency_hz, channels)
    found = bench.transfer.estimated_per_watt(bench.planes, job.stated.kind)
    return tuple(
        np.broadcast_to(per_watt * calibration_factor(job.part_read(name), frequency_hz)[0], frequency_hz.shape)
        for name, per_watt in zip(channels, found, strict=True)
    )


def _branch(hookup: HookUp, parts: Mapping[str, Part], element: str) -> tuple[Stop, ...]:
    """What hangs between the line and an instrument, the instrument last; nothing where it stands on the line."""
    for stops in side_ways(hookup, parts).values():
        names = [stop.element for stop in stops]
        if element in names:
            return stops[: names.index(element) + 1]
    return ()


def _source(job: Job, hookup: HookUp) -> Source:
    part = job.part(hookup.element(main_way(hookup, job.parts)[0].element).part)
    return Source(part.id, harmonics_of(part), {})


def harmonics_of(source: Part) -> Harmonics:
    """As stated; of what isn't stated a ceiling is assumed."""
    stated = {order: source.properties.get(f"harmonic_{order}_dbc") for order in (2, 3)}
    measured = all(item is not None and item.measured for item in stated.values())
    return harmonics_from_dbc({order: item.value if item else ASSUMED_DBC for order, item in stated.items()}, measured)


def _gains(
    hookup: HookUp,
    parts: Mapping[str, Part],
    frequency_hz: FloatArray,
    branches: Sequence[tuple[Stop, ...]],
    harmonics: Harmonics,
    waves: Waves,
) -> list[dict[int, FloatArray]]:
    """How each harmonic arrives at each instrument over what stands on the line, against the carrier's, by order."""
    found: list[dict[int, FloatArray]] = [{} for _ in branches]
    if not any(branches):
        return found
    orders, n = tuple(harmonics.ratios), frequency_hz.size
    for gains, branch in zip(found, branches, strict=True):
        if branch:
            there = waves_along(hookup, parts, np.concatenate([order * frequency_hz for order in orders]), branch)
            along = np.broadcast_to(_along(there, branch), (n * len(orders),)).reshape(len(orders), n)
            gains.update(zip(orders, along / _along(waves, branch), strict=True))
    return found


def _along(waves: Waves, branch: Sequence[Stop]) -> FloatArray:
    begin, end = (branch[0].element, branch[0].entry), (branch[-1].element, branch[-1].entry)
    volts = [np.abs(waves.into[at] + waves.out[at]) for at in (end, begin)]
    return np.asarray(volts[0] / np.maximum(volts[1], 1e-30))


def _indication(job: Job, bench: _Bench, mean: ChannelMean, branch: Sequence[Stop], source: Source) -> Indication:
    channel, known = job.channel(mean.channel), bool(np.all(np.isfinite(mean.full_scale)))
    table = job.part_read(mean.channel).characterisation(CORRECTION)
    read = Read(
        job.part_read(mean.channel), job.indicator(mean.channel), channel.measurand.kind, bench.transfer.frequency_hz,
        mean.value, mean.u_reading, mean.digit, mean.full_scale if known else None,
        mean.ranges if any(mean.ranges) else (), mean.forms, bench.transfer.elements[channel.element].name,
        reflection_behind(bench.transfer, bench.waves, channel.element), mean.shares,
        (years_since(table.measured_on, job.created_at) if table is not None else None) or 0.0,
    )  # fmt: skip
    before = (job.part(bench.transfer.hookup.element(stop.element).part) for stop in branch[:-1])
    bandwidths = tuple(item.properties["bandwidth_hz"].value for item in before if "bandwidth_hz" in item.properties)
    return Indication(read, source, bandwidths)
