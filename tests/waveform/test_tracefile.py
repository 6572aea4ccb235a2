"""Captures from files: one trace written in the shapes that oscilloscopes write, read to the same numbers."""

import io
import random
import warnings

import numpy as np
import pytest

from fenmist.errors import FenmistError, FileFormatError
from fenmist.waveform.analysis import analyse
from fenmist.waveform.tracefile import Given, capture_from_bytes, file_bytes

N, STEP = 400, 4e-9
TIMES = np.arange(N) * STEP - 3e-7
VOLTS = np.round(2.0 * np.cos(2 * np.pi * 7.1e6 * TIMES) / 0.04) * 0.04
SECOND = np.round(VOLTS / 2, 3)
COUNTS = np.round(VOLTS / 0.04 + 128)


def _rows(*columns, form="{:.9g}", separator=",", decimal="."):
    lines = (separator.join(form.format(value) for value in row) for row in zip(*columns, strict=True))
    return "\n".join(line.replace(".", decimal) for line in lines)


def _shapes():
    plain = _rows(TIMES, VOLTS)
    index = np.arange(N)
    beside = ["Record Length,400", "Sample Interval,4e-9", "Trigger Point,75", "Vertical Units,V"]
    tall = [
        f"{beside[i] if i < len(beside) else ','},,{t:.9g},{v:.6g}"
        for i, (t, v) in enumerate(zip(TIMES, VOLTS, strict=True))
    ]
    return {
        "bare": plain,
        "names": "time,CH1\n" + plain,
        "names with units": "Time (s),CH1 (V)\n" + plain,
        "units row": "Time,CH1\ns,V\n" + plain,
        "bracketed units row": "Source,CH1\n(s),(V)\n" + plain,
        "microseconds and millivolts": "t [us],CH1 [mV]\n" + _rows(TIMES * 1e6, VOLTS * 1e3),
        "increment beside the names": "X,CH1,Start,Increment\nSequence,Volt,-3e-7,4e-9\n"
        + "\n".join(f"{i},{v:.6g},," for i, v in enumerate(VOLTS)),
        "header lines, one column": "Sample interval: 4 ns\nUnits: V\n" + _rows(VOLTS),
        "sample rate": "# sample rate = 250 MSa/s\n# unit = V\n" + _rows(VOLTS),
        "header beside the data": "\n".join(tall),
        "counts with scale": "Time step,4e-9\nVolts per count,0.04\nZero count,128\nindex,counts\n"
        + _rows(index, COUNTS, form="{:.0f}"),
        "counts with origin": "xincrement,4e-9\nyincrement,0.04\nyreference,100\nyorigin,-1.12\nADC\n"
        + _rows(COUNTS, form="{:.0f}"),
        "semicolons and decimal commas": "Zeit;Kanal A\ns;V\n" + _rows(TIMES, VOLTS, separator=";", decimal=","),
        "tabs and decimal commas": "time\tCH1 (V)\n" + _rows(TIMES, VOLTS, separator="\t", decimal=","),
        "spaces": _rows(TIMES, VOLTS, separator=" "),
        "spaces and decimal commas": _rows(TIMES, VOLTS, separator=" ", decimal=","),
        "one column, decimal comma": "dt = 4 ns\nunits = V\nCH1\n" + _rows(VOLTS, form="{:.2f}", decimal=","),
        "quoted": '"time","CH1"\n' + "\n".join(f'"{t:.9g}","{v:.6g}"' for t, v in zip(TIMES, VOLTS, strict=True)),
        "three channels": "time,CH1,CH2,CH3\ns,V,V,V\n" + _rows(TIMES, VOLTS, SECOND, -VOLTS),
        "a current beside": "time,CH1,CH2\ns,V,A\n" + _rows(TIMES, VOLTS, SECOND),
        "few digits of time": "time,CH1\n" + _rows(np.arange(N) * STEP + 1e-3, VOLTS, form="{:.6e}"),
    }


SHAPES = _shapes()


@pytest.mark.parametrize("ending", ["\n", "\r\n"], ids=["lf", "crlf"])
@pytest.mark.parametrize("shape", list(SHAPES))
def test_every_common_shape_gives_the_same_trace(shape, ending):
    made = capture_from_bytes(SHAPES[shape].replace("\n", ending).encode(), "trace.csv")

    assert made.step_s == pytest.approx(STEP, rel=0.02 if shape == "few digits of time" else 1e-6)
    assert np.allclose(made.channels[0].volts, VOLTS, atol=1e-6)
    assert len(made.channels) == (3 if shape == "three channels" else 1)


