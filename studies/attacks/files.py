"""Awkward files for every reader: one clear line each, in seconds, within a gigabyte."""

import io
import json
import os
import random
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np

from fenmist.calibration.job import Job
from fenmist.kit.generic import starter_shelf
from fenmist.kit.impedance import IMPEDANCE
from fenmist.kit.part import PartKind
from fenmist.kit.tables import QUANTITIES, TableFacts, quantities_for, tables_from_file
from fenmist.records.jobfile import read_job_file
from fenmist.reports.runsheet import read_form
from fenmist.session.captures import CaptureRequest

Read = Callable[[Path], object]


def readers(job: Job) -> dict[str, Read]:
    """Every way in for a file."""
    pad = next(part for part in starter_shelf() if part.kind is PartKind.ATTENUATOR)
    load = next(part for part in starter_shelf() if part.kind is PartKind.LOAD)
    facts = TableFacts()
    return {
        "job": read_job_file,
        "capture": lambda path: CaptureRequest(path, expected_hz=7e6)(),
        "table": lambda path: tables_from_file(pad, path, quantities_for(pad)[0], facts),
        "impedance": lambda path: tables_from_file(load, path, QUANTITIES[IMPEDANCE], facts),
        "touchstone": lambda path: tables_from_file(pad, path, None, facts),
        "form": lambda path: read_form(job, path.read_bytes()[:5_000_001], path.name),
    }


ENDINGS = (".csv", ".s2p", ".npz", ".fenjob.json")


def awkward(folder: Path, *, under_any_name: bool) -> Iterator[Path]:
    """Files that nobody should be able to hurt a reader with, each with the ending that it has, or with every one."""
    for name, data in _contents():
        for ending in ENDINGS if under_any_name else (_ending(name),):
            path = folder / f"{name}{ending}"
            path.write_bytes(data)
            yield path
            path.unlink()


def _ending(name: str) -> str:
    """Of a file that is what it looks like."""
    starts = {"array": ".npz", "archive": ".npz", "touchstone": ".s2p"} | dict.fromkeys(
        ("deep", "many-objects", "surrogate", "nan", "huge-version"), ".fenjob.json"
    )
    return next((ending for start, ending in starts.items() if name.startswith(start)), ".csv")


def devices(folder: Path) -> Iterator[Path]:
    """What isn't a file at all: a pipe that nobody writes, devices without end, a folder, nothing."""
    pipe = folder / "pipe.csv"
    os.mkfifo(pipe)
    yield from (pipe, Path("/dev/zero"), Path("/dev/random"), Path("/dev/null"), folder, folder / "none.csv")
    yield folder / ("x" * 300)
    yield folder / "a\0b"


def _contents() -> Iterator[tuple[str, bytes]]:
    yield "empty", b""
    yield "zeros", b"\0" * 100_000
    yield "lone-cr", b"point,round,phase\rp1,1,as found\r"
    yield "quoted", b'point,round,phase,frequency\n"p1,1,as found\n'
    yield "wide-field", b"point,round,phase," + b"x" * 140_000 + b"\n"
    yield "one-line", b"1," * 2_000_000
    yield "many-lines", b"1,2\n" * 3_000_000
    yield "superscript", "frequency,loss\n7.1² MHz,3²\n7.2 MHz,3⁵\n".encode()
    yield "arabic", "frequency,loss\n٧ MHz,٣\n".encode()
    yield "long-exponent", b"frequency,loss\n1e" + b"9" * 5000 + b" MHz,3\n"
    yield "long-number", b"7." + b"1" * 5_000 + b" MHz,3\n" * 3
    yield "deep", b"[" * 100_000
    yield "deep-object", b'{"a":' * 50_000
    yield "many-objects", b"[{}," * 700_000
    yield "surrogate", b'{"format":"fenmist-job","version":1,"job":{"id":"\\ud800"}}'
    yield "nan", b'{"format":"fenmist-job","version":NaN}'
    yield "huge-version", b'{"format":"fenmist-job","version":' + b"9" * 5000 + b"}"
    yield "step-nothing", b"Sample interval,1e-300\n" + b"".join(b"%d,%d.5\n" % (n, n % 7) for n in range(400))
    yield "step-ages", b"Sample interval,1e300\n" + b"".join(b"%d,%d.5\n" % (n, n % 7) for n in range(400))
    yield "thousands-of-channels", (b",".join([b"1.5"] * 4000) + b"\n") * 30
    yield "touchstone-junk", b"# MHz S RI R 50\n" + b"1 0 0 0 0 0 0 0 1e999\n" * 10
    yield "touchstone-option", b"# " + b"MHz " * 20_000 + b"\n1 0 0 0 0 0 0 0 0\n"
    yield "utf-16", "point,round,phase\n".encode("utf-16")
    yield "archive-of-many", _archive(20_000)
    yield "archive-bomb", _bomb()
    yield "array-huge-header", _huge_header()
    yield "array-objects", _array(np.array([{}], dtype=object))
    yield "array-complex", _array(np.ones(100) * 1j)
    yield "array-deep", _array(np.ones((2, 2, 2, 2, 2)))
    yield "array-tiny-steps", _array(np.full(1000, 5e-324))
    yield "array-huge", _array(np.full(1000, 1.7e308))


def _archive(members: int) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for number in range(members):
            archive.writestr(f"{number}.npy", b"")
    return out.getvalue()


def _bomb() -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("a.npy", _array(np.zeros(10_000_000)))
    return out.getvalue()


def _huge_header() -> bytes:
    head = b"{'descr': '<f8', 'fortran_order': False, 'shape': (10000000000000,), }"
    head += b" " * (118 - len(head) - 1) + b"\n"
    return b"\x93NUMPY\x01\x00" + len(head).to_bytes(2, "little") + head + b"\0" * 64


def _array(values: np.ndarray) -> bytes:
    out = io.BytesIO()
    np.save(out, values, allow_pickle=values.dtype == object)
    return out.getvalue()


def broken(document: dict[str, Any], rng: random.Random) -> bytes:
    """A job's file as a bad disk leaves it: bytes changed, cut off, doubled."""
    data = bytearray(json.dumps(document).encode())
    for _ in range(rng.choice((1, 3, 20))):
        place = rng.randrange(len(data))
        way = rng.randrange(3)
        if way == 0:
            data[place] = rng.randrange(256)
        elif way == 1:
            del data[place : place + rng.randrange(1, 50)]
        else:
            data[place:place] = data[place : place + rng.randrange(1, 50)]
    return bytes(data)
