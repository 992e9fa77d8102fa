#!/usr/bin/env bash
# Everything a change must pass, in the order in which failures are cheapest to see.
set -euo pipefail
cd "$(dirname "$0")/.."
ops/lint.sh
(cd web && PATH="$PWD/../.venv/node/bin:$PATH" npm run --silent test)
.venv/bin/python -m pytest
