"""A bench in time: reproducible, warming, settling; read by the core, its results hold what they say."""

import math
from dataclasses import replace

import numpy as np
import pytest

from fenmist.errors import OutOfRangeError, UnknownIdError
from fenmist.kit.part import Indicator, PartKind
from fenmist.measurand import Kind
from fenmist.simulation.envelopes import envelope_named, mean_share
from fenmist.simulation.faults import FAULTS, plant
from fenmist.simulation.live import LiveBench
from fenmist.simulation.needle import THERMAL, TrueMovement
from fenmist.simulation.scenarios import SCENARIOS, job_bench, live_bench, scenario
from fenmist.simulation.screens import TrueAnalyser
from fenmist.simulation.standins import stand_ins
from studies.in_turn import job_in_turn
from studies.substitution import ON_GENERATOR, sensor_job


def bench(name="live", seed=1, seconds=5.0, **faults):
    made = live_bench(scenario(name), seed, {key.replace("_", "-"): value for key, value in faults.items()})
    made.set(on=True)
    made.advance(seconds)
    return made


def element(made, kind):
    return next(item.id for item in made.setup.hookup.elements if made.setup.part(item.id).kind is kind)


def forward(made, indicator="forward"):
    return made.shown(element(made, PartKind.INLINE_METER), indicator)


def volts(made):
    return made.shown(element(made, PartKind.OSCILLOSCOPE), "trace")


@pytest.mark.parametrize("name", [item.name for item in SCENARIOS])
def test_a_bench_is_made_again_by_its_number(name):
    def all_shown(seed):
        made = bench(name, seed)
        return [
            made.shown(item.id, shows.id)
            for item in made.setup.hookup.elements
            for shows in made.setup.part(item.id).indicators
        ]

    assert all_shown(4) == all_shown(4)
    assert all_shown(4) != all_shown(5)


def test_a_meter_in_order_shows_what_is_true_within_what_is_stated():
    """±5 % of the reading, and 2 % for leaks of 30 dB on a load that isn't perfect."""
    off = [forward(made) / made.true_w() - 1.0 for made in (bench(seed=n) for n in range(12))]

    assert max(map(abs, off)) < 0.07
    assert np.std(off) > 0.01


def test_a_key_that_is_up_gives_nothing():
    made = bench()
    made.set(on=False)
    made.advance(30.0)

    assert (made.true_w(), volts(made)) == (0.0, pytest.approx(0.0, abs=0.05))  # its own noise
    assert forward(made) == pytest.approx(0.0, abs=0.01)
    assert made.drawn_a() == made.setup.transmitter.idle_a


def test_power_at_the_plane_is_incident_less_what_comes_back():
    made = bench("mismatch")

    assert made.true_w(Kind.REFLECTED) / made.true_w() == pytest.approx(1 / 9, rel=0.02)  # 100 Ω: SWR 2
    assert made.true_w(Kind.NET) == pytest.approx(made.true_w() - made.true_w(Kind.REFLECTED))


def test_a_load_changes_as_it_warms_and_the_ratio_of_volts_and_watts_with_it():
    made = bench(seconds=10.0, drift=20.0)
    before = volts(made) ** 2 / forward(made)
    made.advance(1200.0)

    assert volts(made) ** 2 / forward(made) > 1.02 * before


def test_a_load_is_warmed_by_the_mean_of_what_is_sent():
    """Dots of half duty warm it half as much (ITU-R SM.326: mean is half of the peak)."""
    warmth = {}
    for sent in ("carrier", "dots"):
        made = bench(seconds=0.1, drift=20.0)
        made.set(envelope=sent)
        made.advance(20.0)
        warmth[sent] = next(iter(made._warmth.values()))

    assert warmth["dots"] / warmth["carrier"] == pytest.approx(0.5, abs=0.02)


def test_speech_reads_less_than_the_carrier_that_has_its_peak():
    made = bench(seconds=10.0)
    carrier = forward(made)
    made.set(envelope="speech")
    seen = []
    for _ in range(32):
        made.advance(0.5)
        seen.append(forward(made))

    assert 0.1 * carrier < max(seen) < 0.6 * carrier
    assert min(seen) < 0.5 * max(seen)


