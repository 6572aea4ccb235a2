"""Mutated job files: each is refused in one clear line, or taken in and then served by everything that shows a job."""

import json
import random
import traceback
from pathlib import Path
from typing import Any

from fenmist.cli.job import _results_json
from fenmist.errors import FenmistError, FileFormatError
from fenmist.reading.event import AS_FOUND, AS_LEFT
from fenmist.reports.resultfile import head_table, xlsx_bytes
from fenmist.session.benchpaper import run_sheet_contents
from fenmist.session.paper import certificate_of
from fenmist.session.session import Session
from fenmist.session.trial import read_tried
from fenmist.session.view import View
from studies.attacks.mutation import as_bytes, mutated
from studies.attacks.tally import Tally

PRINTED = 40
"""Of so many taken in one is also set as pages: typesetting takes longer than all the rest."""


def documents(folder: Path) -> list[dict[str, Any]]:
    """The demonstration's jobs as parsed files, without the hash that would give every change away."""
    found = [json.loads(path.read_bytes()) for path in sorted(folder.glob("*.json"))]
    for item in found:
        item.pop("record_sha256", None)
    return found


def hand_over_all(logbook: Path, folder: Path) -> None:
    """Every job of a logbook as a file."""
    session = Session(logbook, second_folder=folder)
    for line in session.summaries():
        session.hand_over(line.id, folder / f"{line.id}.json")
    session.close()


def attack_imports(originals: list[dict[str, Any]], times: int, seed: int, folder: Path) -> Tally:
    """Mutate, try to take in, and use what was taken."""
    rng, tally, path = random.Random(seed), Tally(), folder / "mutant.json"
    session = Session(folder / f"taken{seed}.fenlog", second_folder=folder)
    for number in range(times):
        path.write_bytes(as_bytes(mutated(rng.choice(originals), rng, rng.choice((1, 1, 1, 2, 3)))))
        how = f"seed {seed}, input {number}"
        try:
            tried = read_tried(path)
        except FileFormatError as error:
            tally.fail(f"{how}: {error.headline}") if "\n" in str(error) else tally.count("refused")
            continue
        except Exception:  # noqa: BLE001  that is what is looked for
            tally.fail(f"{how}: {traceback.format_exc()}")
            continue
        try:
            _use(session, session.keep(tried), printed=number % PRINTED == 0)
        except Exception:  # noqa: BLE001  that is what is looked for
            tally.fail(f"{how}, taken in: {traceback.format_exc()}")
        else:
            tally.count("taken in and served")
    troubled = [line.trouble for line in session.summaries() if line.trouble]
    for trouble in troubled:
        tally.fail(f"seed {seed}, in the list: {trouble}")
    session.close()
    return tally


def _use(session: Session, job_id: str, printed: bool) -> None:
    """What a person may do with a job that was taken in."""
    job = session.logbook.job(job_id)
    view = View(job, job.created_at, AS_LEFT if job.is_adjusted else AS_FOUND)
    json.dumps(_results_json(view), allow_nan=False)
    last = job.events[-1].at if job.events else job.created_at
    xlsx_bytes(view.procedure.table(view.seen), head_table(job, "0"), last)
    content = certificate_of(view)
    opened = session.open(job_id)
    slot = opened.view.next_slot()
    if slot is not None:
        opened.enter(slot, "12.3")
        _ = opened.view.result, opened.view.notes
        opened.commands.undo()
    session.history(job.dut, job.dut_part.serial)
    if printed:
        from fenmist.reports.paper import certificate_pdf

        certificate_pdf(content)
        for name, made in run_sheet_contents(view).items():
            try:
                made()
            except FenmistError:
                assert name == ".pdf" and not job.to_read
