"""Windows for the tests of the desk."""

from support.windows import demo, demo_file, hands, run

__all__ = ["demo", "demo_file", "hands", "run"]
