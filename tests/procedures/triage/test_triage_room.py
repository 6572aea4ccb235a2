"""Triage as a room: sightings from readings, the page, what is planned next, what is refused."""

from dataclasses import replace
from datetime import date

import pytest

from fenmist.__main__ import main
from fenmist.calibration.planning import points_at
from fenmist.errors import OutOfRangeError
from fenmist.hookup.templates import OF_TRIAGE, from_template
from fenmist.kit import generic, shelf
from fenmist.kit.part import Indicator, SpecKind, SpecTerm
from fenmist.measurand import Kind
from fenmist.methods.chain import ANTENNA, FAR_LOAD, LOAD, Sighting
from fenmist.procedures.procedure import Seen
from fenmist.procedures.table import room_of
from fenmist.procedures.triage.make import name_of, sighted
from fenmist.reading.event import Slot
from fenmist.records.jobfile import job_to_bytes
from fenmist.session.adjust import with_sighting
from studies.builders import WHEN, enter

ROOM = room_of("triage")
ALL = "load; antenna; far load; load, new jumper"


def sender(*more, own=True):
    spec = (SpecTerm(SpecKind.OF_READING, 0.1),)
    setting = Indicator("setting", "its setting", Kind.INCIDENT, "W", spec=spec)
    meter = Indicator("own_meter", "its own meter", Kind.INCIDENT, "W", spec=spec)
    return replace(shelf.transmitter("tx", "Plover", 150.0), indicators=(setting, *((meter,) if own else ()), *more))


def suspects(sighted_in=ALL, f=(7e6,), watts=(100.0,), part=None):
    part = part or sender()
    meter = next(item for item in generic.generics() if item.id == "generic-digital")
    kit = [part, replace(meter, id="knot", label="Knot"), shelf.dummy_load("load", "Reedmace", 150.0)]
    made = ROOM.begin("t", "which", from_template(OF_TRIAGE[0], kit, "line", part), "tx", WHEN)
    made = ROOM.from_draft(made, {**ROOM.draft(made), "sighted": sighted_in})
    return replace(made, plan=points_at(made, f, watts))


def read(made, *rounds):
    for point, texts in zip(made.plan, rounds, strict=False):
        for position, text in enumerate(texts):
            made = enter(made, Slot(point.id, 1, position), text)
    return made


def reduced(made):
    return ROOM.reduce(made, "as found", {}, None)


def paged(made):
    return ROOM.page(Seen(made, "as found", reduced(made)))


STORM = [("60", "55", "4"), ("99", "98.5", "1.05")]  # as read into antenna and load


def stormy():
    return read(suspects("antenna; load"), *STORM)


def test_what_is_set_is_planned_and_both_meters_and_the_swr_are_read():
    made = suspects()

    assert [(item.indicator, item.beside) for item in made.channels] == [
        ("own_meter", False), ("forward", False), ("swr", True)
    ]  # fmt: skip
    assert [point.leg for point in made.plan] == ["load", "antenna", "far load", "load, new jumper"]
    assert list(ROOM.flaws(made)) == []
    assert [item.indicator for item in suspects(part=sender(own=False)).channels] == ["forward", "swr"]


def test_supply_volts_are_a_part_of_a_sighting():
    volts, amperes = (
        Indicator(name, name, kind, unit, spec=(SpecTerm(SpecKind.OF_READING, 0.01),))
        for name, kind, unit in (("volts", Kind.SUPPLY_VOLTAGE, "V"), ("amperes", Kind.SUPPLY_CURRENT, "A"))
    )
    made = read(suspects("load", part=sender(volts, amperes)), ("40", "41", "1.05", "9.8", "9"))
    (seen,) = reduced(made).seen

    assert seen.sighting == Sighting(100.0, LOAD, 40.0, 41.0, 1.05, 9.8)


def test_readings_are_sightings_in_the_plans_order():
    seen = [item.sighting for item in reduced(stormy()).seen]

    assert seen == [Sighting(100.0, ANTENNA, 60.0, 55.0, 4.0), Sighting(100.0, LOAD, 99.0, 98.5, 1.05)]