def test_a_short_file_with_a_long_header_is_read():
    text = "Sample interval,4e-9\nUnits,V\nModel,invented\nCH1\n" + "\n".join(f"{v:.3f}" for v in VOLTS[:18])

    assert capture_from_bytes(text.encode(), "trace.csv").samples == 18


def test_volts_among_which_some_are_whole_are_no_counts():
    made = capture_from_bytes(("time,CH1\n" + _rows(TIMES, 5.0 * VOLTS)).encode(), "trace.csv")

    assert np.any(np.round(5.0 * VOLTS) == 5.0 * VOLTS) and np.ptp(5.0 * VOLTS) > 8.0
    assert np.allclose(made.channels[0].volts, 5.0 * VOLTS, atol=1e-6)


def test_a_column_whose_whole_parts_begin_like_an_index_is_one_number_a_line():
    """0,98 and 1,02 and 1,06: 0 and 1 would be an index, but the third isn't 2."""
    ramp = np.concatenate([[0.98], 1.02 + 0.04 * np.arange(60)])
    made = capture_from_bytes(("dt = 4 ns\nCH1\n" + _rows(ramp, form="{:.2f}", decimal=",")).encode(), "trace.csv")

    assert np.allclose(made.channels[0].volts, ramp)


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "latin-1"])
def test_encodings(encoding):
    made = capture_from_bytes(("t [µs];CH1 [V]\n" + _rows(TIMES * 1e6, VOLTS, separator=";")).encode(encoding), "t")

    assert made.step_s == pytest.approx(STEP)


def _npy(array):
    out = io.BytesIO()
    np.save(out, array)
    return out.getvalue()


def _npz(**arrays):
    out = io.BytesIO()
    np.savez(out, **arrays)
    return out.getvalue()


@pytest.mark.parametrize("data", [
    _npy(np.array([TIMES, VOLTS]).T), _npy(np.array([TIMES, VOLTS])),
    _npy(np.array(list(zip(TIMES, VOLTS, strict=True)), dtype=[("t", float), ("CH1", float)])),
    _npz(t=TIMES, CH1=VOLTS), _npz(dt=np.float64(STEP), CH1=VOLTS),
], ids=["columns", "rows", "named", "archive with times", "archive with a step"])  # fmt: skip
def test_numpy_files(data):
    made = capture_from_bytes(data, "trace.npy")

    assert made.step_s == pytest.approx(STEP)
    assert np.allclose(made.channels[0].volts, VOLTS)


def test_what_a_file_does_not_say_is_given():
    made = capture_from_bytes(_npy(COUNTS.astype(np.int16)), "trace.npy", Given(STEP, 0.04))

    assert made.step_s == STEP
    assert np.ptp(made.channels[0].volts) == pytest.approx(np.ptp(VOLTS))


def test_the_hash_is_of_the_bytes_and_the_header_is_kept():
    import hashlib

    data = SHAPES["header lines, one column"].encode()
    made = capture_from_bytes(data, "trace.csv")

    assert made.sha256 == hashlib.sha256(data).hexdigest()
    assert made.said["Sample interval"] == "4 ns"


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "0 lines"),
        ("hello\nworld\nthis is\nno capture", "line 4"),
        (_rows(VOLTS), "time between samples"),
        ("time,CH1\n" + _rows(TIMES, VOLTS).replace(_rows([TIMES[200]], [VOLTS[200]]), "8e-07,banana"), "line 202"),
        ("time,CH1\n" + _rows(TIMES, VOLTS).replace(_rows([TIMES[200]], [VOLTS[200]]), "5e-07,OL"), "over its range"),
        ("Time step,4e-9\ncounts\n" + _rows(COUNTS, form="{:.0f}"), "volts per count"),
        ("Sample Interval,8e-9\ntime,CH1\ns,V\n" + _rows(TIMES, VOLTS), "the header says"),
        ("time,CH1\ns,V\n" + _rows(TIMES**2 * 1e6, VOLTS), "evenly"),
        (_rows([1, 1, 2, 1, 1], [25, 26, 25, 27, 25], form="{:.0f}"), "two ways"),
        ("time,CH2\ns,A\n" + _rows(TIMES, VOLTS), "no channel of volts"),
        ("time,CH1\n" + _rows(TIMES, VOLTS).replace(_rows([TIMES[200]], [VOLTS[200]]), "5e-07,nan"), "line 202"),
        ("Time step,4e-9\nCH1\n" + _rows(COUNTS, form="{:.0f}"), "volts per count"),
        ("time,CH1\n" + _rows(TIMES, [*VOLTS[:-1], 3e9]), "3e+09 V"),
    ],
    ids=[
        "empty", "prose", "no step", "a word", "over range", "counts", "two steps", "uneven", "comma", "amperes", "nan",
        "whole numbers", "volts of a star",
    ],
)  # fmt: skip
def test_what_cannot_be_read_is_said(text, words):
    with pytest.raises(FileFormatError) as caught:
        capture_from_bytes(text.encode(), "trace.csv")

    assert words in str(caught.value)
    assert "trace.csv" in caught.value.headline
    assert caught.value.hint


