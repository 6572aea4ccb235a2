"""A job as one file: there and back, and files from strangers."""

import base64
import json
from dataclasses import replace
from pathlib import Path

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fenmist.calibration.receipt import Photo
from fenmist.errors import FenmistError, FileFormatError
from fenmist.hookup.editing import inserted
from fenmist.kit import shelf
from fenmist.kit.characterisation import Characterisation
from fenmist.kit.part import Component, Port, Position, Switch
from fenmist.procedures.comparison.reduction import reduce
from fenmist.reading.event import Event, EventKind, Slot
from fenmist.records import jobfile
from fenmist.records.codec import record_hash
from fenmist.records.jobfile import job_from_bytes, job_to_bytes, read_job_file, schema
from fenmist.rf.circuit import BranchKind
from fenmist.session.trial import try_whole
from studies.builders import enter, job

FORMATS = Path(__file__).parents[2] / "docs" / "formats"


def read_job():
    return job([[("102", "25.6"), ("101", "25.2")], [("104", "26.4")]], frequencies_hz=(7e6, 14e6))


def no_files(digest):
    raise AssertionError(digest)


def test_a_job_comes_back_as_it_was():
    made = read_job()

    found, files = job_from_bytes(job_to_bytes(made, no_files), "x")

    assert found == made
    assert files == {}
    assert record_hash(found) == record_hash(made)
    assert reduce(found).points == reduce(made).points


def test_files_travel_with_the_job_and_names_lose_their_folders():
    data = b"\x89PNG picture"
    digest = __import__("hashlib").sha256(data).hexdigest()
    made = read_job()
    made = replace(made, receipt=replace(made.receipt, photos=(Photo(digest, "../../etc/dial.png"),)))

    _, files = job_from_bytes(job_to_bytes(made, lambda _: data), "x")

    assert files == {digest: ("dial.png", data)}


def changed(**members):
    """The file of a job with members changed, as bytes."""
    file = json.loads(job_to_bytes(read_job(), no_files))
    file["record_sha256"] = ""
    for path, value in members.items():
        here = file
        *way, last = path.split("__")
        for step in way:
            here = here[int(step)] if isinstance(here, list) else here[step]
        here[int(last) if isinstance(here, list) else last] = value
    return json.dumps(file).encode()


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "no job file"),
        (b"[]", "no job file"),
        (b"{" * 100_000, "no job file"),
        (b"\x80\x04\x95pickle", "no job file"),
        (b"{}", "format"),
        (changed(format="other"), "format"),
        (changed(version=99), "newer"),
        (changed(version="1"), "newer"),
        (changed(job__schema=99), "newer schema"),
        (changed(job__dut="nobody"), "not in its kit"),
        (changed(job__plan__0__hookup="elsewhere"), "hook-up"),
        (changed(job__plan__0__range_id="7000"), "range"),
        (changed(job__plan__0__frequency_hz=-1.0), "no frequency"),
        (changed(job__plan__0__frequency_hz="seven"), "frequency_hz"),
        (changed(job__plan__0__repeats=10**9), "rounds"),
        (changed(job__plan__0__sequence=["scope"]), "both reference and meter"),
        (changed(job__plan__0__sequence=["scope", "sensor"]), "reads a channel that isn't there"),
        (changed(job__order=["nothing"]), "order of reading names a channel"),
        (changed(job__reference="nobody"), "the reference that decides, “nobody”, isn't there"),
        (changed(job__channels__1__id="scope"), "two of its channels carry one id"),
        (changed(job__channels__0__element="sensor"), "channel “scope” is read on “sensor”, which isn't there"),
        (changed(job__channels__0__indicator="ohms"), "channel “scope” is read on “scope”, which isn't there"),
        (changed(job__events__0__entry__channel="sensor"), "event 1 was read on a channel that isn't there"),
        (changed(job__plan__1__id="p1"), "one id"),
        (changed(job__title="x" * 30_000), "letters"),
        (changed(job__method__kind=""), "no method"),
        (changed(job__method__kind="exec"), "isn't known"),
        (changed(job__hookups__0__elements__0__part="ghost"), "ghost"),
        (changed(job__hookups__0__joints=[]), "can't be worked with"),
        (changed(job__events__0__at="yesterday"), "time"),
        (changed(job__events__0__id="e1"), "no id of its own"),
        (changed(job__events__0__kind="explode"), "kind"),
        (changed(job__events__0__entry__slot__round=0), "no slot"),
        (changed(job__events__0__entry__reading__value=1e300), "no sense"),
        (changed(attachments=[{"sha256": "a", "name": "n", "data": "!!"}]), "damaged"),
        (changed(attachments=[{"sha256": "a", "name": "n", "data": base64.b64encode(b"x").decode()}]), "isn't what"),
        (changed(record_sha256="0" * 64), "changed after"),
    ],
)  # fmt: skip
def test_what_a_file_lacks_is_said_and_nothing_of_it_is_kept(data, says):
    with pytest.raises(FileFormatError, match=says) as told:
        job_from_bytes(data, "stranger.json")

    assert "stranger.json" in str(told.value)