def test_rounds_of_a_sighting_are_averaged():
    made = suspects("load")
    made = replace(made, plan=tuple(replace(point, repeats=2) for point in made.plan))
    for turn, texts in enumerate([("10", "9", "1.1"), ("20", "11", "1.3")], start=1):
        for position, text in enumerate(texts):
            made = enter(made, Slot("p1", turn, position), text)
    (seen,) = reduced(made).seen

    assert (seen.sighting.own_w, seen.sighting.external_w) == (15.0, 10.0)
    assert seen.sighting.swr == pytest.approx(1.2)


def test_the_page_has_a_row_for_each_sighting_and_every_suspect_with_its_ground():
    page = paged(stormy())

    assert page.headline == (
        "Most likely the antenna (65\u202f%). Next: a dummy load at the far end of the line, and read again."
    )
    assert page.rows[0] == (
        "7\u202fMHz", "100\u202fW", "antenna", "60\u202fW", "55\u202fW", "55\u202f%", "4.00", "—"
    )  # fmt: skip
    assert page.rows[1][2:7] == ("load", "99\u202fW", "98.5\u202fW", "98\u202f%", "1.05")
    said = " ".join(page.statements)
    assert "The antenna: 65\u202f%. It sends power back; a load at the far end of its line is fine." in said
    assert "The line: 35\u202f%." in said
    assert said.endswith("To be sure: a dummy load at the far end of the line, and read again.")
    facts = dict(page.facts)
    assert facts["before"].startswith("how often each is met: the transmitter 13\u202f%, the wrong mode 10\u202f%")
    assert facts["quantity"] == "odds of each suspect at 7\u202fMHz, one thing being wrong"


def test_the_sentences_on_the_way():
    made = suspects("load; antenna")
    first = made.plan[0]
    assert ROOM.readings_headline(made, reduced(made), first) == (
        "Sighted into load, 100\u202fW set: read Plover and Knot."
    )
    bare = replace(made, plan=())
    assert ROOM.readings_headline(bare, reduced(bare), None).startswith("Nothing is planned")
    assert paged(made).headline == "Six readings are missing before anything can be told."
    assert paged(bare).headline == "Points must be planned before anything can be told."
    assert ROOM.short(reduced(made)) == "nothing read yet"
    done = stormy()
    assert ROOM.short(reduced(done)) == "the antenna (65\u202f%)"
    assert ROOM.readings_headline(done, reduced(done), done.plan[1]) == paged(done).headline
    figures = ROOM.figures(reduced(done), "p1")
    assert (figures.value, figures.second, figures.expanded_u, figures.u_name) == (
        "65\u202f%", "the antenna", "35\u202f%", "the line"
    )  # fmt: skip
    assert ROOM.figures(reduced(made), "p1").value == "—"


def test_the_picture_is_of_all_sightings_at_a_points_frequency():
    made = suspects("antenna; load", f=(7e6, 14e6))
    fine = ("99", "98.5", "1.1")
    texts = [STORM[0] if (point.leg, point.frequency_hz) == ("antenna", 7e6) else fine for point in made.plan]
    made = read(made, *texts)
    drawn = ROOM.picture(reduced(made), next(point.id for point in made.plan if point.frequency_hz == 7e6))

    assert [item.parts for item in drawn.sightings] == [(1.0, 0.6, 0.55), (1.0, 0.99, 0.985)]
    assert drawn.odds[0][0] == "the antenna"
    assert "At 14\u202fMHz: These readings show nothing wrong" in " ".join(paged(made).statements)
    assert ROOM.picture(reduced(suspects()), "p1") is None


def test_what_tells_most_is_planned_next_with_its_visit():
    made = stormy()
    point = ROOM.next_point(reduced(made))

    assert (point.leg, point.target_w, point.id) == ("far load", 100.0, "p3")
    assert ROOM.offer(reduced(made)) == "a dummy load at the far end of the line, and read again"
    further = with_sighting(made, point)
    assert [leg.id for leg in further.legs] == ["antenna", "load", "far load"]
    assert further.legs[2].by_itself
    assert ROOM.next_point(reduced(further)) is None  # it is planned
    assert list(ROOM.flaws(further)) == []
    line = reduced(read(further, *STORM, ("61", "54", "3.9")))
    assert line.answer.headline == "It is the line (over 99\u202f%)."
    assert ROOM.next_point(line) is None and ROOM.offer(line) == ""
    assert ROOM.next_point(reduced(suspects())) is None


