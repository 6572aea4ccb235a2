"""What meters show on a waveform, and where a gain's plateau begins: the plain requests."""

import json
import math

import numpy as np
import pytest
from scipy import optimize

from fenmist.__main__ import main
from fenmist.errors import FenmistError
from fenmist.methods.on_waveform import MetersRequest
from fenmist.methods.plateau import End, PlateauRequest, plateau
from fenmist.session.modulation import plateau_headline, plateau_rows
from fenmist.simulation.levelcontrol import held
from fenmist.waveform.shapes import TwoTone


def meters(capsys, *arguments):
    assert main(["meters", *arguments, "--json"]) == 0
    return json.loads(capsys.readouterr().out)


@pytest.mark.parametrize(("arguments", "mean", "thermal", "averaging"), [
    (("--waveform", "carrier"), 100.0, 100.0, 100.0), (("--waveform", "fm"), 100.0, 100.0, 100.0),
    (("--waveform", "two-tone"), 50.0, 50.0, 400 / math.pi**2), (("--waveform", "dots"), 50.0, 50.0, 25.0),
    (("--waveform", "dots", "--duty", "0.4", "--rate", "20 Hz"), 40.0, 40.0, 16.0),
    (("--waveform", "dots 20 Hz 40 %"), 40.0, 40.0, 16.0),
    (("--waveform", "dots", "--rise", "10 ms"), 47.5, 47.5, 25.0), (("--waveform", "am"), 37.5, 37.5, 25.0),
    (("--waveform", "am", "--depth", "0.5"), 50.0, 50.0, 100 / 2.25),
    (("--waveform", "two-tone", "--tone-ratio", "0.5"), 125 / 2.25, 125 / 2.25, None),
    (("--waveform", "two tones 0.5"), 125 / 2.25, 125 / 2.25, None),
])  # fmt: skip
def test_what_the_handbook_derives(capsys, arguments, mean, thermal, averaging):
    """Handbook 5; two tones and AM in any handbook of radio."""
    found = meters(capsys, *arguments)

    assert found["pep_w"] == 100.0
    assert (found["mean_w"], found["shows"]["thermal_w"]) == pytest.approx((mean, thermal))
    assert found["papr_db"] == pytest.approx(10 * math.log10(100 / mean), abs=1e-9)
    if averaging is not None:
        assert found["shows"]["averaging_w"] == pytest.approx(averaging)
    assert found["shows"]["peak_w"] == 100.0
    assert found["shows"]["averaging_w"] <= found["shows"]["hold_w"] <= 100.0


def test_speech_with_and_without_compression(capsys):
    plain, compressed = (meters(capsys, "--waveform", name, "--pep", "50 W") for name in ("speech", "compressed"))

    assert (plain["mean_w"], compressed["mean_w"]) == pytest.approx((10.0, 20.0), abs=0.1)
    for found in (plain, compressed):
        shows, codes = found["shows"], [note["code"] for note in found["notes"]]
        assert shows["averaging_w"] < shows["thermal_w"] < shows["hold_w"] < shows["peak_w"] <= 50.0
        assert codes == [
            "meters.hold_is_low", "meters.needle_moves", "meters.two_averages", "meters.this_waveform_only"
        ]  # fmt: skip
        low, high = found["moves_w"]["averaging_w".removesuffix("_w")]
        assert low < shows["averaging_w"] < high
    assert plain["crest_share"] < compressed["crest_share"]


def test_a_steady_carrier_needs_no_remark(capsys):
    assert meters(capsys, "--waveform", "carrier")["notes"] == []


def test_a_short_capture_is_taken_to_go_on_and_that_is_said(capsys, tmp_path):
    step, carrier = 1e-7, 1e6
    envelope = TwoTone(1.0, 1000.0).envelope(0.02, step).amplitude
    path = tmp_path / "tones.npy"
    np.save(path, 3.0 * envelope * np.sin(2 * np.pi * carrier * np.arange(envelope.size) * step))
    found = meters(capsys, "--waveform", str(path), "--step", "100 ns", "--pep", "200 W")

    assert found["waveform"].endswith("a modulated carrier")
    assert found["mean_w"] == pytest.approx(100.0, rel=5e-3)
    assert found["shows"]["averaging_w"] == pytest.approx(800 / math.pi**2, rel=5e-3)
    assert "meters.short_record" in [note["code"] for note in found["notes"]]


