"""Triage against what the trade says of each pattern, and on simulated set-ups with one thing wrong."""

import math
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from scipy import integrate

from fenmist.errors import OutOfRangeError, UnreadableError
from fenmist.methods.chain import (
    ANTENNA,
    BAD,
    FAR_LOAD,
    IDS,
    LOAD,
    NOTHING,
    SIGMA,
    SIGMA_RHO,
    SUSPECTS,
    USUAL,
    Chain,
    Sighting,
    Spread,
    _both,
)
from fenmist.methods.triage import TESTS, TriageRequest, _drawn, odds_said, sighting_from, weighed
from studies.triaged import go_through

SET = Sighting(100.0, LOAD, 100.0, 100.0, 1.05)
"""Everything as it should be."""


def first(*sightings):
    return weighed(sightings).suspects[0].id


def odds(*sightings):
    return {item.id: item.odds for item in weighed(sightings).suspects}


def codes(*sightings):
    return [note.code for note in weighed(sightings).notes]


# what is drawn


def test_the_page_tells_how_each_part_is_drawn_and_how_often_each_suspect_is_met():
    page = Path(__file__).parents[2].joinpath("docs", "method", "triage.md").read_text("utf-8")
    told = [
        tuple(cell.strip("` ") for cell in line.strip("|").split("|")) for line in page.splitlines() if line[:1] == "|"
    ]

    assert set(USUAL) >= {name for bad in BAD.values() for name in bad} and set(BAD) == set(IDS)
    for name, usual in USUAL.items():
        bad = "; ".join(f"{suspect}: {spreads[name]}" for suspect, spreads in BAD.items() if name in spreads)
        assert (name, str(usual), bad or "–") in told
    assert all((item.what, f"{item.prevalence:g}", item.ground) in told for item in SUSPECTS)
    assert all((item.what, f"{item.cost:g}") in told for item in TESTS)


@pytest.mark.parametrize(
    ("spread", "low", "high", "mean", "mean_square"),
    [
        (Spread("evenly", 1.0, 4.0), 1.0, 4.0, 2.5, 7.0), (Spread("as logarithms", 1.0, math.e), 0.0, 1.0, 0.5, 1 / 3),
        (Spread("a factor", math.e, math.e**2), -2.0, 2.0, 0.0, 7 / 3),
        (Spread("over a disc", 2.0), 0.0, 2.0, 4 / 3, 2.0),
        (Spread("about", 3.0, 0.5), 0.0, 6.0, 3.0, 9.25), (Spread("always", 7.0), 7.0, 7.0, 7.0, 49.0),
    ],
)  # fmt: skip
def test_spreads_have_the_moments_of_their_kind(spread, low, high, mean, mean_square):
    """Of rectangles, a disc and the normal distribution, by hand."""
    drawn = spread(np.random.default_rng(2), (40, 1000))

    assert low <= drawn.min() and drawn.max() <= high
    assert drawn.mean() == pytest.approx(mean, abs=0.02)
    assert np.mean(drawn**2) == pytest.approx(mean_square, rel=0.01)


def test_a_wrong_mode_is_one_of_three_as_often_as_each_is_met():
    drawn = np.exp(Spread("a mode", 0.0)(np.random.default_rng(2), (40_000,)))
    shares = [np.mean((low <= drawn) & (drawn < high)) for low, high in ((0.0, 0.15), (0.2, 0.3), (0.3, 0.7))]

    assert shares == pytest.approx([0.45, 0.30, 0.25], abs=0.01)


def test_a_bad_jumper_takes_its_decibels_and_what_it_sends_back():
    """0.3 to 10 dB of its own and 0 to 0.1 dB of the relay, and 1 − ρ² of ρ from 0.1 to 0.8, over many ways."""
    seen = Chain().seen(Sighting(100.0), 100.0, 0)
    sent_back = integrate.quad(lambda rho: math.log1p(-(rho**2)), 0.1, 0.8)[0] / 0.7
    row = IDS.index("jumper")

    assert np.mean((seen.external - seen.own)[row]) == pytest.approx(
        -math.log(10.0) / 10.0 * (5.15 + 0.05) + sent_back, abs=0.05
    )


# what the trade says of it (common practice, no source)


