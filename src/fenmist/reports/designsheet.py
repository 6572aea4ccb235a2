"""A design on paper as content: what it is built of, what it does, what it bears, what to mind."""

from fenmist.frozen import dataclass
from fenmist.procedures.page import Circuit, Sweep

Rows = tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class DesignSheet:
    """The page's content; all texts are ready to be set."""

    title: str
    date: str
    demo: bool
    headline: str
    circuit: Circuit
    response: Sweep
    facts: Rows  # name, value
    strain_headings: tuple[str, ...]
    strains: Rows
    sensitivity: str
    proof: str  # nothing where no file lies over it
    notes: Rows  # severity, what, why, remedy
    statements: tuple[str, ...]
