#!/usr/bin/env bash
# Formatting, types, import order of the house, and the front end's rules; the two sides at the same time.
set -euo pipefail
cd "$(dirname "$0")/.."
mkdir -p .stamps
(cd web && PATH="$PWD/../.venv/node/bin:$PATH" npm run --silent lint) >.stamps/web-lint.log 2>&1 &
web=$!
failed=0
(
  .venv/bin/ruff format --check --quiet src tests ops bench
  .venv/bin/ruff check --quiet src tests ops bench
  .venv/bin/mypy --no-error-summary
  .venv/bin/lint-imports --no-logo >/dev/null || .venv/bin/lint-imports --no-logo
) &
wait $! || failed=1
wait "$web" || { cat .stamps/web-lint.log; failed=1; }
exit "$failed"
