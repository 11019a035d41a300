#!/usr/bin/env bash
# Every check, each of them run even when an earlier one failed; the count of the tests comes last.
set -uo pipefail
cd "$(dirname "$0")/.."
bin=.venv/bin
failed=0

step() {
  printf '\n== %s\n' "$1"; shift
  "$@" || { failed=$((failed + 1)); printf '!! failed: %s\n' "$*"; }
}

checks() {
  failed=0
  step "format" $bin/ruff format --check --quiet lepidos tests bench scripts
  step "lint" $bin/ruff check --quiet lepidos tests bench scripts
  step "types" $bin/mypy
  step "import contract" $bin/lint-imports --no-cache
  step "templates" $bin/djlint lepidos/web/templates --lint --quiet
  step "scripts" scripts/eslint/node_modules/.bin/eslint -c scripts/eslint/eslint.config.js lepidos/web/static/js lepidos/web/static/worker.js
  step "style sheets" scripts/eslint/node_modules/.bin/prettier --log-level warn --print-width 120 --check lepidos/web/static/*.css
  exit "$failed"
}

# beside the tests, which at first only look for what there is to run
said=$(mktemp)
checks >"$said" 2>&1 &
checking=$!

printf '\n== tests\n'
log=$(mktemp)
$bin/coverage erase
$bin/python scripts/run_tests.py --coverage 2>&1 | tee "$log" | grep -v '^{'
count=$(grep -E '^[0-9]+ passed, [0-9]+ failed' "$log" | tail -n 1)
rm -f "$log"
wait "$checking"
failed=$((failed + $?))
cat "$said"
rm -f "$said"
$bin/coverage combine --quiet
step "coverage of the core" $bin/coverage report

passed=$(sed -nE 's/^([0-9]+) passed.*/\1/p' <<<"$count")
broken=$(sed -nE 's/.* ([0-9]+) failed.*/\1/p' <<<"$count")
if [ -z "$passed" ] || [ "$passed" = 0 ]; then echo "no test ran"; failed=$((failed + 1)); fi
total=$((${broken:-0} + failed))
echo "${passed:-0} passed, $total failed"
[ "$total" = 0 ]
