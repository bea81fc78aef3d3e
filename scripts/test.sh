#!/usr/bin/env bash
# npm test: sets up what is missing, then every check there is.
set -euo pipefail
ROOT=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
cd "$ROOT"
. scripts/setup.sh

BEGUN=$SECONDS
step() { say; say "== $* ($((SECONDS - BEGUN)) s)"; }

need_node
need_packages ffmpeg=ffmpeg ffprobe=ffmpeg initdb=postgresql chromium=chromium
npm_packages

step "Kernels, docs"
npm run -s build:kernels
npm run -s build:docs
git diff --exit-code --stat -- docs >&2 || fail "Generated docs are out of date: run npm run build:docs and commit."

step "Types, lint and format"
node_modules/.bin/react-router typegen
# Each takes one core; what either says comes as it is said.
npm run -s lint &
LINT=$!
node_modules/.bin/tsc -p tsconfig.json --noEmit
node_modules/.bin/tsc -p core/tsconfig.json --noEmit
wait "$LINT" || fail "Lint has found something."
npm run -s format:check

step "The demo film"
node --import tsx demo/main.ts .data/test-demo

step "Unit and database tests"
scripts/with-database.sh node_modules/.bin/jest

step "Build"
npm run -s build:app >build.log 2>&1 || { cat build.log >&2; fail "The build failed."; }

step "The application in a browser"
scripts/with-database.sh node_modules/.bin/playwright test

step "All done"