def test_a_sensor_is_zeroed_only_without_a_carrier():
    made = bench("pad", zero=1e-4)
    sensor = element(made, PartKind.POWER_METER)
    with pytest.raises(OutOfRangeError, match="carrier on"):
        made.zero("snipe")
    made.set(on=False)
    made.advance(1.0)
    assert made.shown(sensor, "reading") > 5e-5
    made.zero("snipe")

    assert made.shown(sensor, "reading") == pytest.approx(0.0, abs=1e-6)


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({"watts": -1.0}, "-1 W"),
        ({"watts": math.nan}, "nan W"),
        ({"frequency_hz": 0.0}, "0 Hz"),
        ({"envelope": "x"}, "“x”"),
    ],
)
def test_what_a_transmitter_cant_be_set_to_is_refused(given, says):
    with pytest.raises((OutOfRangeError, UnknownIdError), match=says):
        bench().set(**given)


def test_what_isnt_there_cant_be_read():
    made = bench()
    for ask in (lambda: made.trace("knot"), lambda: made.reflection("knot"), lambda: scenario("none")):
        with pytest.raises(UnknownIdError):
            ask()


# faults

MOVES = {
    # fault: bench, what is looked at, how much it changes at the fault's usual strength, from and to (ratio)
    "ports": ("live", forward, 0.0, 0.1), "port": ("live", forward, 0.2, 0.9),
    "termination": ("tap", lambda m: m.shown("meter", "reading"), 3.7, 4.2),  # 6 dB, less its own mismatch

    "resistor": ("divider", lambda m: m.shown("voltmeter", "volts"), 0.85, 0.95),
    "wet": ("live", lambda m: forward(m, "swr"), 1.05, 2.0), "tuner": ("live", lambda m: forward(m, "swr"), 1.2, 2.2),
    "hold": ("live", forward, 0.99, 1.01), "arc": ("live", forward, 0.099, 0.101),
    "switch": ("steps", lambda m: m.shown("meter", "reading"), 0.099, 0.101),
    "zero": ("pad", lambda m: m.shown("meter", "reading"), 1.0, 1.01), "alike": ("live", forward, 1.14, 1.16),
    "loose": ("live", lambda m: abs(forward(m, "swr")), 1.0, 3.0),
    "hot-pad": ("pad", lambda m: m.shown("meter", "reading"), 0.88, 1.0),
    "drift": ("live", volts, 1.0, 1.1), "one": ("live", forward, 1.0, 1.1),
}  # fmt: skip


@pytest.mark.parametrize("name", MOVES)
def test_a_fault_moves_what_a_technician_would_see(name):
    scene, look, low, high = MOVES[name]
    clean, faulty = bench(scene, seconds=30.0), bench(scene, seconds=30.0, **{name.replace("-", "_"): None})

    assert low <= look(faulty) / look(clean) <= high
    assert look(faulty) != look(clean) or name == "hold"  # which is right on a carrier


def test_two_wrong_alike_still_agree():
    clean, both = bench(), bench(alike=None)

    assert volts(both) ** 2 / forward(both) == pytest.approx(volts(clean) ** 2 / forward(clean), rel=1e-3)


def test_a_loose_contact_scatters_and_a_tight_one_doesnt():
    def scatter(made):
        seen = []
        for _ in range(30):
            made.advance(2.0)
            seen.append(volts(made))
        return np.std(seen) / np.mean(seen)

    assert scatter(bench(loose=None)) > 5.0 * scatter(bench())


def test_a_transmitter_that_folds_back_gives_less_into_a_mismatch():
    assert bench("mismatch", fold_back=1.5).true_w() < 0.8 * bench("mismatch").true_w()


def test_a_fault_needs_a_part_that_can_have_it_and_a_name():
    clean = bench()
    for name in ("probe", "resistor", "switch", "zero", "termination", "hot-pad", "none"):
        with pytest.raises(UnknownIdError):
            plant(clean.setup, name)


def test_a_probe_at_x1_shows_ten_times_the_volts():
    from fenmist.kit import shelf

    scene = scenario("live")
    with_probe = replace(
        scene, parts=lambda: tuple(shelf.probe("p", "probe") if p.id == "lead" else p for p in scene.parts())
    )
    seen = []
    for faults in ({}, {"probe": 1.0}):
        made = live_bench(with_probe, 1, faults)
        made.set(on=True)
        made.advance(3.0)
        seen.append(volts(made))

    assert seen[1] / seen[0] == pytest.approx(10.0, rel=0.03)  # a probe of 10:1 is one within its 2 %


def test_every_fault_is_told_apart_and_says_what_is_seen():
    assert len({item.id for item in FAULTS}) == len({item.title for item in FAULTS}) == len(FAULTS) == 17
    assert all(item.seen for item in FAULTS)