@pytest.mark.parametrize(
    ("sightings", "suspect"),
    [
        ([replace(SET, own_w=6.0, external_w=6.2)] , "transmitter"),
        ([replace(SET, own_w=25.0, external_w=24.5), replace(SET, set_w=10.0, own_w=2.5, external_w=2.4),
          replace(SET, exchanged=frozenset({"mode"}))], "mode"),
        ([replace(SET, own_w=40.0, external_w=41.0), replace(SET, set_w=10.0, own_w=10.0, external_w=10.1),
          replace(SET, own_w=40.0, external_w=41.0, supply_v=9.8)], "supply"),
        ([replace(SET, own_w=40.0, external_w=41.0), replace(SET, set_w=10.0, own_w=10.0, external_w=10.1),
          replace(SET, own_w=40.0, external_w=41.0, supply_v=13.5)], "fold-back"),
        ([replace(SET, external_w=30.0), replace(SET, external_w=99.0, exchanged=frozenset({"jumper"}))], "jumper"),
        ([replace(SET, external_w=30.0), replace(SET, external_w=99.0, exchanged=frozenset({"relay"}))], "relay"),
        ([replace(SET, external_w=250.0)], "external"),
        ([replace(SET, own_w=30.0)], "own"),
        ([replace(SET, own_w=90.0, external_w=80.0, swr=3.0)], "adapter"),
        ([replace(SET, into=ANTENNA, swr=4.0, own_w=50.0, external_w=48.0), SET,
          replace(SET, into=FAR_LOAD, swr=1.06)], "antenna"),
        ([replace(SET, into=ANTENNA, swr=4.0, own_w=50.0, external_w=48.0), SET,
          replace(SET, into=FAR_LOAD, swr=4.0, own_w=50.0, external_w=48.0)], "line"),
        ([SET, replace(SET, into=ANTENNA, swr=1.3)], NOTHING),
    ],
    ids=lambda value: value if isinstance(value, str) else "",
)  # fmt: skip
def test_a_pattern_names_its_suspect(sightings, suspect):
    assert first(*sightings) == suspect


def test_both_low_on_a_good_load_is_no_line():
    """External ≈ own, both low, SWR fine: the transmitter, its mode, what limits it; not line, antenna, jumper."""
    found = odds(replace(SET, own_w=6.0, external_w=6.2))

    assert sum(found[name] for name in ("transmitter", "mode", "supply", "fold-back")) > 0.99


def test_own_and_external_that_disagree_with_a_good_swr_are_a_meter_or_what_lies_between():
    found = odds(replace(SET, external_w=50.0))

    assert sum(found[name] for name in ("external", "relay", "jumper")) > 0.99
    assert odds(replace(SET, external_w=200.0))["external"] > 0.98  # nothing between makes more of it


def test_on_an_antenna_alone_line_antenna_and_connector_stay_open_and_a_load_comes_next():
    answer = weighed([replace(SET, into=ANTENNA, swr=4.0, own_w=50.0, external_w=48.0)])

    assert {item.id for item in answer.suspects[:3]} == {"antenna", "line", "adapter"}
    assert answer.next_test.id == "load"
    assert answer.headline.startswith("Not sure yet: ")
    assert answer.headline.endswith("Next: a dummy load right behind the external meter, and read again.")


def test_odds_are_one_together_and_say_what_they_miss():
    answer = weighed([replace(SET, own_w=35.0, external_w=34.0)])

    assert sum(item.odds for item in answer.suspects) == pytest.approx(1.0)
    assert {item.id for item in answer.suspects} == set(IDS)
    assert [item.odds for item in answer.suspects] == sorted((item.odds for item in answer.suspects), reverse=True)
    by_id = {item.id: item for item in answer.suspects}
    assert by_id["transmitter"].misses == ()
    assert set(by_id["transmitter"].explains) == {"its own meter", "the external meter", "the SWR"}
    assert by_id["external"].misses == ("its own meter",)
    assert by_id["external"].why.endswith("; but that doesn't explain its own meter")
    assert sum(item.prevalence for item in SUSPECTS) == pytest.approx(1.05, abs=0.1)


def test_what_is_missed_is_listed_as_people_do():
    """An external meter that is off explains neither a low own meter nor an SWR of 9."""
    by_id = {item.id: item for item in weighed([replace(SET, own_w=35.0, external_w=34.0, swr=9.0)]).suspects}

    assert by_id["external"].why.endswith("; but that doesn't explain its own meter and the SWR")


@pytest.mark.parametrize(
    ("value", "said"),
    [
        (0.991, "over 99\u202f%"),
        (0.0101, "1.0\u202f%"),
        (0.999, "over 99\u202f%"),
        (0.5, "50\u202f%"),
        (0.001, "under 1\u202f%"),
    ],
)
def test_nobody_is_ever_quite_sure(value, said):
    assert odds_said(value) == said


def test_a_suspect_that_is_sure_needs_no_further_test():
    answer = weighed([replace(SET, external_w=30.0), replace(SET, external_w=99.0, exchanged=frozenset({"jumper"}))])

    assert answer.next_test is None
    assert answer.headline == "It is the jumper (over 99\u202f%)."


