"""Impedances as analysers show them."""

import cmath
import math

import pytest

from fenmist.errors import UnreadableError
from fenmist.units.impedance import Known, impedance_from_text


@pytest.mark.parametrize(("text", "ohm"), [
    ("45+j12", 45 + 12j), ("45-j12", 45 - 12j), ("45 + 12j", 45 + 12j), ("45,5 - j 12,5 Ω", 45.5 - 12.5j),
    ("45+i12", 45 + 12j), ("52 @ -8", cmath.rect(52, math.radians(-8))), ("52<-8", cmath.rect(52, math.radians(-8))),
    ("52 ∠ 8°", cmath.rect(52, math.radians(8))), ("52 @ \u22128 deg", cmath.rect(52, math.radians(-8))),
])  # fmt: skip
def test_complete_forms_give_resistance_and_reactance(text, ohm):
    typed = impedance_from_text(text)

    assert typed.known is Known.COMPLEX
    assert typed.ohm == pytest.approx(ohm)


@pytest.mark.parametrize(("text", "known", "swr"), [
    ("57.7", Known.RESISTANCE, None), ("57.7 ohm", Known.RESISTANCE, None), ("|57.7|", Known.MAGNITUDE, None),
    ("|57.7| swr 1.2", Known.MAGNITUDE_SWR, 1.2), ("|57.7| SWR 1,2:1", Known.MAGNITUDE_SWR, 1.2),
])  # fmt: skip
def test_incomplete_forms_say_what_is_missing(text, known, swr):
    typed = impedance_from_text(text)

    assert (typed.known, typed.ohm, typed.swr) == (known, 57.7, swr)


@pytest.mark.parametrize("text", ["", "abc", "45+", "j12", "0", "-5", "52 @ 120", "|57.7| swr 0.9", "1,250"])
def test_what_is_no_impedance_is_refused_with_what_to_do(text):
    with pytest.raises(UnreadableError) as caught:
        impedance_from_text(text)

    assert caught.value.hint
