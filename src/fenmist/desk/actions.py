"""Every action and every key in one table: menus, foot and the shortcut page come from it."""

from fenmist.findings import keys
from fenmist.frozen import dataclass

EVERYWHERE = "everywhere"

POWER = "tools, power from volts"
"""Keys of one tool: its name stands behind its place's."""


@dataclass(frozen=True)
class Action:
    """One thing that can be done, and the key for it."""

    id: str
    text: str
    shortcut: str  # as Qt writes it; for keys inside a step, as it is shown
    where: str = EVERYWHERE
    tip: str = ""
    key_only: bool = False  # handled where the focus is, not by a window-wide shortcut
    in_foot: bool = False


ACTIONS = (
    Action("place.bench", "Bench", "Ctrl+1"),
    Action("place.tools", "Tools", "Ctrl+2"),
    Action("place.kit", "Kit", "Ctrl+3"),
    Action("place.logbook", "Logbook", "Ctrl+4"),
    Action("place.instruments", "Instruments", "Ctrl+5"),
    Action("job.new", "new job", "Ctrl+N"),
    Action("job.bench", "another bench", "Ctrl+B", "bench", "What this shelf can decide, for the job in hand"),
    Action("edit.undo", "undo", "Ctrl+Z"),
    Action("edit.redo", "redo", "Ctrl+Shift+Z"),
    Action("view.theme", "light or dark", "Ctrl+T"),
    Action("view.arm", "arm's length", "F7", tip="Larger digits and entries, to be read from a metre away"),
    Action("view.larger", "larger letters", "Ctrl++"),
    Action("view.smaller", "smaller letters", "Ctrl+-"),
    Action("view.usual", "normal letters", "Ctrl+0"),
    Action("view.notes", "to the notes", "F6", tip="Tab goes from note to note"),
    Action("view.keys", "all keys", "F1"),
    Action("file.open", "open a file", "Ctrl+O", tip="A photo, a capture, a table, a job: what belongs here"),
    Action("file.save", "save what is in front", "Ctrl+S", tip="Drawing, table, page, job: by the ending of its name"),
    Action("file.print", "print what is in front", "Ctrl+P"),
    Action("app.settings", "workshop and paper", "F9"),
    Action("job.take_in", "import a job file", "Ctrl+I"),
    Action("app.quit", "quit", "Ctrl+Q"),
    Action("step.receive", "receive", "Alt+1", "bench"),
    Action("step.hookup", "hook-up", "Alt+2", "bench"),
    Action("step.parts", "parts", "Alt+3", "bench"),
    Action("step.plan", "plan", "Alt+4", "bench"),
    Action("step.readings", "readings", "Alt+5", "bench"),
    Action("step.results", "results", "Alt+6", "bench"),
    Action("step.adjust", "adjust", "Alt+7", "bench"),
    Action("step.certificate", "certificate", "Alt+8", "bench"),
    Action("entry.capture", "a capture as the reading", "Ctrl+Shift+O", "bench", "Its path is typed, or chosen"),
    Action("readings.series", "power against time", "F10", "bench", "Tune cycle, drooping carrier"),
    Action("wire.run", "run by wire, or stop", "Ctrl+R", "bench", "From here on; what has a needle is left to you"),
    Action("readings.paper", "copy readings from paper", "F12", "bench", "Times unknown; again: read here"),
    Action("readings.tear", "readings in their own window", "F11", "bench"),
    Action("adjust.panel", "next view", "F5", EVERYWHERE, "In “adjust”: what to turn, why, factors; in the designer"),
    Action("phase.switch", "as found or as left", "F8", "bench", "After an adjustment"),
    Action("line.move", "move along the line", "← →", "hook-up", key_only=True, in_foot=True),
    Action("line.choose", "choose part", "Enter", "hook-up", key_only=True, in_foot=True),
    Action("line.add", "insert behind it", "I", "hook-up", "Or Ins", key_only=True, in_foot=True),
    Action("line.hang", "hang on it", "H", "hook-up", "On a free side port", key_only=True),
    Action("line.turn", "turn round", "R", "hook-up", key_only=True),
    Action("line.state", "state power here", "P", "hook-up", "Again: at its other end", key_only=True),
    Action("line.switch", "next, former switch position", "] [", "hook-up", key_only=True, in_foot=True),
    Action("line.read", "read it, or not", "M", "hook-up", key_only=True),
    Action("line.decide", "it decides, or all", "D", "hook-up", "One of several references, alone", key_only=True),
    Action("line.remove", "take out", "Del", "hook-up", key_only=True, in_foot=True),
    Action("line.unit", "W · dBm · V · SWR", "U", "hook-up", key_only=True, in_foot=True),
    Action("look.next", "fine · not fine · not there", "Space", "receive", key_only=True, in_foot=True),
    Action("look.remark", "remark", "F2", "receive", "On a line of the list", key_only=True, in_foot=True),
    Action("plan.edit", "edit cell", "F2", "plan", key_only=True, in_foot=True),
    Action("plan.paste", "paste rows", "Ctrl+V", "plan", "From a spreadsheet", key_only=True, in_foot=True),
    Action("plan.remove", "take out a point", "Del", "plan", key_only=True, in_foot=True),
    Action("table.edit", "edit cell", "F2", "parts", key_only=True, in_foot=True),
    Action("table.paste", "paste rows", "Ctrl+V", "parts", "From a spreadsheet", key_only=True, in_foot=True),
    Action("table.remove", "take out row", "Del", "parts", key_only=True, in_foot=True),
    Action("entry.keep", "keep, next", "Enter", "readings", key_only=True, in_foot=True),
    Action(
        "entry.back",
        "back one",
        "−",
        "readings",
        "In an empty field; ↑ in one that takes a sign",
        key_only=True,
        in_foot=True,
    ),
    Action("entry.repeat", "one more round", "*", "readings", key_only=True, in_foot=True),
    Action("entry.strike", "strike", keys.STRIKE, "readings", "In an empty field", key_only=True, in_foot=True),
    Action("entry.take", "take the likeliest", keys.TAKE, "readings", "For an open entry", key_only=True, in_foot=True),
    Action("entry.skip", "skip the round", keys.SKIP, "readings", "Again: read it after all", key_only=True),
    Action("entry.doubt", "mark as doubtful", keys.DOUBT, "readings", "Again: no doubt", key_only=True),
    Action("entry.range", "next range", keys.RANGE, "readings", "Before the meter is read", key_only=True),
    Action("entry.reason", "another reason", keys.REASON, "readings", "For what was struck last", key_only=True),
    Action("entry.move", "move the round", keys.MOVE, "readings", "To the level it was read at", key_only=True),
    Action(
        "entry.carrier", "carrier on or off", "+", "readings", "Overrides what is inferred", key_only=True, in_foot=True
    ),
    Action("entry.point", "next or former point", "PgDn PgUp", "readings", key_only=True, in_foot=True),
    Action("wire.read", "read it by wire", "R", "readings", "In an empty field", key_only=True, in_foot=True),
    Action("wire.round", "the round by wire", "Shift+R", "readings", "In reading order", key_only=True),
    Action("wire.trace", "a trace by wire", "T", "readings", "An oscilloscope's samples as the reading", key_only=True),
    Action("entry.nudge", "nudge the needle", "Shift+↑ ↓", "readings", key_only=True),
    Action(
        "readings.table", "reading table", "Ctrl+P", "readings", "What each reading stands for, large", key_only=True
    ),
    Action("results.copy", "copy the table", "Ctrl+C", "results", key_only=True, in_foot=True),
    Action("results.point", "move along the points", "↑ ↓", "results", key_only=True, in_foot=True),
    Action(
        "budget.what_if",
        "what if: halve or double u",
        "← →",
        "results, budget",
        "In the budget",
        key_only=True,
        in_foot=True,
    ),
    Action("budget.exact", "treat as exact", "0", "results, budget", "In the budget", key_only=True, in_foot=True),
    Action("budget.all", "all lines", "Enter", "results, budget", "In the budget", key_only=True),
    Action("budget.back", "undo", "Backspace", "results, budget", "In the budget", key_only=True, in_foot=True),
    Action("note.answer", "answer a note", "Enter", "margin", key_only=True),
    Action("begin.move", "along the benches", "↑ ↓", "begin", key_only=True, in_foot=True),
    Action("begin.take", "begin on this bench", "Enter", "begin", key_only=True, in_foot=True),
    Action("begin.leave", "begin nothing", "Esc", "begin", key_only=True, in_foot=True),
    Action("begin.field", "to the fields", "Tab", "begin", key_only=True, in_foot=True),
    Action("list.open", "open job", "Enter", "logbook", key_only=True, in_foot=True),
    Action("list.search", "search", "Ctrl+F", "logbook", in_foot=True),
    Action(
        "wires.add",
        "attach; ask who it is",
        "Enter",
        "instruments",
        "In the address; on a line",
        key_only=True,
        in_foot=True,
    ),
    Action("wires.remove", "detach", "Del", "instruments", "On a line", key_only=True, in_foot=True),
    Action("kit.edit", "to the fields", "Tab", "kit", key_only=True, in_foot=True),
    Action("tool.next_one", "next tool", "Ctrl+Tab", "tools", in_foot=True),
    Action("tool.former", "former tool", "Ctrl+Shift+Tab", "tools"),
    Action("tool.next", "next field", "Tab", "tools", key_only=True, in_foot=True),
    Action("tool.leave_out", "leave a correction out", "Space", POWER, "On its box", key_only=True, in_foot=True),
    Action("tool.what_if", "halve, double a u", "← →", POWER, "In the budget", key_only=True, in_foot=True),
)


def by_id(action_id: str) -> Action:
    """An action of the table."""
    return next(item for item in ACTIONS if item.id == action_id)


def in_foot(where: str) -> tuple[Action, ...]:
    """Keys shown at the foot of a place or step; of a place's part those of the place, too."""
    return tuple(item for item in ACTIONS if item.where in (where, where.split(",")[0]) and item.in_foot)
