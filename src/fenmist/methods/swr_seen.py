"""One reading of a match in every form: SWR, ρ, return loss, per cent, at both ends of a line, with a meter's window.

A frozen request: call it for the answer. A meter's directivity lets ρ be off by 10^(−D/20) either way, its set control
multiplies it; a line's loss hides a mismatch: ρ at the transmitter is ρ at the load times 10^(−A/10).
Page: docs/method/swr.md.
"""

import math
from dataclasses import dataclass

import numpy as np

from fenmist.errors import OutOfRangeError, UnreadableError
from fenmist.findings.note import Note, Severity
from fenmist.rf.mismatch import mismatched_line_loss_db, reflection_behind_loss
from fenmist.rf.reflection import (
    reflection_from_impedance,
    reflection_from_swr,
    return_loss_db,
    swr_from_reflection,
)
from fenmist.units.impedance import Known, impedance_from_text
from fenmist.units.typed import value_from_text
from fenmist.units.unit import UNITS

LOAD, TRANSMITTER = "load", "transmitter"
"""Ends of a line."""

ALARM_SWR, ALARM_SHARE = 2.0, 0.10
"""From which people stop and look (common practice, no source)."""

HIDES_DB = 1.0
"""Matched loss of a line from which what it hides is spoken of (Fenmist's own, no source)."""


def _swr(rho: float) -> float:
    return float(swr_from_reflection(min(max(rho, 0.0), 1.0)))


@dataclass(frozen=True)
class SwrAnswer:
    """What a reading means."""

    rho: float  # where it was seen
    net_w: float | None  # forward less reflected; none where no watts were given
    window: tuple[float, float]  # of ρ, with what directivity and set control allow
    rho_other_end: float | None  # at the other end of the line
    line_total_loss_db: float | None
    other_end: str
    notes: tuple[Note, ...]

    @property
    def swr(self) -> float:
        """Of that ρ."""
        return _swr(self.rho)

    @property
    def return_loss_db(self) -> float:
        """−20·log10 ρ; infinite of a match."""
        return float(return_loss_db(self.rho))

    @property
    def swr_window(self) -> tuple[float, float]:
        """The same of the window."""
        return _swr(self.window[0]), _swr(self.window[1])

    @property
    def swr_other_end(self) -> float | None:
        """At the other end of the line."""
        return None if self.rho_other_end is None else _swr(self.rho_other_end)


