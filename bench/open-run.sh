#!/usr/bin/env bash
# How long a run of about 1,000,000 events takes to open: by the API, and in the console until its drawing is there.
# The service has just started and has not looked at the run. Needs chromium (Debian's package), and a build.
set -euo pipefail
cd "$(dirname "$0")/.."
gatechain=$PWD/artifacts/bin/GateChain.Cli/release/gatechain
work=$(mktemp -d)
trap 'kill $pid 2> /dev/null || true; wait 2> /dev/null || true; rm -rf "$work"' EXIT
mkdir -p "$work/chains" "$work/work"
cat > "$work/chains/big.chain.yaml" << 'YAML'
chain: big
vars: { n: { type: int, initial: 0 } }
steps:
  all:
    kind: each
    over: lists.range(100000)
    parallel: 20
    steps:
      one: { kind: assign, assign: { vars.n: item } }
      two: { kind: assign, assign: { vars.n: item } }
    gates: [ { from: one, to: two } ]
YAML

start() {
  rm -f "$work/out"
  "$gatechain" serve --listen http://127.0.0.1:0 --data "$work/data" --work "$work/work" > "$work/out" 2> /dev/null &
  pid=$!
  until grep -qs 'listens at' "$work/out"; do sleep 0.05; done
  GATECHAIN_SERVICE=$(sed -n 's/.*listens at //p' "$work/out")
  export GATECHAIN_SERVICE
}

start
"$gatechain" push "$work/chains" > /dev/null
"$gatechain" run big --wait > /dev/null 2>&1 || "$gatechain" run big --follow > /dev/null
kill $pid && wait $pid 2> /dev/null || true
start
node bench/open-run.mjs "$GATECHAIN_SERVICE"
