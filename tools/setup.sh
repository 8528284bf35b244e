# Sourced by ./run and ./test: one virtual environment, made once and renewed when pyproject.toml changes.

avelt_setup() {
    local here="$1" purpose="$2" python="" stamp sum
    for candidate in python3.11 python3.12 python3.13 python3; do
        if command -v "$candidate" >/dev/null 2>&1 &&
            "$candidate" -c 'import sys; sys.exit(not ((3, 11) <= sys.version_info[:2] <= (3, 13)))' 2>/dev/null; then
            python="$candidate"
            break
        fi
    done
    if [ -z "$python" ]; then
        echo "Avelt needs Python 3.11, 3.12 or 3.13:  sudo apt-get install python3 python3-venv" >&2
        exit 1
    fi
    avelt_system_packages "$purpose"
    stamp="$here/.venv/avelt-setup"
    sum="$("$python" -c 'import hashlib,sys;print(hashlib.sha256(open(sys.argv[1],"rb").read()).hexdigest())' "$here/pyproject.toml") $("$python" -V)"
    AVELT_PYTHON="$here/.venv/bin/python"
    if [ ! -x "$AVELT_PYTHON" ] || [ "$(cat "$stamp" 2>/dev/null)" != "$sum" ]; then
        echo "Setting up (once, a minute or two) ..."
        "$python" -m venv "$here/.venv" || {
            echo "Python cannot make a virtual environment here:  sudo apt-get install python3-venv" >&2
            exit 1
        }
        "$AVELT_PYTHON" -m pip install --quiet --disable-pip-version-check -e "$here[dev]"
        printf '%s' "$sum" >"$stamp"
    fi
    export AVELT_PYTHON
}

# Qt's window plug-in for X11 loads these from the system; nothing else has to be there.
avelt_system_packages() {
    local missing=() entry library
    for entry in libEGL.so.1=libegl1 libGL.so.1=libgl1 libxkbcommon.so.0=libxkbcommon0 \
        libdbus-1.so.3=libdbus-1-3 libfontconfig.so.1=libfontconfig1 libglib-2.0.so.0=libglib2.0-0 \
        libxkbcommon-x11.so.0=libxkbcommon-x11-0 libxcb-cursor.so.0=libxcb-cursor0 \
        libxcb-icccm.so.4=libxcb-icccm4 libxcb-keysyms.so.1=libxcb-keysyms1 \
        libxcb-image.so.0=libxcb-image0 libxcb-render-util.so.0=libxcb-render-util0 \
        libxcb-shape.so.0=libxcb-shape0 libxcb-xkb.so.1=libxcb-xkb1; do
        library="${entry%%=*}"
        if ! avelt_has_library "$library"; then missing+=("${entry##*=}"); fi
    done
    # Tests drive a real window with real keys and a real mouse, and look at deliveries in two browser engines; those
    # that need what is missing are skipped and named.
    if [ "$1" = test ]; then
        for entry in Xvfb=xvfb openbox=openbox xdotool=xdotool chromium=chromium; do
            if ! command -v "${entry%%=*}" >/dev/null 2>&1; then missing+=("${entry##*=}"); fi
        done
        if ! command -v firefox-esr >/dev/null 2>&1 && ! command -v firefox >/dev/null 2>&1; then missing+=(firefox-esr); fi
    fi
    [ "${#missing[@]}" -eq 0 ] && return 0
    if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
        echo "Installing system packages: ${missing[*]}"
        if { apt-get update && apt-get install -y --no-install-recommends "${missing[@]}"; } >/dev/null 2>&1; then
            return 0
        fi
    fi
    echo "System packages are missing. Install them with:" >&2
    echo "  sudo apt-get install ${missing[*]}" >&2
    # Without a display nearly all of them can be done without: go on, Qt says so itself if it cannot start.
    return 0
}

avelt_has_library() {
    { ldconfig -p 2>/dev/null || /sbin/ldconfig -p 2>/dev/null; } | grep -qF "$1" && return 0
    compgen -G "/usr/lib/*/$1" >/dev/null || compgen -G "/lib/*/$1" >/dev/null
}
