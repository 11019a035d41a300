#!/usr/bin/env bash
# Refreshes docs/screenshots from a demo with a fixed clock.
set -euo pipefail
cd "$(dirname "$0")/.."
folder=$(mktemp -d)
export LEPIDOS_CLOCK_AT=2026-07-14T12:10:00+00:00 LEPIDOS_TIMEZONE=Etc/GMT-1 LEPIDOS_LOG_LEVEL=error
.venv/bin/lepidos demo --data-dir "$folder" --port 8791 >/dev/null 2>&1 &
server=$!
trap 'kill $server; rm -rf "$folder"' EXIT
for _ in $(seq 200); do curl -fs http://127.0.0.1:8791/api/v1/health >/dev/null && break; sleep 0.1; done
.venv/bin/python -m scripts.screenshots http://127.0.0.1:8791
