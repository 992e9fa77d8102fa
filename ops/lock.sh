#!/usr/bin/env bash
# Write anew what Python packages are installed: every one with its version and the hashes of its files, no registry named.
set -euo pipefail
cd "$(dirname "$0")/.."
tools=$(mktemp -d)
trap 'rm -rf "$tools"' EXIT
.venv/bin/python -m venv "$tools"
"$tools/bin/python" -m pip install --quiet --disable-pip-version-check --no-input uv
lock() { # where to, and what of
  local to=$1
  shift
  "$tools/bin/uv" pip compile --quiet --universal --python-version 3.11 --generate-hashes --no-header --no-annotate --output-file "$to" "$@"
}
lock ops/locked/run.txt pyproject.toml ops/locked/build.in
lock ops/locked/dev.txt pyproject.toml ops/locked/build.in --extra dev
lock ops/locked/node.txt ops/locked/node.in
