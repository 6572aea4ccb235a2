"""The cable that a lead is made of."""

from fenmist.kit.part import Part
from fenmist.rf.cable import Cable, cable_named


def cable_of(lead: Part) -> Cable | None:
    """The kind of cable a lead is made of, for its loss; none where it isn't said."""
    label = lead.settings.get("cable")
    return cable_named(label) if label else None
