#!/usr/bin/env bash
# Makes the virtual environment; with "dev" also what the checks need: headless Chromium, and what checks scripts and style sheets.
set -euo pipefail
cd "$(dirname "$0")/.."

say() { printf '%s\n' "$*" >&2; }

# Debian package by package name, when we may install it; a clear sentence when we may not.
need_package() {
  if [ "$(id -u)" = 0 ]; then sudo=""; elif command -v sudo >/dev/null && sudo -n true 2>/dev/null; then sudo="sudo"; else
    say "Lepidos needs the Debian package $1. Install it with: sudo apt-get install $1"; exit 1
  fi
  say "Installing the Debian package $1 …"
  $sudo apt-get install -y -qq "$1" >/dev/null 2>&1 || { $sudo apt-get update -qq >/dev/null && $sudo apt-get install -y -qq "$1" >/dev/null; } ||
    { say "The Debian package $1 could not be installed. Install it by hand: apt-get install $1"; exit 1; }
}

python=""
for candidate in python3.11 python3; do
  if command -v "$candidate" >/dev/null && "$candidate" -c 'import sys; sys.exit(sys.version_info[:2] != (3, 11))'; then python="$candidate"; break; fi
done
if [ -z "$python" ]; then need_package python3.11; python=python3.11; fi

if [ ! -x .venv/bin/pip ]; then
  "$python" -c 'import ensurepip, venv' 2>/dev/null || need_package python3-venv
  say "Making the virtual environment …"
  rm -rf .venv
  "$python" -m venv .venv
fi

# What the checks need besides Python packages. The headless shell is quicker in the tests; where Debian's release has
# none, the whole browser does.
browser_and_linter() {
  command -v chromium-headless-shell >/dev/null ||
    (need_package chromium-headless-shell) || command -v chromium >/dev/null || need_package chromium
  command -v npm >/dev/null || need_package npm
  npm ci --prefix scripts/eslint --silent
}

pip=(.venv/bin/pip install --quiet --disable-pip-version-check)
# uv takes a tenth of pip's time; where only pip is told of a registry, pip does it
install() { .venv/bin/uv pip install --quiet --python .venv/bin/python "$@" 2>/dev/null || "${pip[@]}" "$@"; }

say "Installing what Lepidos stands on …"
beside=""
if [ "${1:-run}" = dev ]; then browser_and_linter & beside=$!; fi
"${pip[@]}" uv==0.13.9 || say "without uv, which takes longer"
if [ "${1:-run}" = dev ]; then install -r requirements-dev.txt; else install -r requirements.txt; fi
install --no-deps --editable .
[ -z "$beside" ] || wait "$beside"

# the search for an order of work is compiled once here, so that the first crew does not wait for it
.venv/bin/python -m lepidos.core.schedule.annealing
