"""One reading of a match in every form: SWR, ρ, return loss, per cent, at both ends of a line, with a meter's window.

A frozen request: call it for the answer. A meter's directivity lets ρ be off by 10^(−D/20) either way, its set control
multiplies it; a line's loss hides a mismatch: ρ at the transmitter is ρ at the load times 10^(−A/10). Beside a load
that is known, or another meter at the far end of the line, a reading is held against what it should be.
Page: docs/method/swr.md.
"""

import math

from fenmist.errors import OutOfRangeError, UnreadableError
from fenmist.findings.note import Note, Severity
from fenmist.frozen import dataclass
from fenmist.rf.mismatch import mismatched_line_loss_db, reflection_behind_loss
from fenmist.rf.reflection import (
    reflection_from_impedance,
    reflection_from_swr,
    return_loss_db,
    swr_from_reflection,
)
from fenmist.units.impedance import Known, impedance_from_text
from fenmist.units.typed import clear_reading, value_from_text
from fenmist.units.unit import UNITS

LOAD, TRANSMITTER = "load", "transmitter"
"""Ends of a line."""

ALARM_SWR, ALARM_SHARE = 2.0, 0.10
"""From which people stop and look (common practice, no source)."""

HIDES_DB = 1.0
"""Matched loss of a line from which what it hides is spoken of (Fenmist's own, no source)."""


def swr_of(rho: float) -> float:
    """SWR of a ρ; infinite where everything comes back."""
    return float(swr_from_reflection(min(max(rho, 0.0), 1.0)))


def _said(swr: float) -> str:
    return f"{swr:.3g}" if math.isfinite(swr) else "∞"


@dataclass(frozen=True)
class _Seen:
    """A ρ that was read, and how far half a last digit moves it."""

    rho: float
    digit: float
    net_w: float | None = None  # forward less reflected


@dataclass(frozen=True)
class _Meter:
    """What a meter's claims let it show, to first order (handbook 6)."""

    leak: float  # 10^(−D/20)
    off: float  # ± of its set control

    @property
    def is_stated(self) -> bool:
        return self.leak > 0.0 or self.off > 0.0

    def shows(self, rho: float) -> tuple[float, float]:
        """With a ρ that is so."""
        return _in_the_plane((rho - self.leak) * (1.0 - self.off), (rho + self.leak) * (1.0 + self.off))

    def means(self, rho: float) -> tuple[float, float]:
        """What may be so behind a ρ that it shows."""
        return _in_the_plane(rho / (1.0 + self.off) - self.leak, rho / (1.0 - self.off) + self.leak)

    def means_read(self, seen: _Seen) -> tuple[float, float]:
        """The same, to the last digit of what was read."""
        return self.means(max(seen.rho - seen.digit, 0.0))[0], self.means(seen.rho + seen.digit)[1]


def _in_the_plane(low: float, high: float) -> tuple[float, float]:
    return min(max(low, 0.0), 1.0), min(high, 1.0)


@dataclass(frozen=True)
class SwrAnswer:
    """What a reading means, or a load."""

    rho: float  # as read, or of the load where nothing was read
    net_w: float | None  # forward less reflected; none where no watts were given
    window: tuple[float, float]  # of ρ: the truth behind a reading; of a load alone, what a meter may show
    rho_other_end: float | None  # at the other end of the line
    line_total_loss_db: float | None
    other_end: str
    expected: complex | None  # Γ of the load where the meter stands; none where no load was given
    has_phase: bool  # whether that one has a phase
    shows: tuple[float, float] | None  # ρ that the meter may show with that load
    other: tuple[float, float] | None  # ρ here, by another meter at the other end of the line
    notes: tuple[Note, ...]

    @property
    def swr(self) -> float:
        """Of that ρ."""
        return swr_of(self.rho)

    @property
    def return_loss_db(self) -> float:
        """−20·log10 ρ; infinite of a match."""
        return float(return_loss_db(self.rho))

    @property
    def swr_window(self) -> tuple[float, float]:
        """The same of the window."""
        return swr_of(self.window[0]), swr_of(self.window[1])

    @property
    def swr_other_end(self) -> float | None:
        """At the other end of the line."""
        return None if self.rho_other_end is None else swr_of(self.rho_other_end)