def test_long_and_short_steps_of_time_lead_to_the_same_bench():
    made = [live_bench(scenario("live"), 2) for _ in range(2)]
    still = [LiveBench(replace(m.setup, transmitter=replace(m.setup.transmitter, wander_db=0.0)), 1) for m in made]
    for one, steps in zip(still, (1, 100), strict=True):
        one.set(50.0, 8e6, on=True)
        for _ in range(steps):
            one.advance(200.0 / steps)

    assert forward(still[0]) == pytest.approx(forward(still[1]), rel=2e-3)


# plugged together anew, and sending something else


def in_turn(room):
    made = job_in_turn(room)
    return made, job_bench(made.bench, made.parts, 5, others=[one for one in made.hookups if one is not made.bench])


def test_what_is_plugged_together_otherwise_is_of_the_same_parts():
    """A loss: what each part truly is, its instruments and the source's match stay as they were."""
    job, live = in_turn("loss")
    through = live.setup
    live.plug("bench direct")

    assert live.setup.element_of("dev") is None
    assert live.setup.source == through.source
    assert live.setup.true.source_ohm == through.true.source_ohm
    for part in ("knot", "ruff"):
        here, there = live.setup.element_of(part), through.element_of(part)
        assert live.setup.instruments[here] is through.instruments[there]
        assert live.setup.true.truths[here] is through.true.truths[there]
    assert set(live.setups) == {one.id for one in job.hookups}


def test_a_switch_in_another_position_is_another_truth():
    job, live = in_turn("linearity")
    lost = {}
    for hookup in job.hookups:
        live.plug(hookup.id)
        place = live.setup.element_of("steps")
        lost[hookup.element(place).settings["step"]] = live.setup.true.truths[place].part.properties["loss_db"].value

    assert lost == pytest.approx({"0 dB": 0.0, "10 dB": 10.0, "20 dB": 20.0}, abs=0.11)
    assert len({value - float(name.split()[0]) for name, value in lost.items()}) == 3


def test_nothing_is_plugged_anew_with_the_carrier_on():
    _, live = in_turn("loss")
    live.set(watts=10.0, on=True)
    with pytest.raises(OutOfRangeError, match="carrier on"):
        live.plug("bench direct")
    live.plug("bench")  # as it is
    with pytest.raises(UnknownIdError, match="no hook-up"):
        live.plug("elsewhere")


def test_what_is_not_plugged_in_shows_nothing_and_cools():
    _, live = in_turn("reflection")
    live.set(watts=20.0, frequency_hz=7e6, on=True)
    live.advance(20.0)
    assert live.shown_by("knot", "swr") == pytest.approx(2.0, rel=0.1)
    live.set(on=False)
    live.plug("bench 3")
    live.set(on=True)
    live.advance(20.0)

    assert live.shown_by("knot", "swr") == pytest.approx(3.0, rel=0.1)
    assert live.setup.element_of("r25") is None


def test_a_sensor_on_the_shelf_shows_its_zero():
    made = job_in_turn("linearity")
    first = replace(made.bench, elements=made.bench.elements[:2], joints=made.bench.joints[:1])
    live = job_bench(made.bench, made.parts, 5, others=[replace(first, id="open")])
    live.plug("open")
    live.set(watts=5e-3, frequency_hz=1e7, on=True)

    assert abs(live.shown_by("s", "reading")) < 1e-9


@pytest.mark.parametrize(
    ("name", "mean"),
    # of the power over that of the crest: two equal tones a half, AM (1 + m²/2)/(1 + m)²; dots their duty less a
    # third of an edge of 4 ms a period: u² along a straight edge is a third, not a half
    [("two-tone 200 Hz", 0.5), ("dots 20 Hz", 0.5 - 0.004 * 20 / 3), ("dots 5 Hz 25 %", 0.25 - 0.004 * 5 / 3),
     ("AM 100 %", 0.375), ("AM 50 %", 0.5), ("AM 50 % 400 Hz", 0.5), ("carrier", 1.0), ("FM", 1.0)],
)  # fmt: skip
def test_envelopes_as_jobs_name_them(name, mean):
    """Facts of each waveform, derived."""
    assert mean_share(envelope_named(name)) == pytest.approx(mean, abs=0.002)


@pytest.mark.parametrize("name", ["tune", "two-tone 0 Hz", " ", "noise"])
def test_what_it_cant_send_is_refused(name):
    with pytest.raises(UnknownIdError, match="can't send"):
        envelope_named(name)


