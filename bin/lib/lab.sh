#!/bin/bash
# lab.sh up|down FOLDER: the real parts that Entente works with, on loopback, all files in FOLDER.
#   PostgreSQL, a domain controller (kind active-directory) and slapd (kind ldap), with the people of Skerry Line.
# Environment: LAB_AD_IP (127.0.10.1), LAB_LDAPS_PORT (3636), LAB_PG_PORT (15432), LAB_CACHE (FOLDER/cache)
# LAB_PG_OPTIONS: further options of PostgreSQL.
# LAB_BULK_AD, LAB_BULK_LDAP: how many more people to make, for measuring. LAB_MORE_CREW: how many more of the crew, for tests.
# lab.sh pg-up|pg-down|ldap-up|ldap-down|ad-up|ad-down FOLDER: one of them. ad-make: only puts the domain into the cache.
# ad-keytab: writes the service account's keys for Kerberos to FOLDER/ad/svc-entente.keytab.
set -euo pipefail
. "$(dirname "${BASH_SOURCE[0]}")/common.sh"
WHAT=${1:?up or down} DIR=$(mkdir -p "${2:?folder}" && cd "$2" && pwd)
AD_IP=${LAB_AD_IP:-127.0.10.1} LDAPS_PORT=${LAB_LDAPS_PORT:-3636} PG_PORT=${LAB_PG_PORT:-15432}
CACHE=${LAB_CACHE:-$DIR/cache}
HERE=$ROOT/bin/lib

pki() {
    [ -f "$DIR/pki/svc.crt" ] && return
    mkdir -p "$DIR/pki"
    cd "$DIR/pki"
    openssl req -x509 -newkey rsa:2048 -nodes -days 3650 -keyout ca.key -out ca.crt -subj "/CN=Skerry Line test CA" \
        -addext basicConstraints=critical,CA:TRUE -addext keyUsage=critical,keyCertSign,cRLSign 2>/dev/null
    local name
    for name in ad slapd; do
        openssl req -newkey rsa:2048 -nodes -keyout $name.key -out $name.csr -subj "/CN=$name.skerry.test" 2>/dev/null
        printf 'subjectAltName=DNS:%s.skerry.test,DNS:localhost,IP:%s,IP:127.0.0.1\nextendedKeyUsage=serverAuth\n%s\n' \
            $name "$AD_IP" "keyUsage=digitalSignature,keyEncipherment" >$name.ext
        openssl x509 -req -in $name.csr -CA ca.crt -CAkey ca.key -CAcreateserial -days 3650 -extfile $name.ext \
            -out $name.crt 2>/dev/null
        rm $name.csr $name.ext
    done
    # A client certificate for the service account of slapd: it may sign in without a password.
    openssl req -newkey rsa:2048 -nodes -keyout svc.key -out svc.csr -subj "/O=Skerry Line/CN=svc-entente" 2>/dev/null
    printf 'extendedKeyUsage=clientAuth\nkeyUsage=digitalSignature\n' >svc.ext
    openssl x509 -req -in svc.csr -CA ca.crt -CAkey ca.key -CAcreateserial -days 3650 -extfile svc.ext -out svc.crt 2>/dev/null
    rm svc.csr svc.ext
    chmod 600 ./*.key
    cd - >/dev/null
}

# ---- PostgreSQL: refuses to run as root, so root hands it to the postgres user
PG=$DIR/postgres
as_postgres() { if [ "$(id -u)" -eq 0 ]; then runuser -u postgres -- "$@"; else "$@"; fi; }
pg_bin() { echo /usr/lib/postgresql/*/bin/"$1" | tr ' ' '\n' | sort -V | tail -1; }

