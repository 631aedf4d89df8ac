# What ./start, ./test and .ci/run share: setting up what is missing. Sourced, not run.
# Everything that is made here lies in .venv, web/node_modules, web/dist and .hame.

set -euo pipefail
ROOT="$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)"
cd "$ROOT"
VAR="${HAME_VAR:-$ROOT/.hame}"
mkdir -p "$VAR"

say() { printf '%s\n' "$*"; }

# Debian packages: each with a file that shows it is there.
need_packages() {
    local missing=()
    [ -x /usr/sbin/mariadbd ] || missing+=(mariadb-server)
    [ -x /usr/bin/mariadb ] || missing+=(mariadb-client)
    command -v mariadb_config >/dev/null || missing+=(libmariadb-dev)
    command -v pkg-config >/dev/null || missing+=(pkg-config)
    command -v cc >/dev/null || missing+=(build-essential)
    command -v python3 >/dev/null || missing+=(python3)
    python3 -c 'import ensurepip, sysconfig, os, sys; sys.exit(not os.path.exists(sysconfig.get_path("include") + "/Python.h"))' 2>/dev/null || missing+=(python3-venv python3-dev)
    if ! command -v node >/dev/null; then missing+=(nodejs npm); elif ! command -v npm >/dev/null; then missing+=(npm); fi
    if [ "${1:-}" = browser ]; then
        command -v chromium >/dev/null || missing+=(chromium)
        command -v redis-server >/dev/null || missing+=(redis-server)
    fi
    [ ${#missing[@]} -eq 0 ] && return 0
    local as=()
    if [ "$(id -u)" != 0 ]; then
        if command -v sudo >/dev/null && { sudo -n true 2>/dev/null || [ -t 0 ]; }; then as=(sudo); else
            say "These Debian packages are missing, and installing them takes root: ${missing[*]}"
            say "Ask for:  apt-get install ${missing[*]}"
            exit 1
        fi
    fi
    say "Installing Debian packages: ${missing[*]}"
    # Another package manager may be at work: its lock is waited for.
    local waiting=(-o DPkg::Lock::Timeout=600 -o Acquire::Retries=3)
    local tries=0
    until "${as[@]}" apt-get "${waiting[@]}" update -qq 2>"$VAR/apt.log"; do
        tries=$((tries + 1))
        if [ $tries -ge 60 ] || ! grep -qi lock "$VAR/apt.log"; then tail -20 "$VAR/apt.log"; exit 1; fi
        sleep 5
    done
    # The packaged database server would start a service of its own; Hame starts its own instead.
    printf '#!/bin/sh\nexit 101\n' >"$VAR/policy-rc.d" && chmod +x "$VAR/policy-rc.d"
    local policy=/usr/sbin/policy-rc.d laid=""
    if [ ! -e "$policy" ]; then "${as[@]}" cp "$VAR/policy-rc.d" "$policy" && laid=yes; fi
    "${as[@]}" env DEBIAN_FRONTEND=noninteractive apt-get "${waiting[@]}" install -y -qq --no-install-recommends "${missing[@]}" >"$VAR/apt.log" 2>&1 ||
        { tail -20 "$VAR/apt.log"; exit 1; }
    [ -z "$laid" ] || "${as[@]}" rm -f "$policy"
}

# Python packages, anew when the lists change. $1: run or dev
need_python() {
    local want stamp="$ROOT/.venv/.hame-$1"
    want="$(cat requirements/*.txt | sha256sum)"
    [ -x .venv/bin/python ] || { say "Making .venv"; python3 -m venv .venv; }
    if [ "$(cat "$stamp" 2>/dev/null)" != "$want" ]; then
        say "Installing Python packages ($1)"
        .venv/bin/pip install -q --disable-pip-version-check -r "requirements/$1.txt" -c requirements/constraints.txt 2> >(grep -v WARNING >&2)
        printf '%s' "$want" >"$stamp"
    fi
}

# Compiled kernels are kept beside their files (or in NUMBA_CACHE_DIR), each until its own file changes. One that was built
# into another is not seen to have changed: so all of them go when any does.
drop_old_kernels() {
    local want stamp="${NUMBA_CACHE_DIR:-hame/__pycache__}/kernels"
    want="$(grep -rl --include='*.py' njit hame | LC_ALL=C sort | xargs sha256sum | sha256sum)"
    if [ "$(cat "$stamp" 2>/dev/null)" != "$want" ]; then
        find "${NUMBA_CACHE_DIR:-hame}" -name '*.nb[ic]' -delete 2>/dev/null || true
        rm -f "$VAR/compiled"
        mkdir -p "$(dirname "$stamp")"
        printf '%s' "$want" >"$stamp"
    fi
}

# The packages of the front end, anew when their list changes.
need_node() {
    local want stamp=web/node_modules/.hame
    want="$(sha256sum <web/package-lock.json)"
    if [ "$(cat "$stamp" 2>/dev/null)" != "$want" ]; then
        say "Installing the front end's packages"
        (cd web && npm ci --no-audit --no-fund --loglevel=error >"$VAR/npm.log" 2>&1) || { tail -20 "$VAR/npm.log"; exit 1; }
        printf '%s' "$want" >"$stamp"
    fi
}

# Compiles the kernels once and keeps them on disk, so that nobody waits for it at the first drag.
need_kernels() {
    local want; want="$(find hame -name '*.py' | LC_ALL=C sort | xargs sha256sum | sha256sum)"
    drop_old_kernels
    if [ "$(cat "$VAR/compiled" 2>/dev/null)" != "$want" ]; then
        say "Compiling the kernels"
        .venv/bin/python -m hame warm || { say "Compiling the kernels failed; see the lines above."; exit 1; }
        printf '%s' "$want" >"$VAR/compiled"
    fi
}

# The front end, built anew when its sources change. It is compressed by a Python package: in need_all, which has both.
build_web() {
    local want
    want="$(cd web && find src public index.html vite.config.ts package-lock.json -type f 2>/dev/null | LC_ALL=C sort | xargs sha256sum | sha256sum)"
    if [ "$(cat web/dist/.built 2>/dev/null)" != "$want" ]; then
        say "Building the front end"
        (cd web && npm run --silent build >"$VAR/build.log" 2>&1) || { tail -30 "$VAR/build.log"; exit 1; }
        printf '%s' "$want" >"$VAR/built"
    fi
}

# All that is installed, compiled and built, the front end beside the server. $1: run or dev
need_all() {
    (need_node && build_web) & local front=$!
    trap "kill $front 2>/dev/null || true" EXIT # which was begun here and is waited for nowhere else
    need_python "$1"
    need_kernels
    wait "$front"
    trap - EXIT
    if [ -e "$VAR/built" ]; then
        .venv/bin/python -m whitenoise.compress -q web/dist
        mv "$VAR/built" web/dist/.built
    fi
}

free_port() { python3 -c 'import socket; s=socket.socket(); s.bind(("127.0.0.1",0)); print(s.getsockname()[1])'; }

# Whether the database of $1 runs.
database_runs() {
    local dir="$VAR/$1" pid
    pid="$(cat "$dir/hame.pid" 2>/dev/null || true)"
    [ -n "$pid" ] && [ -e "/proc/$pid" ] && tr '\0' ' ' <"/proc/$pid/cmdline" 2>/dev/null | grep -qF -- "--datadir=$dir"
}

# MariaDB on loopback with its data in $VAR/$1; sets HAME_DB_*. It is left running by a killed server and found again.
start_database() {
    local name="$1" dir="$VAR/$1" run="${TMPDIR:-/tmp}/hame-$(printf '%s' "$VAR/$1" | sha256sum | cut -c1-12)"
    mkdir -p "$dir" "$run"
    [ -f "$VAR/db-password" ] || (umask 077 && head -c 24 /dev/urandom | base64 | tr -d '/+=\n' >"$VAR/db-password")
    HAME_DB_PASSWORD="$(cat "$VAR/db-password")"
    local user; user="$(id -un)"
    if [ ! -d "$dir/mysql" ]; then
        say "Preparing the database"
        mariadb-install-db --no-defaults --datadir="$dir" --user="$user" --auth-root-authentication-method=normal --skip-test-db >"$VAR/$name-install.log" 2>&1 ||
            { tail "$VAR/$name-install.log"; exit 1; }
    fi
    if database_runs "$name"; then
        HAME_DB_PORT="$(cat "$dir/hame.port")"
    else
        HAME_DB_PORT="${HAME_DB_PORT:-$(free_port)}" # one that is begun again keeps its port
        printf '%s' "$HAME_DB_PORT" >"$dir/hame.port"
        cat >"$dir/hame-init.sql" <<SQL
CREATE DATABASE IF NOT EXISTS hame CHARACTER SET utf8mb4;
CREATE USER IF NOT EXISTS 'hame'@'127.0.0.1' IDENTIFIED BY '$HAME_DB_PASSWORD';
ALTER USER 'hame'@'127.0.0.1' IDENTIFIED BY '$HAME_DB_PASSWORD';
GRANT ALL ON \`hame\`.* TO 'hame'@'127.0.0.1';
GRANT ALL ON \`test\_hame%\`.* TO 'hame'@'127.0.0.1';
ALTER USER 'root'@'localhost' IDENTIFIED VIA unix_socket;
SQL
        chmod 600 "$dir/hame-init.sql"
        setsid /usr/sbin/mariadbd --no-defaults --user="$user" --datadir="$dir" --socket="$run/db.sock" --port="$HAME_DB_PORT" \
            --bind-address=127.0.0.1 --skip-name-resolve --pid-file="$dir/hame.pid" --init-file="$dir/hame-init.sql" \
            --character-set-server=utf8mb4 --max-allowed-packet=64M ${2:-} >"$VAR/$name.log" 2>&1 </dev/null &
    fi
    export HAME_DB_PORT HAME_DB_PASSWORD
    local tries=0
    until mariadb --no-defaults -h127.0.0.1 -P"$HAME_DB_PORT" -uhame -p"$HAME_DB_PASSWORD" hame -e 'SELECT 1' >/dev/null 2>&1; do
        tries=$((tries + 1))
        [ $tries -lt 300 ] || { say "MariaDB did not start:"; tail -5 "$VAR/$name.log"; exit 1; }
        sleep 0.1
    done
}

stop_database() {
    local pid; pid="$(cat "$VAR/$1/hame.pid" 2>/dev/null || true)"
    [ -n "$pid" ] || return 0
    kill "$pid" 2>/dev/null || return 0
    local tries=0
    while [ -e "/proc/$pid" ] && [ $tries -lt 150 ]; do sleep 0.1; tries=$((tries + 1)); done
}
