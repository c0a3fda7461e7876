#!/usr/bin/env bash
# What a request costs more on a service with accounts: by a token and by a session, beside one without, interleaved.
set -euo pipefail
cd "$(dirname "$0")/.."
gatechain=artifacts/bin/GateChain.Cli/release/gatechain
work=$(mktemp -d)
pids=()
trap 'kill "${pids[@]}" 2> /dev/null; wait 2> /dev/null || true; rm -rf "$work"' EXIT
for name in open closed; do
  mkdir -p "$work/$name/work"
  "$gatechain" serve --listen http://127.0.0.1:0 --data "$work/$name/data" --work "$work/$name/work" > "$work/$name/out" 2> /dev/null &
  pids+=($!)
  for _ in $(seq 200); do grep -qs "listens at" "$work/$name/out" && break; sleep 0.05; done
  GATECHAIN_SERVICE=$(sed -n 's/.*listens at //p' "$work/$name/out") "$gatechain" push demo/workspace > /dev/null
done
open=$(sed -n 's/.*listens at //p' "$work/open/out")
closed=$(sed -n 's/.*listens at //p' "$work/closed/out")
link=$(GATECHAIN_SERVICE=$closed "$gatechain" user add ann --role admin --json | node -p 'JSON.parse(require("fs").readFileSync(0)).link.split("#")[1]')
node bench/access.mjs "$open" "$closed" "$link"
