#!/usr/bin/env bash
# Every check but the tests, some ten seconds, each run even when an earlier one failed. Ends with a line for each that
# failed, and with their number as its exit code.
set -uo pipefail
cd "$(dirname "$0")/.."
bin=.venv/bin
node=scripts/eslint/node_modules/.bin
failed=()

step() {
  local name=$1; shift
  printf '\n== %s\n' "$name"
  "$@" || failed+=("$name")
}

step "format" $bin/ruff format --check --quiet lepidos tests bench scripts
step "lint" $bin/ruff check --quiet lepidos tests bench scripts
step "types" $bin/mypy
step "import contract" $bin/lint-imports --no-cache
step "templates" $bin/djlint lepidos/web/templates --lint --quiet
step "scripts" $node/eslint -c scripts/eslint/eslint.config.js lepidos/web/static/js lepidos/web/static/worker.js
step "style sheets" $node/prettier --log-level warn --print-width 120 --check lepidos/web/static/*.css

for name in "${failed[@]}"; do printf 'failed: %s\n' "$name"; done
exit ${#failed[@]}
