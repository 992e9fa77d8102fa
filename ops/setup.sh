#!/usr/bin/env bash
# Install what is missing, and nothing else; with nothing to do, well under a second. `dev` adds what tests and checks need, `browser` Chromium too.
# Debian's packages, Python's and the front end's come at the same time: each waits mostly for its registry.
set -euo pipefail
cd "$(dirname "$0")/.."
[[ " $* " == *" browser "* ]] && set -- "$@" dev
wants() { [[ " $wanted " == *" $1 "* ]]; }
wanted="$*"
say() { printf '\033[1m· %s\033[0m\n' "$*" >&2; }
root() { if [ "$(id -u)" = 0 ]; then "$@"; else sudo "$@"; fi; }

mkdir -p .stamps
exec 9>.stamps/lock
flock 9 # two verbs at once must not install over each other

# ---- what is here ---------------------------------------------------------------------------------------------------
missing=()
ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || missing+=(postgresql)
if wants browser; then
  [ -x /usr/bin/chromium ] || missing+=(chromium)
  [ -x /usr/bin/chromedriver ] || missing+=(chromium-driver)
  command -v snmpwalk >/dev/null || missing+=(snmp) # clients that the stand-in devices are tried with
  command -v ip >/dev/null || missing+=(iproute2) # what packets are proved with
  command -v nft >/dev/null || [ -x /usr/sbin/nft ] || missing+=(nftables)
  command -v curl >/dev/null || missing+=(curl)
fi
python=""
for candidate in python3.11 python3.12 python3.13 python3; do
  if command -v "$candidate" >/dev/null && "$candidate" -c 'import sys; sys.exit(sys.version_info < (3, 11))'; then
    python=$candidate
    break
  fi
done
[ -n "$python" ] || { echo "Anabasis needs Python 3.11 or newer; none was found." >&2; exit 1; }
venv_first=""
if [ ! -x .venv/bin/python ] && ! "$python" -c 'import ensurepip, venv' 2>/dev/null; then
  missing+=(python3-venv)
  venv_first=1
fi
PATH="$PWD/.venv/node/bin:$PATH"
old_node() { ! command -v node >/dev/null || ! node -e 'const [a, b] = process.versions.node.split(".").map(Number); process.exit(a > 20 || (a === 20 && b >= 19) ? 0 : 1)'; }

# ---- Debian packages ------------------------------------------------------------------------------------------------
debian() {
  [ ${#missing[@]} -gt 0 ] || return 0
  say "Installing Debian packages: ${missing[*]}"
  local conf=/etc/postgresql-common/createcluster.conf ours=""
  if [[ " ${missing[*]} " == *" postgresql "* ]] && [ ! -e "$conf" ]; then
    # We bring a private cluster; the package shall not start one of its own.
    root mkdir -p "$(dirname "$conf")"
    echo 'create_main_cluster = false' | root tee "$conf" >/dev/null
    ours=1
  fi
  root env DEBIAN_FRONTEND=noninteractive apt-get update
  root env DEBIAN_FRONTEND=noninteractive apt-get install -y --no-install-recommends -o Dpkg::Options::=--force-confold "${missing[@]}"
  if [ -n "$ours" ]; then
    root sed -i 's/^create_main_cluster = false/#create_main_cluster = true/' "$conf"
  fi
}

# ---- Python ---------------------------------------------------------------------------------------------------------
pip_install() { .venv/bin/python -m pip install --disable-pip-version-check --no-input "$@"; }
python_side() {
  local want had locked=run
  want=$(cat pyproject.toml ops/locked/*.txt | sha256sum)
  had=$(cat .stamps/python 2>/dev/null || true)
  # What tests need is a superset of what the program needs: once it is here it stays.
  if [ -x .venv/bin/anabasis ] && { [ "$had" = "$want dev" ] || { ! wants dev && [ "$had" = "$want" ]; }; }; then return 0; fi
  if wants dev || [[ "$had" == *dev ]]; then locked=dev want="$want dev"; fi
  say "Making .venv"
  [ -x .venv/bin/python ] || "$python" -m venv .venv
  pip_install --quiet --require-hashes -r "ops/locked/$locked.txt"
  pip_install --quiet --no-deps --no-build-isolation -e .
  echo "$want" >.stamps/python
}

# ---- Node and the front end -----------------------------------------------------------------------------------------
front_end() {
  local want source fresh="" built=""
  want=$(cat web/package-lock.json web/package.json | sha256sum)
  source=$(find web/src web/index.html web/*.ts web/*.json -type f -printf '%p %s %T@\n' | sort | sha256sum)
  [ -d web/node_modules ] && [ "$(cat .stamps/node 2>/dev/null)" = "$want" ] || fresh=1
  [ -f web/dist/index.html ] && [ "$(cat .stamps/web 2>/dev/null)" = "$source" ] || built=1
  [ -n "$fresh$built" ] || return 0
  if old_node; then
    say "Bringing Node (a package of PyPI that ships the binary)"
      pip_install --require-hashes -r ops/locked/node.txt
    mkdir -p .venv/node/bin
    for tool in node npm npx; do ln -sf "../../bin/$tool" ".venv/node/bin/$tool"; done
  fi
  if [ -n "$fresh" ]; then
    say "Installing the front end's packages"
    (cd web && npm ci --no-audit --no-fund)
    echo "$want" >.stamps/node
  fi
  say "Building the front end"
  (cd web && npm run --silent build)
  echo "$source" >.stamps/web
}

# ---- all three ------------------------------------------------------------------------------------------------------
# `set -e` does not hold inside a function that is part of a condition, so each runs in a shell of its own.
running=()
if [ -n "$venv_first" ]; then debian; else (debian) & running+=($!); fi
if old_node; then
  python_side # it brings the Node that the front end is built with
else
  (python_side) & running+=($!)
fi
(front_end) & running+=($!)
failed=0
for one in "${running[@]}"; do wait "$one" || failed=1; done
exit "$failed"
