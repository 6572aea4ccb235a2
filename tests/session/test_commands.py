"""What can be taken back stays so where taking it back fails: on a full disk, say."""

import pytest

from fenmist.session.commands import Command, Commands


def test_a_command_whose_undo_or_redo_fails_can_be_tried_again():
    done, full = [], [True]

    def write(what):
        if full[0]:
            raise OSError("No space left on device")
        done.append(what)

    commands = Commands(lambda: None)
    commands.did(Command("entry 102 Vpp", lambda: write("back"), lambda: write("again")))
    with pytest.raises(OSError, match="No space"):
        commands.undo()
    assert (commands.undo_label, commands.redo_label) == ("entry 102 Vpp", "")

    full[0] = False
    commands.undo()
    full[0] = True
    with pytest.raises(OSError, match="No space"):
        commands.redo()
    assert (commands.undo_label, commands.redo_label) == ("", "entry 102 Vpp")
    full[0] = False
    commands.redo()
    assert done == ["back", "again"] and commands.undo_label == "entry 102 Vpp"
