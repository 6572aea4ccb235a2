"""What a reply says: numbers as instruments write them, the two that mean “none”, blocks of binary data.

Sources, from memory: IEEE Std 488.2-1992, 8.7 (NR1 to NR3, blocks) and SCPI-1999 volume 1, 7.2.1 (9.9E+37, 9.91E+37).
"""

import math
import re

import numpy as np
from numpy.typing import NDArray

from fenmist.instruments.trouble import State, Trouble

OVER, NO_NUMBER = 9.9e37, 9.91e37

_NUMBER = re.compile(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[Ee][+-]?\d{1,3})?", re.ASCII)
_OVER_WORDS = re.compile(r"(?i)over(range|load|flow)?|ovld|ovrng|o\.?l\.?|hi|-{2,}|\*{2,}|>+")

LONGEST_LINE = 512
"""Characters of a reply in which numbers are looked for."""


def number_from(text: str) -> float | Trouble:
    """The number that a reply is, and nothing beside it.

    Parameters
    ----------
    text : str
        Without its line ending.

    Returns
    -------
    float or Trouble
        Over its range, or not understood.
    """
    plain = text.strip()
    if _NUMBER.fullmatch(plain):
        value = float(plain)
        if math.isclose(abs(value), OVER, rel_tol=1e-6) or math.isinf(value):
            return Trouble(State.OVERRANGE, "It says that it is over its range.", text)
        if math.isclose(abs(value), NO_NUMBER, rel_tol=1e-6):
            return Trouble(State.GARBLED, "It says that it has no number.", text)
        return value
    if _OVER_WORDS.fullmatch(plain):
        return Trouble(State.OVERRANGE, f"It shows “{plain}”.", text)
    said = f"“{plain[:40]}” is no number." if plain else "The reply is empty."
    return Trouble(State.GARBLED, said, text)


def digit_of(text: str) -> float:
    """Size of the last digit of a number as it is written: 0.01 of “48.20”, 1e-5 of “+1.00000E+00”."""
    match = re.fullmatch(r"\s*[+-]?(\d*)\.?(\d*)(?:[Ee]([+-]?\d+))?\s*", text)
    return 10.0 ** (int(match[3] or 0) - len(match[2])) if match else 0.0


def text_from(reply: bytes) -> str | Trouble:
    """A reply as text; anything but printable ASCII is not understood."""
    if len(reply) > LONGEST_LINE:
        return Trouble(State.GARBLED, f"The reply is {len(reply)} bytes long.", reply[:64].decode("ascii", "replace"))
    try:
        text = reply.decode("ascii")
    except UnicodeDecodeError:
        return Trouble(
            State.GARBLED, "The reply holds signs that no instrument sends.", reply.decode("ascii", "backslashreplace")
        )
    if not all(sign.isprintable() or sign == "\t" for sign in text):
        return Trouble(State.GARBLED, "The reply holds signs that can't be printed.", ascii(text))
    return text


def block_length(head: bytes) -> int | None:
    """Bytes of a whole block of definite length, its head and the line ending not counted; none while that is open."""
    if len(head) < 2 or head[:1] != b"#" or not head[1:2].isdigit():
        return None
    digits = int(head[1:2])
    count = head[2 : 2 + digits]
    if digits == 0 or len(count) < digits or not count.isdigit():
        return None
    return 2 + digits + int(count)


FORMS = {"real32": ">f4", "real64": ">f8", "int8": "i1", "uint8": "u1", "int16": ">i2"}
"""Samples as drivers name them; the most significant byte comes first (IEEE 488.2, 8.7.9; SCPI: FORMat:BORDer)."""


def samples_from(reply: bytes, form: str) -> NDArray[np.float64] | Trouble:
    """Samples of a block, or of numbers with commas between them.

    Parameters
    ----------
    form : str
        One of `FORMS`, or “ascii”.

    Returns
    -------
    array, shape (n,), or Trouble
    """
    if form == "ascii":
        try:
            values = np.array([float(one) for one in reply.decode("ascii").split(",")])
        except ValueError:
            return Trouble(State.GARBLED, "The samples aren't numbers with commas between them.", _head(reply))
        return _sound(values, reply)
    length = block_length(reply[:16])
    if length is None:
        return Trouble(State.GARBLED, "The reply is no block of binary data.", _head(reply))
    data = reply[2 + int(reply[1:2]) : length]
    size = np.dtype(FORMS[form]).itemsize
    if len(reply) < length or len(data) % size:
        return Trouble(State.BROKEN_OFF, f"The block holds {len(data)} bytes, not a whole number of samples.", "")
    return _sound(np.frombuffer(data, FORMS[form]).astype(np.float64), reply)


def _sound(values: NDArray[np.float64], reply: bytes) -> NDArray[np.float64] | Trouble:
    if not np.all(np.isfinite(values)) or np.any(np.abs(values) >= 0.99 * OVER):
        return Trouble(State.OVERRANGE, "Some samples are over the range.", _head(reply))
    return values


def _head(reply: bytes) -> str:
    return reply[:64].decode("ascii", "backslashreplace")
