# Sourced by ./fox-hand, ./test and scripts/python: makes the Python environment from the lock files
# and looks for the system libraries. Everything needed is named here, so a fresh clone needs only
# git and Python 3.11.

say() { printf 'fox-hand: %s\n' "$*" >&2; }

# where the environment lies; FOX_HAND_ENV puts it elsewhere, for clones that cannot be written
env_dir=${FOX_HAND_ENV:-$root/.venv}

# soname (or file to look for) and the Debian package that brings it
need_always="libGL.so.1:libgl1 libEGL.so.1:libegl1 libEGL_mesa.so.0:libegl-mesa0 libxkbcommon.so.0:libxkbcommon0 libglib-2.0.so.0:libglib2.0-0 libdbus-1.so.3:libdbus-1-3 libfontconfig.so.1:libfontconfig1"
need_window="libxcb-cursor.so.0:libxcb-cursor0 libxkbcommon-x11.so.0:libxkbcommon-x11-0 libxcb-icccm.so.4:libxcb-icccm4 libxcb-keysyms.so.1:libxcb-keysyms1 libxcb-image.so.0:libxcb-image0 libxcb-render-util.so.0:libxcb-render-util0 libxcb-shape.so.0:libxcb-shape0 libwayland-cursor.so.0:libwayland-cursor0"

libraries=$({ ldconfig -p || /sbin/ldconfig -p; } 2>/dev/null) # asked once: it is asked at every start

has_library() { # soname
    case "$libraries" in *[[:space:]]"$1 "*) ;; *) return 1 ;; esac
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

lock_tries=120 # times 5 seconds: ten minutes

apt() { # words for apt-get; waits while another program holds its locks
    local said try=0
    while :; do
        said=$(LC_ALL=C DEBIAN_FRONTEND=noninteractive apt-get -qq -o DPkg::Lock::Timeout=600 "$@" 2>&1 >/dev/null) && return 0
        case $said in *"Could not get lock"* | *"Unable to acquire the dpkg"* | *"Unable to lock directory"*) ;; *) break ;; esac
        [ "$try" -gt 0 ] || say "another program is installing packages at this moment; waiting for it, ten minutes at most."
        try=$((try + 1))
        [ "$try" -lt "$lock_tries" ] || break
        sleep "${lock_pause:-5}"
    done
    printf '%s\n' "$said" >&2
    return 1
}

install_or_name() { # packages
    if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
        say "installing $*"
        apt update && apt install -y --no-install-recommends "$@" && return 0
        say "apt-get could not install them; what it says stands above."
        return 1
    fi
    say "something is missing on this machine. This line installs it; then start again:"
    printf '\n    sudo apt-get update && sudo apt-get install -y %s\n\n' "$*" >&2
    return 1
}

ensure_system() { # "window" where a window will be opened, "screen" for the virtual screen of the tests
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
    [ -z "$missing" ] || { install_or_name $missing && libraries=$(ldconfig -p 2>/dev/null); }
}

fits() { # python: whether it is one that the lock files know
    "$1" -c 'import sys; sys.exit(not (3, 11) <= sys.version_info[:2] <= (3, 13))' 2>/dev/null
}

find_python() {
    local candidate
    for candidate in "${PYTHON:-}" python3.11 python3 python3.12 python3.13; do
        [ -n "$candidate" ] && command -v "$candidate" >/dev/null || continue
        if fits "$candidate"; then command -v "$candidate"; return 0; fi
    done
    return 1
}

ensure_python() {
    local other
    if ! python=$(find_python); then
        if other=$(command -v python3); then
            say "Python 3.11, 3.12 or 3.13 is needed; python3 here is $("$other" -c 'import platform; print(platform.python_version())' 2>/dev/null || echo another). Install one of them beside it and name it: PYTHON=/path/to/python3.11 ./fox-hand"
            return 1
        fi
        install_or_name python3 python3-venv || return 1
        python=$(find_python) || { say "Python 3.11, 3.12 or 3.13 is needed, and this system's packages have another one. Name one: PYTHON=/path/to/python3.11 ./fox-hand"; return 1; }
    fi
    "$python" -c 'import venv, ensurepip' 2>/dev/null || install_or_name python3-venv
}

can_write() { # folder: whether the environment can be made in it
    mkdir -p "$1" 2>/dev/null && [ -w "$1" ] && : 2>/dev/null >"$1/.fox-hand-try" && rm -f "$1/.fox-hand-try"
}

ensure_place() {
    can_write "$(dirname "$env_dir")" && return 0
    say "the Python environment cannot be made in $(dirname "$env_dir"): that folder cannot be written. Say where it may lie, for instance: FOX_HAND_ENV=~/.local/share/fox-hand-env ./fox-hand"
    return 1
}

