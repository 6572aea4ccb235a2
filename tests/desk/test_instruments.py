"""The instruments' page and the demonstration's run by wire."""

import time
from dataclasses import replace

import pytest

from fenmist.calibration.planning import points_at
from fenmist.hookup.line import Element, HookUp, Joint
from fenmist.hookup.templates import from_template
from fenmist.kit import generic
from fenmist.measurand import PlaneRef
from fenmist.procedures.table import room_of
from fenmist.reading.event import WIRE
from fenmist.simulation.scenarios import job_bench, scenario
from fenmist.simulation.serving import Mischief
from studies.in_turn import job_in_turn
from studies.served import DRIVERS, Bench, served_job


@pytest.fixture
def place(demo):
    demo.press("ctrl+5")
    return demo.shell.places["instruments"]


def test_one_key_reads_the_demonstrations_job_over_the_wires_of_a_simulated_bench(demo):
    """Open it, press one key, watch a run be read and judged."""
    demo.shell.open_job("demo-knot")
    demo.press("alt+5", "ctrl+r")
    wires, bench = demo.session.wires, demo.shell.bench
    demo.until(lambda: wires.run is not None, 30.0)
    assert {item.part for item in wires.attached} == {"plover", "knot", "sedge", ""}
    demo.until(lambda: len(bench.job.view.standing) >= 4, 60.0)
    assert "81" in bench.step.line.accessibleDescription() or bench.step.wire.text()
    demo.press("ctrl+r")
    demo.until(lambda: wires.run is None)
    assert not demo.shell.trouble.isVisible()  # the key-up came through
    entries = [event.entry for event in bench.job.job.events if event.entry]
    assert {entry.origin for entry in entries} == {WIRE}
    assert bench.job.view.result.stated[0].value == pytest.approx(0.0, abs=7.0)
    demo.press("ctrl+5")
    page = demo.shell.places["instruments"]
    demo.until(lambda: "answer, 3 of them on this job's bench" in page.headline.text())
    page.bench_button.setFocus()
    demo.press("enter")
    assert wires.attached == ()
    assert "No instrument is on a wire" in page.headline.text()


def test_a_simulated_bench_is_plugged_together_anew_by_itself(demo):
    """A loss: direct, through, direct again, by one key."""
    demo.session.logbook.add_job(replace(job_in_turn("loss"), demo=True))
    demo.shell.open_job("turn")
    demo.press("alt+5", "ctrl+r")
    job = demo.shell.bench.job
    demo.until(lambda: len(job.view.standing) == 6 and demo.session.wires.run is None, 60.0)

    assert demo.session.wires.arranged["plug"] == "bench direct"
    (stated,) = job.view.result.stated
    assert stated.value == pytest.approx(3.0, abs=0.35)


def test_a_run_waits_until_a_person_has_plugged_in_what_is_read_next(demo):
    demo.session.logbook.add_job(job_in_turn("loss"))
    demo.shell.open_job("turn")
    job, wires = demo.shell.bench.job, demo.session.wires
    with served_job(job.job) as bench:
        bench.live.plug("bench direct")
        for item in bench.served:
            wires.add(item.address, DRIVERS[item.stand_in.kind], item.stand_in.part)
        demo.press("alt+5", "ctrl+r")
        said = demo.shell.bench.step.wire
        demo.until(lambda: "Carrier off, then plug in “two meters in line”." in said.text(), 30.0)
        assert "(Ctrl+R: it is so, go on)" in said.text()
        assert len(job.view.standing) == 2
        assert not bench.live.keyed.on
        bench.live.plug("bench")
        demo.press("ctrl+r")
        demo.until(lambda: len(job.view.standing) == 4, 30.0)
        demo.until(lambda: "plug in “two meters in line, direct”" in said.text())
        assert bench.live.setup.hookup.id == "bench"
        demo.press("ctrl+1", "esc")
        demo.shell.wiring.stop_run()
        for item in wires.attached:
            wires.remove(item.id)
    assert wires.run is None


def test_a_needle_of_a_simulated_bench_is_looked_at_and_read_by_eye(demo):
    """The run reads the screen and waits for the dial, which is drawn in a window beside; on the range of the plan."""
    scene = scenario("dial")
    parts = scene.parts()
    bench = from_template(scene.template, parts, "b", next(part for part in parts if part.id == "bittern"))
    made = room_of("comparison").begin("dial", "by eye", bench, "bittern", demo.session.now())
    demo.session.logbook.add_job(replace(made, demo=True, plan=points_at(made, (4e6,), (15.0, 80.0))))
    demo.shell.open_job("dial")
    demo.press("alt+5", "ctrl+r")
    job, step = demo.shell.bench.job, demo.shell.bench.step
    for watts, used in ((15.0, "20"), (80.0, "200")):
        demo.until(lambda: "Read Bittern 200" in step.wire.text() and step.run.slot.position == 1, 30.0)
        dial = demo.shell.dials.dials["bittern", "forward"]
        demo.until(lambda name=used: f"{name}\u202fW range" in demo.shell.dials.said.text())
        demo.settle(2.5)  # a needle takes its time
        assert dial.value == pytest.approx(watts, rel=0.15)
        assert not any(str(round(dial.value, 1)) in text for text in (demo.shell.dials.said.text(), step.wire.text()))
        demo.read(f"{dial.value:.3g}")
    demo.until(lambda: demo.session.wires.run is None, 30.0)

    assert [row.share for row in job.view.result.stated] == pytest.approx([0.0, 0.0], abs=0.12)
    demo.shell.wiring.stop_bench()
    assert demo.shell.dials is None


