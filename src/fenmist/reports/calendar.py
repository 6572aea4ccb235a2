"""Due dates as a calendar file that any calendar reads (iCalendar, RFC 5545): a whole day for each."""

import hashlib
from collections.abc import Sequence
from datetime import date, datetime

from fenmist.kit.due import DueDate


def calendar_bytes(dates: Sequence[DueDate], made_at: datetime) -> bytes:
    """The file; the same date of the same part keeps its identity, so that a calendar takes it once."""
    from icalendar import Calendar, Event  # heavy: imported on first use

    made = Calendar()
    made.add("prodid", "-//Fenmist//due dates//EN")
    made.add("version", "2.0")
    for item in dates:
        event = Event()
        event.add("uid", f"{hashlib.sha256(f'{item.part_id} {item.on} {item.why}'.encode()).hexdigest()[:32]}@fenmist")
        event.add("dtstamp", made_at)
        event.add("dtstart", date.fromisoformat(item.on))
        event.add("summary", f"{item.what} is due")
        event.add("description", item.why)
        event.add("transp", "TRANSPARENT")
        made.add_component(event)
    return bytes(made.to_ical())
