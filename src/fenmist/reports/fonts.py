"""The fonts and icons that ship with Fenmist, for paper and for the screen alike."""

from pathlib import Path

_RESOURCES = Path(__file__).parents[1] / "resources"

SANS, SANS_MEDIUM, SANS_SEMIBOLD = "Inter-Regular.otf", "Inter-Medium.otf", "Inter-SemiBold.otf"
MONO, MONO_MEDIUM = "JetBrainsMono-Regular.ttf", "JetBrainsMono-Medium.ttf"
ALL_FONTS = (SANS, SANS_MEDIUM, SANS_SEMIBOLD, MONO, MONO_MEDIUM)
SANS_FAMILY, MONO_FAMILY = "Inter", "JetBrains Mono"

_SCRIPTS = (
    "Arabic", "Armenian", "Bengali", "Devanagari", "Ethiopic", "Georgian", "Gujarati", "Gurmukhi", "Hebrew", "Kannada",
    "Khmer", "Lao", "Malayalam", "Myanmar", "Oriya", "Sinhala", "Tamil", "Telugu", "Thai",
)  # fmt: skip
FALLBACK_FONTS = (
    "NotoSansCJKjp-Names.otf",
    *(f"NotoSans{script}-Regular.ttf" for script in _SCRIPTS),
    "NotoEmoji-Regular.ttf",
)
"""For names in other scripts (scripts/fallback_fonts.py makes them)."""

PAPER_FAMILIES = (SANS_FAMILY, "Noto Sans CJK JP", *(f"Noto Sans {script}" for script in _SCRIPTS), "Noto Emoji")
"""In the order in which a letter is looked for."""


def font_folder() -> Path:
    """Folder of the font files."""
    return _RESOURCES / "fonts"


def icon_file(name: str) -> Path:
    """One icon file."""
    return _RESOURCES / "icons" / name


def font_file(name: str) -> Path:
    """One font file."""
    return font_folder() / name
