"""What a tool answered, on paper as content: the answer, what was typed, what follows, what to mind."""

from fenmist.frozen import dataclass
from fenmist.procedures.page import Picture

Rows = tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class AnswerSheet:
    """The page's content; all texts are ready to be set."""

    title: str
    date: str
    demo: bool
    headline: str
    asked: Rows  # name of the field, what was typed
    facts: Rows  # name, value
    picture: Picture | None
    notes: Rows  # severity, what, why, remedy
    statements: tuple[str, ...]
