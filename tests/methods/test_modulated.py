"""What instruments show of a modulated PEP: closed forms, their limits, how well each is known."""

import math

import numpy as np
import pytest
from scipy.special import ellipe

from fenmist.errors import OutOfRangeError, UnreadableError
from fenmist.kit.part import Indicator, Times
from fenmist.measurand import Detector, Kind, Statistic
from fenmist.methods.modulated import (
    UNKNOWN,
    WAVEFORM,
    WHOLE,
    Share,
    Shares,
    check,
    claimed_share,
    claimed_statistic,
    mean_share,
    of_carriers,
    share_of,
    stands,
)
from fenmist.methods.movements import movement_of
from fenmist.waveform.movement import Digits, Needle
from fenmist.waveform.named import around

HOLD = {"detector_s": 0.01, "decay_s": 1.0}


def shows(detector: Detector, **times: float) -> Indicator:
    return Indicator("forward", "forward", Kind.INCIDENT, "W", detector=detector, times=Times(**times))


def two_tone_volts(ratio: float) -> float:
    """Mean of |1 + r·e^(jφ)| over its crest, 1 + r: (2/π)·E(4r/(1 + r)²), SciPy's complete elliptic integral."""
    return 2.0 / math.pi * float(ellipe(4.0 * ratio / (1.0 + ratio) ** 2))


@pytest.mark.parametrize(
    ("waveform", "thermal", "averaging"),
    [
        ("two-tone", 0.5, (2 / math.pi) ** 2), ("dots 20 Hz 30 %", 0.3, 0.09),
        ("two-tone 0.5", 1.25 / 2.25, two_tone_volts(0.5) ** 2), ("AM 60 %", 1.18 / 2.56, 1 / 2.56),
        ("FM", 1.0, 1.0), ("carrier", 1.0, 1.0), ("", 1.0, 1.0),
    ],
)  # fmt: skip
def test_thermal_shows_the_mean_averaging_the_mean_volts_squared_crests_all(waveform, thermal, averaging):
    """Closed forms: (1 + r²)/(1 + r)², (1 + m²/2)/(1 + m)², duty; mean volts 1/(1 + m), duty, and the above."""
    assert share_of(waveform, shows(Detector.THERMAL)).value == pytest.approx(thermal, rel=1e-6)
    assert share_of(waveform, shows(Detector.RMS)).value == pytest.approx(thermal, rel=1e-6)
    assert share_of(waveform, shows(Detector.AVERAGE)).value == pytest.approx(averaging, rel=1e-6)
    assert share_of(waveform, shows(Detector.PEAK)) == WHOLE


def test_a_trace_shows_what_is_read_off_it():
    trace = shows(Detector.TRACE)

    assert [share_of("two-tone", trace, form) for form in ("Vpp", "Vpk")] == [WHOLE, WHOLE]
    assert share_of("two-tone", trace, "Vrms").value == share_of("two-tone", trace, "V").value == pytest.approx(0.5)
    assert share_of("two-tone", trace, "fit") is None  # a sine fitted to a beat says nothing
    assert share_of("", trace, "fit") == WHOLE


def test_nobody_knows_what_is_shown_of_an_unknown_modulation_or_by_a_hold_without_times():
    assert all(share_of(UNKNOWN, shows(kind)) is None for kind in Detector)
    assert share_of("two-tone", shows(Detector.HOLD)) is None
    assert share_of("two-tone", shows(Detector.HOLD, detector_s=0.01)) is None
    assert share_of("", shows(Detector.HOLD)) == WHOLE
    assert claimed_share(UNKNOWN, shows(Detector.HOLD)) is None
    assert not stands(UNKNOWN)


def test_a_hold_claims_all_of_pep_and_shows_what_its_times_keep():
    held = share_of("dots 1 Hz", shows(Detector.HOLD, **HOLD))

    assert claimed_share("dots 1 Hz", shows(Detector.HOLD, **HOLD)) == claimed_share("two-tone", shows(Detector.HOLD))
    assert claimed_share("dots 1 Hz", shows(Detector.HOLD)) == WHOLE
    assert claimed_share("two-tone", shows(Detector.AVERAGE)).value == pytest.approx((2 / math.pi) ** 2)
    assert 0.3 < held.value < 0.9
    # a decay 20 % longer keeps more, a shorter one less: the times count, both as squares
    longer, shorter, slower, faster = (
        share_of("dots 1 Hz", shows(Detector.HOLD, detector_s=charge, decay_s=decay)).value
        for charge, decay in ((0.01, 1.2), (0.01, 1 / 1.2), (0.012, 1.0), (0.01 / 1.2, 1.0))
    )
    by_decay = max(longer - held.value, held.value - shorter)
    by_charging = max(abs(slower - held.value), abs(faster - held.value))
    assert held.own == pytest.approx(math.hypot(by_decay, by_charging), rel=1e-6)
    assert longer > held.value > shorter


