# Shared by bin/demo and bin/test: words for people, packages, processes. Sourced, never run.
ROOT=$(cd "$(dirname "${BASH_SOURCE[0]}")/../.." && pwd)
export PATH="$PATH:/usr/sbin:/sbin"

say() { printf '%s\n' "$*" >&2; }
fail() { printf '%s: %s\n' "$(basename "$0")" "$*" >&2; exit 1; }

# need_packages PACKAGE...: installs the Debian packages that are missing, as root or through sudo.
need_packages() {
    local missing=() name
    for name in "$@"; do
        [ "$(dpkg-query -W -f '${db:Status-Status}' "$name" 2>/dev/null)" = installed ] || missing+=("$name")
    done
    [ ${#missing[@]} -eq 0 ] && return 0
    local as=()
    if [ "$(id -u)" -ne 0 ]; then
        if command -v sudo >/dev/null && sudo -n true 2>/dev/null; then
            as=(sudo -n)
        else
            fail "these packages are missing: ${missing[*]}. Install them as root: apt-get install --no-install-recommends ${missing[*]}"
        fi
    fi
    say "Installing: ${missing[*]}"
    local log
    log=$(mktemp)
    # Nothing that a package brings is started as a system service: everything here runs in its own folder.
    local policy=/usr/sbin/policy-rc.d made=
    if [ ! -e $policy ]; then
        printf '#!/bin/sh\nexit 101\n' | "${as[@]}" tee $policy >/dev/null && "${as[@]}" chmod 755 $policy && made=yes
    fi
    echo 'slapd slapd/no_configuration boolean true' | "${as[@]}" debconf-set-selections
    local apt=("${as[@]}" env DEBIAN_FRONTEND=noninteractive apt-get -q -o DPkg::Lock::Timeout=300)
    if ! { "${apt[@]}" install -y --no-install-recommends "${missing[@]}" >"$log" 2>&1 ||
        { "${apt[@]}" update >"$log" 2>&1 &&
            "${apt[@]}" install -y --no-install-recommends "${missing[@]}" >>"$log" 2>&1; }; }; then
        [ -n "$made" ] && "${as[@]}" rm -f $policy
        tail -3 "$log" >&2
        fail "the packages could not be installed; the whole output is in $log"
    fi
    [ -n "$made" ] && "${as[@]}" rm -f $policy
    rm -f "$log"
}

need_tools() {
    local version
    command -v java >/dev/null || fail "no java: install a JDK 17 or newer"
    command -v mvn >/dev/null || fail "no mvn: install Maven 3.8.7 or newer"
    command -v node >/dev/null || fail "no node: install Node 20.19 or newer"
    version=$(java -version 2>&1 | sed -n 's/.*version "\([0-9]*\).*/\1/p' | head -1)
    [ "${version:-0}" -ge 17 ] || fail "java is version ${version:-unknown}: install a JDK 17 or newer"
    node -e 'const [a,b]=process.versions.node.split(".").map(Number);process.exit(a>20||a===20&&b>=19?0:1)' ||
        fail "node is version $(node -v): install Node 20.19 or newer"
}

need_space() { # FOLDER MEGABYTES
    local free
    free=$(df -Pm "$1" | awk 'NR==2 {print $4}')
    [ "$free" -ge "$2" ] || fail "the disk of $1 has $free MB free, $2 MB are needed"
}

port_open() { (exec 3<>"/dev/tcp/$1/$2") 2>/dev/null; }

need_port() { # ADDRESS PORT WHAT
    if port_open "$1" "$2"; then
        fail "port $2 on $1 is in use by another program; $3 needs it"
    fi
}

# wait_port PID ADDRESS PORT SECONDS: until the process listens; fails when it ends or the time is up.
wait_port() {
    local tries=$(($4 * 20))
    while ! port_open "$2" "$3"; do
        kill -0 "$1" 2>/dev/null || return 1
        [ $((tries -= 1)) -gt 0 ] || return 1
        sleep 0.05
    done
}

running() { [ -f "$1" ] && kill -0 "$(cat "$1")" 2>/dev/null; }

stop_pid() { # FILE [SIGNAL]
    running "$1" || { rm -f "$1"; return 0; }
    local pid tries=200
    pid=$(cat "$1")
    kill "-${2:-TERM}" "$pid" 2>/dev/null || true
    while kill -0 "$pid" 2>/dev/null && [ $((tries -= 1)) -gt 0 ]; do sleep 0.05; done
    kill -KILL "$pid" 2>/dev/null || true
    rm -f "$1"
}

secret() { head -c 24 /dev/urandom | base64 | tr -d '/+=\n'; }

build() { # MAVEN-ARGUMENTS...
    # Whatever can change the result; a build that changes nothing is skipped.
    local stamp="$ROOT/e2e/target/built" sources
    sources=$(cd "$ROOT" && find pom.xml ./*/pom.xml .mvn ./*/src console/openapi.json console/package.json console/package-lock.json \
        console/*.ts -newer "$stamp" -print -quit 2>/dev/null || true)
    if [ -f "$stamp" ] && [ -z "$sources" ] && [ -f "$ROOT/service/target/entente-service-program.jar" ]; then
        return 0
    fi
    say "Building (the first time takes some minutes) …"
    local log="$ROOT/target/build.log"
    mkdir -p "$ROOT/target"
    (cd "$ROOT" && mvn -B -q -DskipTests package "$@") >"$log" 2>&1 || {
        grep -m 20 -E 'ERROR|error' "$log" >&2
        fail "the build failed; the whole output is in target/build.log"
    }
    mkdir -p "$(dirname "$stamp")"
    touch "$stamp"
}
