"""What hangs on a tee, as its part states it: a lead that ends in the scope's input, or a probe."""

from fenmist.kit.part import Part, PartKind
from fenmist.rf.cable import Cable, cable_named
from fenmist.rf.probe import HENRY_PER_M, ProbeTip
from fenmist.rf.stub import INPUT_RESISTANCE_OHM, Stub


def cable_of(lead: Part) -> Cable | None:
    """The kind of cable a lead is made of, for its loss; none where it isn't said."""
    label = lead.settings.get("cable")
    return cable_named(label) if label else None


def feed_of(feed: Part, scope: Part, frequency_hz: float) -> Stub | ProbeTip:
    """The electrical picture of a lead or a probe with the scope behind it, at one frequency."""
    values = {name: item.value for name, item in feed.properties.items()}
    if feed.kind is PartKind.PROBE:
        return ProbeTip(values["capacitance_f"], HENRY_PER_M * values["ground_m"])
    cable = cable_of(feed)
    loss = values["length_m"] * float(cable.loss_db_per_m(frequency_hz)) if cable else 0.0
    return Stub(
        values["length_m"], values["velocity_factor"], scope.properties["capacitance_f"].value, values["line_ohm"],
        loss, INPUT_RESISTANCE_OHM,
    )  # fmt: skip


def feed_admittance_s(feed: Stub | ProbeTip, frequency_hz: float) -> complex:
    """What it puts across the tee."""
    made = feed.admittance_s(frequency_hz)
    return complex(made) if isinstance(feed, Stub) else 1j * float(made)