def test_a_tenth_of_the_power_is_another_point_of_the_same_sighting():
    made = read(suspects("load"), ("11", "10.8", "1.04"))
    point = ROOM.next_point(reduced(made))

    assert (point.leg, point.target_w) == ("load", 10.0)
    both = read(with_sighting(made, point), ("11", "10.8", "1.04"), ("1.1", "1.09", "1.03"))
    following = ROOM.next_point(reduced(both))
    assert (following.leg, following.target_w) == ("load, new mode", 100.0)  # at full power again


# the order of work


def ordered(made, point="p1"):
    return " ".join(ROOM.order(reduced(made), point)).replace("\u202f", " ")


def test_a_load_is_named_with_its_rating_before_anything_is_keyed():
    made = suspects("load")
    lines = ROOM.order(reduced(made), "p1")

    assert "Reedmace, rated 150 W for 100 W" in lines[0].replace("\u202f", " ")
    assert [lines[n].split()[0] for n in (1, 2, 3, 4)] == ["Connectors", "Knot", "Key", "Stop"]
    assert "no longer than 30 s" in lines[3].replace("\u202f", " ")
    assert lines[2].replace("\u202f", " ") == "Knot the right way round, its arrow towards the load, on 200 W."


def test_a_load_that_is_too_small_is_refused_and_one_that_gets_hot_shortens_the_key_down():
    """A load of 25 W for 15 W, never for 300 W (handbook: common practice, no source)."""
    small = shelf.dummy_load("load", "Sallow", 25.0)
    fits, never = (
        replace(made, kit=tuple(small if part.id == "load" else part for part in made.kit))
        for made in (suspects("load", watts=(15.0,)), suspects("load", watts=(300.0,)))
    )

    assert "Sallow, rated 25 W for 15 W" in ordered(fits)
    assert "Not into Sallow: it is rated 25 W, 300 W are set" in ordered(never)
    assert "no longer than 30 s" not in ordered(never)


def test_of_an_antenna_the_licence_comes_first_and_of_the_far_end_the_load_goes_there():
    made = suspects("antenna; far load; load, new jumper and mode")
    antenna, far, new = (ordered(made, point.id) for point in made.plan)

    assert antenna.startswith("Line and antenna in the load's place: only with a licence")
    assert "Reedmace" not in antenna
    assert far.startswith("The load, at the far end of the line: Reedmace")
    assert new.startswith(
        "Set CW or FM: a steady carrier, nothing said. Carrier off; exchange the jumper. The load first"
    )


def test_where_to_stop_is_the_workshops_own():
    made = suspects("load")
    assert "Stop at an SWR of 2," in ordered(made)
    made = ROOM.from_draft(made, {**ROOM.draft(made), "alarm": "1.5"})
    assert "Stop at an SWR of 1.5," in ordered(made)


def test_what_is_done_about_it_is_said_once_it_is_sure():
    sure = read(suspects("antenna; load; far load"), *STORM, ("60", "55", "4"))
    unsure = read(suspects("load"), ("11", "10.8", "1.04"))

    assert ROOM.aside(reduced(sure))[-1].startswith("To be done: look for kinks, cuts and water")
    assert "To be done" not in " ".join(ROOM.aside(reduced(unsure)))
    assert ROOM.aside(reduced(suspects())) == ()


def test_what_hurts_is_said_and_what_only_matters_to_a_stated_power_isnt():
    made = stormy()
    made = read(replace(made, plan=made.plan[::-1]), STORM[1], STORM[0])  # the antenna last
    codes = {item.code for item in ROOM.judge(made, reduced(made), date(2026, 11, 28), "as found", None)}

    assert {"triage.swr", "caution.rf_voltage"} <= codes
    assert not codes & {"reference.history", "tur.low", "load.unknown_here"}
    open_one = enter(made, Slot("p1", 1, 0), "x")
    assert [item.code for item in ROOM.judge_entries(open_one, reduced(open_one), "as found", "p1")] == ["entry.open"]


def test_the_table_for_other_programs_has_what_was_read_and_all_odds():
    heads, first, _ = ROOM.table(Seen(stormy(), "as found", reduced(stormy())))

    row = dict(zip(heads, first, strict=True))
    assert (row["into"], row["own meter / W"], row["external meter / W"], row["SWR"]) == ("antenna", 60.0, 55.0, 4.0)
    assert row["odds of the antenna"] == pytest.approx(0.65, abs=0.01)
    assert sum(value for name, value in row.items() if name.startswith("odds of")) == pytest.approx(1.0)
    assert row["supply / V"] == ""


