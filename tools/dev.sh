#!/usr/bin/env bash
# Hot-reloading web (vite) in front of a server that restarts when Python files change.
set -euo pipefail
cd "$(dirname "$0")/.."
port=$1 data=$2
trap 'kill $(jobs -p) 2>/dev/null || true' EXIT INT TERM
VIREO_API_PORT=$((port + 1)) .venv/bin/python tools/reload.py --port $((port + 1)) --data "$data" &
cd web
VIREO_API_PORT=$((port + 1)) npx --no-install vite --host 127.0.0.1 --port "$port"
