"""What an attack counted: inputs tried, what became of them, and what must stay nothing."""

from collections import Counter
from dataclasses import dataclass, field


@dataclass
class Tally:
    """Counts by what became of an input; `failed` names what must not happen, with how it can be done again."""

    counts: Counter[str] = field(default_factory=Counter)
    failed: list[str] = field(default_factory=list)
    acknowledged: int = 0  # readings said to be kept
    lost: int = 0  # of them, not there afterwards

    def count(self, what: str) -> None:
        """One more input came to this."""
        self.counts[what] += 1

    def fail(self, how: str) -> None:
        """One did what it must not."""
        self.failed.append(how)

    @property
    def tried(self) -> int:
        """All inputs."""
        return sum(self.counts.values()) + len(self.failed)

    def row(self) -> str:
        """The counts in words."""
        parts = [f"{number} {what}" for what, number in sorted(self.counts.items())]
        kept = f"; {self.acknowledged} readings acknowledged, {self.lost} lost" if self.acknowledged else ""
        return f"{self.tried} tried: {', '.join(parts)}, {len(self.failed)} failed{kept}"
