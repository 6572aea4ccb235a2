"""What must be fast, against its peers, in one run: `python -m benchmarks`."""

import fenmist as _as_users_start_it  # noqa: F401  before NumPy, which it sets up
