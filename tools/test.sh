#!/usr/bin/env bash
# Everything that must hold before a change lands. Stops at the first part that fails.
set -euo pipefail
cd "$(dirname "$0")/.."
bin=.venv/bin
# One thread each: tests run beside each other, and threads that wait for their turn spin.
export OPENBLAS_NUM_THREADS=1 NGS_NUM_THREADS=1 PYTHONDONTWRITEBYTECODE=1
export PATH="$PWD/.venv/bin:$PATH"  # Node may live there
step() { printf '\n== %s\n' "$1"; }

# A bare machine is set up beside the checks that follow: it mostly waits for packages.
bare=$(mktemp); $bin/pytest tests/server/test_setup.py > "$bare" 2>&1 & setup=$!
trap 'rm -f /tmp/vireo-openapi.$$.* "$bare"; kill $setup 2>/dev/null || true' EXIT

step "lint (ruff)";            $bin/ruff check src tests tools; $bin/ruff format --check src tests tools
step "types (mypy)";           $bin/mypy
step "layers (import-linter)"; $bin/lint-imports --no-cache
step "schema and web types are current"
$bin/vireo openapi /tmp/vireo-openapi.$$.json
cmp docs/openapi.json /tmp/vireo-openapi.$$.json || { echo "docs/openapi.json is out of date: run make types"; exit 1; }
(cd web && npx --no-install openapi-typescript ../docs/openapi.json -o /tmp/vireo-openapi.$$.ts >/dev/null)
cmp web/src/api/schema.ts /tmp/vireo-openapi.$$.ts || { echo "web/src/api/schema.ts is out of date: run make types"; exit 1; }
step "web: lint (eslint, prettier), types (vue-tsc), units (vitest)"
# Beside each other: each keeps one core busy for a while.
(cd web && npm run --silent check && npm run --silent lint) & types=$!
(cd web && npm run --silent test)
wait $types
step "pytest, set-up of a bare machine"
wait $setup || { cat "$bare"; exit 1; }
tail -n 1 "$bare"
# Whoever is done first takes over what the other has left.
step "pytest, core";           $bin/pytest -n 2 --dist worksteal --doctest-modules --durations 10 tests/core src/vireo/core src/vireo/script src/vireo/work
# Servers of their own beside each other, and two browsers: one alone leaves a core half idle.
step "pytest, server";         $bin/pytest --durations 10 -n 2 --dist loadfile --ignore tests/server/test_setup.py tests/server
step "pytest, browser";        $bin/pytest --durations 10 -n 2 --dist loadfile tests/browser
