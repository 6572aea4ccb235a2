"""A pattern that picks numbers out of a reply: the reply as it looks, with names in braces where something varies.

`F={value} W{*}` takes the number behind “F=”, whatever follows the W. A blank stands for any run of blanks, `{*}` for
anything; a number is taken whole, whatever follows. It is no regular expression: nothing a file says can keep a worker
busy.
"""

import re
from functools import cached_property

from fenmist.errors import UnreadableError
from fenmist.frozen import dataclass

VALUE, UNIT, ANYTHING = "value", "unit", "*"
LONGEST = 120
"""Characters of a template."""

_NUMBER = r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[Ee][+-]?\d+)?"
_FIELDS = {VALUE: rf"(?P<value>(?>{_NUMBER}|[^\s\d,;=]+))", UNIT: r"(?P<unit>[^\s,;]+)", ANYTHING: r".*?"}
_PIECES = re.compile(r"\{([^{}]*)\}|\s+|[^{}\s]+")
_MOST_ANYTHING = 3


@dataclass(frozen=True)
class Template:
    """One pattern; raises UnreadableError where it names no value, or what isn't known."""

    text: str

    def __post_init__(self) -> None:
        """Check it."""
        names = [match[1] for match in _PIECES.finditer(self.text) if match[0].startswith("{")]
        unknown = next((name for name in names if name not in _FIELDS), None)
        if unknown is not None:
            raise UnreadableError(f"A pattern can't hold “{{{unknown}}}”.", "It can hold {value}, {unit} and {*}.")
        if "".join(match[0] for match in _PIECES.finditer(self.text)) != self.text or len(self.text) > LONGEST:
            raise UnreadableError(f"“{self.text[:40]}” is no pattern.", "Write the reply with {value} for its number.")
        if names.count(VALUE) != 1 or names.count(UNIT) > 1 or names.count(ANYTHING) > _MOST_ANYTHING:
            raise UnreadableError(
                f"“{self.text}” must hold {{value}} once, and at most {_MOST_ANYTHING} times {{*}}.",
                "Write the reply with {value} for its number.",
            )

    def picked(self, reply: str) -> dict[str, str] | None:
        """What stands for each name in a reply; none where it looks otherwise."""
        match = self._compiled.fullmatch(reply.strip())
        return match.groupdict() if match else None

    @cached_property
    def _compiled(self) -> "re.Pattern[str]":
        made = ""
        for match in _PIECES.finditer(self.text.strip()):
            if match[0].startswith("{"):
                made += _FIELDS[match[1]]
            else:
                made += r"\s+" if match[0].isspace() else re.escape(match[0])
        return re.compile(made)
