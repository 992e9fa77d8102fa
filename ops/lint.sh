#!/usr/bin/env bash
# Formatting, types, import order of the house, and the front end's rules.
set -euo pipefail
cd "$(dirname "$0")/.."
.venv/bin/ruff format --check --quiet src tests ops bench
.venv/bin/ruff check --quiet src tests ops bench
.venv/bin/mypy --no-error-summary
.venv/bin/lint-imports --no-logo >/dev/null || .venv/bin/lint-imports --no-logo
(cd web && PATH="$PWD/../.venv/node/bin:$PATH" npm run --silent lint)
