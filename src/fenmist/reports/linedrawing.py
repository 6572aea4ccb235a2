"""A hook-up as drawn on paper: the line from source to load, what hangs on it, where power is stated."""

from collections.abc import Iterator
from html import escape
from unicodedata import east_asian_width

from fenmist.calibration.job import Job
from fenmist.hookup.line import HookUp, main_way
from fenmist.kit.part import Part
from fenmist.reports.fonts import PAPER_FAMILIES
from fenmist.reports.linelayout import Box, Hanging, Layout, Measures, lay_out
from fenmist.units.display import plain
from fenmist.units.letters import printable

INK, SECOND, TEAL, RUST = "#1B2A30", "#50626B", "#0E5A66", "#A9480F"
WIDTH, TOP, BOX, DROP = 680.0, 26.0, 26.0, 62.0
LETTER = 5.4
"""Width of a letter of the labels, about; boxes are wide enough for it."""

_MEASURES = Measures(WIDTH, 2.0, TOP, BOX, DROP, 8.0, WIDTH, 26.0)


def line_svg(job: Job, hookup: HookUp) -> str:
    """A hook-up of the job as SVG; the same for the same job."""
    layout = lay_out(hookup, job.parts, _width, _MEASURES)
    body = "".join(_drawn(job, hookup, layout))
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH:g} {layout.height + 12:g}" '
        f'font-family="{", ".join(PAPER_FAMILIES)}" font-size="9.5">{body}</svg>'
    )


def _drawn(job: Job, hookup: HookUp, layout: Layout) -> Iterator[str]:
    if layout.line:
        middle = TOP + BOX / 2.0
        ends = f'x1="{layout.line[0].x:g}" y1="{middle:g}" x2="{layout.line[-1].right:g}" y2="{middle:g}"'
        yield f'<line {ends} stroke="{TEAL}" stroke-width="2"/>'
    for hanging in layout.hanging:
        yield _wires(hanging)
    drops = [hanging.x for hanging in layout.hanging]
    for box in layout.boxes:
        drop = next((x for x in drops if box.row == 0 and box.x <= x <= box.right), None)
        yield from _box(job.part(hookup.element(box.element).part), box, drop)
    yield from _stated(job, hookup, layout)


def _stated(job: Job, hookup: HookUp, layout: Layout) -> Iterator[str]:
    stated = hookup.stated
    box = next((item for item in layout.boxes if item.element == stated.element), None)
    if box is None:
        return
    entered = any(stop[:2] == (stated.element, stated.port) for stop in main_way(hookup, job.parts))
    at = box.x - 4.0 if entered else box.right + 4.0
    ends = f'x1="{at:g}" y1="{box.y - 6:g}" x2="{at:g}" y2="{box.y + BOX + 6:g}"'
    yield f'<line {ends} stroke="{RUST}" stroke-width="1.5"/>'
    yield f'<text x="{at:g}" y="{box.y - 11:g}" fill="{RUST}" text-anchor="middle">power is stated here</text>'


def _wires(hanging: Hanging) -> str:
    first, last = hanging.boxes[0], hanging.boxes[-1]
    middle, x = first.y + BOX / 2.0, min(max(hanging.x, first.x), first.right)
    corner = f"{hanging.x:g},{first.y - 5:g} {x:g},{first.y - 5:g} {x:g},{first.y:g}"
    return (
        f'<polyline points="{hanging.x:g},{TOP + BOX / 2:g} {corner}" fill="none" stroke="{INK}" stroke-width="1"/>'
        f'<line x1="{first.x:g}" y1="{middle:g}" x2="{last.right:g}" y2="{middle:g}" stroke="{INK}" stroke-width="1"/>'
    )


def _box(part: Part, box: Box, drop: float | None) -> Iterator[str]:
    """A part with its rating beneath, beside the wire where one drops from it."""
    yield (
        f'<rect x="{box.x:g}" y="{box.y:g}" width="{box.width:g}" height="{BOX:g}" fill="white" stroke="{INK}" '
        f'stroke-width="1"/><text x="{box.middle:g}" y="{box.y + BOX / 2 + 3.4:g}" fill="{INK}" text-anchor="middle">'
        f"{escape(_fitted(printable(part.label), box.width))}</text>"
    )
    limit = next((port.power_limit_w for port in part.ports if port.power_limit_w), None)
    if limit:
        at, anchor = (box.middle, "middle") if drop is None else (drop - 4.0, "end")
        yield (
            f'<text x="{at:g}" y="{box.y + BOX + 10:g}" fill="{SECOND}" font-size="8" '
            f'text-anchor="{anchor}">{plain(limit, "W")}</text>'
        )


def _fitted(text: str, width: float) -> str:
    """The text, cut with an ellipsis where it is wider than its box."""
    room = (width - 4.0) / LETTER
    if _letters(text) <= room + 1.0:
        return text
    while len(text) > 1 and _letters(text) > room - 1.0:
        text = text[:-1]
    return f"{text}…"


def _letters(text: str) -> float:
    """Its width in letters: signs of East Asia are twice as wide."""
    return float(sum(2 if east_asian_width(letter) in "WF" else 1 for letter in text))


def _width(part: Part) -> float:
    return max(LETTER * _letters(printable(part.label)) + 14.0, 34.0)
