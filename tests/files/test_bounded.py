"""Files are read within a limit, and only if they are files."""

import os
from pathlib import Path

import pytest

from fenmist.errors import FileFormatError
from fenmist.files.bounded import bytes_of


def test_a_file_at_the_limit_is_read_and_one_above_is_not(tmp_path):
    path = tmp_path / "a.csv"
    path.write_bytes(b"x" * 2000)

    assert len(bytes_of(path, 2000)) == 2000
    with pytest.raises(FileFormatError, match=r"larger than 1 kB.*Export fewer"):
        bytes_of(path, 1999)


@pytest.mark.parametrize(("most", "said"), [(999, "0 kB"), (999_999, "999 kB"), (1_000_000, "1 MB")])
def test_a_limit_is_said_in_round_numbers(tmp_path, most, said):
    path = tmp_path / "a.csv"
    path.write_bytes(b"x" * (most + 1))

    with pytest.raises(FileFormatError, match=f"larger than {said}"):
        bytes_of(path, most)


def test_a_pipe_that_nobody_writes_is_not_waited_for(tmp_path):
    os.mkfifo(tmp_path / "pipe")

    with pytest.raises(FileFormatError, match="no ordinary file"):
        bytes_of(tmp_path / "pipe", 100)


@pytest.mark.parametrize("path", ["/dev/zero", "/dev/null", "/"])
def test_devices_and_folders_are_refused(path):
    with pytest.raises(FileFormatError):
        bytes_of(Path(path), 100)


@pytest.mark.parametrize("name", ["none.csv", "a\0b", "y" * 300])
def test_what_is_not_there_is_named(tmp_path, name):
    with pytest.raises(FileFormatError):
        bytes_of(tmp_path / name, 100)