def test_a_card_says_what_arrived_and_who_it_was():
    lid, bench = ROOM.cards(Seen(stormy(), "as found", reduced(stormy())), "N-1")

    assert (lid.title, bench.title) == ("Plover: of what is set",) * 2
    assert dict(zip(bench.columns, bench.rows[0], strict=True)) == {
        bench.columns[0]: "7\u202fMHz", "antenna": "55\u202f%", "load": "98\u202f%"
    }  # fmt: skip
    assert bench.foot.startswith("Most likely the antenna (65")
    with pytest.raises(OutOfRangeError, match="nothing to put on a card"):
        ROOM.cards(Seen(suspects(), "as found", reduced(suspects())), "N-1")


def test_a_job_is_handed_over_and_taken_in(tmp_path):
    """Everything that a job's file is tried for works: paper, cards, tables."""
    file, other = tmp_path / "storm.fenjob.json", tmp_path / "other.fenlog"
    file.write_bytes(job_to_bytes(stormy(), lambda _: b""))

    assert main(["import", str(file), str(other)]) == 0


@pytest.mark.parametrize(
    ("typed", "says"),
    [("", "Nothing is sighted"), ("load; load", "twice"), ("pond", "into “pond”"), ("load, new tyre", "“tyre”"),
     ("load, new nothing", "“nothing”")],
)  # fmt: skip
def test_sightings_that_make_no_sense_are_said(typed, says):
    made = replace(suspects(), plan=())
    (problem,) = ROOM.from_draft(made, {**ROOM.draft(made), "sighted": typed})

    assert problem.field == "sighted" and says in problem.what


@pytest.mark.parametrize(
    ("typed", "swr", "stops"),
    # 10 % of the power is an SWR of 1.92 (derived)
    [("1.5", 1.5, True), ("2.5", 2.5, False), ("2", 2.0, False), ("10 %", 1.9249, True)],
)
def test_the_workshop_says_at_which_swr_it_stops(typed, swr, stops):
    made = suspects("load")
    made = ROOM.from_draft(made, {**ROOM.draft(made), "alarm": typed})
    made = read(made, ("90", "88", "1.95"))
    notes = ROOM.judge(made, reduced(made), date(2026, 11, 28), "as found", None)

    assert made.method.parameters.get("alarm_swr", 2.0) == pytest.approx(swr, abs=1e-4)
    assert ("triage.swr" in {item.code for item in notes}) == stops
    assert ROOM.draft(made)["alarm"] == f"{swr:.4g}"


@pytest.mark.parametrize("typed", ["x", "1", "11", "100 %", "-5 %", ""])
def test_what_is_no_swr_to_stop_at_is_said(typed):
    made = suspects("load")
    (problem,) = ROOM.from_draft(made, {**ROOM.draft(made), "alarm": typed})

    assert problem.field == "alarm"


def test_a_sighting_that_is_planned_stays():
    made = suspects("load; antenna")
    (problem,) = ROOM.from_draft(made, {**ROOM.draft(made), "sighted": "load"})

    assert "“antenna” is planned" in problem.what
    assert ROOM.from_draft(made, ROOM.draft(made)).legs == made.legs


@pytest.mark.parametrize("name", ["load", "antenna", "far load", "load, new jumper", "antenna, new jumper and relay"])
def test_names_of_sightings_go_there_and_back(name):
    assert name_of(*sighted(name)) == name
    assert sighted("far load, new mode, jumper") == (FAR_LOAD, frozenset({"mode", "jumper"}))


def test_what_a_job_from_elsewhere_lacks_is_said():
    made = suspects("load")
    strange = replace(made, plan=(replace(made.plan[0], leg="pond", sequence=made.plan[0].sequence[:1]),))

    assert list(ROOM.flaws(strange)) == [
        "point “p1” is of no sighting of this job", "point “p1” reads no meter behind the transmitter"
    ]  # fmt: skip
    assert next(ROOM.flaws(replace(made, legs=()))) == "nothing is sighted"
