"""Times and days: a time is a `datetime` with its offset, a day is ISO text; other text only at the edges."""

from datetime import datetime
from typing import Annotated

import msgspec

Moment = Annotated[datetime, msgspec.Meta(tz=True)]
"""A time with its offset, to the second."""

Day = Annotated[str, msgspec.Meta(pattern=r"^(\d{4}-\d{2}-\d{2})?$")]
"""A day as year-month-day; empty where none is said."""


def moment_from_text(text: str) -> datetime:
    """A time from ISO 8601 text with an offset; raises ValueError.

    >>> moment_from_text("2026-11-27T14:05:00+01:00").timestamp()
    1795784700.0
    """
    made = datetime.fromisoformat(text)
    if made.tzinfo is None:
        raise ValueError(f"“{text}” says no offset")
    return made


def text_of_moment(moment: datetime) -> str:
    """ISO 8601 with offset, to the second."""
    return moment.isoformat(timespec="seconds")


def day_of(moment: datetime) -> str:
    """The day of a time, in its own offset."""
    return moment.date().isoformat()
