"""The hook-up as it is printed: the line from source to load, what hangs on it, and the plane where power is stated."""

from collections.abc import Iterator
from html import escape

from fenmist.calibration.job import Job
from fenmist.hookup.line import branches, main_line
from fenmist.reports.fonts import SANS_FAMILY
from fenmist.units.display import plain

INK, SECOND, TEAL, RUST = "#1B2A30", "#50626B", "#0E5A66", "#A9480F"
WIDTH, TOP, BOX, DROP = 680.0, 26.0, 26.0, 62.0
LETTER = 5.4
"""Width of a letter of the labels, about; boxes are wide enough for it."""


def line_svg(job: Job) -> str:
    """The drawing as SVG, the same for the same job."""
    height = TOP + BOX + (DROP + BOX if branches(job.hookups[0], job.parts) else 0.0) + 8.0
    body = "".join(_drawn(job))
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH:g} {height:g}" '
        f'font-family="{SANS_FAMILY}" font-size="9.5">{body}</svg>'
    )


def _drawn(job: Job) -> Iterator[str]:
    hookup = job.hookups[0]
    names = main_line(hookup, job.parts)
    widths = {name: _width(job, name) for name in names}
    gap = max((WIDTH - 4.0 - sum(widths.values())) / max(len(names) - 1, 1), 8.0)
    x, left = 2.0, {}
    for name in names:
        left[name] = x
        x += widths[name] + gap
    middle = TOP + BOX / 2.0
    ends = f'x1="{left[names[0]]:g}" y1="{middle:g}" x2="{x - gap:g}" y2="{middle:g}"'
    yield f'<line {ends} stroke="{TEAL}" stroke-width="2"/>'
    for name in names:
        yield from _box(job, name, left[name], TOP, widths[name])
    stated = hookup.stated
    at = left[stated.element] + (widths[stated.element] + gap / 2.0 if stated.port == "out" else -gap / 2.0)
    yield f'<line x1="{at:g}" y1="{TOP - 6:g}" x2="{at:g}" y2="{TOP + BOX + 6:g}" stroke="{RUST}" stroke-width="1.5"/>'
    yield f'<text x="{at:g}" y="{TOP - 11:g}" fill="{RUST}" text-anchor="middle">power is stated here</text>'
    for tee, hanging in branches(hookup, job.parts).items():
        yield from _hanging(job, left[tee] + widths[tee] / 2.0, hanging)


def _hanging(job: Job, at: float, names: tuple[str, ...]) -> Iterator[str]:
    widths = [_width(job, name) for name in names]
    total = sum(widths) + 26.0 * (len(names) - 1)
    top = TOP + BOX + DROP - BOX / 2.0
    x = min(max(at - widths[0] / 2.0, 2.0), WIDTH - 2.0 - total)
    middle = top + BOX / 2.0
    yield f'<polyline points="{at:g},{TOP + BOX:g} {at:g},{middle:g}" fill="none" stroke="{INK}" stroke-width="1"/>'
    yield f'<line x1="{x:g}" y1="{middle:g}" x2="{x + total:g}" y2="{middle:g}" stroke="{INK}" stroke-width="1"/>'
    for name, width in zip(names, widths, strict=True):
        yield from _box(job, name, x, top, width)
        x += width + 26.0


def _box(job: Job, name: str, x: float, y: float, width: float) -> Iterator[str]:
    part = job.part(job.hookups[0].element(name).part)
    yield (
        f'<rect x="{x:g}" y="{y:g}" width="{width:g}" height="{BOX:g}" fill="white" stroke="{INK}" stroke-width="1"/>'
        f'<text x="{x + width / 2:g}" y="{y + BOX / 2 + 3.4:g}" fill="{INK}" text-anchor="middle">'
        f"{escape(part.label)}</text>"
    )
    limit = next((port.power_limit_w for port in part.ports if port.power_limit_w), None)
    if limit:
        yield (
            f'<text x="{x + width / 2:g}" y="{y + BOX + 10:g}" fill="{SECOND}" font-size="8" '
            f'text-anchor="middle">{plain(limit, "W")}</text>'
        )


def _width(job: Job, name: str) -> float:
    return max(LETTER * len(job.part(job.hookups[0].element(name).part).label) + 14.0, 34.0)
