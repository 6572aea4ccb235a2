#!/usr/bin/env bash
# Passes the tests: ruff, mypy, import contracts, pytest. --long adds the slow proofs; other arguments go to pytest.
set -euo pipefail
. "$(dirname "${BASH_SOURCE[0]}")/scripts/setup.sh"
prepare test
cd "$FENMIST_HOME"

which="not long"
if [ "${1:-}" = --long ]; then
    which="long or not long"
    shift
fi
bin="$VENV/bin"
"$bin/ruff" check -q .
"$bin/ruff" format -q --check .
"$bin/mypy"
"$bin/lint-imports" --no-logo
exec "$bin/python" -m pytest -q -n 2 -m "$which" "$@"