def test_a_bench_is_started_by_name_and_ends_with_its_key(demo, place):
    place.scene.setFocus()
    demo.pick(place.scene, "pad")
    assert place.title.text() == "A digital meter and a sensor behind a pad."
    place.seed.setFocus()
    demo.press("ctrl+a")
    demo.type("x")
    place.bench_button.setFocus()
    demo.press("enter")
    assert "no number" in place.said.text()
    place.seed.setFocus()
    demo.press("ctrl+a")
    demo.type("7")
    place.bench_button.setFocus()
    demo.press("enter")
    demo.until(lambda: place.table.rowCount() == 4, 30.0)
    demo.until(lambda: "All 4 instruments answer" in place.headline.text())
    assert {place.table.texts(row)[2] for row in range(4)} == {
        "generator, SCPI", "meter that sends lines", "power meter, SCPI", "DC supply, SCPI",
    }  # fmt: skip
    place.table.setFocus()
    demo.press("down", "down", "enter")
    demo.until(lambda: "POWER METER" in demo.session.wires.live(place._rows[2].id).identity)
    assert place.table.texts(2)[0] == "POWER METER SN-1"
    assert place.table.texts(1)[0] == "not part of the kit"  # a line of watts is no name
    assert "*IDN?" in "\n".join(demo.session.wires.log(place._rows[2].id))
    place.copy_button.setFocus()
    demo.press("enter")
    assert "→" in demo.application.clipboard().text()
    demo.choose(place.is_part, "Snipe +10 dBm")
    assert demo.session.wires.of_part("snipe").id == place._rows[2].id
    place.table.setFocus()
    demo.press("del")
    assert place.table.rowCount() == 3
    place.watching.setFocus()
    demo.press("space")
    assert not demo.session.wires.keeps_watching


def test_a_window_that_closes_while_watching_asks_nobody_any_more(demo, place):
    demo.session.wires.keeps_watching = True
    demo.session.wires.add("127.0.0.1:1", "line-meter")
    demo.until(lambda: "▲" in place.table.texts(0)[1])
    demo.shell.close()
    demo.settle(0.1)

    assert not demo.shell.wiring._watch.isActive()


@pytest.mark.parametrize(
    ("typed", "said"),
    [("nowhere", "no address"), ("127.0.0.1:1", "Nobody answers at 127.0.0.1:1")],
)
def test_an_address_that_isnt_one_is_said(demo, place, typed, said):
    place.address.setFocus()
    demo.type(typed)
    demo.press("enter")
    demo.until(lambda: said in place.said.text())
    assert place.address.text() == typed


def test_a_driver_is_chosen_by_hand_for_what_doesnt_answer(demo, place):
    place.address.setFocus()
    demo.type("127.0.0.1:1")
    demo.pick(place.driver, "line-meter")
    place.attach_button.setFocus()
    demo.press("enter")
    demo.until(lambda: place.table.rowCount() == 1 and "▲ not there" in place.table.texts(0)[1])
    assert "Nobody answers" in place.headline.text()


def test_drivers_of_ones_own_are_taken_in_and_bad_ones_told_with_their_line(demo, place, tmp_path):
    own = tmp_path / "mine.toml"
    own.write_text('fenmist-driver = 1\nkind = "line meter"\ntitle = "mine"\n[read.f]\nquantity = "SWR"\n')
    demo.press("ctrl+o")
    demo.choose_file(own)
    assert "mine" in [place.driver.itemText(n) for n in range(place.driver.count())]
    own.write_text('fenmist-driver = 1\nkind = "toaster"\ntitle = "mine"\n')
    demo.press("ctrl+o")
    demo.choose_file(own)
    assert "line 2" in demo.shell.trouble.text()


def test_an_analysers_sweep_is_saved_as_touchstone(demo, place, tmp_path):
    """An analyser straight into a mismatch: the file is read by the package for such files."""
    import skrf

    kit = {part.id: part for part in generic.generics()}
    source, end = kit["generic-analyser"], kit["generic-mismatch"]
    hookup = HookUp(
        "h", "bare", (Element("a", source.id), Element("end", end.id)), (Joint(("a", "1"), ("end", "in")),),
        PlaneRef("h", "a", "1"),
    )  # fmt: skip
    served = Bench(job_bench(hookup, {source.id: source, end.id: end}, 1), Mischief(), counts=False)
    try:
        demo.session.wires.add(served.address("a"), "scpi-analyser")
        demo.until(place.sweep_button.isVisible)
        place.span.setFocus()
        demo.press("ctrl+a")
        demo.type("1 to x MHz")
        place.sweep(tmp_path / "no.s1p")
        assert "no span" in place.said.text()
        demo.press("ctrl+a")
        demo.type("1 to 30 MHz, 21")
        place.sweep_button.setFocus()
        demo.press("enter")
        demo.choose_file(tmp_path / "swept.s1p")
        demo.until((tmp_path / "swept.s1p").exists)
    finally:
        served.close()
    network = skrf.Network()
    network.read_touchstone(str(tmp_path / "swept.s1p"))
    assert network.f.size == 21


def test_nothing_on_a_wire_is_said_where_no_bench_may_be_started(hands):
    hands.start_job(planned="8 MHz")
    hands.press("alt+5", "r")

    assert "Ctrl+5" in hands.shell.trouble.text()
    assert hands.shell.bench.step.rows[0].field.text() == ""


def test_a_simulated_bench_that_ends_by_itself_is_told(demo, place):
    demo.shell.wiring.start_bench("tap", 1)
    demo.until(lambda: len(demo.session.wires.attached) == 4, 30.0)
    demo.shell.wiring._bench.kill()
    begun = time.monotonic()
    demo.until(lambda: "has ended" in demo.shell.trouble.text(), 30.0)

    assert time.monotonic() - begun < 20.0
    assert not demo.shell.wiring.bench_runs
