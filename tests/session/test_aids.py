"""Rows of the tools that need no bench; their numbers are held by tests of the methods."""

from fenmist.methods.radiated import RadiatedRequest
from fenmist.methods.swr_seen import SwrRequest
from fenmist.session.aids import radiated_rows, swr_rows


def test_another_meters_reading_has_a_row_where_there_is_one():
    alone = dict(swr_rows(SwrRequest(swr="1.8", line_loss="1 dB")()))
    both = dict(swr_rows(SwrRequest(swr="1.8", line_loss="1 dB", other_swr="1.6")()))

    assert both.items() - alone.items() == {("Other meter", both["Other meter"])}
    assert both["Other meter"].endswith(", carried here")


def test_a_field_has_a_row_unless_people_are_too_near_for_it():
    """474 kHz: λ/2π is 100.66 m."""
    low = {"power": "100 W", "gain": "-20 dBi", "frequency": "474 kHz"}
    near, far = (dict(radiated_rows(RadiatedRequest(**low, people=at)())) for at in ("100.5 m", "100.8 m"))

    assert far.keys() - near.keys() == {"Field where people are"}