def test_what_nothing_explains_is_said():
    """The transmitter's own meter at a tenth, the external one ten times too high, an SWR of 20."""
    assert "triage.strange" in codes(replace(SET, own_w=1.0, external_w=1000.0, swr=20.0))
    assert "triage.strange" not in codes(replace(SET, own_w=6.0, external_w=6.2))


# cautions


@pytest.mark.parametrize(
    ("sighting", "expected"),
    [(replace(SET, swr=2.0), ["triage.swr"]), (replace(SET, swr=1.9), ["triage.load"]), (replace(SET, swr=1.31),
     ["triage.load"]), (replace(SET, swr=1.29), []), (replace(SET, swr=None), []),
     (replace(SET, into=ANTENNA, swr=1.9), ["triage.load_first", "triage.on_air"]),
     (replace(SET, into=FAR_LOAD, swr=2.5), ["triage.swr", "triage.load_first"])],
)  # fmt: skip
def test_cautions(sighting, expected):
    assert [code for code in codes(sighting) if code != "triage.strange"] == expected


@pytest.mark.parametrize(
    ("own", "external", "swr", "folded"),
    [(60.0, None, 3.0, True), (60.0, None, 1.5, False), (90.0, None, 3.0, False), (None, 50.0, 1.7, True),
     (None, None, 9.0, False), (79.0, 100.0, 1.8, True), (81.0, 10.0, 1.8, False)],
)  # fmt: skip
def test_less_power_at_a_high_swr_is_told_as_fold_back(own, external, swr, folded):
    answer = weighed([Sighting(100.0, LOAD, own, external, swr)])
    notes = [note for note in answer.notes if note.code == "triage.folded"]

    assert len(notes) == folded
    assert not folded or f"{own or external:.0f}\u202f% of what is set" in notes[0].what


@pytest.mark.parametrize(("swr", "says"), [(19.0, False), (1e9, True), (math.inf, True)])
def test_an_swr_without_end_is_an_open_or_a_short(swr, says):
    answer = weighed([Sighting(100.0, LOAD, 20.0, 20.0, swr)])
    note = next(item for item in answer.notes if item.code == "triage.swr")

    assert ("an open, a short" in note.why) is says


def test_everything_that_may_be_wrong_has_something_to_be_done_about_it():
    assert all(bool(item.mend) == (item.id != "nothing") for item in SUSPECTS)


def test_a_load_first_is_said_with_its_power():
    note, on_air = weighed([replace(SET, into=ANTENNA)]).notes

    assert "rated for 100\u202fW" in note.remedy
    assert on_air.what == "100\u202fW go on the air."
    assert "Only with a licence" in on_air.why
    assert codes(replace(SET, into=ANTENNA), SET) == []


# the tests that are offered


@pytest.mark.parametrize("test", TESTS, ids=lambda test: test.id)
def test_each_test_changes_the_one_thing_it_names(test):
    last = replace(SET, into="nowhere")
    at = test.at(last)
    changed = [name for name in vars(last) if getattr(at, name) != getattr(last, name)]

    named = {"low": "set_w", "supply": "supply_v", "load": "into", "antenna": "into", "far": "into"}
    assert changed == [named.get(test.id, "exchanged")]
    assert test.id != "low" or at.set_w == 10.0
    assert changed != ["exchanged"] or at.exchanged == {test.id}


def test_volts_of_a_supply_alone_are_a_sighting_from_which_no_test_is_better_than_another():
    answer = weighed([Sighting(100.0, LOAD, None, None, None, supply_v=13.8)])

    assert answer.next_test is None
    assert sum(item.odds for item in answer.suspects) == pytest.approx(1.0)


def test_simulated_set_ups_are_found():
    """Of a thousand 97.6 % stand first (docs/method/triage.md); of sixteen all but two do, nearly always."""
    found = [go_through(seed) for seed in range(16)]

    assert sum(item.order[0] == item.fault for item in found) >= 14
    assert sum(item.fault in item.order[:2] for item in found) >= 15
    assert sum(item.sightings for item in found) / 16 < 4.0


# as typed


def test_lines_are_sightings():
    answer = TriageRequest(
        "100 W", own="60", external="55", swr="4", into=ANTENNA,
        more=("set 100 W, own 101 W, external 99, swr 1.05, into load", "set 100, swr 4; into far load"),
    )()  # fmt: skip

    assert answer.suspects[0].id == "line"


