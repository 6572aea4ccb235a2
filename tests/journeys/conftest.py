"""A window over an empty logbook: where every journey begins."""

from support.windows import hands

__all__ = ["hands"]
