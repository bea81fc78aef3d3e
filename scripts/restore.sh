#!/usr/bin/env bash
# npm run restore -- FOLDER: brings a backup back into a data folder that has nothing yet; then npm start.
set -euo pipefail
ROOT=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
cd "$ROOT"
. scripts/setup.sh
[ $# -eq 1 ] || fail "Say which backup: npm run restore -- FOLDER"
export FILLAGRANT_DATA=${FILLAGRANT_DATA:-$ROOT/.data}
mkdir -p "$FILLAGRANT_DATA"
FILLAGRANT_DATA=$(cd "$FILLAGRANT_DATA" && pwd)
need_node
need_packages initdb=postgresql
npm_packages
hold_data_folder
[ -e build-node/house.mjs ] || npm run -s build:server 9>&-
if [ -z "${DATABASE_URL:-}" ]; then
  PG_PLACE=$(pg_place "$FILLAGRANT_DATA")
  pg_create "$PG_PLACE"
  trap 'pg_stop "$PG_PLACE"' EXIT
  DATABASE_URL=$(pg_start "$PG_PLACE" "$(free_port 55431)")
  export DATABASE_URL
fi
node build-node/house.mjs restore "$1"
