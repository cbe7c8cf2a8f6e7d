# Sourced by ./fox-hand and ./test: makes .venv from the lock files and looks for the system
# libraries. Everything it needs is named here, so a fresh clone needs only git and Python 3.11.

say() { printf 'fox-hand: %s\n' "$*" >&2; }

# soname (or file to look for) and the Debian package that brings it
need_always="libGL.so.1:libgl1 libEGL.so.1:libegl1 libEGL_mesa.so.0:libegl-mesa0 libxkbcommon.so.0:libxkbcommon0 libglib-2.0.so.0:libglib2.0-0 libdbus-1.so.3:libdbus-1-3 libfontconfig.so.1:libfontconfig1"
need_window="libxcb-cursor.so.0:libxcb-cursor0 libxkbcommon-x11.so.0:libxkbcommon-x11-0 libxcb-icccm.so.4:libxcb-icccm4 libxcb-keysyms.so.1:libxcb-keysyms1 libxcb-image.so.0:libxcb-image0 libxcb-render-util.so.0:libxcb-render-util0 libxcb-shape.so.0:libxcb-shape0"

has_library() {
    { ldconfig -p 2>/dev/null || /sbin/ldconfig -p 2>/dev/null; } | grep -q "^[[:space:]]*$1 "
}

# where drivers lie, as shell patterns; any one of them is enough
gl_drivers="/usr/lib/*/dri/*_dri.so /usr/lib/dri/*_dri.so /usr/lib/*/libgallium*.so"

has_software_gl() {
    local pattern
    set -f # the patterns are tried one by one
    for pattern in $gl_drivers; do
        if compgen -G "$pattern" >/dev/null; then set +f; return 0; fi
    done
    set +f
    return 1
}

install_or_name() { # packages
    if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
        say "installing $*"
        apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$@" >/dev/null && return 0
        say "apt-get could not install them."
    fi
    say "something is missing on this machine. This line installs it; then start again:"
    printf '\n    sudo apt-get update && sudo apt-get install -y %s\n\n' "$*" >&2
    return 1
}

ensure_system() { # "window" where an X11 window will be opened, "screen" for the virtual screen of the tests
    local wanted="$need_always" missing="" pair
    case " $* " in *" window "*) wanted="$wanted $need_window" ;; esac
    for pair in $wanted; do
        has_library "${pair%%:*}" || missing="$missing ${pair#*:}"
    done
    has_software_gl || missing="$missing libgl1-mesa-dri"
    case " $* " in *" screen "*)
        command -v Xvfb >/dev/null || missing="$missing xvfb"
        command -v xauth >/dev/null || missing="$missing xauth"
        ;;
    esac
    [ -z "$missing" ] || install_or_name $missing
}

find_python() {
    local candidate
    for candidate in "${PYTHON:-}" python3.11 python3 python3.12 python3.13; do
        [ -n "$candidate" ] && command -v "$candidate" >/dev/null || continue
        if "$candidate" -c 'import sys; sys.exit(not (3, 11) <= sys.version_info[:2] <= (3, 13))' 2>/dev/null; then
            command -v "$candidate"
            return 0
        fi
    done
    return 1
}

ensure_python() {
    python=$(find_python) || {
        install_or_name python3 python3-venv || return 1
        python=$(find_python) || { say "Python 3.11, 3.12 or 3.13 is needed."; return 1; }
    }
    "$python" -c 'import venv, ensurepip' 2>/dev/null || install_or_name python3-venv
}

ensure_environment() { # lock file
    local lock="$root/$1" stamp
    stamp="$(cksum <"$lock") $1"
    [ -f "$root/.venv/fox-hand-stamp" ] && grep -qxF "$stamp" "$root/.venv/fox-hand-stamp" && return 0
    ensure_python || return 1
    if [ ! -x "$root/.venv/bin/python" ]; then
        say "making the Python environment in .venv (once)"
        "$python" -m venv "$root/.venv.new" && mv "$root/.venv.new" "$root/.venv" || { rm -rf "$root/.venv.new"; return 1; }
        # moving keeps the interpreter link valid; scripts in bin/ are called through python -m
    fi
    say "installing what $1 names (a few minutes at the first time)"
    "$root/.venv/bin/python" -m pip install --quiet --disable-pip-version-check --no-deps --require-hashes -r "$lock" || {
        say "the Python packages could not be installed. Nothing was changed outside .venv; start again when the package index can be reached."
        return 1
    }
    printf '%s\n' "$root/src" >"$("$root/.venv/bin/python" -c 'import sysconfig; print(sysconfig.get_path("purelib"))')/fox_hand_source.pth"
    printf '%s\n' "$stamp" >>"$root/.venv/fox-hand-stamp"
}