def test_a_long_envelope_file_speaks_for_itself(capsys, tmp_path):
    path = tmp_path / "envelope.csv"
    values = 2.0 * TwoTone(1.0, 5.0).envelope(10.0, 0.002).amplitude
    rows = (f"{0.002 * n:.4f},{volts:.5f}" for n, volts in enumerate(values))
    path.write_text("\n".join(["time (s),detector (V)", *rows]))
    found = meters(capsys, "--waveform", str(path))

    assert found["waveform"].endswith("its envelope")
    assert found["mean_w"] == pytest.approx(50.0, rel=5e-3)
    assert "meters.short_record" not in [note["code"] for note in found["notes"]]


@pytest.mark.parametrize("fields", [
    {"waveform": "whistle"}, {"waveform": "two-tone 3 W"}, {"waveform": "carrier 5 Hz"}, {"waveform": "am 150 %"},
    {"waveform": "carrier", "pep": "0 W"}, {"waveform": "carrier", "pep": "x"}, {"waveform": "none.csv"},
    {"waveform": "dots 0 Hz"}, {"waveform": "dots 1,250 Hz"}, {"waveform": "speech 5 %"},
])  # fmt: skip
def test_what_is_no_waveform_is_said(fields):
    with pytest.raises(FenmistError) as caught:
        MetersRequest(**fields)()
    assert caught.value.headline


@pytest.mark.parametrize(("text", "name"), [
    ("CW", "steady carrier"), ("FM", "FM"), ("Two tones", "two equal tones"), ("AM 30 %", "AM, 30 % deep"),
    ("AM 0.3", "AM, 30 % deep"), ("keying 5 Hz 25 % 8 ms", "dots, 5 a second, 25 % on"),
    ("SSB", "speech, mean 20 % of PEP"), ("compressed speech 35 %", "compressed speech, mean 35 % of PEP"),
    ("overshoot", "compressed speech, mean 40 % of PEP, level control overshooting"),
    ("droop 10 % 5 s", "carrier that droops by 10 %"), ("tune", "tune cycle"),
])  # fmt: skip
def test_waveforms_as_they_are_typed(text, name):
    assert MetersRequest(text)().waveform.name == name


# the plateau


def test_the_knee_is_where_the_sum_of_squares_is_least():
    """Against SciPy's own minimum over height, slope and knee; interval by the F of one more parameter (t² of ν)."""
    gain = np.arange(10.0, 90.0, 10.0)
    random = np.random.default_rng(2)
    power = np.minimum(1.6 * gain + 2, 72.0) + random.normal(0, 0.8, gain.size)

    def left(p):
        return power - p[0] - p[1] * np.minimum(gain - p[2], 0.0)

    best = optimize.least_squares(left, [70.0, 1.5, 43.0], xtol=1e-14, ftol=1e-14)
    found = plateau(gain, power, 0.1, 1.0)

    assert found.fit.gain == pytest.approx(best.x[2], abs=1e-3)
    assert (found.fit.plateau_w, found.fit.slope) == pytest.approx((best.x[0], best.x[1]), rel=1e-4)
    assert found.fit.scatter_w == pytest.approx(math.sqrt(2 * best.cost / 5), rel=1e-4)
    assert found.fit.dof == 5
    for edge in (found.fit.low, found.fit.high):  # k₂ of Student's t, 95.45 %, 5 degrees of freedom: 2.65 (GUM G.2)
        _, _, cost = _refit(gain, power, edge)
        assert cost == pytest.approx(2 * best.cost * (1 + 2.649**2 / 5), rel=5e-3)
    assert found.fit.power(np.array([10.0, 80.0])) == pytest.approx(
        [best.x[0] + best.x[1] * (10 - best.x[2]), best.x[0]], rel=1e-4
    )
    assert found.fit.u_plateau_w == pytest.approx(found.fit.scatter_w / math.sqrt(np.sum(gain >= found.fit.gain)))


def test_where_volts_go_with_the_gain_its_scatter_is_still_of_watts():
    """Volts of 10 below a knee at 50, then 100 W that scatter by 1 W: u of their mean over √n."""
    gain = np.arange(5.0, 105.0, 5.0)
    power = np.minimum(gain / 5.0, 10.0) ** 2
    power[gain >= 50.0] += np.tile([1.0, -1.0, 0.0, 1.0, -1.0, 0.0], 2)[: np.sum(gain >= 50.0)]
    found = plateau(gain, power, 0.01, 1.0).fit

    assert (found.law, found.gain) == (2, pytest.approx(50.0, abs=0.5))
    assert found.plateau_w == pytest.approx(100.0, abs=0.5)
    assert 0.3 < found.scatter_w < 1.2
    assert plateau(gain, power, 0.01, 1.0).end is End.STANDS
    power[gain > 50.0] += 0.2 * (gain[gain > 50.0] - 50.0)  # a tenth more at the top
    assert plateau(gain, power, 0.01, 1.0).end is End.RISES
    assert found.u_plateau_w == pytest.approx(found.scatter_w / math.sqrt(np.sum(gain >= found.gain)))


