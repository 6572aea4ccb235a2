"""Where the work was left, so that it goes on exactly there after a crash."""

from fenmist.frozen import dataclass


@dataclass(frozen=True)
class Place:
    """A job, the step in front, and in a run the slot in hand with what was typed but not kept."""

    job: str
    step: int = 0
    slot: tuple[str, int, int, str] | None = None  # point, round, position, phase
    draft: str = ""
