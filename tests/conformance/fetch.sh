#!/usr/bin/env bash
# Fetches open suites of cases for the tests, once: the CEL conformance cases into artifacts/conformance/cases.json, and
# awkward data into artifacts/conformance/data.
set -euo pipefail
cd "$(dirname "$0")"
target=../../artifacts/conformance
is_new() { [ -f "$1" ] && [ "$1" -nt package-lock.json ] && [ "$1" -nt "$2" ]; }
is_new $target/cases.json export.mjs && is_new $target/data/json.json export-data.mjs && exit 0
npm ci --no-audit --no-fund --loglevel=error
node export.mjs $target/cases.json
node export-data.mjs $target/data
touch $target/data/json.json
