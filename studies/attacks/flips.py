"""Bits that flip on the disk: each is found, or changes nothing that anybody would see."""

import random
import shutil
import traceback
from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

import msgspec

from fenmist.errors import FenmistError
from fenmist.session.session import SETTINGS, Session
from studies.attacks.tally import Tally

T = TypeVar("T")


def everything(path: Path, folder: Path) -> tuple[dict[str, str], list[str]]:
    """All that a logbook shows, by name, and what it said about damage."""
    shown: dict[str, str] = {}
    said: list[str] = []
    try:
        session = Session(path, second_folder=folder)
    except FenmistError as error:
        return shown, [str(error)]
    said += [session.said_on_open] if session.said_on_open else []
    try:
        _look(session, shown, said)
    finally:
        session.close()
    return shown, said


def _used_in(session: Session, part: str) -> list[str]:
    return [line.id for line in session.used_in(part)]


def _look(session: Session, shown: dict[str, str], said: list[str]) -> None:
    def take(name: str, what: Callable[..., T], *given: object) -> T | None:
        try:
            found = what(*given)
        except FenmistError as error:
            said.append(f"{name}: {error}")
            return None
        shown[name] = msgspec.json.encode(found, enc_hook=list, order="deterministic").decode()
        return found

    for key in SETTINGS:
        take(f"setting {key}", session.setting, key)
    take("demo", lambda: session.is_demo)
    kit = take("kit", lambda: session.kit) or ()
    lines = take("list", session.summaries) or ()
    for line in lines:
        if line.trouble:
            said.append(line.trouble)
        job = take(f"job {line.id}", session.logbook.job, line.id)
        for event in job.events if job is not None else ():
            if event.entry is not None and event.entry.attached:
                take(f"file {event.entry.attached}", session.logbook.attachment, event.entry.attached)
        take(f"history {line.id}", session.history, line.device_id, line.serial)
    for part in kit:
        take(f"used {part.id}", _used_in, session, part.id)
    issued = take("issued", session.issued) or ()
    for item in issued:
        take(f"pdf {item.name}", session.logbook.issued_pdf, item.number, item.revision)


def attack_flips(original: Path, times: int, seed: int, folder: Path, which: str = "") -> Tally:
    """Flip one bit at a time in a logbook, or in the log beside it (`which` "-wal"), and look at everything."""
    rng, tally = random.Random(seed), Tally()
    copy = folder / "flipped.fenlog"
    true, _ = everything(_copied(original, copy), folder)
    assert len(true) > 20
    for number in range(times):
        _copied(original, copy)
        target = copy.with_name(copy.name + which)
        data = bytearray(target.read_bytes())
        place, bit = rng.randrange(len(data)), rng.randrange(8)
        data[place] ^= 1 << bit
        target.write_bytes(data)
        how = f"seed {seed}, flip {number}: byte {place}, bit {bit}"
        try:
            shown, said = everything(copy, folder)
        except Exception:  # noqa: BLE001  that is what is looked for
            tally.fail(f"{how}: {traceback.format_exc()}")
            continue
        wrong = [name for name, text in shown.items() if true.get(name) != text and not (name == "list" and said)]
        missing = [name for name in true if name not in shown]
        if said:
            tally.count("found")
        elif wrong or missing:
            tally.fail(f"{how}: {wrong + missing} changed without a word")
        else:
            tally.count("harmless")
    return tally


def _copied(original: Path, copy: Path) -> Path:
    for path in copy.parent.glob(f"{copy.name}*"):
        path.unlink()
    shutil.rmtree(copy.parent / "backups", ignore_errors=True)
    for ending in ("", "-wal"):
        source = original.with_name(original.name + ending)
        if source.exists():
            shutil.copy(source, copy.with_name(copy.name + ending))
    return copy