@pytest.mark.parametrize("data", [
    b"\x93NUMPY\x01\x00garbage", _npz(a=np.array("text")), b"PK\x03\x04broken", _npy(np.ones((2, 2, 2))),
    _npy(np.ones(40, complex)), b"\x00\x01\x02" * 100,
], ids=["broken header", "no column", "broken archive", "three dimensions", "complex", "binary"])  # fmt: skip
def test_broken_binary_files_are_said(data):
    with pytest.raises(FileFormatError):
        capture_from_bytes(data, "trace.npy")


def test_a_pickled_array_is_never_opened():
    """An object array runs code when it is unpickled: it must be refused before."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        data = _npy(np.array([{"run": "code"}], dtype=object))

    with pytest.raises(FileFormatError, match="no NumPy file"):
        capture_from_bytes(data, "trace.npy")


def test_an_archive_that_would_unpack_to_a_flood_is_refused(monkeypatch):
    monkeypatch.setattr("fenmist.waveform.tracefile.LARGEST_BYTES", 1000)

    with pytest.raises(FileFormatError, match="unpack"):
        capture_from_bytes(_npz(dt=np.float64(STEP), CH1=VOLTS), "trace.npz")


def test_a_missing_and_a_huge_file_are_said(tmp_path, monkeypatch):
    with pytest.raises(FileFormatError, match="can't be read"):
        file_bytes(tmp_path / "none.csv")
    (tmp_path / "big.csv").write_text(SHAPES["bare"])
    monkeypatch.setattr("fenmist.waveform.tracefile.LARGEST_BYTES", 1000)
    with pytest.raises(FileFormatError, match="larger than 1 kB"):
        file_bytes(tmp_path / "big.csv")


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (_npy(np.r_[VOLTS, np.inf]), "sample 401"),
        (_npz(dt=np.float64(STEP), CH1=1e300 * VOLTS), "holds"),
        (_npy(VOLTS).replace(b"'<f8'", b"('<f8"), "no NumPy file"),
        (
            b"time,CH1\n" + "\n".join(f"{t:.9g},{1e80 * v:.6g}" for t, v in zip(TIMES, VOLTS, strict=True)).encode(),
            "beyond 1e\\+30",
        ),
        (_npz(dt=np.float64(STEP), CH1=1e20 * VOLTS), "V."),
    ],
    ids=["infinite", "huge", "broken header", "huge text", "huge volts"],
)
def test_numbers_that_are_none_are_said(data, words):
    with pytest.raises(FileFormatError, match=words):
        capture_from_bytes(data, "trace")


def _mutated(data, rng):
    """A file as a bad disk, a careless editor or a stranger may have left it."""
    made = bytearray(data)
    for _ in range(rng.choice([1, 2, 5, 20])):
        at = rng.randrange(len(made)) if made else 0
        kind = rng.randrange(4)
        if kind == 0:
            made[at : at + 1] = bytes([rng.randrange(256)])
        elif kind == 1:
            del made[at : at + rng.randrange(1, 200)]
        elif kind == 2:
            made[at:at] = rng.choice([b",", b";", b"\n", b"nan", b"1e999", b"\x00", b"-", b"OL", b"\xff", b"1,5"])
        else:
            del made[at:]
    return bytes(made)


FILES = [
    *(text.encode() for text in SHAPES.values()), _npy(np.array([TIMES, VOLTS]).T), _npz(dt=np.float64(STEP), CH1=VOLTS)
]  # fmt: skip


def _fuzz(count, seed):
    rng = random.Random(seed)
    for _ in range(count):
        try:
            made = capture_from_bytes(_mutated(rng.choice(FILES), rng), "trace.csv")
            for channel in made.channels:
                analyse(channel, made.step_s, 7.1e6)
        except FenmistError as error:
            assert error.headline and error.hint


def test_damaged_files_are_read_or_said_but_never_crash():
    _fuzz(500, 1)


@pytest.mark.long
def test_many_damaged_files_are_read_or_said_but_never_crash():
    _fuzz(30_000, 2)
