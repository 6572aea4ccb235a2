"""Attacks Fenmist at length and writes docs/method/durability.md: about forty minutes on two cores, as root.

Root is needed for the small disks that are filled; without it that line is left out and said.
"""

import random
import sys
import tempfile
from concurrent.futures import ProcessPoolExecutor
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from fenmist.demo.world import make_demo
from fenmist.errors import FenmistError
from fenmist.records.jobfile import job_from_bytes
from studies.attacks.disks import attack_full_disks, can_mount
from studies.attacks.files import broken
from studies.attacks.flips import attack_flips
from studies.attacks.imports import attack_imports, documents, hand_over_all
from studies.attacks.tally import Tally

ROOT = Path(__file__).resolve().parents[1]

PAGE = ROOT / "docs" / "method" / "durability.md"
HEAD = """# What was attacked, and what it counted

Written by `studies/durability_page.py` on {day}; a short form of each attack runs with every `./test.sh`, the long one
with `./test.sh --long` (`tests/attack/`). "Failed" is a traceback, a job that was taken in and then couldn't be served,
a change on disk that nobody was told of, or a reading that was acknowledged and is gone. It must be 0.

| attack | tried | what became of them | acknowledged | failed or lost |
|---|---|---|---|---|
"""
FOOT = """
- *Mutated jobs*: the demonstration's jobs with one to three places changed (awkward numbers, texts from elsewhere,
  items dropped, doubled, exchanged). What is taken in is shown, judged, listed, entered into, undone, exported, and one
  in forty typeset.
- *Broken bytes*: job files as a bad disk leaves them.
- *Flipped bits*: one bit of a logbook, or of the log beside it after a crash; then everything in it is looked at.
  "Harmless" are bits in free pages, in older revisions and in what is worked out anew.
- *Full disks*: a disk of 0.7 to 1.5 MB on which the logbook, and mostly the second folder too, run out of room again
  and again, until the process is killed.

None failed of n says that at most a share p fails, with 1 − (1 − p)ⁿ = 95 %: for 20,000 inputs

```
>>> n = 20_000
>>> f"{1.0 - 0.05 ** (1.0 / n):.1e}, about 3/n = {3 / n:.1e}"
'1.5e-04, about 3/n = 1.5e-04'

```

The hash of a row, by the standard library and by Fenmist:

```
>>> import hashlib, json
>>> from fenmist.records.rows import row_sha256
>>> row = ["job", 1, None, "25.6"]
>>> row_sha256(*row) == hashlib.sha256(json.dumps(row, separators=(",", ":")).encode()).hexdigest()
True

```

What a reading is checked by on its way back, and what is not proved by it: docs/decisions/0015-every-row-is-hashed.md.
"""


def _imports(given: tuple[int, int, Path, list[dict[str, Any]]]) -> Tally:
    times, seed, folder, originals = given
    return attack_imports(originals, times, seed, folder)


def _broken(originals: list[dict[str, Any]], times: int) -> Tally:
    rng, tally = random.Random(9), Tally()
    for _ in range(times):
        try:
            job_from_bytes(broken(rng.choice(originals), rng), "broken.json")
        except FenmistError:
            tally.count("refused")
        else:
            tally.count("read")
    return tally


def _together(parts: list[Tally]) -> Tally:
    whole = Tally()
    for part in parts:
        whole.counts.update(part.counts)
        whole.failed += part.failed
        whole.acknowledged += part.acknowledged
        whole.lost += part.lost
    return whole


def _row(name: str, tally: Tally) -> str:
    what = ", ".join(f"{number:,} {kind}" for kind, number in sorted(tally.counts.items()))
    kept = f"{tally.acknowledged:,}" if tally.acknowledged else ""
    return f"| {name} | {tally.tried:,} | {what} | {kept} | {len(tally.failed) + tally.lost} |"


def main(part: float) -> None:
    """Attack, and write the page; `part` of the full numbers."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        demo = folder / "demo.fenlog"
        make_demo(demo)
        (folder / "files").mkdir()
        hand_over_all(demo, folder / "files")
        originals = documents(folder / "files")
        rows = []
        works = []
        for seed in (301, 302):
            (folder / str(seed)).mkdir()
            works.append((int(10_000 * part), seed, folder / str(seed), originals))
        with ProcessPoolExecutor(2) as pool:
            tallies = [("mutated jobs", _together(list(pool.map(_imports, works))))]
        tallies.append(("broken bytes", _broken(originals, int(100_000 * part))))
        (folder / "flips").mkdir()
        tallies.append(("flipped bits", attack_flips(demo, int(5_000 * part), 303, folder / "flips")))
        if can_mount():
            tallies.append(("full disks", attack_full_disks(int(100 * part), 304, folder)))
        for what, tally in tallies:
            rows.append(_row(what, tally))
            print(rows[-1], *tally.failed[:5], sep="\n", flush=True)
    PAGE.write_text(HEAD.format(day=datetime.now(UTC).date().isoformat()) + "\n".join(rows) + "\n" + FOOT, "utf-8")


if __name__ == "__main__":
    main(float(sys.argv[1]) if len(sys.argv) > 1 else 1.0)
