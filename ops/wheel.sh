#!/usr/bin/env bash
# One file to install elsewhere: the program with its built front end, starting points and documentation.
set -euo pipefail
cd "$(dirname "$0")/.."
shipped=src/anabasis/shipped
trap 'rm -rf "$shipped" build' EXIT
rm -rf "$shipped" build
mkdir -p "$shipped"
cp -r web/dist "$shipped/web"
cp -r demo/starts "$shipped/starts"
mkdir "$shipped/docs"
cp docs/*.md "$shipped/docs/"
.venv/bin/python -m pip wheel --quiet --disable-pip-version-check --no-deps --no-build-isolation --wheel-dir dist .
ls -1 dist/anabasis-*.whl
