#!/usr/bin/env bash
# npm test: sets up what is missing, then every check there is.
set -euo pipefail
ROOT=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
cd "$ROOT"
. scripts/setup.sh

BEGUN=$SECONDS
step() { say; say "== $* ($((SECONDS - BEGUN)) s)"; }

need_node
need_packages ffmpeg=ffmpeg ffprobe=ffmpeg initdb=postgresql
# The headless shell is a good deal lighter; where Debian has none, Chromium does as well.
(need_packages chromium-headless-shell=chromium-headless-shell) || need_packages chromium=chromium
npm_packages
need_portrait .data/portraits/astronaut.png

step "Kernels, docs, what runs in Node"
npm run -s build:kernels
npm run -s build:faces
npm run -s build:docs
npm run -s build:server
git diff --exit-code --stat -- docs >&2 || fail "Generated docs are out of date: run npm run build:docs and commit."

step "The demo film"
# As much of it as the tests look at.
node build-node/demo.mjs .data/test-demo LM_010 LM_020:1001-1021 LM_030:1001-1024 LM_040 LM_050:1009-1021 LM_060:1001-1024 LM_070:1013-1034 LM_090

# Both cores: two files of unit tests at a time, and what looks at the code and builds. What the latter says is said at the end, whole.
step "Unit and database tests; beside them types, lint, format and the build"
checks() {
  node_modules/.bin/react-router typegen &&
    npm run -s lint &&
    node_modules/.bin/tsc -p tsconfig.json --noEmit &&
    node_modules/.bin/tsc -p core/tsconfig.json --noEmit &&
    npm run -s format:check &&
    npm run -s build:app
}
checks >checks.log 2>&1 &
CHECKS=$!
scripts/with-database.sh node_modules/.bin/jest --maxWorkers=2
wait "$CHECKS" || { cat checks.log >&2; fail "Types, lint, format or the build have found something."; }

step "The application in a browser"
touch build/.built # what is started as a whole is built already
scripts/with-database.sh node_modules/.bin/playwright test

step "All done"
