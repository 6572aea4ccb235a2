"""Which letters the shipped faces can print, and how a text is set that holds others.

A name is printed as its owner writes it. What no face has a shape for, and what would change or hide its neighbours
unseen (controls, marks that turn the direction of writing), stands as its code point: [U+E000]. Nothing is left out.
"""

import re
import unicodedata
from bisect import bisect_right
from functools import cache

_JOINERS = "\u200c\u200d"
"""Shape their neighbours and show nothing of their own; needed by some scripts."""

_SELECTORS = re.compile("[\ufe00-\ufe0f]")
"""Ask for another form of the letter before them; the faces have one each."""


def printable(text: str) -> str:
    """The text with what can't be printed as code points in brackets.

    >>> printable("Bittern\\u0007 株式会社")
    'Bittern[U+0007] 株式会社'
    """
    if text.isascii() and text.isprintable():
        return text
    return "".join(letter if _prints(letter) else f"[U+{ord(letter):04X}]" for letter in _SELECTORS.sub("", text))


def unprintable(text: str) -> tuple[str, ...]:
    """Code points of what can't be printed, each once, in order."""
    if text.isascii() and text.isprintable():
        return ()
    found = (f"U+{ord(letter):04X}" for letter in _SELECTORS.sub("", text) if not _prints(letter))
    return tuple(dict.fromkeys(found))


def _prints(letter: str) -> bool:
    if letter in "\n\t" or letter in _JOINERS:
        return True
    if unicodedata.category(letter) in ("Cc", "Cf", "Cs", "Co", "Cn"):
        return letter == "\u00ad"
    starts, ends = _ranges()
    place = bisect_right(starts, ord(letter)) - 1
    return place >= 0 and ord(letter) <= ends[place]


@cache
def _ranges() -> tuple[tuple[int, ...], tuple[int, ...]]:
    """First and last code points of what the shipped faces hold (made by scripts/fallback_fonts.py)."""
    from importlib import resources  # on first use: mostly all letters are ASCII

    lines = resources.files("fenmist").joinpath("resources", "fonts", "letters.txt").read_text("ascii").split()
    pairs = [line.partition("-") for line in lines]
    return tuple(int(first, 16) for first, _, _ in pairs), tuple(int(last or first, 16) for first, _, last in pairs)