def test_a_sighting_is_read_from_its_texts():
    made = sighting_from({"set": "10 dBm", "own": "1 mW", "supply": "13,2 V", "exchanged": "jumper mode", "swr": "1.2"})

    assert made == Sighting(0.01, LOAD, 0.001, None, 1.2, 13.2, frozenset({"jumper", "mode"}))


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({"set_power": ""}, "set is missing"), ({"set_power": "15 W"}, "Nothing was read"),
        ({"set_power": "15", "own": "x"}, "own"), ({"set_power": "15", "swr": "0.5"}, "swr “0.5”"),
        ({"set_power": "15", "own": "1", "into": "pond"}, "into “pond”"), ({"set_power": "-1", "own": "1"}, "-1"),
        ({"set_power": "15", "own": "1", "more": ("hello",)}, "says nothing of a sighting"),
        ({"set_power": "15", "own": "1", "more": ("set 1 W, exchanged tyre",)}, "“tyre” is no part"),
        ({"set_power": "15", "own": "1", "more": ("set 1 W, exchanged nothing",)}, "“nothing” is no part"),
    ],
)  # fmt: skip
def test_nonsense_is_said(given, says):
    with pytest.raises((UnreadableError, OutOfRangeError)) as raised:
        TriageRequest(**given)()
    assert says in str(raised.value)


@pytest.mark.parametrize("wrong", [{"own_w": float("inf")}, {"set_w": 0.0}, {"external_w": -1.0}, {"swr": 0.9}])
def test_what_is_no_reading_makes_no_sighting(wrong):
    with pytest.raises(OutOfRangeError):
        replace(SET, **wrong)


@pytest.mark.parametrize(("a", "b", "swr"), [(1 / 3, 1 / 3, 4.0), (1 / 3, -1 / 3, 1.0), (0.5, 0.2, 4.5)])
def test_two_mismatches_in_step_multiply_their_swr_and_in_counterstep_divide_it(a, b, swr):
    """SWR 2 and 2: 4 at worst, 1 at best; 3 and 1.5: 4.5 (any text on lines)."""
    rho = abs(_both(np.array(a + 0j), np.array(b + 0j)))
    assert (1.0 + rho) / (1.0 - rho) == pytest.approx(swr)


def test_every_suspect_but_nothing_may_have_been_exchanged():
    asked = {"set": "10 W", "own": "1 W"}
    assert sighting_from({**asked, "exchanged": " ".join(IDS[:-1])}).exchanged == frozenset(IDS[:-1])
    with pytest.raises(UnreadableError) as raised:
        sighting_from({**asked, "exchanged": NOTHING})
    assert raised.value.hint == f"There are {', '.join(item.id for item in SUSPECTS if item.id != NOTHING)}."


def test_volts_of_a_supply_surprise_by_fifths_of_a_volt():
    """2.5·ln(1 + t²/4) of Student's t with four degrees of freedom, t in steps of 0.2 V."""
    chain = Chain(8)
    at = Sighting(10.0, supply_v=12.6)
    seen = chain.seen(at, 100.0, 0)

    assert chain.surprise(at, seen)["supply"] == pytest.approx(
        2.5 * np.log1p(((seen.supply_v - 12.6) / 0.2) ** 2 / 4.0)
    )


def test_two_of_three_odds_make_it_the_likeliest_and_not_sure():
    answer = weighed([replace(SET, swr=1.4, external_w=70.0)])

    assert 0.65 < answer.suspects[0].odds < 0.72
    assert answer.headline.startswith("Most likely an adapter or connector at the load")


def test_what_would_be_read_of_a_way_is_what_it_shows_but_for_what_scatters():
    """SWR back to ρ = (SWR − 1)/(SWR + 1), a meter's watts in logarithms, volts: the mean of 400, within 5·σ/√400."""
    at, rng = Sighting(10.0, LOAD, 9.0, 9.0, 1.5, 13.2), np.random.default_rng(4)
    seen = Chain(40).seen(at, 100.0, 0)
    row, way = np.argwhere((seen.rho_external > 0.3) & (seen.rho_external < 0.6))[0]
    shows = replace(seen, **{name: getattr(seen, name)[row] for name in vars(seen)})
    made = [_drawn(at, shows, way, rng) for _ in range(400)]
    for value, wanted, scatter in (
        (lambda one: (one.swr - 1.0) / (one.swr + 1.0), shows.rho_external, SIGMA_RHO),
        (lambda one: math.log(one.own_w / 10.0), shows.own, SIGMA),
        (lambda one: math.log(one.external_w / 10.0), shows.external, SIGMA),
        (lambda one: one.supply_v, shows.supply_v, 0.2),
    ):
        found = [value(one) for one in made]
        assert np.mean(found) == pytest.approx(float(wanted[way]), abs=scatter / 4.0)
        assert np.std(found) == pytest.approx(scatter, rel=0.2)
