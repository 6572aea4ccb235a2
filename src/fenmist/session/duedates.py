"""What is due when: as stated at the last calibration, as a customer was told, and as a meter's drift has it."""

from collections.abc import Iterator

from fenmist.calibration.history import RISK, due_again
from fenmist.kit.due import DueDate
from fenmist.session.session import Session
from fenmist.units.display import frequency, percent, plain


def due_dates(session: Session) -> tuple[DueDate, ...]:
    """All of them, the earliest first; of what is retired none."""
    return tuple(sorted((*_stated(session), *_asked_for(session), *_by_drift(session)), key=lambda item: item.on))


def _stated(session: Session) -> Iterator[DueDate]:
    for part in session.kit:
        latest = session.due(part).latest
        if latest is not None and latest.due:
            by = f" by {latest.by}" if latest.by else ""
            yield DueDate(part.id, _name(part.label, part.serial), latest.due, f"stated when compared{by}, {latest.on}")


def _asked_for(session: Session) -> Iterator[DueDate]:
    """Of each device the latest that was put on a page."""
    seen = set()
    for line in session.summaries():
        key = (line.device_id, line.serial)
        if line.next_due and key not in seen:
            seen.add(key)
            why = f"on the page of “{line.title}”"
            yield DueDate(line.device_id, _name(line.device, line.serial), line.next_due, why)


def _by_drift(session: Session) -> Iterator[DueDate]:
    devices = dict.fromkeys((line.device_id, line.device, line.serial) for line in session.summaries())
    for device_id, label, serial in devices:
        found = due_again(session.drifts(device_id, serial))
        if found is not None:
            on, line = found
            where = f"{frequency(line.frequency_hz)}, {plain(line.level_w, 'W')}"
            why = f"by its drift it is outside its tolerance then with a chance of {percent(RISK)}, at {where}"
            yield DueDate(device_id, _name(label, serial), on, why)


def _name(label: str, serial: str) -> str:
    return f"{label} ({serial})" if serial else label
