#!/usr/bin/env bash
# Starts Fenmist; any arguments go to the application. The first time it makes what it needs.
set -euo pipefail
. "$(dirname "${BASH_SOURCE[0]}")/scripts/setup.sh"
prepare run
exec "$VENV/bin/python" -m fenmist "$@"
