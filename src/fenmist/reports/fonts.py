"""The fonts and icons that ship with Fenmist, for paper and for the screen alike."""

from importlib import resources
from pathlib import Path

SANS, SANS_MEDIUM, SANS_SEMIBOLD = "Inter-Regular.otf", "Inter-Medium.otf", "Inter-SemiBold.otf"
MONO, MONO_MEDIUM = "JetBrainsMono-Regular.ttf", "JetBrainsMono-Medium.ttf"
ALL_FONTS = (SANS, SANS_MEDIUM, SANS_SEMIBOLD, MONO, MONO_MEDIUM)
SANS_FAMILY, MONO_FAMILY = "Inter", "JetBrains Mono"


def font_folder() -> Path:
    """Folder of the font files."""
    return Path(str(resources.files("fenmist").joinpath("resources", "fonts")))


def icon_file(name: str) -> Path:
    """One icon file."""
    return Path(str(resources.files("fenmist").joinpath("resources", "icons", name)))


def font_file(name: str) -> Path:
    """One font file."""
    return font_folder() / name