def test_a_huge_file_is_not_read(tmp_path, monkeypatch):
    path = tmp_path / "big.json"
    path.write_bytes(b" " * 2000)
    monkeypatch.setattr(jobfile, "MOST_BYTES", 1000)

    with pytest.raises(FileFormatError, match="larger"):
        read_job_file(path)


def test_a_line_too_long_to_be_solved_is_refused_before_it_is():
    """A stranger's hook-up of hundreds of parts would take gigabytes as one network."""
    made = job()
    hookup, pad = made.hookups[0], shelf.jumper("j", "jumper", 0.1, 0.1)
    for _ in range(40):
        hookup = inserted(hookup, "meter", "out", pad)
    data = job_to_bytes(replace(made, kit=(*made.kit, pad), hookups=(hookup,)), no_files)

    with pytest.raises(FileFormatError, match="parts on one line"):
        job_from_bytes(data, "long.fenjob.json")


def test_a_file_of_too_many_objects_is_refused_before_they_are_made():
    with pytest.raises(FileFormatError, match="objects"):
        job_from_bytes(b'{"format": "fenmist-job", "job": [' + b"[]," * (jobfile.MOST_OBJECTS + 1) + b"0]}", "x")


def test_a_missing_file_is_named(tmp_path):
    with pytest.raises(FileFormatError, match=r"nowhere\.json"):
        read_job_file(tmp_path / "nowhere.json")


_LEAVES = st.none() | st.booleans() | st.integers(-(10**20), 10**20) | st.floats(allow_nan=False) | st.text(max_size=20)


@settings(max_examples=80)
@given(st.data())
def test_a_file_with_any_one_value_changed_is_taken_in_or_refused_in_words(data):
    """Whatever one value is changed to: a job that can be worked with, or a FileFormatError; never anything else."""
    file = json.loads(job_to_bytes(read_job(), no_files))
    file["record_sha256"] = ""
    here, key = file, data.draw(st.sampled_from(sorted(file)))
    for _ in range(12):
        value = here[key]
        children = (
            list(value) if isinstance(value, dict) else list(range(len(value))) if isinstance(value, list) else []
        )
        if not children or data.draw(st.integers(0, 5)) == 0:
            break
        here, key = value, data.draw(st.sampled_from(children))
    here[key] = data.draw(_LEAVES | st.lists(_LEAVES, max_size=3) | st.dictionaries(st.text(max_size=5), _LEAVES))
    try:
        found, _ = job_from_bytes(json.dumps(file).encode(), "x")
        try_whole(found)
    except FenmistError:
        return
    assert reduce(found).readings is not None


@pytest.mark.parametrize("name", ["example.fenjob.json", "adjusted.fenjob.json"])
def test_schema_and_examples_are_what_the_program_reads_and_writes(name):
    kept = json.loads((FORMATS / "job.schema.json").read_text("utf-8"))
    example, files = read_job_file(FORMATS / name)

    assert kept == json.loads(msgspec.json.encode(schema()))
    assert job_to_bytes(example, lambda digest: files[digest][1]) == (FORMATS / name).read_bytes()
    assert reduce(example).points


def test_the_same_job_gives_the_same_bytes_and_one_entry_more_does_not():
    made = read_job()
    more = enter(made, Slot("p2", 2, 0), "103")

    assert job_to_bytes(made, no_files) == job_to_bytes(read_job(), no_files)
    assert job_to_bytes(more, no_files) != job_to_bytes(made, no_files)


# limits


def planned(made, count=1, **what):
    first = made.plan[0]
    return replace(
        made, plan=tuple(replace(first, id=f"p{number}", **what) for number in range(1, count + 1)), events=()
    )


def with_first_part(made, **what):
    return made.with_part(replace(made.kit[0], **what))


def sequence(count):
    return ("scope", "meter", *["scope"] * (count - 2))


def table(count):
    return Characterisation("loss", "loss_db", tuple(1e6 + n for n in range(count)), (1.0,) * count, unit="dB")


