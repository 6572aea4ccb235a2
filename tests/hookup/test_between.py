"""What lies between two planes: losses by hand, a library's cascade in every phase, open reflections added."""

import itertools
import math

import numpy as np
import pytest
import skrf

from fenmist.errors import OutOfRangeError
from fenmist.hookup.line import Element, HookUp, Joint
from fenmist.hookup.seen import between, seen_match
from fenmist.kit import generic, shelf
from fenmist.kit.part import Property
from fenmist.measurand import PlaneRef
from studies.matches import end, swr_meter
from studies.references import pad, with_properties

F = np.array([14e6])


def planes(*middle):
    """Two meters with parts between them, an end behind."""
    second = shelf.jumper("second", "second", 0.0, 0.0)
    parts = (shelf.transmitter("tx", "tx", 100.0), swr_meter(), *middle, second, end("e", 75.0))
    elements = tuple(Element(part.id, part.id) for part in parts)
    joints = tuple(Joint((a.id, a.ends[-1]), (b.id, b.ends[0])) for a, b in itertools.pairwise(parts))
    plane = PlaneRef("h", "meter", "out")
    hookup = HookUp("h", "h", elements, joints, plane)
    seen = seen_match(hookup, {part.id: part for part in parts}, F, plane)
    return seen, PlaneRef("h", middle[-1].id, middle[-1].ends[-1])


@pytest.mark.parametrize("db", [0.5, 3.0])
def test_a_matched_loss_shrinks_a_ring_by_itself_there_and_back(db):
    """|Γ1| = |Γ2|·10^(-2L/20); what the loss is known to counts twice, ± 2 u."""
    quiet = with_properties(pad("p", db, 0.2), swr=Property(1.0, ""))
    made = between(*planes(quiet))
    low, high = made.carried(np.array([0.2]), np.array([0.4]))
    times = 10 ** (-db / 10)
    either = 10 ** (2 * (0.2 / math.sqrt(3)) / 10)

    assert made.loss_db == pytest.approx([db])
    assert made.u_loss_db == pytest.approx([0.2 / math.sqrt(3)])
    assert (low[0], high[0]) == pytest.approx((0.2 * times / either, 0.4 * times * either), rel=1e-6)
    assert made.elements == ("p",)


def test_a_part_of_known_phase_is_carried_in_every_phase():
    """A stub of 35 Ω line: least and most of |S11 + S12·S21·Γ/(1 − S22·Γ)| over a fine circle, by scikit-rf."""
    adapter = generic.adapter("a", "a", 0.5, 35.0)
    made = between(*planes(adapter))
    low, high = made.carried(np.array([0.3]), np.array([0.3]))
    s = made.s[0]
    block = skrf.Network(f=F, s=s[None], z0=50, f_unit="Hz")
    sizes = []
    for phase in np.linspace(0, 2 * math.pi, 1440):
        load = skrf.Network(f=F, s=np.array([[[0.3 * np.exp(1j * phase)]]]), z0=50, f_unit="Hz")
        sizes.append(abs((block**load).s[0, 0, 0]))

    assert (low[0], high[0]) == pytest.approx((min(sizes), max(sizes)), abs=2e-3)
    assert abs(s[0, 0]) > 0.01  # it isn't matched: that is what the test is about


def test_what_may_reflect_in_any_phase_widens_a_ring_to_both_sides():
    open_pad = with_properties(pad("p", 3.0, 0.0), swr=Property(1.3, ""))
    made = between(*planes(open_pad))
    low, high = made.carried(np.array([0.3]), np.array([0.3]))
    rho = 0.3 / 2.3
    centre = 0.3 * 10**-0.3

    # its near port, and its far one for what comes back to it: 0.2 of the end through 1.5 dB of volts, twice
    assert made.open_rho[0] == pytest.approx(rho * (1 + (0.2 * 10**-0.15) ** 2), rel=1e-3)
    assert high[0] - centre == pytest.approx(made.open_rho[0], rel=0.03)
    assert low[0] == pytest.approx(max(centre - made.open_rho[0], 0.0), abs=0.01)


def test_no_ring_is_smaller_than_nothing_or_larger_than_all():
    made = between(*planes(with_properties(pad("p", 0.1, 0.5), swr=Property(2.0, ""))))
    low, high = made.carried(np.array([0.0]), np.array([1.0]))
    assert (low[0], high[0]) == (0.0, 1.0)


def test_the_second_plane_lies_behind_the_first():
    seen, _ = planes(pad("p", 3.0, 0.1))
    with pytest.raises(OutOfRangeError, match="isn't behind"):
        between(seen, PlaneRef("h", "tx", "out"))


def test_a_match_of_measured_size_lies_on_a_circle_and_adds_as_much():
    measured = with_properties(pad("p", 3.0, 0.0), swr=Property(1.3, "", measured=True))
    made = between(*planes(measured))
    assert made.open_rho[0] == pytest.approx(0.3 / 2.3 * (1 + (0.2 * 10**-0.15) ** 2), rel=1e-3)


def test_a_reflection_behind_a_loss_is_seen_weaker_there_and_back():
    """A part of open phase behind 3 dB: its |Γ| by 10^(−2·3/20) at the plane in front, one that is in front whole."""
    loss = with_properties(pad("p", 3.0, 0.0), swr=Property(1.0, ""))
    behind, before = (with_properties(pad(name, 0.0, 0.0), swr=Property(1.2, "")) for name in ("q", "r"))
    (far, _), (near, _) = planes(loss, behind), planes(before, loss)
    u = {item.id: float(item.standard_u[0]) for seen in (far, near) for pair in seen.open_phase for item in pair}
    (behind_u, *_), (before_u, *_) = (
        [u[name] for name in sorted(u) if name.startswith(part)] for part in ("q.in", "r.in")
    )
    assert behind_u / before_u == pytest.approx(10 ** (-6 / 20), rel=0.02)
