"""Published numbers with their printed digits: a printed digit is right to half its place."""

import tomllib
from pathlib import Path
from typing import Any

REFERENCE = Path(__file__).parent.parent / "reference"


def published(name: str) -> dict[str, Any]:
    """One file of published numbers."""
    return tomllib.loads((REFERENCE / f"{name}.toml").read_text("utf-8"))