def test_the_statistic_that_each_claims():
    wanted = {
        Detector.THERMAL: Statistic.MEAN, Detector.RMS: Statistic.MEAN, Detector.AVERAGE: Statistic.MEAN_VOLTS,
        Detector.HOLD: Statistic.PEP, Detector.PEAK: Statistic.PEP,
    }  # fmt: skip

    assert {kind: claimed_statistic("two-tone", shows(kind)) for kind in wanted} == wanted
    assert {claimed_statistic("", shows(kind)) for kind in wanted} == {Statistic.CARRIER}
    assert claimed_statistic("AM 50 %") is Statistic.PEP
    assert claimed_statistic("two-tone", shows(Detector.TRACE), "Vrms") is Statistic.MEAN


def test_how_well_a_shape_is_known_is_the_further_of_both_ends():
    dots = mean_share("dots 40 % ± 10 %")
    assert (dots.value, dots.off) == pytest.approx((0.4, 0.04))
    assert share_of("dots 40 % ± 10 %", shows(Detector.AVERAGE)).off == pytest.approx(0.44**2 - 0.16)
    # of AM the mean over PEP falls as the depth rises: signed the other way
    deep = mean_share("AM 50 % ± 20 %")
    ends = [(1 + m * m / 2) / (1 + m) ** 2 for m in (0.5, 0.4, 0.6)]
    assert deep.off == pytest.approx(-(ends[1] - ends[0]))
    # two equal tones are at the least mean there is, and a ratio above 1 is the same as below
    assert mean_share("two-tone ± 10 %").off == pytest.approx(-(1.81 / 1.9**2 - 0.5))
    assert mean_share("FM") == mean_share("") == WHOLE
    assert mean_share("tune").off == 0.0


def test_what_stands_behind_plus_minus_is_read_and_bounded():
    assert [item.duty for item in around("dots 50 % ± 20 %")] == pytest.approx([0.5, 0.4, 0.6])
    assert [item.duty for item in around("dots 50 %")] == pytest.approx([0.5, 0.485, 0.515])
    assert [item.ratio for item in around("two-tone ±10%")] == pytest.approx([1.0, 0.9, 1.0])
    assert [item.mean_share for item in around("speech ± 60 %")] == pytest.approx([0.2, 0.12, 0.32])
    assert [item.depth for item in around("AM")] == pytest.approx([1.0, 0.95, 1.0])
    assert [item.sag for item in around("droop")] == pytest.approx([0.1, 0.08, 0.12])
    assert [item.inner.mean_share for item in around("overshoot")] == pytest.approx([0.4, 0.3, 0.5])
    assert [item.mean_share for item in around("compressed ± 10 %")] == pytest.approx([0.4, 0.36, 0.44])
    assert len(around("carrier")) == len(around("tune")) == 1
    for text in ("two-tone ± 100 %", "carrier ± 5 %", "three-tone"):
        with pytest.raises(UnreadableError):
            check(text)
    with pytest.raises(OutOfRangeError):
        check("dots 200 %")
    check("")
    check(UNKNOWN)


def test_shares_of_points_bring_one_influence_for_all_channels_and_one_for_a_holds_times():
    sent = ("two-tone", "", "dots ± 10 %", "dots ± 10 %")
    shares = Shares(sent, (Share(0.5, 0.02), WHOLE, Share(0.5, 0.05, 0.01), None))
    shape, times = shares.influences("m", "Bittern", "meter")

    assert (shape.id, times.id, times.source_id) == (WAVEFORM, "m.waveform", "meter")
    assert shape.standard_u == pytest.approx([1 / math.sqrt(3)] * 4)
    assert times.standard_u == pytest.approx([1 / math.sqrt(3)] * 4)
    assert len(set(shape.sharing)) == 3
    assert shape.sharing[2] == shape.sharing[3]
    assert list(shares.known) == [True, True, True, False]
    x = {WAVEFORM: np.array([1.0, 1.0, -1.0, 1.0]), "m.waveform": np.array([0.0, 0.0, 1.0, 1.0])}
    assert shares.of(x, "m") == pytest.approx([0.52, 1.0, 0.46, 1.0])
    assert shares.of({}, "m") == pytest.approx([0.5, 1.0, 0.5, 1.0])
    assert of_carriers(3).influences("m", "Bittern", "meter") == ()
    assert of_carriers(4).of(x, "m") == pytest.approx([1.0] * 4)


def test_a_movement_has_the_stated_times_and_the_usual_ones_else():
    hold = movement_of(shows(Detector.HOLD, decay_s=3.0))
    needle = movement_of(shows(Detector.AVERAGE, needle_s=0.8, damping=0.5, friction=0.02)).display
    assert (hold.detector, hold.time_s, hold.decay_s, hold.display) == (Detector.HOLD, 0.01, 3.0, Needle())
    assert needle == Needle(0.8, 0.5, 0.02)
    assert movement_of(shows(Detector.AVERAGE, digits_s=0.2)).display == Digits(0.2)
    assert movement_of(shows(Detector.PEAK, detector_s=0.4)).time_s == 0.4
    assert movement_of(shows(Detector.PEAK, friction=0.01)).display == Needle(stiction=0.01)
    assert movement_of(shows(Detector.RMS)).detector is Detector.RMS
    assert movement_of(shows(Detector.THERMAL)).display == Digits(0.3)
