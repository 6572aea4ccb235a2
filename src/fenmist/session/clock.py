"""The present, as a session takes it; tests set another one."""

from collections.abc import Callable
from datetime import datetime

Clock = Callable[[], datetime]


def now() -> datetime:
    """The present with the machine's offset."""
    return datetime.now().astimezone()
