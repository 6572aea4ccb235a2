"""Attacks, short always and long with --long; docs/method/durability.md tells what they counted."""

import json
import os
import random
import resource
import shutil
import subprocess
import sys
import time
from pathlib import Path

import pytest

from fenmist.errors import FenmistError
from fenmist.kit.generic import starter_shelf
from fenmist.reading.event import Slot
from fenmist.records.jobfile import job_from_bytes
from fenmist.session.paper import issue, to_issue
from fenmist.session.session import Session
from fenmist.session.trial import try_whole
from studies.attacks import start_child
from studies.attacks.disks import attack_full_disks, can_mount
from studies.attacks.fields import typed_jobs, typed_parts
from studies.attacks.files import awkward, broken, devices, readers
from studies.attacks.flips import attack_flips
from studies.attacks.imports import attack_imports, documents, hand_over_all
from studies.attacks.starts import cases
from studies.builders import job

CHILD = Path(start_child.__file__)
MOST_SECONDS, MOST_MEGABYTES = 10.0, 1000.0


@pytest.fixture(scope="module")
def demo(tmp_path_factory, demo_file):
    """A demonstration's logbook with a certificate issued in it."""
    path = Path(shutil.copy(demo_file, tmp_path_factory.mktemp("demo") / "demo.fenlog"))
    session = Session(path, second_folder=path.parent)
    request = to_issue(session, session.open("demo-bittern").view)
    issue(session, request, request())
    session.summaries()
    session.close()
    return path


@pytest.fixture(scope="module")
def originals(demo, tmp_path_factory):
    folder = tmp_path_factory.mktemp("files")
    hand_over_all(demo, folder)
    return documents(folder)


# imports


def test_mutated_jobs_are_refused_or_served(originals, tmp_path):
    tally = attack_imports(originals, 15, 11, tmp_path)

    assert tally.failed == []
    assert tally.counts["taken in and served"] > 2


@pytest.mark.long
@pytest.mark.parametrize("seed", [101, 102, 103, 104])
def test_twenty_thousand_mutated_jobs_are_refused_or_served(originals, tmp_path, seed):
    assert attack_imports(originals, 5000, seed, tmp_path).failed == []


@pytest.mark.parametrize("times", [300, pytest.param(20_000, marks=pytest.mark.long)])
def test_broken_bytes_of_a_job_are_said_in_one_line(originals, times):
    rng = random.Random(5)
    for _ in range(times):
        try:
            job_from_bytes(broken(rng.choice(originals), rng), "broken.json")
        except FenmistError as error:
            assert "\n" not in str(error)


# what is typed in forms


def test_awkward_fields_are_refused_or_can_be_worked_out():
    """Of a job with readings a part of what can be typed; all of it with --long."""
    made = job([[("102 Vpp", "25.6")]], load="52 @ -8")
    for number, (name, typed) in enumerate(typed_jobs(made)):
        if number % 40 == 0:
            assert_worked(name, typed)


@pytest.mark.long
def test_all_awkward_fields_of_the_demonstrations_jobs_are_refused_or_can_be_worked_out(originals):
    for document in originals[:3]:
        made, _ = job_from_bytes(json.dumps(document).encode(), "demo")
        for name, typed in typed_jobs(made):
            assert_worked(name, typed)


def assert_worked(name, typed):
    try:
        try_whole(typed)
    except FenmistError as error:
        assert "surrogates" in str(error), name  # half a sign can't be written down, and that is said


@pytest.mark.parametrize("part", starter_shelf(), ids=lambda part: part.id)
def test_awkward_fields_of_any_part_are_refused_in_words(part):
    assert all(made.id == part.id for _, made in typed_parts(part))


AWKWARD_READINGS = (
    "0e999", "1e160 V", "4412 dBm", "5e-324", "1e15", "1e-24", "1e13", "-0", "0", "20/1e9", "<1e15", "25.6" * 60, "²",
    "\ud800", "1e9" + "9" * 5000, "off scale", "", "\u0000", "1,250", "-400 dBm", "1e15 kV",
)  # fmt: skip


@pytest.mark.parametrize("text", AWKWARD_READINGS, ids=lambda text: ascii(text[:20]))
@pytest.mark.parametrize("position", [0, 1], ids=["reference", "meter"])
def test_an_awkward_reading_is_kept_and_can_be_handed_over(tmp_path, text, position):
    """What Enter took stands after a restart, open or read, and travels in a file."""
    path = tmp_path / "b.fenlog"
    session = Session(path, second_folder=tmp_path)
    session.logbook.add_job(job(frequencies_hz=(7e6,)))
    slot = Slot("p1", 1, position)
    session.open("job").enter(slot, text)
    session.close()

    again = Session(path, second_folder=tmp_path)
    entry = again.logbook.job("job").standing[slot].entry
    again.hand_over("job", tmp_path / "b.json")
    taken = again.take_in(tmp_path / "b.json")
    trouble = [line.trouble for line in again.summaries()]
    again.close()

    assert entry.raw_text == text.encode("utf-8", "replace").decode()
    assert taken != "job"
    assert trouble == ["", ""]


