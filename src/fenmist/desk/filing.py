"""What a page opens, saves and prints: data that the window's keys and the page's own buttons both use."""

from collections.abc import Callable
from pathlib import Path

from fenmist.frozen import dataclass

CAPTURES = (".csv", ".txt", ".tsv", ".npy", ".npz")
TOUCHSTONES, TABLES = (".s1p", ".s2p", ".s3p"), (".csv", ".tsv", ".txt")
PICTURES = (".png", ".jpg", ".jpeg", ".bmp", ".webp")
"""Endings of what can be opened."""

Pages = Callable[[float], tuple[bytes, ...]]
"""Pictures (PNG) of the pages at so many dots an inch."""


@dataclass(frozen=True)
class Opening:
    """A file that is there."""

    title: str
    kinds: str  # in words
    endings: tuple[str, ...]
    take: Callable[[Path], object]


@dataclass(frozen=True)
class Saving:
    """A file that is made: what is written follows from the ending of its name."""

    title: str
    suggested: Path
    endings: tuple[str, ...]
    take: Callable[[Path], object]


def either(first: Saving, second: Saving) -> Saving:
    """One of two files, by the ending of the name; the first is suggested."""

    def take(path: Path) -> object:
        return (second if path.suffix.lower() in second.endings else first).take(path)

    return Saving(first.title, first.suggested, (*first.endings, *second.endings), take)


@dataclass(frozen=True)
class Printing:
    """Paper."""

    name: str
    paper: str  # “a4” or “us-letter”
    pages: Pages


class Files:
    """What a page has for each of the three; nothing unless it says so."""

    @property
    def opening(self) -> Opening | None:
        """What is opened here."""
        return None

    @property
    def saving(self) -> Saving | None:
        """What is saved here."""
        return None

    @property
    def printing(self) -> Printing | None:
        """What is printed here."""
        return None