def test_what_is_plugged_in_elsewhere_answers_as_well():
    """Sensors in each other's place: both stand on a bench of their own, beside the same generator."""
    job = sensor_job(ON_GENERATOR)
    others = [item for item in job.hookups if item.id != job.bench.id]
    found = stand_ins(job_bench(job.bench, job.parts, 1, others=others))

    assert [item.part for item in found if item.part in ("ref", "dev")] == ["dev", "ref"]


def test_a_generator_holds_its_level_and_a_transmitter_droops():
    """Between the first second and the tenth minute, of what goes into the same end."""
    _, ladder = in_turn("linearity")
    _, line = in_turn("reflection")
    moved = {}
    for name, made, watts in (("generator", ladder, 5e-3), ("transmitter", line, 20.0)):
        made.set(watts=watts, frequency_hz=7e6, on=True)
        made.advance(1.0)
        first = made.true_w()
        made.advance(600.0)
        moved[name] = 10.0 * abs(np.log10(made.true_w() / first))

    assert moved["generator"] < 0.006
    assert moved["transmitter"] > 0.01


def test_a_transmitters_crest_when_modulated_is_within_a_fifth_of_a_decibel_of_its_carrier():
    off = []
    for seed in range(40):
        made = live_bench(scenario("live"), seed)
        made.set(on=True)
        steady = made.true_w()
        made.set(envelope="two tones")
        off.append(10.0 * np.log10(made.true_w() / steady))

    assert 0.15 < max(np.abs(off)) <= 0.2001
    assert min(off) < -0.05 < 0.05 < max(off)


# heat, zeros, contacts and what each instrument makes of an envelope


def test_a_load_has_two_thirds_of_its_heat_after_the_time_at_which_it_is_rated():
    """1 − 1/e of it, at a time constant of its rated time; all of it grows its ohms by what the fault says."""
    hookup, parts = scenario("live").bench()
    made = job_bench(hookup, parts, 1, {"drift": 20.0})
    made.set(watts=100.0, on=True)
    load = element(made, PartKind.LOAD)
    rated_s = parts["reedmace"].properties["rated_time_s"].value

    def ohms():
        put = made.put(load, "in")
        return abs(put.volts[1] / put.amperes[1])

    def taken():
        put = made.put(load, "in")
        return (put.volts[1] * put.amperes[1].conjugate()).real

    cold, at = ohms(), []
    for seconds in (rated_s, 20.0 * rated_s):
        made.advance(seconds)
        at.append((ohms() / cold - 1.0) / (0.2 * taken() / 150.0))
    assert at == pytest.approx([1.0 - math.exp(-1.0), 1.0], abs=0.01)
    made.set(on=False)
    made.advance(rated_s)
    made.set(on=True)
    assert ohms() / cold - 1.0 == pytest.approx(0.2 * taken() / 150.0 / math.e, rel=0.02)


def test_a_sensors_zero_walks_by_its_drift_an_hour_as_walks_do():
    """Standard deviation over the square root of the time."""
    made = bench("pad")
    true = replace(made.setup.instruments["meter"], drift_w=1e-6, noise_w=0.0, zero_w=3e-6)
    made = LiveBench(replace(made.setup, instruments={"meter": true}), 1)
    seen = [made.shown("meter", "reading")]
    for _ in range(400):
        made.advance(900.0)
        seen.append(made.shown("meter", "reading"))

    assert seen[0] == 3e-6
    assert np.std(np.diff(seen)) == pytest.approx(0.5e-6, rel=0.08)
    made.zero("snipe")
    assert made.shown("meter", "reading") == 0.0


def test_a_loose_contact_has_its_ohms_on_average():
    """Exponential: its standard deviation is its mean."""
    hookup, parts = scenario("live").bench()
    made = job_bench(hookup, parts, 1, {"loose": 5.0})
    made.set(watts=50.0, on=True)
    tee, load = element(made, PartKind.TEE), element(made, PartKind.LOAD)
    port = made.setup.hookup.mate(load, "in")[1]

    def ohms():
        near, far = made.put(tee, port), made.put(load, "in")
        return ((near.volts[1] - far.volts[1]) / far.amperes[1]).real

    assert ohms() == pytest.approx(0.0, abs=1e-9)  # nobody has touched it yet
    seen = []
    for _ in range(300):
        made.advance(0.2)
        seen.append(ohms())

    assert min(seen) > 0.0
    assert (np.mean(seen), np.std(seen)) == pytest.approx((5.0, 5.0), rel=0.15)


