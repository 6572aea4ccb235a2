"""Touchstone files made at random, each labelled valid or not by how it was made."""

import pickle
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Complexes = NDArray[np.complex128]

UNITS = {"Hz": 1.0, "kHz": 1e3, "MHz": 1e6, "GHz": 1e9}


@dataclass(frozen=True)
class Made:
    """A file and what it is."""

    name: str
    data: bytes
    spoiled: str  # how, or "" for a valid one
    frequency_hz: Floats
    scattering: Complexes
    version: int


class _Bomb:
    """Runs code when unpickled."""

    def __init__(self, target: str) -> None:
        self.target = target

    def __reduce__(self) -> tuple[Callable[..., object], tuple[str, str]]:
        return (open, (self.target, "w"))


SPOILS = (
    "no option line", "Y parameters", "NaN", "falling", "repeated frequency", "value missing", "value too many",
    "word among numbers", "infinite", "pickle", "empty", "wrong ports", "two impedances", "no end", "count",
    "binary", "comma", "mixed mode", "negative impedance", "hex",
)  # fmt: skip


def made_file(random: np.random.Generator, sentinel: str = "") -> Made:
    """A file; half of them valid."""
    ports, version = int(random.integers(1, 4)), int(random.choice([1, 2], p=[0.7, 0.3]))
    n = int(random.integers(1, 12))
    f = np.cumsum(random.uniform(1e5, 5e7, n))
    s = random.normal(size=(n, ports, ports)) + 1j * random.normal(size=(n, ports, ports))
    s *= 0.3
    spoil = "" if random.uniform() < 0.5 else str(random.choice(SPOILS))
    if spoil in ("two impedances", "no end", "count", "mixed mode"):
        version = 2
    if spoil in ("repeated frequency", "falling"):
        n = max(n, 2)
        f = np.resize(f, n) if f.size >= n else np.array([f[0], 2 * f[0]])
        s = np.resize(s, (n, ports, ports))
    name = f"part.s{ports}p"
    matrix = "Full"
    if version == 2 and random.uniform() < 0.4:
        matrix = str(random.choice(["Lower", "Upper"]))
        s = (s + s.transpose(0, 2, 1)) / 2
    lines = _lines(random, f, s, version, matrix, spoil)
    data = "\n".join(lines).encode() + b"\n"
    if spoil == "pickle":
        data = pickle.dumps(_Bomb(sentinel), protocol=0)
    elif spoil == "empty":
        data = b""
    elif spoil == "binary":
        data = bytes(random.integers(0, 256, 200, dtype=np.uint8)) + b"\0"
    elif spoil == "wrong ports":
        name = f"part.s{ports % 3 + 1}p"
        if version == 1 and ports == 1:  # three rows of one port may chance to be a frequency of two
            name = "part.s4p"
    return Made(name, data, spoil, f, s, version)


def _lines(random: np.random.Generator, f: Floats, s: Complexes, version: int, matrix: str, spoil: str) -> list[str]:
    ports = s.shape[-1]
    unit, kind = str(random.choice(list(UNITS))), str(random.choice(["MA", "DB", "RI"]))
    options = f"# {unit} S {kind} R 50"
    if spoil == "Y parameters":
        options = options.replace(" S ", " Y ")
    elif spoil == "negative impedance":
        options = options.replace("R 50", "R -50")
    head = ["! made at random"]
    order = str(random.choice(["12_21", "21_12"])) if version == 2 else "21_12"
    if version == 2:
        head.append("[Version] 2.0")
    if spoil != "no option line":
        head.append(options if random.uniform() < 0.7 else options.lower())
    if version == 2:
        head.append(f"[Number of Ports] {ports}")
        if ports == 2:
            head.append(f"[Two-Port Data Order] {order}")
        head.append(f"[Number of Frequencies] {f.size + (1 if spoil == 'count' else 0)}")
        if matrix != "Full":
            head.append(f"[Matrix Format] {matrix}")
        if spoil == "two impedances":
            head.append("[Reference] " + " ".join(["50", "75", "60"][:ports]) if ports > 1 else "[Reference] -50")
        elif random.uniform() < 0.5:
            head.append("[Reference] " + " ".join(["50"] * ports))
        if spoil == "mixed mode":
            head.append("[Mixed-Mode Order] D1,2 C1,2")
        head.append("[Network Data]")
    body = [row for k in range(f.size) for row in _point(random, f[k] / UNITS[unit], s[k], kind, order, matrix)]
    body = _spoiled(random, body, spoil, ports)
    foot = ["[End]"] if version == 2 and spoil != "no end" else []
    return [*head, *body, *foot]


def _point(random: np.random.Generator, f: float, s: Complexes, kind: str, order: str, matrix: str) -> list[str]:
    ports = s.shape[-1]
    places = [
        [(i, j) for j in range(ports) if matrix == "Full" or (j <= i if matrix == "Lower" else j >= i)]
        for i in range(ports)
    ]
    if ports == 2 and matrix == "Full":
        places = [[(0, 0), (1, 0), (0, 1), (1, 1)] if order == "21_12" else [(0, 0), (0, 1), (1, 0), (1, 1)]]
    rows = []
    for number, row in enumerate(places):
        words = [repr(float(f))] if number == 0 else []
        for i, j in row:
            z = s[i, j]
            a, b = {
                "RI": (z.real, z.imag), "MA": (abs(z), np.degrees(np.angle(z))),
                "DB": (20 * np.log10(abs(z)), np.degrees(np.angle(z))),
            }[kind]  # fmt: skip
            words += [repr(float(a)), repr(float(b))]
        rows.append((" " * int(random.integers(1, 4))).join(words) + ("  ! remark" if random.uniform() < 0.1 else ""))
    return rows


def _spoiled(random: np.random.Generator, body: list[str], spoil: str, ports: int) -> list[str]:
    row = int(random.integers(0, len(body)))
    words = body[row].partition("!")[0].split()
    place = int(random.integers(0, len(words)))
    if spoil in ("NaN", "word among numbers", "infinite", "comma", "hex"):
        words[place] = {"NaN": "nan", "word among numbers": "about", "infinite": "inf", "comma": "1,5", "hex": "0x1F"}[
            spoil
        ]
    elif spoil == "value missing":
        words = words[:-1]
    elif spoil == "value too many":
        words = [*words, "0.5"]
    elif spoil in ("falling", "repeated frequency"):
        return _again(body, ports, spoil == "falling")
    else:
        return body
    return [*body[:row], "  ".join(words), *body[row + 1 :]]


def _again(body: list[str], ports: int, first: bool) -> list[str]:
    """A point stands there twice: the last one, or the first one behind it."""
    rows = ports if ports != 2 else (1 if len(body[0].partition("!")[0].split()) > 7 else 2)
    return [*body, *(body[:rows] if first else body[-rows:])]
