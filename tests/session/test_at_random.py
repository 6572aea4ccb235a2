"""Somebody who does anything in any order, in short; at length with --long."""

import pytest

from studies.edits import Edits
from studies.plugging import Plugging, Typing
from studies.walking import walk


@pytest.mark.parametrize(("machine", "times", "steps"), [
    (Edits, 6, 18), (Plugging, 8, 8), (Typing, 8, 10),
    *(pytest.param(*long, marks=pytest.mark.long)
      for long in ((Edits, 120, 40), (Plugging, 400, 12), (Typing, 400, 12))),
])  # fmt: skip
def test_nothing_is_lost_and_all_is_worked_out_or_refused_in_words(machine, times, steps):
    walk(machine, times, steps)