@dataclass(frozen=True)
class SwrRequest:
    """What was read or is known, as typed: watts or SWR, a load, or a reading beside a load."""

    forward: str = ""
    reflected: str = ""
    swr: str = ""
    load: str = ""
    at: str = LOAD  # where that was seen; beside a reading, where the meter stands
    line_loss: str = ""  # dB, matched, one way
    directivity: str = ""  # dB
    set_error: str = ""  # ± per cent
    other_swr: str = ""  # by another such meter at the other end of the line

    def __call__(self) -> SwrAnswer:
        """The answer; raises UnreadableError, OutOfRangeError."""
        meter, watts, shown = self._meter(), self._from_watts(), self._from_swr()
        read, end = watts or shown, _end_of(self.load) if self.load.strip() else None
        if read is None and end is None:
            raise UnreadableError(
                "Nothing was read: forward and reflected watts, an SWR or a load are wanted.",
                "Type for example an SWR of 1.8, or 100 W forward and 4 W reflected.",
            )
        rho = read.rho if read is not None else abs(end.gamma) if end is not None else 0.0
        window = meter.means(rho) if read is not None else meter.shows(rho)
        at_other_end, total = self._line(rho)
        notes = [*self._notes(rho, window, at_other_end, meter)]
        if watts is not None and shown is not None:
            notes += _three_numbers(watts, shown)
        expected, shows, has_phase = None, None, False
        if end is not None:
            is_behind = read is not None and self.at == TRANSMITTER and self._loss_db > 0.0
            expected = end.gamma * (10.0 ** (-self._loss_db / 10.0) if is_behind else 1.0)
            has_phase = end.has_phase and (read is None or self.at == LOAD)
            shows = meter.shows(abs(expected))
            if read is not None:
                notes.append(_beside_load(read, abs(expected), shows, meter))
        other = self._other(meter)
        if other is not None and read is not None:
            notes.append(_two_meters(meter.means_read(read), other))
        return SwrAnswer(
            rho, read.net_w if read is not None else None, window, at_other_end, total,
            TRANSMITTER if self.at == LOAD else LOAD, expected, has_phase, shows, other, tuple(notes),
        )  # fmt: skip

    def _meter(self) -> _Meter:
        quiet, off = self.directivity.strip(), self.set_error.strip()
        return _Meter(
            10.0 ** (-_number(quiet, "dB", "directivity", "25 dB", 0.0, 120.0) / 20.0) if quiet else 0.0,
            _number(off, "%", "set error", "10 %", 0.0, 0.9) if off else 0.0,
        )

    def _from_swr(self) -> _Seen | None:
        return _shown_swr(self.swr, "SWR") if self.swr.strip() else None

    def _from_watts(self) -> _Seen | None:
        if not self.forward.strip() and not self.reflected.strip():
            return None
        forward = _number(self.forward, "W", "forward power", "100 W", 0.0, 1e9)
        reflected = _number(self.reflected, "W", "reflected power", "4 W", 0.0, 1e9)
        if forward <= 0.0:
            raise OutOfRangeError("Nothing goes out.", "Type what the meter shows forward: for example 100 W.")
        if reflected > forward:
            raise OutOfRangeError(
                "More comes back than goes out.", "Look whether both are exchanged, or the ports are swapped."
            )
        rho = math.sqrt(reflected / forward)
        more = reflected + clear_reading(self.reflected, UNITS["W"], "reflected power", "4 W").digit_si / 2.0
        less = forward - clear_reading(self.forward, UNITS["W"], "forward power", "100 W").digit_si / 2.0
        return _Seen(rho, math.sqrt(more / less) - rho if less > 0.0 else 1.0, forward - reflected)

    def _other(self, meter: _Meter) -> tuple[float, float] | None:
        """ρ here by what another meter at the other end shows."""
        if not self.other_swr.strip():
            return None
        low, high = meter.means_read(_shown_swr(self.other_swr, "other meter's SWR"))
        carried = 10.0 ** ((1.0 if self.at == LOAD else -1.0) * self._loss_db / 10.0)
        return _in_the_plane(low * carried, high * carried)

    def _line(self, rho: float) -> tuple[float | None, float | None]:
        if not self.line_loss.strip():
            return None, None
        loss = _number(self.line_loss, "dB", "line loss", "1 dB", 0.0, 200.0)
        if self.at == LOAD:
            return float(reflection_behind_loss(rho, loss)), _lost(loss, rho)
        at_load = float(reflection_behind_loss(rho, -loss))
        if at_load > 1.0 + 1e-9:
            most = swr_of(10.0 ** (-loss / 10.0))
            raise OutOfRangeError(
                f"Behind {loss:g}\u2009dB no load shows an SWR above {most:.3g} at the transmitter.",
                "Look at the line's loss, or at the meter.",
            )
        return min(at_load, 1.0), _lost(loss, min(at_load, 1.0))

    def _notes(self, rho: float, window: tuple[float, float], other: float | None, meter: _Meter) -> list[Note]:
        found = []
        swr = swr_of(rho)
        worst = max(rho, other or 0.0)
        if swr_of(worst) > ALARM_SWR or worst**2 > ALARM_SHARE:
            found.append(
                Note(
                    "swr.high", Severity.WATCH, "line",
                    f"SWR {_said(swr_of(worst))}, {100 * worst**2:.3g}\u2009% reflected: stop and look.",
                    "Many transmitters fold back from an SWR of 2; first suspects are a loose, corroded or wet "
                    "connector, the wrong antenna, a damaged line.",
                    "Lower the power; measure at the load first.", {"rho": worst},
                )
            )  # fmt: skip
        if other is not None and abs(swr_of(other) - swr) > 0.1 and self._loss_db >= HIDES_DB:
            found.append(
                Note(
                    "swr.hidden", Severity.WATCH, "line",
                    f"{self._loss_db:g}\u2009dB of line hide it: {_said(swr_of(max(rho, other)))} at the load shows as "
                    f"{_said(swr_of(min(rho, other)))} at the transmitter.",
                    "What comes back is weakened twice; a lossy line flatters a bad antenna.",
                    "Put the meter at the load, or judge by what it is there.", {"rho": rho, "other": other},
                )
            )  # fmt: skip
        if meter.is_stated and window[0] == 0.0:
            found.append(
                Note(
                    "swr.bound", Severity.GOOD_TO_KNOW, "meter",
                    f"It can't be told from a match: only “below {_said(swr_of(window[1]))}” is a fact.",
                    "The meter's directivity is as large as what it shows.",
                    "A meter of better directivity, or a known mismatch, tells more.", {"high": window[1]},
                )
            )  # fmt: skip
        return found

    @property
    def _loss_db(self) -> float:
        if not self.line_loss.strip():
            return 0.0
        return value_from_text(self.line_loss, UNITS["dB"], "line loss", "1 dB")


