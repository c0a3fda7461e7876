#!/usr/bin/env bash
# Writes docs/openapi.json as the service gives it, and the console's types from it.
set -euo pipefail
cd "$(dirname "$0")/.."
work=$(mktemp -d)
artifacts/bin/GateChain.Cli/release/gatechain serve --listen http://127.0.0.1:0 --data "$work/data" --work "$work" > "$work/out" 2>/dev/null &
pid=$!
trap 'kill $pid; wait $pid 2>/dev/null || true; rm -rf "$work"' EXIT
for _ in $(seq 100); do grep -qs "listens at" "$work/out" && break; sleep 0.05; done
address=$(sed -n 's/.*listens at //p' "$work/out")
node -e 'fetch(process.argv[1]).then(r => r.text()).then(t => require("fs").writeFileSync("docs/openapi.json", t.trimEnd() + "\n"))' "${address}api/openapi.json"
(cd console && npx --no-install openapi-typescript ../docs/openapi.json -o src/core/api/schema.d.ts)
