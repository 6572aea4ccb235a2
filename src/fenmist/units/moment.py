"""Times and days: a time is a `datetime` with its offset, a day is ISO text; other text only at the edges."""

from datetime import date, datetime
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


def years_since(day: str, then: datetime) -> float | None:
    """Years from a day to a time, 0 where it comes later; none where what is said is no day.

    >>> round(years_since("2024-05-26", moment_from_text("2026-11-25T09:00:00+01:00")) or 0.0, 2)
    2.5
    """
    try:
        return max((then.date() - date.fromisoformat(day)).days / 365.25, 0.0)
    except ValueError:  # a table's day is typed as one likes, or not at all
        return None


def text_of_moment(moment: datetime) -> str:
    """ISO 8601 with offset, to the second."""
    return moment.isoformat(timespec="seconds")


def day_of(moment: datetime) -> str:
    """The day of a time, in its own offset."""
    return moment.date().isoformat()