def _number(text: str, unit: str, name: str, example: str, low: float, high: float) -> float:
    value = value_from_text(text, UNITS[unit], name, example)
    if not low <= value <= high:
        raise OutOfRangeError(f"{name[:1].upper()}{name[1:]} “{text}” makes no sense.", f"Type for example {example}.")
    return value


def _lost(matched_db: float, rho_at_load: float) -> float:
    """Of a line whose load takes nothing all is lost."""
    return float(mismatched_line_loss_db(matched_db, rho_at_load)) if rho_at_load < 1.0 else math.inf


@dataclass(frozen=True)
class _End:
    """What a load reflects; without its phase a real number."""

    gamma: complex
    has_phase: bool


def _end_of(text: str) -> _End:
    typed = impedance_from_text(text)
    if typed.swr is not None:
        return _End(complex(reflection_from_swr(typed.swr)), False)
    if typed.known is Known.MAGNITUDE:
        raise UnreadableError(f"Of “{text}” only the size is known.", "Type R+jX, or |57.7| swr 1.2.")
    return _End(complex(reflection_from_impedance(typed.ohm)), True)


def _shown_swr(text: str, name: str) -> _Seen:
    swr = _number(text, "", name, "1.8", 1.0, 1e6)
    rho, half = float(reflection_from_swr(swr)), clear_reading(text, UNITS[""], name, "1.8").digit_si / 2.0
    return _Seen(rho, float(reflection_from_swr(swr + half)) - rho)


