#!/usr/bin/env bash
# The core's tests under every Python that is here, of those we promise; a handful of each law. A Python that is not here is passed over, and said so.
set -euo pipefail
cd "$(dirname "$0")/.."
failed=0
for version in ${PYTHONS:-3.11 3.12 3.13}; do
  python="$(command -v "python$version" || true)"
  if [ -z "$python" ] || ! "$python" -c 'import sys' 2>/dev/null; then
    echo "Python $version is not here: passed over"
    continue
  fi
  venv=".venv/matrix/$version"
  if [ ! -x "$venv/bin/pytest" ]; then
    "$python" -m venv "$venv"
    "$venv/bin/python" -m pip install --disable-pip-version-check --no-input --quiet --require-hashes -r ops/locked/dev.txt
    "$venv/bin/python" -m pip install --disable-pip-version-check --no-input --quiet --no-deps --no-build-isolation -e .
  fi
  echo "Python $("$python" -c 'import platform; print(platform.python_version())'):"
  ANABASIS_LAWS=check "$venv/bin/python" -m pytest -n 2 --dist worksteal -m "not slow" -p no:cacheprovider \
    tests/design tests/fabric tests/routing tests/policy tests/site tests/trace tests/leases tests/classes tests/allpairs tests/verdicts \
    tests/probe tests/views tests/failover tests/findings tests/wording tests/laws tests/test_memo.py || failed=1
done
exit "$failed"
