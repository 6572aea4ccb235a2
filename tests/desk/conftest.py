"""Windows for the tests of the desk."""

from support.windows import demo, hands, run

__all__ = ["demo", "hands", "run"]
