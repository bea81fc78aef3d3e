#!/usr/bin/env bash
# npm start: sets up what is missing, then serves until Ctrl-C. Safe to run again; keeps all data.
#   DATABASE_URL      use this PostgreSQL server instead of one of our own
#   FILLAGRANT_DATA   where frames, uploads and versions are kept (.data)
#   FILLAGRANT_DEMO=no   without the demo film
#   FILLAGRANT_HOST, FILLAGRANT_PORT, FILLAGRANT_PASSWORD   how it is reached (127.0.0.1:4380)
set -euo pipefail
ROOT=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
cd "$ROOT"
. scripts/setup.sh

export FILLAGRANT_DATA=${FILLAGRANT_DATA:-$ROOT/.data}
export FILLAGRANT_HOST=${FILLAGRANT_HOST:-127.0.0.1}
export FILLAGRANT_PORT=${FILLAGRANT_PORT:-4380}
mkdir -p "$FILLAGRANT_DATA"
FILLAGRANT_DATA=$(cd "$FILLAGRANT_DATA" && pwd)

need_node
if [ -n "${DATABASE_URL:-}" ]; then
  need_packages ffmpeg=ffmpeg ffprobe=ffmpeg
else
  need_packages ffmpeg=ffmpeg ffprobe=ffmpeg initdb=postgresql
fi
npm_packages

hold_data_folder

newest() { find "$@" -type f -newer build/.built -not -path '*/node_modules/*' -print -quit 2>/dev/null; }
if [ ! -e build/.built ] || [ ! -e build-node/worker.mjs ] || [ -n "$(newest app core demo workers workbench server public package-lock.json vite.config.ts react-router.config.ts scripts)" ]; then
  say "Building…"
  npm run -s build >build.log 9>&- 2>&1 || { cat build.log >&2; fail "The build failed."; }
  touch build/.built
fi

# Settings that cannot be used are told before anything is made.
node build-node/supervise.mjs --check || exit 1

# Only shots that are not there yet are painted.
if [ "${FILLAGRANT_DEMO:-}" != no ] && [ ! "$FILLAGRANT_DATA/demo/film.json" -nt demo/film.ts ]; then
  say "Painting the demo film (about a minute)…"
  node build-node/demo.mjs "$FILLAGRANT_DATA/demo" >&2
fi
if [ -z "${DATABASE_URL:-}" ]; then
  FILLAGRANT_PG_PLACE=$(pg_place "$FILLAGRANT_DATA")
  pg_create "$FILLAGRANT_PG_PLACE"
  pg_stop "$FILLAGRANT_PG_PLACE" # one that outlived whoever ran it
  export FILLAGRANT_PG_PLACE FILLAGRANT_PG_BIN=$PG_BIN
fi

# From here on it is the supervisor's: database, web server and worker are started, and started again.
exec node --enable-source-maps build-node/supervise.mjs
