#!/bin/bash
# prepare-service.sh FOLDER: what every installation of the tests starts from, made once while the rest is still being built.
#   FOLDER/template/postgres   a stopped database with every migration, and the passwords of its roles
#   service/target/program     the service unpacked, with the archive of its classes
#   FOLDER/prepare.log         what was said
# FOLDER/template.lock is held until the database is there.
set -euo pipefail
ROOT=$(cd "$(dirname "${BASH_SOURCE[0]}")/../.." && pwd)
at=$1
mkdir -p "$at"
# Nobody waits for it, so what goes wrong is written down: each installation then makes its own.
exec >"$at/prepare.log" 2>&1
export LAB_PG_PORT=15498 LAB_PG_OPTIONS="-c fsync=off"
lab() { bash "$ROOT/bin/lib/lab.sh" "$@" "$at" 9>&-; }
service() { "$ROOT/bin/lib/run-service.sh" "$at" "$at/secrets" 15497 1 http://localhost; }
exec 9>"$at/template.lock"
flock 9
lab pg-down
rm -rf "$at/postgres" "$at/secrets" "$at/secrets.migrated" "$at/template"
trap 'lab pg-down' EXIT
lab pg-up
ENTENTE_UNTIL=migrated service
lab pg-down
mkdir "$at/template.next"
cp -a "$at/postgres" "$at/secrets.migrated" "$at/template.next"
mv "$at/template.next" "$at/template"
exec 9>&-
lab pg-up
ENTENTE_UNTIL=archived service
