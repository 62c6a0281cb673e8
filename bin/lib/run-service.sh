#!/bin/bash
# run-service.sh LAB SECRETS PORT SMTP-PORT PUBLIC-URL [JAVA-OPTIONS...]: one node of the service on the lab's PostgreSQL.
# Replaces itself by the service, so that a signal to it reaches the service.
# ENTENTE_UNTIL=migrated or archived: ends there instead.
set -euo pipefail
ROOT=$(cd "$(dirname "${BASH_SOURCE[0]}")/../.." && pwd)
lab=$1 secrets=$2 port=$3 smtp=$4 url=$5
shift 5
export ENTENTE_DATABASE_URL=jdbc:postgresql://127.0.0.1:${LAB_PG_PORT:-15432}/entente
ENTENTE_DATABASE_PASSWORD=$(cat "$lab/postgres/running.password")
export ENTENTE_DATABASE_PASSWORD
export ENTENTE_PORT=$port ENTENTE_MAIL_PORT=$smtp
export ENTENTE_SECRETS=$secrets ENTENTE_ORGANISATION="Skerry Line" ENTENTE_HELPDESK="call 01632 960 100"
export ENTENTE_PUBLICURL=$url ENTENTE_MAILFROM=no-reply@skerry.test
# Unpacked, it starts faster than from one file.
jar=$ROOT/service/target/entente-service-program.jar program=$ROOT/service/target/program
# The packaged program always bears the same time, so that builds can be compared; the plain jars in it tell its age.
fresh=yes
# Two nodes may start at the same time.
exec 9>"$ROOT/service/target/program.lock"
flock 9
for part in service/target/entente-service core/target/entente-core-0.1.0 wire/target/entente-wire-0.1.0 \
    console/target/entente-console-0.1.0; do
    [ "$program/entente-service-program.jar" -nt "$ROOT/$part.jar" ] || fresh=
done
if [ -z "$fresh" ]; then
    rm -rf "$program"
    java -XX:TieredStopAtLevel=1 -XX:+UseSerialGC -Djarmode=tools -jar "$jar" extract --destination "$program" >/dev/null
    touch "$program/entente-service-program.jar"
fi
exec 9>&-
quick=(-XX:+UseSerialGC -XX:TieredStopAtLevel=1)
archived() { [ ! -f "$program/classes.jsa" ] || quick+=(-XX:SharedArchiveFile="$program/classes.jsa"); }
archived
# Migrations are a step of their own: the service that runs afterwards does not have the owner's password.
version=$(cd "$ROOT/service/src/main/resources/db/migration" && cat V*.sql | sha256sum)
if [ "$(cat "$secrets.migrated" 2>/dev/null)" != "$version" ]; then
    ENTENTE_OWNER_PASSWORD=$(cat "$lab/postgres/owner.password") ENTENTE_RETENTION_USER=entente_retention \
        java "${quick[@]}" -jar "$program/entente-service-program.jar" migrate
    mkdir -p "$(dirname "$secrets")"
    echo "$version" >"$secrets.migrated"
fi
[ "${ENTENTE_UNTIL:-}" != migrated ] || exit 0
# A start on the side, which ends before it takes calls, leaves an archive of the classes: every start after it takes a third of
# the time. Where it fails, the start itself says why.
if [ ! -f "$program/classes.jsa" ]; then
    exec 9>"$ROOT/service/target/program.lock"
    flock 9
    [ -f "$program/classes.jsa" ] || java -Xmx512m "${quick[@]}" -Xlog:cds=off -Xlog:cds+dynamic=off \
        -XX:ArchiveClassesAtExit="$program/classes.jsa" -Dspring.context.exit=onRefresh \
        -jar "$program/entente-service-program.jar" >"$program/archive.log" 2>&1 || true
    exec 9>&-
    archived
fi
[ "${ENTENTE_UNTIL:-}" != archived ] || exit 0
# More classes than the program's own, for tests and benchmarks. Where components are among them, spring.aot.enabled=false has it
# look for them: what the build worked out doesn't know them.
if [ -n "${ENTENTE_MORE_CLASSES:-}" ]; then
    exec java -Xmx512m "${quick[@]}" "$@" -cp "$program/entente-service-program.jar:$ENTENTE_MORE_CLASSES" \
        dev.entente.service.EntenteService
fi
exec java -Xmx512m "${quick[@]}" "$@" -jar "$program/entente-service-program.jar"
