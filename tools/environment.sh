# Sourced by ./demo and ./test: makes .venv from a lock and checks the system libraries Qt needs.
# Sets PYTHON to the environment's interpreter. Takes one argument: run or dev, which lock to use.
set -euo pipefail

say() { printf '%s\n' "nafas: $*"; }

# Installs Debian/Ubuntu packages as root, or stops with the exact command to type.
need_packages() {
    if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
        say "installing system packages: $*"
        apt-get update -qq >/dev/null 2>&1 || true
        DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$@" >/dev/null
    else
        say "these system packages are missing. Install them, then run this again:"
        printf '    sudo apt-get install -y %s\n' "$*"
        exit 1
    fi
}

find_python() {
    local candidate
    for candidate in ${NAFAS_PYTHON:-} python3 python3.13 python3.12 python3.11; do
        if "$candidate" -c 'import sys; raise SystemExit(sys.version_info < (3, 11))' 2>/dev/null; then
            command -v "$candidate"
            return
        fi
    done
    return 1
}

# Runs one quiet step and shows its output only when it fails.
quietly() {
    local log
    log=$(mktemp)
    if ! "$@" >"$log" 2>&1; then
        cat "$log" >&2
        rm -f "$log"
        return 1
    fi
    rm -f "$log"
}

make_environment() {
    local kind=$1 base stamp want
    base=$(find_python) || { need_packages python3 python3-venv; base=$(find_python) || {
        say "Python 3.11 or newer is needed; this machine has $(python3 --version 2>&1)."; exit 1; }; }
    want=$( { cat "requirements/$kind.lock" pyproject.toml setup.py src/nafas/native/kernel.c; "$base" --version; pwd; } | sha256sum | cut -d' ' -f1)
    stamp=.venv/nafas-$kind.stamp
    PYTHON=$PWD/.venv/bin/python
    if [ -x "$PYTHON" ] && [ "$(cat "$stamp" 2>/dev/null)" = "$want" ]; then return; fi
    "$base" -c 'import ensurepip, venv' 2>/dev/null ||
        need_packages "python$("$base" -c 'import sys; print("%d.%d" % sys.version_info[:2])')-venv"
    say "making the environment in .venv (the first time takes a minute or two)"
    if ! [ -x "$PYTHON" ] || ! "$PYTHON" -c 'import pip' 2>/dev/null; then
        rm -rf .venv
        quietly "$base" -m venv .venv
    fi
    quietly "$PYTHON" -m pip install --disable-pip-version-check --require-hashes -r "requirements/$kind.lock"
    find_compiler
    quietly "$PYTHON" -m pip install --disable-pip-version-check --no-build-isolation --no-deps -e .
    rm -rf .venv/compiler
    "$PYTHON" tools/trim.py "$("$PYTHON" -c 'import sysconfig; print(sysconfig.get_path("purelib"))')" --environment >/dev/null
    "$PYTHON" -c 'from nafas import native; raise SystemExit(not native.available())' ||
        say "the compiled loops could not be built; NumPy does their work, slower"
    printf '%s' "$want" >"$stamp"
}

# The inner loops are compiled once. Where there is no C compiler, one that comes as a package does it, and goes again.
find_compiler() {
    local candidate
    for candidate in ${CC:-} cc gcc clang; do
        if command -v "${candidate%% *}" >/dev/null; then return; fi
    done
    say "there is no C compiler here: taking one for this once"
    quietly "$PYTHON" -m pip install --disable-pip-version-check --require-hashes --no-deps \
        --target .venv/compiler -r requirements/compiler.lock || return 0
    export PYTHONPATH="$PWD/.venv/compiler${PYTHONPATH:+:$PYTHONPATH}" CC="$PYTHON -m ziglang cc"
    export LDSHARED="$CC -shared"  # the linker's own words of the system's Python are not all known to it
}

# Qt's platform and sound plugins link to a few system libraries that no wheel carries.
check_qt_libraries() {
    local stamp=.venv/nafas-qt.stamp
    [ -e "$stamp" ] && [ "$stamp" -nt requirements/run.lock ] && return
    if ! "$PYTHON" tools/qt_libraries.py >/dev/null; then
        # shellcheck disable=SC2046
        need_packages $("$PYTHON" tools/qt_libraries.py --packages)
        "$PYTHON" tools/qt_libraries.py || { say "Qt still misses the libraries above."; exit 1; }
    fi
    touch "$stamp"
}

# Two runs at once must not build one environment.
exec 9>.environment.lock
if command -v flock >/dev/null; then flock 9; fi
make_environment "$1"
check_qt_libraries
# Tests read our files by a program of others.
if [ "$1" = dev ]; then
    missing=()
    command -v ffprobe >/dev/null || missing+=(ffmpeg)
    command -v pdftotext >/dev/null || missing+=(poppler-utils)
    if [ ${#missing[@]} -gt 0 ]; then need_packages "${missing[@]}"; fi
fi
exec 9>&-
