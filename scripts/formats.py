"""Writes docs/formats/job.schema.json and its example from the program: run it after the record's types changed."""

from dataclasses import replace
from pathlib import Path

import msgspec

from fenmist.calibration.edit import with_rounds
from fenmist.calibration.receipt import Photo
from fenmist.kit.generic import starter_shelf
from fenmist.procedures.comparison.make import cross_check, plan_points
from fenmist.reading.event import AS_LEFT, Slot
from fenmist.records.jobfile import job_to_bytes, schema
from fenmist.session.openjob import OpenJob
from fenmist.session.session import Session

FOLDER = Path(__file__).parents[1] / "docs" / "formats"


def main() -> None:
    """Write both."""
    import tempfile
    from datetime import datetime, timedelta, timezone

    at = [datetime(2026, 11, 25, 9, 0, tzinfo=timezone(timedelta(hours=1)))]

    def clock() -> datetime:
        at[0] += timedelta(seconds=12)
        return at[0]

    FOLDER.mkdir(parents=True, exist_ok=True)
    (FOLDER / "job.schema.json").write_bytes(msgspec.json.format(msgspec.json.encode(schema()), indent=1) + b"\n")
    with tempfile.TemporaryDirectory() as folder:
        session = Session(Path(folder) / "example.fenlog", clock, second_folder=Path(folder))
        made = cross_check(
            "example", "An example", starter_shelf(), plan_points([7e6], [50.0], "200"), created_at=clock()
        )
        session.logbook.add_job(made)
        job: OpenJob = session.open("example")
        job.enter(Slot("p1", 1, 0), "141 Vpp")
        job.enter(Slot("p1", 1, 1), "49.5")
        (FOLDER / "example.fenjob.json").write_bytes(job_to_bytes(job.job, session.logbook.attachment))
        _adjust(job)
        (FOLDER / "adjusted.fenjob.json").write_bytes(job_to_bytes(job.job, session.logbook.attachment))
        session.close()


def _adjust(job: OpenJob) -> None:
    """The same job with every kind of event: a slip struck, a doubt, an answer, a round skipped, read as left."""
    slot = Slot("p1", 1, 1)
    job.edit(with_rounds(job.job, "p1", 2), "one more round")
    job.enter(slot, "495")
    job.strike(slot, "misread")
    job.enter(slot, "47.5")
    job.doubt(slot, "needle was still moving")
    job.skip(Slot("p1", 2, 0), "load too warm")
    job.switch_carrier(slot)
    job.answer(job.view.notes[0], "checked: correct")
    photo = job.attach(b"stands for a picture", "dial.png")
    receipt = replace(job.job.receipt, condition="works", photos=(Photo(photo, "dial.png"),))
    job.edit(replace(job.job, receipt=receipt), "photo")
    job.begin_as_left()
    job.enter(Slot("p1", 1, 0, AS_LEFT), "141.2 Vpp")
    job.enter(Slot("p1", 1, 1, AS_LEFT), "49.75")


if __name__ == "__main__":
    main()
