#!/usr/bin/env bash
# npm start: sets up what is missing, then serves until Ctrl-C. Safe to run again; keeps all data.
#   DATABASE_URL      use this PostgreSQL server instead of one of our own
#   FILLAGRANT_DATA   where frames, uploads and versions are kept (.data)
#   FILLAGRANT_HOST, FILLAGRANT_PORT, FILLAGRANT_PASSWORD   how it is reached (127.0.0.1:4380)
set -euo pipefail
ROOT=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
cd "$ROOT"
. scripts/setup.sh

BEGUN=$(date +%s%N)
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

PG_PLACE=
WEB_PID=
WORKER_PID=
STOPPING=
stop_all() {
  [ -n "$STOPPING" ] && return
  STOPPING=1
  trap '' INT TERM
  say "Stopping…"
  [ -n "$WEB_PID" ] && kill -TERM "$WEB_PID" 2>/dev/null
  [ -n "$WORKER_PID" ] && kill -TERM "$WORKER_PID" 2>/dev/null
  [ -n "$WEB_PID" ] && wait "$WEB_PID" 2>/dev/null
  [ -n "$WORKER_PID" ] && wait "$WORKER_PID" 2>/dev/null
  [ -n "$PG_PLACE" ] && pg_stop "$PG_PLACE"
  say "Stopped. Everything is kept in $FILLAGRANT_DATA."
}
trap 'stop_all; exit 0' INT TERM
trap 'stop_all' EXIT

if [ -z "${DATABASE_URL:-}" ]; then
  PG_PLACE=$(pg_place "$FILLAGRANT_DATA")
  pg_create "$PG_PLACE"
  pg_stop "$PG_PLACE" # one that an unclean end left running would hold its port
  DATABASE_URL=$(pg_start "$PG_PLACE" "$(free_port 55431)")
  export DATABASE_URL
fi
# For workers and commands started by hand.
(umask 077 && printf '%s' "$DATABASE_URL" >"$FILLAGRANT_DATA/database-url")

newest() { find "$@" -type f -newer build/.built -not -path '*/node_modules/*' -print -quit 2>/dev/null; }
if [ ! -e build/.built ] || [ ! -e build-node/worker.mjs ] || [ -n "$(newest app core demo workers workbench server public package-lock.json vite.config.ts react-router.config.ts scripts)" ]; then
  say "Building…"
  npm run -s build >build.log 2>&1 || { cat build.log >&2; fail "The build failed."; }
  touch build/.built
fi

# Only shots that are not there yet are painted.
if [ ! "$FILLAGRANT_DATA/demo/film.json" -nt demo/film.ts ]; then
  say "Painting the demo film (about a minute)…"
  node build-node/demo.mjs "$FILLAGRANT_DATA/demo" >&2
fi
node build-node/migrate.mjs "$FILLAGRANT_DATA/demo" >&2

NODE_ENV=production
export NODE_ENV
# What the parts write is for machines: it goes into files, and here is said what a person wants to know.
LOGS=$FILLAGRANT_DATA/logs
mkdir -p "$LOGS"
start_web() { node --enable-source-maps build-node/web.mjs >>"$LOGS/web.log" 2>&1 & WEB_PID=$!; }
start_worker() { node --enable-source-maps build-node/worker.mjs >>"$LOGS/worker.log" 2>&1 & WORKER_PID=$!; }
what_it_said() { tail -n 20 "$LOGS/$1.log" >&2; }
start_web
start_worker

# Asks in bash itself: a program started for each question would take the cores from the server.
is_healthy() {
  exec 3<>"/dev/tcp/127.0.0.1/$FILLAGRANT_PORT" || return 1
  printf 'GET /health HTTP/1.0\r\nHost: 127.0.0.1\r\nAuthorization: Basic %s\r\n\r\n' "$(printf 'start:%s' "${FILLAGRANT_PASSWORD:-}" | base64 -w0)" >&3
  local status
  read -r -t 5 status <&3
  exec 3>&-
  [[ $status == *" 200 "* ]]
}
for _ in $(seq 1 600); do
  kill -0 "$WEB_PID" 2>/dev/null || { what_it_said web; fail "The web server ended. Is port $FILLAGRANT_PORT in use? Set FILLAGRANT_PORT to another."; }
  is_healthy 2>/dev/null && break
  sleep 0.1
done
is_healthy 2>/dev/null || { what_it_said web; fail "The web server does not answer. What it said is above."; }
say "Ready after $((($(date +%s%N) - BEGUN) / 1000000)) ms."
echo "Fillagrant: http://$FILLAGRANT_HOST:$FILLAGRANT_PORT"
say "Logs are in $LOGS. Ctrl-C stops."

# A part that dies is started again; what it was doing goes on.
while true; do
  ENDED=
  wait -n -p ENDED || true
  [ -n "$STOPPING" ] && break
  sleep 1
  if [ "$ENDED" = "$WEB_PID" ]; then what_it_said web; say "The web server ended; it is started again."; start_web; fi
  if [ "$ENDED" = "$WORKER_PID" ]; then what_it_said worker; say "The worker ended; it is started again."; start_worker; fi
done
