"""Random plugging and unplugging: whatever is done, the hook-up stays one that can be drawn and worked out."""

from studies.lines import Lines
from studies.walking import walk


def test_a_line_can_be_drawn_and_worked_out_whatever_is_done_to_it():
    walk(Lines, 12, 15)
