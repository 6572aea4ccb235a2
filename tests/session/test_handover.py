"""The tool's answer put into a job: its volts as a reading, its parts in a new job's snapshot."""

import pytest

from fenmist.errors import FenmistError
from fenmist.kit.part import PartKind
from fenmist.methods.power_from_volts import PowerRequest
from fenmist.reading.event import AS_FOUND, AS_LEFT, Slot
from fenmist.session.handover import into_job, into_new_job
from fenmist.session.session import Session

FIELDS = {"volts": "102 Vpp", "load": "57.7", "frequency": "7.125 MHz"}


@pytest.fixture
def session(tmp_path):
    made = Session(tmp_path / "book.fenlog")
    yield made
    made.close()


@pytest.mark.parametrize(
    "more",
    [{}, {"lead": "0.3 m", "bandwidth": "100 MHz"}, {"probe": "10:1", "bandwidth": "100 MHz"},
     {"lead": "0.5 m", "cable": "50 Ω, 5 mm, solid polyethylene", "noise": "0.5 %", "scope_accuracy": "2 %"},
     {"lead": "0.3 m", "input_capacitance": "20 pF", "bandwidth": "60 MHz", "bandwidth_model": "gaussian"}],
    ids=["bare", "lead", "probe", "cable and noise", "gaussian"],
)  # fmt: skip
def test_a_new_job_comes_to_the_tools_power(session, more):
    """The same volts through the job's kit: what the tool said, but for the tee that a job has."""
    request = PowerRequest(**FIELDS, **more)
    job = into_new_job(session, request)
    job.enter(Slot("p1", 1, 1), "25.6")
    power = job.view.result

    assert float(power.net.value[0]) == pytest.approx(float(request().net.value[0]), rel=2e-3)
    assert job.job.plan[0].frequency_hz == 7.125e6
    assert job.view.standing[Slot("p1", 1, 0)].entry.raw_text == "102 Vpp"


def test_the_kit_itself_is_left_as_it_was(session):
    before = session.kit
    into_new_job(session, PowerRequest(**FIELDS, bandwidth="20 MHz"))

    assert session.kit == before


def test_into_the_job_on_the_bench_a_point_is_planned_where_there_is_none(session):
    job = session.new_job("a job")
    into_job(job, PowerRequest(**FIELDS))

    assert [(point.frequency_hz, point.target_w) for point in job.job.plan] == [(7.125e6, 23.0)]
    assert job.commands.undo_label == "entry 102 Vpp"


def test_into_the_next_empty_round_at_its_frequency_and_beyond_the_plan(session):
    job = session.new_job("a job")
    for volts in ("102 Vpp", "101 Vpp", "100 Vpp"):
        into_job(job, PowerRequest(**{**FIELDS, "volts": volts}))

    texts = {slot.round: event.entry.raw_text for slot, event in job.view.standing.items()}
    assert texts == {1: "102 Vpp", 2: "101 Vpp", 3: "100 Vpp"}


def test_fields_that_cannot_be_read_change_nothing(session):
    job = session.new_job("a job")

    with pytest.raises(FenmistError):
        into_job(job, PowerRequest(**{**FIELDS, "volts": "102"}))
    with pytest.raises(FenmistError):
        into_new_job(session, PowerRequest(**{**FIELDS, "load": "banana"}))
    assert job.job.plan == ()
    assert len(session.summaries()) == 1


# phases


def test_as_left_begins_apart_and_both_stay(session):
    job = into_new_job(session, PowerRequest(**FIELDS))
    job.enter(Slot("p1", 1, 1), "20")
    job.begin_as_left()
    job.enter(Slot("p1", 1, 0, AS_LEFT), "102")
    job.enter(Slot("p1", 1, 1, AS_LEFT), "22.6")

    assert job.view.phase == AS_LEFT
    assert job.view.found.points[0].indicated_w == pytest.approx(20.0)
    assert job.view.left.points[0].indicated_w == pytest.approx(22.6)
    job.show_phase(AS_FOUND)
    assert job.view.result.points[0].indicated_w == pytest.approx(20.0)
    assert session.open(job.job.id).view.phase == AS_LEFT


def test_undoing_the_adjustment_goes_back_to_as_found(session):
    job = into_new_job(session, PowerRequest(**FIELDS))
    job.begin_as_left()
    job.commands.undo()

    assert job.view.phase == AS_FOUND
    assert job.view.left is None
    job.show_phase(AS_LEFT)
    assert job.view.phase == AS_FOUND


# corrections left out, what if, forms


@pytest.mark.parametrize(
    ("more", "name"),
    [({}, "load"), ({"bandwidth": "30 MHz"}, "bandwidth"), ({"lead": "1 m"}, "lead"), ({"noise": "1 %"}, "noise"),
     ({"probe": "10", "ground_lead": "150 mm"}, "ground lead")],
)  # fmt: skip
def test_each_correction_can_be_left_out_to_see_what_it_is_worth(more, name):
    whole = PowerRequest(**FIELDS, **more)()
    without = PowerRequest(**FIELDS, **more, left_out=frozenset({name}))()
    step = next(item for item in whole.corrections if item.name == name)

    assert float(whole.net.value[0] / without.net.value[0]) == pytest.approx(step.factor, rel=2e-3)
    assert [item.applied for item in without.corrections if item.name == name] == [False]


def test_what_if_lowers_u_and_leaves_the_power():
    plain = PowerRequest(**FIELDS)()
    asked = PowerRequest(**FIELDS, known={"scope.gain": 0.5})()

    assert float(asked.net.value[0]) == float(plain.net.value[0])
    assert float(asked.net.u[0]) < 0.7 * float(plain.net.u[0])


@pytest.mark.parametrize(("also", "count"), [("35.6 Vrms", 1), ("36 Vrms", 0), ("", 0)])
def test_the_same_volts_read_otherwise_are_compared(also, count):
    notes = PowerRequest(**FIELDS, also=also)().notes

    assert len([note for note in notes if note.code == "entry.forms_differ"]) == count


def test_a_probe_goes_into_the_job_as_it_was_typed(session):
    request = PowerRequest(
        **FIELDS, probe="10:1", ground_lead="150 mm", probe_bandwidth="150 MHz", input_capacitance="9 pF"
    )
    job = into_new_job(session, request)
    (probe,) = [part for part in job.job.parts.values() if part.kind is PartKind.PROBE]
    known = {name: item.value for name, item in probe.properties.items()}

    assert known["ratio"] == known["setting"] == 10.0
    assert (known["ground_m"], known["bandwidth_hz"]) == (0.15, 150e6)
    assert known["capacitance_f"] == pytest.approx(9e-12)