def _refit(gain, power, knee):
    design = np.stack([np.ones_like(gain), np.minimum(gain - knee, 0.0)], axis=1)
    solution, rest, *_ = np.linalg.lstsq(design, power, rcond=None)
    return *solution, float(rest[0])


def test_the_example_of_the_command(capsys):
    assert main(["plateau", "--gain", "10 20 30 40 50 60", "--power", "8 22 41 58 60 60 W", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)

    assert found["knee"] == pytest.approx(41.4, abs=0.1)
    assert found["knee_interval"][0] < 40 < found["knee"] < found["knee_interval"][1] < 50
    assert found["expanded_u_knee"] == pytest.approx(
        max(found["knee"] - found["knee_interval"][0], found["knee_interval"][1] - found["knee"])
    )
    assert (found["plateau_w"], found["setting"], found["beyond"]) == (pytest.approx(60.0, abs=0.1), 40.0, "stands")
    assert found["notes"] == []


@pytest.mark.parametrize(("gain", "power", "setting"), [
    ("1 2 3 4 5 6 7 8", "10 20 30 40 50 55 55 55 W", 5.0),  # the knee at 5.5
    ("1 2 3 4 5 6 7 8", "10 20 30 40 50 60 60 60 W", 5.0),  # at 6: a touch below it
    ("1.0 2.0 3.0 4.0 5.0 6.0 7.0", "10.0 20.0 30.0 40.0 45.0 45.0 45.0 W", 4.4),
    ("8 7 6 5 4 3 2 1", "55 55 55 50 40 30 20 10 W", 5.0),
    ("0.1 0.2 0.3 0.4 0.5 0.6 0.7 0.8", "10 20 30 40 50 55 55 55 W", 0.5),
])  # fmt: skip
def test_the_gain_is_set_a_touch_below_the_knee(gain, power, setting):
    assert PlateauRequest(gain, power)().setting == pytest.approx(setting)


def test_five_gains_are_enough_and_four_too_few():
    assert PlateauRequest("10 20 30 40 50", "10 20 30 30 30 W")().fit is not None
    with pytest.raises(FenmistError, match="4 gains are too few"):
        PlateauRequest("10 20 30 40", "10 20 30 30 W")()


@pytest.mark.parametrize(("power", "end", "code"), [
    ("8 22 41 58 75 92 110 W", End.UNSEEN, "plateau.unseen"), ("8 22 41 58 60 60 60 W", End.STANDS, None),
    ("0 22 41 58 60 60 60 W", End.STANDS, None),
    ("8 22 41 58 62 66 70 W", End.RISES, "plateau.rises"), ("10 30 50 70 68 60 52 W", End.FALLS, "plateau.falls"),
    ("60 60 60 60 60 60 60 W", End.UNSEEN, "plateau.unseen"), ("5 40 20 61 39 60 45 W", None, "plateau.wide"),
])  # fmt: skip
def test_what_the_power_does_beyond_the_knee(power, end, code):
    found = PlateauRequest("10 20 30 40 50 60 70", power)()
    if end is not None:
        assert found.end is end
        assert (found.setting is not None) is (end is End.STANDS)
    assert (code is None and not found.notes) or code in [note.code for note in found.notes]


@pytest.mark.long
def test_knees_are_covered():
    _covered(1500)


def test_knees_are_covered_in_a_few():
    _covered(200)


def _covered(benches):
    """Normal scatter about two lines: the knee lies within its interval as often as that says, and a control fails."""
    random = np.random.default_rng(7)
    gain = np.arange(5.0, 85.0, 5.0)
    hits = narrow = 0
    for _ in range(benches):
        knee = random.uniform(30, 60)
        power = np.minimum(gain, knee) * 1.5 + random.normal(0, 1.0, gain.size)
        fit = plateau(gain, power, 0.01, 1.0).fit
        hits += fit.low <= knee <= fit.high
        narrow += abs(knee - fit.gain) <= 0.5 * min(fit.high - fit.gain, fit.gain - fit.low)
    sigma = math.sqrt(0.9545 * 0.0455 / benches)
    assert abs(hits / benches - 0.9545) < 3 * sigma + 0.01
    assert narrow / benches < 0.85


@pytest.mark.parametrize("benches", [80, pytest.param(1000, marks=pytest.mark.long)])
def test_knees_of_simulated_transmitters_are_covered(benches):
    """Level control stepped through time on two tones; volts rise evenly with the gain, both lines meet at the knee.

    Where control begins it is not hard: attack and release let the crest stand up to 2 % above, so it begins that much
    before the lines meet.
    """
    random, gain = np.random.default_rng(11), np.arange(1.0, 10.0)
    begins, step = random.uniform(4.5, 6.5, benches), 2e-4
    voice = np.abs(np.cos(np.pi * 230.0 * np.arange(0.0, 1.5, step)))
    times = (random.uniform(5e-4, 3e-3, benches), random.uniform(0.3, 1.0, benches))
    drive = (gain / begins[:, None]).ravel()
    sent = held(drive, voice, step, *(np.repeat(item, gain.size) for item in times))
    needle = sent[sent.shape[0] // 2 :].mean(axis=0).reshape(benches, gain.size)  # averages volts
    hits, beyond, ends = 0, 0, 0.0
    for begin, volts in zip(begins, needle, strict=True):
        knee = float(np.sqrt(np.mean(volts[gain > begin + 1.0] ** 2)) / volts[0])
        shown_w = np.round(100.0 * volts**2 * (1.0 + 0.01 * random.standard_normal(gain.size)))
        found = plateau(gain, shown_w, 1.0, 1.0)
        assert found.fit is not None
        hits += found.fit.low <= knee <= found.fit.high
        ends = max(ends, knee / begin - 1.0)
        beyond += found.setting is not None and found.setting >= 1.02 * knee
    assert beyond <= benches / 500  # a knee that is read a little late lets a step too many through
    assert hits / benches >= 0.9
    assert 0.0 < ends < 0.03


@pytest.mark.parametrize(("distortion", "limit", "clean", "setting"), [
    ("-42 -40 -36 -31 -25 -20 dB", "-30 dB", 4 + 1 / 6, 4.0), ("42 40 36 31 25 20", "30", 4 + 1 / 6, 4.0),
    ("-42 -40 -36 -30 -25 -20 dB", "-30 dB", 4.0, 3.0), ("-42 -41 -40 -39 -38 -37 dB", "", math.inf, None),
    ("-20 -40 -36 -31 -25 -20 dB", "-30 dB", 1.0, 0.0),
])  # fmt: skip
def test_compression_is_set_until_its_distortion_reaches_the_limit(distortion, limit, clean, setting):
    answer = PlateauRequest("1 2 3 4 5 6", "20 30 40 50 60 70 W", distortion, limit)()
    assert (answer.clean, answer.setting) == (pytest.approx(clean), setting)
    codes = [note.code for note in answer.notes]
    assert ("plateau.distorts" in codes) is math.isfinite(clean)
    # a plateau that begins below it sets the limit instead, and the headline says which
    stands = PlateauRequest("1 2 3 4 5 6", "20 40 60 60 60 60 W", distortion, limit)()
    assert stands.setting == min(2.0, setting if setting is not None else 2.0)
    assert ("Distortion sets the limit" in plateau_headline(answer)) is math.isfinite(clean)
    assert ("Distortion sets the limit" in plateau_headline(stands)) is (clean < 3.0)
    assert dict(plateau_rows(answer))["Distorts"] == (f"from {clean:.3g}" if math.isfinite(clean) else
                                                      "nowhere in these readings")  # fmt: skip


def test_as_many_distortions_as_gains():
    with pytest.raises(FenmistError, match="don't go together"):
        PlateauRequest("1 2 3 4 5 6", "20 30 40 50 60 70 W", "-42 -40")()


@pytest.mark.parametrize(("gain", "power"), [
    ("1 2 3", "1 2 3 W"), ("1 2 3 4 5", "1 2 3 4 W"), ("1 2 3 4 5", "0 0 0 0 0 W"), ("", "1 W"),
    ("1 2 x 4 5", "1 2 3 4 5"),
    ("1 1 1 1 1", "1 2 3 4 5"), ("1 2 3 4 5", "1 2 -3 4 5"),
])  # fmt: skip
def test_what_is_no_plateau_run_is_said(gain, power):
    with pytest.raises(FenmistError) as caught:
        PlateauRequest(gain, power)()
    assert caught.value.hint
