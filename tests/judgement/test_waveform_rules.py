"""What is remarked of points that send anything but a steady carrier."""

from dataclasses import replace

import pytest

from fenmist.calibration.sent import (
    carrier_said,
    level_said,
    mean_part,
    sent_statements,
    stated_as,
    statistic_at,
    waveform_said,
)
from fenmist.judgement.waveform_rules import waveform_notes
from fenmist.kit.part import Times
from fenmist.measurand import Detector, Statistic
from studies.builders import job
from studies.references import without_device


def sending(*waveforms, detector=Detector.AVERAGE):
    made = job(level_w=100.0, frequencies_hz=[7e6 + n for n in range(len(waveforms))])
    part = made.dut_part
    part = replace(part, indicators=tuple(replace(i, detector=detector) for i in part.indicators))
    plan = tuple(replace(point, waveform=text) for point, text in zip(made.plan, waveforms, strict=True))
    return replace(made.with_part(part), plan=plan)


def notes(made):
    return [(note.code, note.about) for note in waveform_notes(made)]


def test_a_steady_carrier_and_fm_need_no_remark():
    assert notes(sending("", "FM", "carrier")) == []


def test_each_waveform_is_remarked_of_once():
    assert notes(sending("two-tone", "two-tone", "")) == [("waveform.averages", "p2")]
    assert notes(sending("two-tone", detector=Detector.PEAK)) == []


def test_the_share_and_the_factor_are_said():
    (note,) = waveform_notes(sending("two-tone"))

    assert note.evidence["share"] == pytest.approx(0.4053, abs=1e-4)
    assert "41\u202f% of the PEP of two equal tones" in note.what
    assert "2.47 times" in note.why


def test_what_hangs_on_the_shape_of_a_voice_is_said_from_a_tenth_on():
    assert ("waveform.shape", "p1") in notes(sending("speech", detector=Detector.THERMAL))
    assert ("waveform.shape", "p1") not in notes(sending("dots ± 9 %", detector=Detector.THERMAL))
    assert ("waveform.shape", "p1") in notes(sending("dots ± 10 %", detector=Detector.THERMAL))
    (note,) = (item for item in waveform_notes(sending("dots ± 20 %")) if item.code == "waveform.shape")
    assert note.evidence["off"] == pytest.approx(0.44)  # of d²: 1.2² − 1


@pytest.mark.parametrize(
    ("made", "why"),
    [
        (sending("unknown"), "What is sent isn't known"),
    ],
)  # fmt: skip
def test_what_nobody_knows_can_not_be_decided(made, why):
    (note,) = waveform_notes(made)

    assert note.code == "waveform.cannot_decide"
    assert note.why.startswith(why)
    assert note.remedy.startswith("Use a steady carrier at the same setting.")


def test_a_reference_that_holds_needs_its_times():
    made = without_device("better meter in line")
    held = replace(made.part("b").indicators[0], detector=Detector.HOLD)

    def said(times):
        sent = made.with_part(replace(made.part("b"), indicators=(replace(held, times=times),)))
        return notes(replace(sent, plan=tuple(replace(point, waveform="two-tone") for point in sent.plan)))

    assert said(Times(detector_s=0.01)) == [("waveform.cannot_decide", "p1")]
    assert said(Times(0.01, 1.0)) == []


def test_points_are_named_by_their_pep_and_what_is_sent():
    made = sending("two-tone", "", "unknown", detector=Detector.THERMAL)
    tones, carrier, unknown = made.plan

    assert level_said(tones).replace("\u202f", " ") == "100 W PEP, two-tone"
    assert level_said(carrier).replace("\u202f", " ") == "100 W"
    assert (mean_part(tones), mean_part(carrier), mean_part(unknown)) == (0.5, 1.0, None)
    assert [statistic_at(made, point) for point in (tones, carrier)] == [Statistic.MEAN, Statistic.CARRIER]
    assert [waveform_said(point.waveform) for point in made.plan] == [
        "two equal tones", "a steady carrier", "a modulation that isn't known",
    ]  # fmt: skip
    assert carrier_said([carrier]) == carrier_said([]) == "steady carrier"
    assert carrier_said([tones]) == "of the waveforms named"
    assert carrier_said([tones, carrier]) == "steady carrier; of a waveform where one is named"
    first, last = (text.replace("\u202f", " ") for text in sent_statements(made, made.plan))
    assert first == (
        "Two equal tones: powers are stated as mean, 50 % of its PEP. Its mean power is 50 % of PEP, known to ±0.28 % "
        "of that."
    )
    assert last.endswith("nothing can be said of its power; use a steady carrier.")


def test_a_card_says_as_what_the_power_is_stated():
    made = sending("two-tone", "", detector=Detector.THERMAL)
    assert [stated_as(made, point) for point in made.plan] == [" (mean)", ""]
    assert stated_as(sending("two-tone", detector=Detector.PEAK), made.plan[0]) == ""
    assert stated_as(sending("two-tone"), made.plan[0]) == " (mean of volts, squared)"
