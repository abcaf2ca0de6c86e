# Sourced by the scripts beside it: makes the virtual environment and looks after system libraries.
# Needs $root, the project's folder. Safe to run again: what is there is left alone.

say() { printf '%s\n' "tonleiter: $*" >&2; }

# Libraries that Qt loads at run time, by Debian package. A screen needs the second list too.
QT_PACKAGES="libegl1 libgl1 libglib2.0-0 libdbus-1-3 libfontconfig1 libxkbcommon0"
SCREEN_PACKAGES="libxkbcommon-x11-0 libxcb-cursor0 libxcb-icccm4 libxcb-image0 libxcb-keysyms1 libxcb-render-util0 libxcb-shape0 libxcb-xkb1"

# Sound out and in; the server is for tests, which start one of their own without any hardware.
SOUND_PACKAGES="libpulse0"
TEST_PACKAGES="pulseaudio"

# What builds, checks and tries the packages for users.
PACKAGE_PACKAGES="lintian desktop-file-utils appstream shared-mime-info man-db xvfb xdotool"

missing_packages() {
    for package in "$@"; do
        # newer Debian releases append t64 to some names
        dpkg -s "$package" >/dev/null 2>&1 || dpkg -s "${package}t64" >/dev/null 2>&1 ||
            printf '%s ' "$package"
    done
}

system_libraries() {
    if ! command -v dpkg >/dev/null 2>&1; then
        say "this is no Debian system; Qt needs the libraries of: $*"
        return 0
    fi
    missing=$(missing_packages "$@")
    [ -z "$missing" ] && return 0
    if [ "$(id -u)" -eq 0 ]; then
        say "installing system libraries: $missing"
        apt-get update -qq >&2
        # shellcheck disable=SC2086
        DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $missing >&2
    else
        say "these system libraries are missing; install them and run this again:"
        say "  sudo apt-get install --no-install-recommends $missing"
        exit 1
    fi
}

find_python() {
    for candidate in python3.11 python3.12 python3.13 python3; do
        if command -v "$candidate" >/dev/null 2>&1 &&
            "$candidate" -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; then
            printf '%s' "$candidate"
            return 0
        fi
    done
    say "Python 3.11 or newer is missing: sudo apt-get install python3 python3-venv"
    exit 1
}

virtual_environment() {
    venv="$root/.venv"
    stamp="$venv/.tonleiter-installed"
    wanted=$(cat "$root/pyproject.toml" "$root/constraints.txt" | cksum)
    if [ ! -x "$venv/bin/python" ]; then
        say "making the virtual environment in .venv"
        found=$(find_python) || exit 1
        if ! "$found" -m venv "$venv"; then
            say "the module venv is missing: sudo apt-get install python3-venv"
            exit 1
        fi
    fi
    if [ "$(cat "$stamp" 2>/dev/null)" != "$wanted" ]; then
        say "installing Python packages (pinned in pyproject.toml and constraints.txt)"
        "$venv/bin/python" -m pip install --quiet --disable-pip-version-check \
            --constraint "$root/constraints.txt" --editable "$root[dev,audio]" >&2
        printf '%s' "$wanted" >"$stamp"
    fi
}
