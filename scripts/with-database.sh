#!/usr/bin/env bash
# Runs a command with a private PostgreSQL cluster that lives only as long as the command.
#   scripts/with-database.sh jest
# The command finds the server in FILLAGRANT_TEST_SERVER. A second call inside uses the first one's.
set -euo pipefail
ROOT=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
. "$ROOT/scripts/setup.sh"
if [ -z "${FILLAGRANT_TEST_SERVER:-}" ]; then
  need_packages initdb=postgresql
  SCRATCH=$(mktemp -d "${TMPDIR:-/tmp}/fillagrant-test.XXXXXX")
  chmod 755 "$SCRATCH"
  PG_PLACE=$(pg_place "$SCRATCH")
  trap 'pg_stop "$PG_PLACE"; rm -rf "$SCRATCH"' EXIT
  trap 'exit 130' INT TERM
  pg_create "$PG_PLACE"
  FILLAGRANT_TEST_SERVER=$(pg_start "$PG_PLACE" "$(free_port 55531)" fsync=off synchronous_commit=off full_page_writes=off)
  export FILLAGRANT_TEST_SERVER
fi
"$@"
