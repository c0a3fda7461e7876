#!/usr/bin/env bash
# Fetches the open CEL conformance cases for the tests, once: artifacts/conformance/cases.json.
set -euo pipefail
cd "$(dirname "$0")"
target=../../artifacts/conformance/cases.json
[ -f "$target" ] && [ "$target" -nt package-lock.json ] && [ "$target" -nt export.mjs ] && exit 0
npm ci --no-audit --no-fund --loglevel=error
node export.mjs "$target"