packages_there() { printf '%s\n' "$env_dir"/lib/python3.*/site-packages/*.dist-info/RECORD | wc -l; }

is_ready() { # stamp: this lock was installed whole, and nothing has gone since
    local found count
    [ -x "$env_dir/bin/python" ] && [ -f "$env_dir/fox-hand-stamp" ] || return 1
    found=$(grep -F "$1 = " "$env_dir/fox-hand-stamp") || return 1
    count=${found##* = }
    [ "$(packages_there)" -ge "$count" ] && return 0
    say "some packages have gone from $env_dir; they are installed again."
    again=--force-reinstall
    return 1
}

is_sound() { # the environment's interpreter is there and still one that fits
    [ ! -e "$env_dir" ] && [ ! -L "$env_dir" ] && return 0
    [ -x "$env_dir/bin/python" ] && fits "$env_dir/bin/python"
}

make_environment() {
    ensure_python || return 1
    ensure_place || return 1
    say "making the Python environment in $env_dir (once)"
    # moving keeps the interpreter link valid; scripts in bin/ are called through python -m
    rm -rf "$env_dir.new"
    "$python" -m venv "$env_dir.new" && mv "$env_dir.new" "$env_dir" && return 0
    rm -rf "$env_dir.new"
    say "it could not be made; what Python says stands above."
    return 1
}

fetched_by() { # lock file: what is fetched and what it takes on disk, as measured for x86-64
    case $1 in
    requirements.lock) echo "about 145 MB are fetched and 550 MB used" ;;
    requirements-usd.lock) echo "about 175 MB are fetched and 760 MB used" ;;
    requirements-dev.lock) echo "about 225 MB are fetched and 950 MB used" ;;
    *) echo "some 100 MB are fetched" ;;
    esac
}

show_progress() { # number of packages; reads what pip says
    awk -v all="$1" -v tty="$([ -t 2 ] && echo 1)" '
        /^(Collecting|Requirement already)/ {
            name = $1 == "Collecting" ? $2 : $4; sub(/[=<>!].*/, "", name); n++
            line = sprintf("fox-hand: %d of %d: %s", n, all, name)
            if (tty) printf "\r%-60s", line; else if (n % 10 == 0 || n == all) print line
            fflush()
        }
        /Retrying/ && !told { told = 1; print "fox-hand: the package index does not answer; trying again"; fflush() }
        /^Installing collected/ {
            if (tty) printf "\r%-60s\n", ""
            print "fox-hand: putting them in place"; fflush()
        }' >&2
}

pip_said_why() { # log of pip: the reason in a sentence
    if grep -qiE 'no space left|disk quota' "$1"; then
        echo "there is no room left for them"
    elif grep -qiE 'name resolution|connection|timed out|unreachable|proxy|ssl' "$1" && ! grep -qi 'do not match the hashes' "$1"; then
        echo "the package index cannot be reached"
    elif grep -qi 'do not match the hashes' "$1"; then
        echo "a package that came is not the one that was asked for (its checksum differs), so it was not installed"
    elif grep -qi 'permission denied' "$1"; then
        echo "$env_dir cannot be written"
    elif grep -qi 'no matching distribution\|from versions: none' "$1"; then
        echo "the package index cannot be reached, or does not have all of them for this machine and Python"
    else
        echo "pip ended with an error"
    fi
}

stamp_of() { printf '%s %s' "$(cksum <"$root/$1")" "$1"; } # lock file

standing_stamps() { # lines about the lock files as they are now: all of them name the same versions
    local lock
    [ -f "$env_dir/fox-hand-stamp" ] && [ -z "${again:-}" ] || return 0
    for lock in "$root"/requirements*.lock; do
        grep -F "$(stamp_of "$(basename "$lock")") = " "$env_dir/fox-hand-stamp"
    done
}

install_packages() { # lock file
    local log count kept
    kept=$(standing_stamps)
    log=$(mktemp -t fox-hand-pip-XXXXXX.log) || { say "no temporary file can be made: the disk may be full."; return 1; }
    count=$(grep -c '==' "$root/$1")
    say "installing $count packages: $(fetched_by "$1")"
    rm -f "$env_dir/fox-hand-stamp" # from here on nothing is known to be whole
    if "$env_dir/bin/python" -I -m pip install ${again:-} --disable-pip-version-check --no-deps --require-hashes --progress-bar off -r "$root/$1" 2>&1 | tee "$log" | show_progress "$count" && [ "${PIPESTATUS[0]}" = 0 ]; then
        rm -f "$log"
        [ -z "$kept" ] || printf '%s\n' "$kept" >"$env_dir/fox-hand-stamp"
        return 0
    fi
    say "the Python packages could not be installed: $(pip_said_why "$log"). Nothing was changed outside $env_dir. Start again when that is mended; all pip said is in $log."
    return 1
}

ensure_environment() { # lock file
    local stamp again=""
    stamp=$(stamp_of "$1")
    rm -f "$env_dir"/lib/python3.*/site-packages/fox_hand_source.pth 2>/dev/null # of earlier versions: a moved clone found the old one
    is_ready "$stamp" && is_sound && return 0
    if ! is_sound; then
        say "the Python that $env_dir was made with has gone or changed; it is made anew."
        ensure_python && ensure_place || return 1
        rm -rf "$env_dir" || return 1
    fi
    [ -x "$env_dir/bin/python" ] || make_environment || return 1
    install_packages "$1" || return 1
    printf '%s = %s\n' "$stamp" "$(packages_there)" >>"$env_dir/fox-hand-stamp"
}