def pieces(count):
    return tuple(Component(f"R{n}", BranchKind.RESISTOR, ("out", "0"), 50.0) for n in range(count))


LIMITS = {
    "points": (5_000, planned),
    "rounds": (1_000, lambda made, n: planned(made, repeats=n)),
    "readings a round": (20, lambda made, n: planned(made, sequence=sequence(n))),
    "planned readings": (200_000, lambda made, n: planned(made, n // 40 + n % 40, repeats=20) if n == 200_000 else
                         planned(made, 4_001, repeats=25)),
    "hook-ups": (50, lambda made, n: replace(
        made, hookups=(*made.hookups, *(replace(made.hookups[0], id=f"h{k}") for k in range(1, n))))),
    "pieces inside a part": (60, lambda made, n: with_first_part(made, components=pieces(n))),
    "connectors on a part": (8, lambda made, n: with_first_part(
        made, ports=(*made.kit[0].ports, *(Port(f"x{k}", side=True) for k in range(len(made.kit[0].ports), n))))),
    "positions of a switch": (60, lambda made, n: with_first_part(
        made, switches=(Switch("s", tuple(Position(str(k)) for k in range(n))),))),
    "switches on a part": (8, lambda made, n: with_first_part(
        made, switches=tuple(Switch(f"s{k}", (Position("on"),)) for k in range(n)))),
    "rows": (20_001, lambda made, n: with_first_part(made, characterisations=(table(n),))),
    "parts": (200, lambda made, n: replace(
        made, kit=(*made.kit, *(replace(made.kit[0], id=f"k{k}") for k in range(len(made.kit), n))))),
    "letters": (20_000, lambda made, n: replace(made, conditions="x" * n)),
}  # fmt: skip


@pytest.mark.parametrize("what", LIMITS)
def test_as_much_as_is_stated_is_read_and_no_more(what):
    most, made_of = LIMITS[what]

    job_from_bytes(job_to_bytes(made_of(job(), most), no_files), "x")

    with pytest.raises(FileFormatError, match=rf"{what}; at most {most} are read"):
        job_from_bytes(job_to_bytes(made_of(job(), most + 1), no_files), "x")


def test_rounds_of_entries_are_limited_too():
    made = job([[("102", "25.6")]])
    last = made.events[-1]
    far = replace(last, entry=replace(last.entry, slot=replace(last.entry.slot, round=1001)))

    with pytest.raises(FileFormatError, match="1001 rounds; at most 1000"):
        job_from_bytes(job_to_bytes(replace(made, events=(*made.events[:-1], far)), no_files), "x")


@pytest.mark.parametrize(
    ("point", "refused"), [("p1", False), ("p2", True)], ids=["where it stands", "where something else stands"]
)
def test_a_strike_says_where_it_strikes_or_nothing(point, refused):
    made = job([[("102", "25.6")]], frequencies_hz=(7e6, 14e6))
    entry = made.events[0]
    strike = Event("s", EventKind.STRIKE, entry.at, target=entry.id, slot=replace(entry.entry.slot, point=point))
    data = job_to_bytes(made.with_event(strike), no_files)

    if refused:
        with pytest.raises(FileFormatError, match="strikes or restores what stands elsewhere"):
            job_from_bytes(data, "x")
    else:
        assert len(job_from_bytes(data, "x")[0].standing) == 1
    job_from_bytes(job_to_bytes(made.with_event(replace(strike, slot=None)), no_files), "x")


# days and tolerances as they have to be


@pytest.mark.parametrize("day", ["2026-02-28", "2024-02-29", ""])
def test_a_day_that_is_in_the_calendar_is_taken(day):
    made = replace(read_job(), next_due=day)

    assert job_from_bytes(job_to_bytes(made, no_files), "x")[0].next_due == day


@pytest.mark.parametrize(
    ("tolerances", "fits"),
    [((0.05,), True), ((0.05, 0.0), True), ((0.0,), False), ((-0.01,), False), ((0.05, -0.01), False),
     ((2e15,), False)],
)  # fmt: skip
def test_a_tolerance_is_something_and_nothing_of_it_is_below_nothing(tolerances, fits):
    made = read_job()
    terms = [replace(made.tolerance, value=value) for value in tolerances]
    data = job_to_bytes(replace(made, tolerance=terms[0], tolerance_more=tuple(terms[1:])), no_files)

    if fits:
        assert job_from_bytes(data, "x")[0].tolerances == tuple(terms)
    else:
        with pytest.raises(FileFormatError, match="no tolerance"):
            job_from_bytes(data, "x")
