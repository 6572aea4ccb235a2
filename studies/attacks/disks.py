"""Full disks: a small one fills while readings are entered, and the process is killed; nothing acknowledged is lost."""

import os
import random
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from fenmist.errors import FenmistError
from fenmist.session.session import Session
from studies.attacks.tally import Tally

CHILD = Path(__file__).with_name("full_child.py")


def can_mount() -> bool:
    """Whether a small disk can be made here: root may."""
    if os.geteuid() != 0:
        return False
    probe = Path("/tmp") / f"fenmist-disk-{os.getpid()}"
    probe.mkdir()
    try:
        done = subprocess.run(
            ["mount", "-t", "tmpfs", "-o", "size=64k", "tmpfs", str(probe)], capture_output=True, check=False
        )
        if done.returncode == 0:
            subprocess.run(["umount", str(probe)], check=False)
        return done.returncode == 0
    finally:
        probe.rmdir()


@contextmanager
def small_disk(at: Path, kilobytes: int) -> Iterator[Path]:
    """A disk of that size, mounted for as long as it is needed."""
    at.mkdir()
    subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={kilobytes}k", "tmpfs", str(at)], check=True)
    try:
        yield at
    finally:
        subprocess.run(["umount", "-l", str(at)], check=False)


def attack_full_disks(times: int, seed: int, folder: Path) -> Tally:
    """Each run: a disk of another size, the second folder on it too or beside it, killed after a while."""
    rng, tally = random.Random(seed), Tally()
    for number in range(times):
        with small_disk(folder / f"disk{number}", rng.randrange(700, 1500)) as disk:
            second = disk / "second" if rng.random() < 0.6 else folder / f"second{number}"
            _one(disk, second, 1000 * seed + number, rng.uniform(0.3, 1.4), tally)
    return tally


def _one(disk: Path, second: Path, seed: int, seconds: float, tally: Tally) -> None:
    path = disk / "book.fenlog"
    command = [sys.executable, str(CHILD), str(path), str(second), str(seed)]
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE) as child:
        time.sleep(2.0 + seconds)  # it takes more than a second to begin
        child.kill()
        assert child.stdout is not None and child.stderr is not None
        said = [line.decode() for line in child.stdout.read().splitlines(keepends=True) if line.endswith(b"\n")]
        trouble = child.stderr.read().decode()
    if "Traceback" in trouble:
        tally.fail(f"run {seed}: {trouble[-600:]}")
        return
    subprocess.run(["mount", "-o", "remount,size=30m", str(disk)], check=True)  # somebody made room
    tally.count("runs in which readings waited" if any(second.glob("*.jsonl")) else "runs in which none waited")
    try:
        session = Session(path, second_folder=second)
    except FenmistError as error:
        tally.fail(f"run {seed}: {error}")
        return
    kept = {event.entry.raw_text for event in session.logbook.job("job").events if event.entry} if said else set()
    waiting = session.second.waiting()
    session.close()
    lost = [line.strip() for line in said if line.strip() not in kept]
    if lost or waiting:
        tally.fail(f"run {seed}: lost {lost[:5]} of {len(said)}, waiting {len(waiting)}")
    tally.acknowledged += len(said)
    tally.lost += len(lost)
