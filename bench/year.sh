#!/usr/bin/env bash
# How quick lists, home and history answer on a database of a year: 1,000,000 runs, and as many rows of history.
#   bench/year.sh [runs]
set -euo pipefail
cd "$(dirname "$0")/.."
runs=${1:-1000000}
folder=$(mktemp -d)
trap 'kill "${service:-0}" 2> /dev/null || true; wait 2> /dev/null || true; rm -rf "$folder"' EXIT
artifacts/bin/GateChain.Bench/release/GateChain.Bench year "$folder/data" "$runs"

start() {
  local began; began=$(date +%s%N)
  artifacts/bin/GateChain.Cli/release/gatechain serve --listen http://127.0.0.1:0 --data "$folder/data" --work "$folder" > "$folder/out" 2> /dev/null &
  service=$!
  until grep -q "listens at" "$folder/out"; do sleep 0.01; done
  address=$(sed -n 's/.*listens at \(.*\)\/$/\1/p' "$folder/out")
  printf '%-52s %6d ms\n' "$1" $(( ($(date +%s%N) - began) / 1000000 ))
}
start "start"
kill $service; wait $service 2> /dev/null || true; : > "$folder/out"
start "start again"

# The median of nine, after one that warms up.
ask() {
  local times=()
  curl -s -o /dev/null "$address$2"
  for _ in 1 2 3 4 5 6 7 8 9; do times+=("$(curl -s -o /dev/null -w '%{time_total}' "$address$2")"); done
  printf '%-52s %6.0f ms, the slowest %.0f ms\n' "$1" \
    "$(printf '%s\n' "${times[@]}" | sort -n | sed -n 5p | awk '{print $1 * 1000}')" \
    "$(printf '%s\n' "${times[@]}" | sort -n | tail -1 | awk '{print $1 * 1000}')"
}
ask "home" "/api/home"
ask "chains" "/api/chains"
ask "runs, the newest" "/api/runs"
ask "runs of a chain" "/api/runs?chain=nightly-07"
ask "failed runs" "/api/runs?state=failed"
ask "runs of a state that none is in" "/api/runs?state=paused"
ask "failed runs of a chain" "/api/runs?chain=nightly-07&state=failed"
ask "runs before the middle" "/api/runs?before=$((runs / 2))"
ask "runs of a day in spring" "/api/runs?from=$(date -u -d '200 days ago' +%F)T00:00:00Z&to=$(date -u -d '199 days ago' +%F)T00:00:00Z"
ask "a text in the parameters, that none has" "/api/runs?text=zzz"
ask "history of a chain, 60 runs" "/api/chains/nightly-07/history"
ask "history of a chain, 500 runs" "/api/chains/nightly-07/history?most=500"
