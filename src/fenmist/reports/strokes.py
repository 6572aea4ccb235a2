"""What drawings are made of: inks by role, texts, lines, circles, washes and the sheet around them, as SVG."""

from collections.abc import Iterable
from html import escape

from fenmist.frozen import dataclass
from fenmist.reports.fonts import PAPER_FAMILIES
from fenmist.units.letters import printable

WIDTH = 680.0
"""Of a drawing on paper, in the units of its letters."""


@dataclass(frozen=True)
class Inks:
    """Colours of a drawing by their role."""

    ink: str = "#1B2A30"
    second: str = "#50626B"
    hairline: str = "#C9D3D7"
    teal: str = "#0E5A66"
    wash: str = "#D3E6E8"
    rust: str = "#A9480F"
    families: str = ", ".join(PAPER_FAMILIES)


def sheet(body: Iterable[str], inks: Inks, width: float, height: float) -> str:
    """A whole drawing."""
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width:g} {height:g}" '
        f'font-family="{inks.families}" font-size="11">{"".join(body)}</svg>'
    )


def text(x: float, y: float, said: str, ink: str, anchor: str = "start") -> str:
    """Letters; `anchor` is start, middle or end."""
    return f'<text x="{x:.1f}" y="{y:.1f}" fill="{ink}" text-anchor="{anchor}">{escape(printable(said))}</text>'


def centred(x: float, y: float, said: str, ink: str) -> str:
    """Letters about a place."""
    return text(x, y, said, ink, "middle")


def line(x1: float, y1: float, x2: float, y2: float, ink: str, wide: float = 1.0, dash: str = "") -> str:
    """From a place to another."""
    ends = f'x1="{x1:.1f}" y1="{y1:.1f}" x2="{x2:.1f}" y2="{y2:.1f}"'
    return f'<line {ends} stroke="{ink}" stroke-width="{wide:g}"{_dashed(dash)}/>'


def circle(x: float, y: float, r: float, ink: str, wide: float = 1.0, fill: str = "none", dash: str = "") -> str:
    """Around a place."""
    around = f'cx="{x:.1f}" cy="{y:.1f}" r="{r:.1f}"'
    return f'<circle {around} fill="{fill}" stroke="{ink}" stroke-width="{wide:g}"{_dashed(dash)}/>'


def dot(x: float, y: float, r: float, ink: str) -> str:
    """A filled one."""
    return f'<circle cx="{x:.1f}" cy="{y:.1f}" r="{r:g}" fill="{ink}"/>'


def wash(x: float, y: float, wide: float, high: float, ink: str, more: str = "") -> str:
    """A filled box, half a unit wide at least."""
    return f'<rect x="{x:.1f}" y="{y:.1f}" width="{max(wide, 0.5):.1f}" height="{high:.1f}" fill="{ink}"{more}/>'


def _dashed(dash: str) -> str:
    return f' stroke-dasharray="{dash}"' if dash else ""