@pytest.mark.parametrize(
    ("name", "kind", "indicator", "share"),
    [("pad", PartKind.POWER_METER, "reading", 0.5), ("divider", PartKind.VOLTMETER, "volts", math.sqrt(0.5))],
)
def test_what_heats_shows_half_of_the_power_of_two_tones(name, kind, indicator, share):
    """Beside the crest's own fraction of a decibel (ITU-R SM.326: mean is half of the peak)."""
    made = bench(name)
    crest = 10.0 ** (made.setup.transmitter.modulated_db / 10.0)
    at = element(made, kind)
    steady = made.shown(at, indicator)
    made.set(envelope="two tones")

    assert made.shown(at, indicator) / steady == pytest.approx(
        share * (crest if share == 0.5 else crest**0.5), rel=2e-3
    )


def test_a_transmitters_own_meter_shows_what_leaves_it_and_its_setting_what_was_asked():
    hookup, parts = scenario("mismatch").bench()
    shows = tuple(Indicator(name, name, Kind.INCIDENT, "W") for name in ("setting", "own_meter"))
    made = job_bench(hookup, {**parts, "plover": replace(parts["plover"], indicators=shows)}, 1)
    made.set(watts=5.0, on=True)
    made.advance(5.0)
    knot = made.setup.element_of("knot")
    ahead = abs(made.put(knot, made.setup.part(knot).ends[0]).waves(1)[0]) ** 2

    assert made.shown(made.setup.source, "own_meter") == pytest.approx(ahead, rel=1e-6)
    assert made.shown(made.setup.source, "setting") == 5.0
    made.set(on=False)
    assert made.shown(made.setup.source, "own_meter") == 0.0


def test_a_needle_against_its_stop_shows_no_number_and_none_below_it():
    """Its stop stands a fifth above full scale."""
    made = bench()
    at = element(made, PartKind.INLINE_METER)
    full = made.setup.instruments[at].full_w
    in_order = replace(made.setup.instruments[at], error_db=0.0, bits=0, knee_v=0.0, scale_knee_v=0.0)
    sender = replace(made.setup.transmitter, top_w=math.inf, error_db=0.0, droop_db=0.0, wander_db=0.0)
    made = LiveBench(replace(made.setup, transmitter=sender, instruments={at: in_order}), 1)
    for watts, off in ((1.17 * full, False), (1.24 * full, True)):
        made.set(watts=watts, on=True)
        made.advance(30.0)
        assert math.isinf(forward(made)) is off


def test_a_thermal_meter_and_one_that_sends_its_detectors_show_the_carrier_as_the_others_do():
    made = bench()
    at = element(made, PartKind.INLINE_METER)
    thermal = replace(made.setup.instruments[at], movement=TrueMovement(THERMAL), knee_v=0.0, scale_knee_v=0.0)
    averaging = replace(thermal, movement=TrueMovement())
    seen = []
    for one in (thermal, averaging):
        live = LiveBench(replace(made.setup, instruments={at: one}), 1)
        live.set(watts=50.0, frequency_hz=8e6, on=True)
        live.advance(60.0)
        seen.append(forward(live))
    assert seen[0] == pytest.approx(seen[1], rel=1e-3)

    built = bench("home-built", seconds=30.0)
    meter = built.setup.instruments["meter"]
    volts_of = built.shown("meter", "forward")
    assert volts_of == pytest.approx(meter.drives(built.put("meter", "out"))["forward"] * meter.full_v, rel=1e-3)
    assert 0.0 < built.shown("meter", "reflected") < 0.2 * volts_of


def test_an_open_line_has_no_end_of_swr_and_an_analyser_on_the_shelf_sees_all_come_back():
    """ρ 1: infinite SWR (any table)."""
    made = bench()
    at = element(made, PartKind.INLINE_METER)
    whole = replace(made.setup.instruments[at], leak=1.2 + 0j)
    live = LiveBench(replace(made.setup, instruments={at: whole}), 1)
    live.set(watts=50.0, on=True)
    live.advance(30.0)

    assert math.isinf(forward(live, "swr"))
    assert forward(live, "reflected") > forward(live)


def test_an_analyser_on_the_shelf_sees_all_come_back():
    job, live = in_turn("reflection")
    at = next(item.id for item in live.setup.hookup.elements if item.part == "knot")
    exact = {at: TrueAnalyser(tracking=0.9)}
    others = [replace(one, instruments={one.element_of("knot"): exact[at]}) for one in live.setups.values()]
    bare = replace(others[0], hookup=replace(job.bench, id="bare", elements=job.bench.elements[:1], joints=()))
    made = LiveBench(others[0], 1, [replace(bare, instruments={})])
    made.plug("bare")

    assert made.reflection("knot") == 0.9
