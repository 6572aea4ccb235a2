# Sourced by run.sh and test.sh: makes the virtual environment and what it stands on, once.
#
#   prepare run|test
#
# The first time it needs the network: Debian's packages (by apt-get, as root or with sudo) and Python's registry.
# Afterwards a stamp says that all is there, and nothing is looked for.

FENMIST_HOME="$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)"
VENV="$FENMIST_HOME/.venv"
LOG="$FENMIST_HOME/.venv-setup.log"

QT_PACKAGES="libgl1 libegl1 libxkbcommon0 libglib2.0-0 libfreetype6 libfontconfig1 libdbus-1-3 libxcb-cursor0 \
libxcb-icccm4 libxcb-keysyms1 libxcb-shape0 libxcb-xkb1 libxkbcommon-x11-0"
TEST_PACKAGES="xvfb xauth"

unset PYTHONDONTWRITEBYTECODE # compiling all modules anew takes longer than starting does

say() { printf 'fenmist: %s\n' "$*" >&2; }

stop() {
    say "$*"
    exit 1
}

find_python() {
    local name
    for name in python3.11 python3; do
        if command -v "$name" >/dev/null && "$name" -c 'import sys; sys.exit(sys.version_info[:2] != (3, 11))'; then
            command -v "$name"
            return
        fi
    done
    stop "Python 3.11 is needed. On Debian 12: apt-get install python3"
}

missing_packages() { # of those named, the ones that dpkg doesn't know as installed
    local name
    for name in "$@"; do
        [ "$(dpkg-query -W -f '${db:Status-Status}' "$name" 2>/dev/null)" = installed ] || printf '%s ' "$name"
    done
}

install_packages() {
    local wanted="$*" as_root=""
    if [ "$(id -u)" != 0 ]; then
        if command -v sudo >/dev/null && { sudo -n true 2>/dev/null || [ -t 0 ]; }; then
            as_root=sudo
        else
            stop "these system packages are missing; run: sudo apt-get install -y $wanted"
        fi
    fi
    say "installing system packages: $wanted"
    { $as_root apt-get update -q && DEBIAN_FRONTEND=noninteractive $as_root apt-get install -y -q --no-install-recommends $wanted; } \
        >>"$LOG" 2>&1 </dev/null || stop "system packages could not be installed (see $LOG); run: sudo apt-get install -y $wanted"
}

stamp_of() { # of an environment with these pins: what it was made from
    printf '%s' "$(cat "$1" "$FENMIST_HOME/requirements.txt" "$FENMIST_HOME/pyproject.toml" "$FENMIST_HOME/scripts/setup.sh" | sha256sum) $FENMIST_HOME"
}

prepare() {
    local kind="$1" pins="$FENMIST_HOME/requirements.txt" packages="$QT_PACKAGES" stamp python wanted
    if [ "$kind" = test ]; then
        pins="$FENMIST_HOME/requirements-test.txt"
        packages="$QT_PACKAGES $TEST_PACKAGES"
    fi
    stamp="$(stamp_of "$pins")"
    [ -f "$VENV/ready-$kind" ] && [ "$(cat "$VENV/ready-$kind")" = "$stamp" ] && return

    : >"$LOG"
    python="$(find_python)" || exit 1
    wanted=""
    "$python" -c 'import ensurepip, venv' 2>/dev/null || wanted="python3-venv "
    command -v dpkg-query >/dev/null && wanted="$wanted$(missing_packages $packages)"
    [ -z "${wanted// /}" ] || install_packages $wanted

    say "making the Python environment (the first time only)"
    if [ ! -x "$VENV/bin/python" ] || ! "$VENV/bin/python" -m pip --version >/dev/null 2>&1; then
        rm -rf "$VENV"
        "$python" -m venv "$VENV" >>"$LOG" 2>&1 || stop "the Python environment could not be made; see $LOG"
    fi
    "$VENV/bin/python" -m pip install -q --disable-pip-version-check --no-deps -r "$pins" >>"$LOG" 2>&1 ||
        stop "the Python packages could not be fetched; is there a network? See $LOG"
    "$VENV/bin/python" -m pip install -q --disable-pip-version-check --no-deps --no-build-isolation -e "$FENMIST_HOME" >>"$LOG" 2>&1 ||
        stop "Fenmist could not be installed into its environment; see $LOG"
    printf '%s' "$stamp" >"$VENV/ready-$kind"
    [ "$kind" = run ] || stamp_of "$FENMIST_HOME/requirements.txt" >"$VENV/ready-run" # what tests need is more
}
