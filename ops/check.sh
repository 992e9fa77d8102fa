#!/usr/bin/env bash
# What one runs at every save: lint and types beside the core's tests, with a handful of each law.
set -euo pipefail
cd "$(dirname "$0")/.."
ops/lint.sh >.stamps/lint.log 2>&1 &
lint=$!
failed=0
ANABASIS_LAWS=check .venv/bin/python -m pytest -n 2 --dist worksteal -m "not slow" \
  tests/design tests/fabric tests/routing tests/policy tests/site tests/trace tests/leases tests/classes tests/allpairs tests/verdicts tests/probe tests/views tests/failover tests/findings tests/laws tests/test_house.py || failed=1
wait "$lint" || { cat .stamps/lint.log; failed=1; }
exit "$failed"