pg_up() {
    running "$PG/pid" && return
    need_port 127.0.0.1 "$PG_PORT" PostgreSQL
    local fresh=
    if [ ! -f "$PG/data/PG_VERSION" ]; then
        fresh=yes
        rm -rf "$PG"
        mkdir -p "$PG"
        for role in postgres owner running retention; do secret >"$PG/$role.password"; done
        chmod 600 "$PG"/*.password
        cp "$PG/postgres.password" "$PG/init.password"
        if [ "$(id -u)" -eq 0 ]; then
            chmod 711 "$PG"
            chown postgres "$PG" "$PG/init.password"
            allow_way "$PG"
        fi
        as_postgres "$(pg_bin initdb)" -D "$PG/data" -U postgres -A scram-sha-256 --pwfile="$PG/init.password" -E UTF8 \
            --locale=C.UTF-8 >"$PG/initdb.log" 2>&1 || fail "PostgreSQL cannot be set up: $(tail -1 "$PG/initdb.log")"
        rm -f "$PG/init.password"
    fi
    # shellcheck disable=SC2024
    as_postgres "$(pg_bin postgres)" -D "$PG/data" -p "$PG_PORT" -c listen_addresses=127.0.0.1 \
        -c unix_socket_directories= -c max_connections=60 ${LAB_PG_OPTIONS:-} </dev/null >>"$DIR/postgres.log" 2>&1 &
    local pid=$! tries=200
    until port_open 127.0.0.1 "$PG_PORT" && PGPASSWORD=$(cat "$PG/postgres.password") \
        psql -qtAX -h 127.0.0.1 -p "$PG_PORT" -U postgres -c 'SELECT 1' >/dev/null 2>&1; do
        kill -0 $pid 2>/dev/null && [ $((tries -= 1)) -gt 0 ] ||
            fail "PostgreSQL does not start: $(tail -1 "$DIR/postgres.log")"
        sleep 0.05
    done
    head -1 "$PG/data/postmaster.pid" >"$PG/pid"
    [ -z "$fresh" ] || PGPASSWORD=$(cat "$PG/postgres.password") psql -qX -v ON_ERROR_STOP=1 -h 127.0.0.1 -p "$PG_PORT" \
        -U postgres >"$PG/roles.log" 2>&1 <<SQL
CREATE ROLE entente_owner LOGIN PASSWORD '$(cat "$PG/owner.password")';
CREATE ROLE entente_running LOGIN PASSWORD '$(cat "$PG/running.password")';
CREATE ROLE entente_retention LOGIN PASSWORD '$(cat "$PG/retention.password")';
CREATE DATABASE entente OWNER entente_owner;
REVOKE ALL ON DATABASE entente FROM PUBLIC;
GRANT CONNECT ON DATABASE entente TO entente_running, entente_retention;
\c entente
ALTER SCHEMA public OWNER TO entente_owner;
REVOKE ALL ON SCHEMA public FROM PUBLIC;
SQL
}

# The postgres user has to be able to walk to its folder.
allow_way() {
    local at=$1
    while [ "$at" != / ]; do
        at=$(dirname "$at")
        runuser -u postgres -- /usr/bin/test -x "$at" || chmod o+x "$at"
    done
}

# ---- domain controller: its ports are fixed and low, so it has a loopback address of its own
AD=$DIR/ad
ad_conf() {
    mkdir -p "$AD"/{etc,private,state,cache,lock,run,log,bind-dns}
    chmod 700 "$AD/private"
    cat >"$AD/etc/smb.conf" <<CONF
[global]
    netbios name = DC1
    realm = SKERRY.TEST
    workgroup = SKERRY
    server role = active directory domain controller
    interfaces = $AD_IP/8
    bind interfaces only = yes
    server services = ldap, kdc
    dcerpc endpoint servers = -rpcecho
    disable netbios = yes
    private dir = $AD/private
    state directory = $AD/state
    cache directory = $AD/cache
    lock directory = $AD/lock
    pid directory = $AD/run
    ncalrpc dir = $AD/run/ncalrpc
    binddns dir = $AD/bind-dns
    winbindd socket directory = $AD/run/winbindd
    ntp signd socket directory = $AD/run/ntp_signd
    log file = $AD/log/log.%m
    logging = file
    log level = 1
    tls enabled = yes
    tls keyfile = $DIR/pki/ad.key
    tls certfile = $DIR/pki/ad.crt
    tls cafile = $DIR/pki/ca.crt
    # Signed-in connections are protected by TLS; Kerberos inside it needs no protection of its own.
    ldap server require strong auth = allow_sasl_over_tls
    # The previous password stops binding at once, so that the demo can show it.
    old password allowed period = 0
[sysvol]
    path = $AD/state/sysvol
    read only = no
[netlogon]
    path = $AD/state/sysvol/skerry.test/scripts
    read only = no
CONF
}

# Makes the domain once and keeps it for others; whoever comes meanwhile waits.
ad_make() {
    AD_MADE=ad${LAB_BULK_AD:-}-${LAB_MORE_CREW:-}-$(samba -V | tr -dc 0-9.)-$(cat "$HERE"/ad_make.py "$HERE"/people.py | sha256sum | cut -c1-12).tgz
    mkdir -p "$CACHE"
    exec 9>"$CACHE/lock"
    flock 9
    if [ ! -f "$CACHE/$AD_MADE" ]; then
        rm -rf "$AD"
        ad_conf
        /usr/bin/python3 "$HERE/ad_make.py" "$AD" >"$AD/log/make.log" 2>&1 ||
            fail "the domain cannot be made: $(tail -1 "$AD/log/make.log")"
        tar -C "$AD" --exclude=./log --exclude=./run --exclude=./etc -czf "$CACHE/$AD_MADE.new" .
        mv "$CACHE/$AD_MADE.new" "$CACHE/$AD_MADE"
        rm -rf "$AD"
    fi
    exec 9>&-
}

ad_up() {
    running "$AD/pid" && return
    need_port "$AD_IP" 636 "the domain controller"
    if [ ! -f "$AD/private/sam.ldb" ]; then
        ad_make
        rm -rf "$AD"
        ad_conf
        tar -C "$AD" -xzf "$CACHE/$AD_MADE"
    fi
    ad_conf
    local run=(setsid samba -s "$AD/etc/smb.conf" -F -M prefork --no-process-group)
    if [ "$(id -u)" -ne 0 ]; then
        # Only the right to take low ports, nothing else of root.
        sudo -n true 2>/dev/null || fail "the domain controller needs the ports 389 and 636: allow sudo, or run as root"
        run=(sudo -n setpriv --reuid "$(id -u)" --regid "$(id -g)" --init-groups --inh-caps +net_bind_service
            --ambient-caps +net_bind_service "${run[@]}")
    fi
    "${run[@]}" </dev/null >"$AD/log/samba.out" 2>&1 &
    local pid=$!
    wait_port $pid "$AD_IP" 636 60 ||
        fail "the domain controller does not come up: $(tail -1 "$AD/log/samba.out") (logs in $AD/log)"
    cat "$AD/run/samba.pid" >"$AD/pid" 2>/dev/null || echo $pid >"$AD/pid"
}

ad_keytab() {
    rm -f "$AD/svc-entente.keytab"
    (umask 077 && samba-tool domain exportkeytab "$AD/svc-entente.keytab" --principal=svc-entente -s "$AD/etc/smb.conf") \
        >"$AD/log/keytab.log" 2>&1 || fail "no keytab can be written: $(tail -1 "$AD/log/keytab.log")"
}

# ---- slapd
LDAP=$DIR/ldap
ldap_conf() {
    local base="dc=fleet,dc=skerry,dc=test" svc="cn=svc-entente,ou=services,dc=fleet,dc=skerry,dc=test"
    cat >"$LDAP/slapd.conf" <<CONF
include /etc/ldap/schema/core.schema
include /etc/ldap/schema/cosine.schema
include /etc/ldap/schema/inetorgperson.schema
modulepath /usr/lib/ldap
moduleload back_mdb
moduleload ppolicy
moduleload syncprov
pidfile $LDAP/slapd.pid
argsfile $LDAP/slapd.args
TLSCACertificateFile $DIR/pki/ca.crt
TLSCertificateFile $DIR/pki/slapd.crt
TLSCertificateKeyFile $DIR/pki/slapd.key
TLSVerifyClient try
authz-regexp "^cn=svc-entente,o=skerry line$" "$svc"
loglevel stats
threads 8

database mdb
suffix "$base"
rootdn "cn=admin,$base"
rootpw Root-Of-The-Fleet-1
directory $LDAP/db
maxsize 1073741824
index objectClass,entryUUID,entryCSN eq
index uid,cn,employeeNumber,member,uniqueMember eq
limits dn.exact="$svc" size=unlimited time=unlimited
overlay ppolicy
ppolicy_default "cn=default,ou=policies,$base"
ppolicy_hash_cleartext
ppolicy_use_lockout
overlay syncprov
syncprov-sessionlog 1000

# Exactly what the service account needs: set passwords, unlock, ask for a change.
access to dn.subtree="ou=people,$base" attrs=userPassword
    by dn.exact="$svc" =w
    by self =xw
    by anonymous auth
    by * none
access to dn.subtree="ou=people,$base" attrs=pwdAccountLockedTime,pwdReset,pwdFailureTime
    by dn.exact="$svc" write
    by * none
access to attrs=userPassword by self =xw by anonymous auth by * none
access to attrs=pwdHistory by * none
access to * by users read by * none
CONF
}

ldap_up() {
    running "$LDAP/pid" && return
    need_port 127.0.0.1 "$LDAPS_PORT" "the standard LDAP directory"
    if [ ! -f "$LDAP/db/data.mdb" ]; then
        rm -rf "$LDAP"
        mkdir -p "$LDAP/db"
        ldap_conf
        /usr/bin/python3 "$HERE/fleet_ldif.py" "$(slappasswd -h '{SSHA}' -s 'Harbour-Light-42')" \
            "$(slappasswd -h '{SSHA}' -s 'Svc-Quiet-Water-7')" >"$LDAP/fleet.ldif"
        slapadd -q -f "$LDAP/slapd.conf" -l "$LDAP/fleet.ldif" >"$LDAP/slapadd.log" 2>&1 ||
            fail "the standard LDAP directory cannot be made: $(tail -1 "$LDAP/slapadd.log")"
    fi
    ldap_conf
    setsid slapd -f "$LDAP/slapd.conf" -h "ldaps://127.0.0.1:$LDAPS_PORT/ ldap://127.0.0.1:$((LDAPS_PORT + 200))/" -d 0 </dev/null >"$LDAP/slapd.out" 2>&1 &
    local pid=$!
    wait_port $pid 127.0.0.1 "$LDAPS_PORT" 20 ||
        fail "the standard LDAP directory does not come up: $(tail -1 "$LDAP/slapd.out")"
    echo $pid >"$LDAP/pid"
}

case $WHAT in
up) pki; pg_up; ldap_up; ad_up ;;
down) stop_pid "$LDAP/pid"; stop_pid "$AD/pid"; stop_pid "$PG/pid" INT ;;
pg-up) pg_up ;;
pg-down) stop_pid "$PG/pid" INT ;;
ldap-up) pki; ldap_up ;;
ldap-down) stop_pid "$LDAP/pid" ;;
ad-up) pki; ad_up ;;
ad-make) pki; ad_make ;;
ad-keytab) ad_keytab ;;
ad-down) stop_pid "$AD/pid" ;;
*) fail "up or down is expected, not $WHAT" ;;
esac