# files


@pytest.mark.parametrize("under_any_name", [False, pytest.param(True, marks=pytest.mark.long)])
def test_awkward_files_are_one_clear_line_each_in_seconds(tmp_path, under_any_name):
    made, before = job(frequencies_hz=(7e6,)), peak_megabytes()
    for path in awkward(tmp_path, under_any_name=under_any_name):
        for name, read in readers(made).items():
            began = time.process_time()  # its own work, whatever else the machine does
            try:
                read(path)
            except FenmistError as error:
                assert "\n" not in str(error)
            assert time.process_time() - began < MOST_SECONDS, f"{name} {path.name}"
    assert peak_megabytes() < max(MOST_MEGABYTES, before + 400.0)  # other tests of this process may have had more


def peak_megabytes():
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024.0


def test_what_is_no_ordinary_file_is_said_at_once(tmp_path):
    made = job(frequencies_hz=(7e6,))
    for path in devices(tmp_path):
        for name, read in readers(made).items():
            if name != "form":
                with pytest.raises(FenmistError):
                    read(path)


# the disk


def test_flipped_bits_are_found_or_harmless(demo, tmp_path):
    tally = attack_flips(demo, 15, 1, tmp_path)

    assert tally.failed == []
    assert tally.counts["found"] > 7


@pytest.mark.long
def test_a_thousand_flipped_bits_are_found_or_harmless(demo, tmp_path):
    assert attack_flips(demo, 1000, 2, tmp_path).failed == []


@pytest.mark.parametrize("times", [10, pytest.param(300, marks=pytest.mark.long)])
def test_bits_flipped_in_the_log_after_a_crash_are_found(demo, tmp_path, times):
    crashed = tmp_path / "crashed" / "book.fenlog"
    crashed.parent.mkdir()
    crashed.write_bytes(demo.read_bytes())
    code = (
        "import os, sys; from pathlib import Path; from fenmist.session.session import Session\n"
        "from fenmist.reading.event import Slot\n"
        "path = Path(sys.argv[1]); session = Session(path, second_folder=path.parent); "
        "job = session.open('demo-teal')\n"
        "for n in range(4): job.enter(Slot('p1', 1 + n // 2, n % 2), str(10 + n))\n"
        "os._exit(9)"
    )
    subprocess.run([sys.executable, "-c", code, str(crashed)], check=False)
    assert crashed.with_name("book.fenlog-wal").exists()

    tally = attack_flips(crashed, times, 3, tmp_path, "-wal")

    assert tally.failed == []


@pytest.mark.skipif(not can_mount(), reason="small disks can be mounted by root only")
@pytest.mark.parametrize("times", [3, pytest.param(100, marks=pytest.mark.long)])
def test_on_full_disks_nothing_acknowledged_is_lost(tmp_path, times):
    tally = attack_full_disks(times, 7, tmp_path)

    assert tally.failed == []
    assert tally.lost == 0
    assert tally.acknowledged > 10 * times


# starting


@pytest.mark.parametrize("quarter", [0, *(pytest.param(n, marks=pytest.mark.long) for n in (1, 2, 3))])
def test_the_window_starts_on_damaged_logbooks_settings_and_drafts(demo, tmp_path, quarter):
    """As `python -m fenmist` does: a window with the right words, and no traceback, on each of some seventy."""
    chosen = list(cases(demo, tmp_path, quarter))
    listed = tmp_path / "cases.json"
    listed.write_text(json.dumps([[str(case.path), str(case.settings)] for case in chosen]))
    homes = {f"XDG_{name}_HOME": str(tmp_path / name) for name in ("STATE", "DATA", "CONFIG")}
    command = [sys.executable, str(CHILD), str(listed)]
    done = subprocess.run(command, capture_output=True, text=True, env={**os.environ, **homes}, check=False)

    said = [json.loads(line) for line in done.stdout.splitlines()]
    assert "Traceback" not in done.stderr
    assert len(said) == len(chosen) >= 15
    for case, window in zip(chosen, said, strict=True):
        assert any(word in window["words"] for word in case.words), (case.name, window["words"])
