"""Structure-aware mutations of a job's file: each is still JSON, and still nearly a job.

Numbers become others that are awkward (nothing, subnormal, huge, negative), texts become others that stand elsewhere in
the file or stand nowhere, items are dropped, doubled and put where another stood.
"""

import copy
import json
import random
from typing import Any

NUMBERS = (
    0, -0.0, 1, -1, 0.5, 2, 3, 7, 1e-3, 1e3, 5e-324, 1e-300, 1e-30, 1e-13, 1e13, 1e15, 1e30, 1e154, 1e160, 1e300,
    1.7976931348623157e308, -1e-9, -1e9, -1e308, 2**31, 2**53 + 1, 2**63 - 1, 2**64 - 1, 10**30,
)  # fmt: skip
TEXTS = (
    "", " ", "furlong", "out", "in", "0", "line", "nan", "\u0000", "\u202e", "a" * 300, "dBm", "W", "Vpp", "Vrms", "dB",
    "2026-13-45", "0001-01-01T00:00:00+14:00", "9999-12-31T23:59:59-12:00", "2026-11-25T09:00:00", "2026-11-25",
    "株式会社", "😀", "=1+1", "²", "p٣", "../../etc", "unknown", "%s{0}", "as left", "as found", "strike", "restore",
)  # fmt: skip
OTHERS: tuple[Any, ...] = (None, True, False, [], {}, [[]], {"": 0})


def mutated(document: dict[str, Any], rng: random.Random, times: int = 1) -> dict[str, Any]:
    """A copy of a parsed file with so many changes."""
    made = copy.deepcopy(document)
    for _ in range(times):
        holder, key = _place(made, rng)
        _change(made, holder, key, rng)
    return made


def as_bytes(document: dict[str, Any]) -> bytes:
    """The file's bytes."""
    return json.dumps(document).encode()


def _place(document: Any, rng: random.Random) -> tuple[Any, Any]:
    """Where to change something: deep places as likely as wide ones, so that long tables don't take all."""
    holder, key = document, rng.choice(list(document))
    while True:
        here = holder[key]
        if isinstance(here, dict) and here and rng.random() < 0.93:
            holder, key = here, rng.choice(list(here))
        elif isinstance(here, list) and here and rng.random() < 0.93:
            holder, key = here, rng.randrange(len(here))
        else:
            return holder, key


def _change(document: Any, holder: Any, key: Any, rng: random.Random) -> None:
    here = holder[key]
    way = rng.random()
    if way < 0.08:
        del holder[key]
    elif way < 0.16:
        holder[key] = copy.deepcopy(rng.choice(OTHERS))
    elif way < 0.26:
        other, at = _place(document, rng)
        holder[key] = copy.deepcopy(other[at])
    elif isinstance(here, bool):
        holder[key] = not here
    elif isinstance(here, int | float):
        holder[key] = _number(here, rng)
    elif isinstance(here, str):
        holder[key] = rng.choice((*TEXTS, _text_of(document, rng)))
    elif isinstance(here, list):
        _change_list(here, rng)
    elif isinstance(here, dict) and here:
        here[rng.choice((*TEXTS, *here))] = copy.deepcopy(here[rng.choice(list(here))])
    else:
        holder[key] = rng.choice(NUMBERS)


def _number(here: float, rng: random.Random) -> float | int:
    if rng.random() < 0.7:
        return rng.choice(NUMBERS)
    return here * 10.0 ** rng.choice((-12, -6, -3, -1, 1, 3, 6, 12))


def _change_list(here: list[Any], rng: random.Random) -> None:
    way = rng.randrange(4)
    if way == 0:
        here.clear()
    elif way == 1 and here:
        here.append(copy.deepcopy(rng.choice(here)))
    elif way == 2:
        rng.shuffle(here)
    elif here:
        here.extend(copy.deepcopy(here) * rng.randrange(1, 4))


def _text_of(document: Any, rng: random.Random) -> str:
    """A text that stands elsewhere in the file."""
    for _ in range(20):
        holder, key = _place(document, rng)
        if isinstance(holder[key], str):
            return str(holder[key])
    return ""
