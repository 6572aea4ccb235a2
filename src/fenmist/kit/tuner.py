"""What a tuner needs while it hunts for a match."""

from fenmist.kit.part import Part

TUNE_LEAST, TUNE_MOST = "tune_least_w", "tune_most_w"
"""Properties: the power that it wants, and what it bears; W."""


def wants_w(tuner: Part) -> float | None:
    """Power below which it doesn't tune, W; none where nobody says."""
    found = tuner.properties.get(TUNE_LEAST)
    return found.value if found else None


def bears_w(tuner: Part) -> float | None:
    """Power above which it isn't to be tuned, W; none where nobody says."""
    found = tuner.properties.get(TUNE_MOST)
    return found.value if found else None
