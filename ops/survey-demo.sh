#!/usr/bin/env bash
# The demo stands on loopback, six things in it otherwise than designed; a survey finds them, and takes the site over into a design.
set -euo pipefail
cd "$(dirname "$0")/.."
out=$(mktemp -d)
.venv/bin/anabasis stand-in demo/tidewrack.yaml --spoil 6 --port 21100 --tell >"$out/stand-in.txt" &
stand_in=$!
trap 'kill "$stand_in" 2>/dev/null || true; rm -rf "$out"' EXIT
for _ in $(seq 100); do
  grep -q '^anabasis survey' "$out/stand-in.txt" && break
  sleep 0.2
done
cat "$out/stand-in.txt"
mapfile -t boxes < <(grep -o '^127.0.0.1:[0-9]*' "$out/stand-in.txt")
.venv/bin/anabasis survey "${boxes[@]}" --into demo/tidewrack.yaml || true
echo "From nothing, by what the boxes say:"
.venv/bin/anabasis survey "${boxes[@]}" --save "$out/surveyed.yaml" >/dev/null 2>&1 || true
.venv/bin/anabasis segments "$out/surveyed.yaml"
