#!/usr/bin/env bash
# Every check, each of them run even when an earlier one failed. The count of the tests comes last, a check that failed
# counted with them; above it what failed, by name.
set -uo pipefail
cd "$(dirname "$0")/.."
bin=.venv/bin
said=$(mktemp)
log=$(mktemp)
trap 'rm -f "$said" "$log"' EXIT

# beside the tests, which at first only look for what there is to run
scripts/lint.sh >"$said" 2>&1 &
checking=$!

printf '\n== tests\n'
$bin/coverage erase
$bin/python scripts/run_tests.py --coverage --times .test-times.json 2>&1 | tee "$log" | grep -v '^{'
count=$(grep -E '^[0-9]+ passed, [0-9]+ failed' "$log" | tail -n 1)
wait "$checking"
failed=$?
cat "$said"

printf '\n== coverage of the core\n'
$bin/coverage combine --quiet
$bin/coverage report || { failed=$((failed + 1)); echo "failed: coverage of the core" >>"$said"; }

passed=$(sed -nE 's/^([0-9]+) passed.*/\1/p' <<<"$count")
broken=$(sed -nE 's/.* ([0-9]+) failed.*/\1/p' <<<"$count")
if [ "${passed:-0}" = 0 ]; then echo "no test ran"; failed=$((failed + 1)); fi
total=$((${broken:-0} + failed))
if [ "$total" != 0 ]; then grep -hE '^failed: ' "$log" "$said"; fi
echo "${passed:-0} passed, $total failed"
[ "$total" = 0 ]
