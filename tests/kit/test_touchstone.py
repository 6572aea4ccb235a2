"""Touchstone files: the gate against files labelled by their generator, and against scikit-rf on the valid ones."""

import numpy as np
import pytest
import skrf

from fenmist.errors import FileFormatError
from fenmist.kit.touchstone import characterisations_from, touchstone_from_bytes
from studies.attacks.touchstones import made_file

SHORT, LONG = 300, 10_000


def _prove(count: int, folder, referee_every: int) -> None:
    random, sentinel = np.random.default_rng(7), folder / "executed"
    kinds = {"": 0}
    for number in range(count):
        made = made_file(random, str(sentinel))
        path = folder / made.name
        path.write_bytes(made.data)
        kinds[made.spoiled] = kinds.get(made.spoiled, 0) + 1
        if made.spoiled:
            with pytest.raises(FileFormatError) as caught:
                touchstone_from_bytes(made.data, made.name)
                pytest.fail(f"taken although spoiled ({made.spoiled}):\n{made.data[:800]!r}")
            assert made.name in caught.value.headline and caught.value.hint
        else:
            read = touchstone_from_bytes(made.data, made.name)
            assert read.frequency_hz == pytest.approx(made.frequency_hz, rel=1e-12)
            assert np.max(np.abs(read.scattering - made.scattering)) < 1e-12
            if made.version == 1 and number % referee_every == 0:
                referee = skrf.Network()
                referee.read_touchstone(str(path))
                assert np.max(np.abs(read.scattering - referee.s)) < 1e-12
                assert read.frequency_hz == pytest.approx(referee.f)
    assert not sentinel.exists()
    assert kinds[""] > count / 3 and len(kinds) > 15


def test_generated_files_are_read_or_refused_as_labelled(tmp_path):
    _prove(SHORT, tmp_path, 10)


@pytest.mark.long
def test_ten_thousand_generated_files_are_read_or_refused_as_labelled(tmp_path):
    _prove(LONG, tmp_path, 20)


@pytest.mark.parametrize(("text", "said"), [
    ("1 0.1 0\n", "line 1: there is no option line"),
    ("# MHz Z MA R 50\n1 0.1 0\n", "line 1: it holds Z-parameters"),
    ("# MHz S MA R 50\n2 0.1 0\n1 0.1 0\n", "line 3: the frequency 1 doesn't rise"),
    ("# MHz S MA R 50\n1 nan 0\n", "line 2: “nan” is no number"),
    ("# MHz S MA R 50\n1 0.1\n2 0.1 0\n", "line 3: more than 2 values"),
    ("# MHz S MA R 50\n1 0.1 0\n2 0.1\n", "line 3: the last frequency lacks"),
    ("# MHz S MA R 50\n", "line 1: there are no data"),
    ("# MHz S MA R 50 Q\n1 0.1 0\n", "“q” is unknown in an option line"),
    ("# MHz S DB R 50\n1 1e9 0\n", "beyond all measure"),
    ("[Version] 2.0\n# MHz S RI\n[Number of Ports] 1\n[Network Data]\n1 0 0\n", "[number of frequencies] is missing"),
], ids=["options", "z", "falling", "nan", "split", "short", "empty", "unknown", "huge", "count"])  # fmt: skip
def test_each_fault_is_named_with_its_line(text, said):
    with pytest.raises(FileFormatError, match=r"a\.s1p") as caught:
        touchstone_from_bytes(text.encode(), "a.s1p")

    assert said in caught.value.headline


def test_noise_data_are_left_alone_and_two_ports_come_in_their_order():
    text = "# GHz S RI R 50\n1 .1 0 .2 0 .3 0 .4 0\n2 .1 0 .2 0 .3 0 .4 0\n! noise\n1 2.5 .4 30 .2\n2 2.6 .4 30 .2\n"

    read = touchstone_from_bytes(text.encode(), "amp.S2P")

    assert read.has_noise
    assert read.scattering[0].real == pytest.approx(np.array([[0.1, 0.3], [0.2, 0.4]]))  # s21 before s12


def test_defaults_of_the_option_line_are_gigahertz_and_magnitude_angle():
    read = touchstone_from_bytes(b"#\n1.5 0.5 90\n", "x.s1p")

    assert read.frequency_hz[0] == 1.5e9
    assert read.scattering[0, 0, 0] == pytest.approx(0.5j)
    assert read.z0_ohm == 50.0


def test_what_is_too_large_or_has_too_many_ports_is_refused():
    with pytest.raises(FileFormatError, match="too large"):
        touchstone_from_bytes(b"# S MA R 50\n" + b"!" * 30_000_000, "big.s1p")
    with pytest.raises(FileFormatError, match=r"no \.s1p"):
        touchstone_from_bytes(b"# S\n", "x.s7p")


def test_tables_keep_the_impedance_and_the_setting():
    read = touchstone_from_bytes(b"# MHz S RI R 75\n1 .1 .2 .3 .4 .5 .6 .7 .8\n", "x.s2p")

    tables = characterisations_from(read, "x.s2p", "2026-11-20", 0.01, "10 dB")

    assert [table.quantity for table in tables] == ["s11", "s12", "s21", "s22"]
    assert tables[2].real == (0.3,) and tables[2].u == (pytest.approx(0.005),) and tables[0].u == (0.01,)
    assert {table.termination_ohm for table in tables} == {75.0}
    assert {table.setting for table in tables} == {"10 dB"}