def _three_numbers(watts: _Seen, shown: _Seen) -> list[Note]:
    """A meter's own forward, reflected and SWR that don't belong together."""
    apart = abs(watts.rho - shown.rho)
    if apart <= watts.digit + shown.digit:
        return []
    return [
        Note(
            "swr.three_numbers", Severity.DOUBT, "meter",
            f"The three numbers don't belong together: the watts give {_said(swr_of(watts.rho))}, it shows "
            f"{_said(swr_of(shown.rho))}.",
            "SWR follows from forward and reflected power; more lies between them than their last digits allow.",
            "Read all three again; a peak that is held, or a scale of the wrong range, does that.",
            {"watts": watts.rho, "shown": shown.rho},
        )
    ]  # fmt: skip


def _beside_load(read: _Seen, expected: float, shows: tuple[float, float], meter: _Meter) -> Note:
    """What is read beside what the load should show."""
    low, high = (swr_of(end) for end in shows)
    may = f"below {_said(high)}" if low == 1.0 else f"{_said(low)} to {_said(high)}"
    facts: dict[str, float | str] = {"rho": read.rho, "expected": expected, "low": shows[0], "high": shows[1]}
    apart = abs(read.rho - expected)
    if meter.is_stated and shows[0] - read.digit <= read.rho <= shows[1] + read.digit:
        barely = "" if shows[0] <= read.rho <= shows[1] else ", to its last digit,"
        return Note(
            "swr.explained", Severity.GOOD_TO_KNOW, "meter",
            f"{_said(swr_of(read.rho))} is{barely} what such a meter may show with that load: {may}.",
            f"The load alone is {_said(swr_of(expected))}; what the meter claims explains the rest.",
            "A meter of better directivity tells more.", facts,
        )  # fmt: skip
    if apart <= read.digit:
        return Note(
            "swr.explained", Severity.GOOD_TO_KNOW, "meter", "It shows what that load is.",
            f"SWR {_said(swr_of(expected))}; the reading lies within its last digit of it.", "", facts,
        )  # fmt: skip
    enough = f"a directivity of {-20.0 * math.log10(apart):.0f}\u2009dB or less would explain it"
    return Note(
        "swr.unexplained", Severity.DOUBT if meter.is_stated else Severity.WATCH, "meter",
        f"With that load it should show {may if meter.is_stated else _said(swr_of(expected))}, not "
        f"{_said(swr_of(read.rho))}.",
        f"ρ is {apart:.3g} off; {enough}.", "Try a matched load: what is left there is its directivity.", facts,
    )  # fmt: skip


def _two_meters(window: tuple[float, float], other: tuple[float, float]) -> Note:
    """Two meters at both ends of a line."""
    low, high = (_said(swr_of(end)) for end in other)
    said = f"The other meter, carried here through the line, says {low if low == high else f'{low} to {high}'}"
    facts: dict[str, float | str] = {"low": other[0], "high": other[1]}
    if other[0] <= window[1] and window[0] <= other[1]:
        return Note("swr.two_agree", Severity.GOOD_TO_KNOW, "meter", "Both meters can be right.", f"{said}.", "", facts)
    return Note(
        "swr.two_disagree", Severity.WATCH, "meter", "The line and what the meters claim don't explain both readings.",
        f"{said}.",
        "Look for what else lies between them: adapters, a tuner, common-mode current on the line.", facts,
    )  # fmt: skip