@dataclass(frozen=True)
class SwrRequest:
    """What was read or is known, as typed; one of watts, SWR and load."""

    forward: str = ""
    reflected: str = ""
    swr: str = ""
    load: str = ""
    at: str = LOAD  # where that was seen
    line_loss: str = ""  # dB, matched, one way
    directivity: str = ""  # dB
    set_error: str = ""  # ± per cent

    def __call__(self) -> SwrAnswer:
        """The answer; raises UnreadableError, OutOfRangeError."""
        rho, net = self._seen()
        quiet = self.directivity.strip()
        leak = 10.0 ** (-_number(quiet, "dB", "directivity", "25 dB", 0.0, 120.0) / 20.0) if quiet else 0.0
        off = _number(self.set_error, "%", "set error", "10 %", 0.0, 0.9) if self.set_error.strip() else 0.0
        is_truth = bool(self.load.strip())  # then the window is what a meter shows, else what is so
        low = (rho - leak) * (1.0 - off) if is_truth else rho / (1.0 + off) - leak
        high = (rho + leak) * (1.0 + off) if is_truth else rho / (1.0 - off) + leak
        window = (min(max(low, 0.0), 1.0), min(high, 1.0))
        other, total = self._line(rho)
        end = TRANSMITTER if self.at == LOAD else LOAD
        notes = tuple(self._notes(rho, window, other, leak > 0.0 or off > 0.0))
        return SwrAnswer(rho, net, window, other, total, end, notes)

    def _seen(self) -> tuple[float, float | None]:
        given = [bool(self.forward.strip() or self.reflected.strip()), bool(self.swr.strip()), bool(self.load.strip())]
        if sum(given) != 1:
            raise UnreadableError(
                "One thing is wanted: forward and reflected watts, an SWR, or a load.",
                "Type for example “--swr 1.8”, or “--forward 100 --reflected 4”.",
            )
        if self.swr.strip():
            return float(reflection_from_swr(_number(self.swr, "", "SWR", "1.8", 1.0, 1e6))), None
        if self.load.strip():
            return _of_load(self.load), None
        forward = _number(self.forward, "W", "forward power", "100 W", 0.0, 1e9)
        reflected = _number(self.reflected, "W", "reflected power", "4 W", 0.0, 1e9)
        if forward <= 0.0 or reflected > forward:
            raise OutOfRangeError(
                "More comes back than goes out.", "Look whether both are exchanged, or the ports are swapped."
            )
        return math.sqrt(reflected / forward), forward - reflected

    def _line(self, rho: float) -> tuple[float | None, float | None]:
        if not self.line_loss.strip():
            return None, None
        loss = _number(self.line_loss, "dB", "line loss", "1 dB", 0.0, 200.0)
        if self.at == LOAD:
            return float(reflection_behind_loss(rho, loss)), _lost(loss, rho)
        at_load = float(reflection_behind_loss(rho, -loss))
        if at_load > 1.0 + 1e-9:
            most = _swr(10.0 ** (-loss / 10.0))
            raise OutOfRangeError(
                f"Behind {loss:g}\u2009dB no load shows an SWR above {most:.3g} at the transmitter.",
                "Look at the line's loss, or at the meter.",
            )
        return min(at_load, 1.0), _lost(loss, min(at_load, 1.0))

    def _notes(self, rho: float, window: tuple[float, float], other: float | None, has_window: bool) -> list[Note]:
        found = []
        swr = _swr(rho)
        worst = max(rho, other or 0.0)
        if _swr(worst) > ALARM_SWR or worst**2 > ALARM_SHARE:
            found.append(
                Note(
                    "swr.high", Severity.WATCH, "line",
                    f"SWR {_swr(worst):.3g}, {100 * worst**2:.3g}\u2009% reflected: stop and look.",
                    "Many transmitters fold back from an SWR of 2; first suspects are a loose, corroded or wet "
                    "connector, the wrong antenna, a damaged line.",
                    "Lower the power; measure at the load first.", {"rho": worst},
                )
            )  # fmt: skip
        if other is not None and abs(_swr(other) - swr) > 0.1 and self._loss_db >= HIDES_DB:
            found.append(
                Note(
                    "swr.hidden", Severity.WATCH, "line",
                    f"{self._loss_db:g}\u2009dB of line hide it: {_swr(max(rho, other)):.3g} at the load shows as "
                    f"{_swr(min(rho, other)):.3g} at the transmitter.",
                    "What comes back is weakened twice; a lossy line flatters a bad antenna.",
                    "Put the meter at the load, or judge by what it is there.", {"rho": rho, "other": other},
                )
            )  # fmt: skip
        if has_window and window[0] == 0.0:
            found.append(
                Note(
                    "swr.bound", Severity.GOOD_TO_KNOW, "meter",
                    f"It can't be told from a match: only “below {_swr(window[1]):.3g}” is a fact.",
                    "The meter's directivity is as large as what it shows.",
                    "A meter of better directivity, or a known mismatch, tells more.", {"high": window[1]},
                )
            )  # fmt: skip
        return found

    @property
    def _loss_db(self) -> float:
        return value_from_text(self.line_loss, UNITS["dB"], "line loss", "1 dB")


def _number(text: str, unit: str, name: str, example: str, low: float, high: float) -> float:
    value = value_from_text(text, UNITS[unit], name, example)
    if not low <= value <= high:
        raise OutOfRangeError(f"{name[:1].upper()}{name[1:]} “{text}” makes no sense.", f"Type for example {example}.")
    return value


def _lost(matched_db: float, rho_at_load: float) -> float:
    """Of a line whose load takes nothing all is lost."""
    return float(mismatched_line_loss_db(matched_db, rho_at_load)) if rho_at_load < 1.0 else math.inf


def _of_load(text: str) -> float:
    typed = impedance_from_text(text)
    if typed.swr is not None:
        return float(reflection_from_swr(typed.swr))
    if typed.known is Known.MAGNITUDE:
        raise UnreadableError(f"Of “{text}” only the size is known.", "Type R+jX, or |57.7| swr 1.2.")
    return float(np.abs(reflection_from_impedance(typed.ohm)))
