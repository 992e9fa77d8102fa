#!/usr/bin/env bash
# Everything a change must pass, in the order in which failures are cheapest to see. Two workers, each with a cluster and a browser.
set -euo pipefail
cd "$(dirname "$0")/.."
ops/lint.sh
(cd web && PATH="$PWD/../.venv/node/bin:$PATH" npm run --silent test)
.venv/bin/python -m pytest -n 2 --dist worksteal
