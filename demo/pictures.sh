#!/usr/bin/env bash
# Makes the pictures of docs/screenshots from the demo data: pages in chromium, commands in a terminal window under Xvfb.
# Needs chromium, Xvfb and xterm (Debian's packages chromium, xvfb, xterm, imagemagick).
set -euo pipefail
cd "$(dirname "$0")/.."
for tool in chromium Xvfb xterm import; do command -v $tool > /dev/null || { echo "missing: $tool" >&2; exit 1; }; done
out=docs/screenshots
mkdir -p $out
export PORT=${PORT:-8490}
demo/play.sh --idle > /dev/null
export GATECHAIN_SERVICE=http://127.0.0.1:$PORT
gatechain=$PWD/artifacts/bin/GateChain.Cli/release/gatechain
trap 'kill $(cat demo/out/service.pid demo/out/standins.pid) 2> /dev/null || true; kill $xvfb 2> /dev/null || true' EXIT

Xvfb :97 -screen 0 1280x800x24 > /dev/null 2>&1 &
xvfb=$!
sleep 1

# terminal NAME COMMAND…: the command as it looks in a terminal window.
terminal() {
  local name=$1
  shift
  PATH="$(dirname "$gatechain"):$PATH" DISPLAY=:97 xterm -u8 -fa "DejaVu Sans Mono" -fs "${FS:-10}" -geometry "${GEO:-155x44}+0+0" -bg "#1e2324" -fg "#e8e6e0" +sb -bw 12 \
    -e bash -c "cd demo; printf '\\033[1m$ %s\\033[0m\\n' \"\$*\"; \"\$@\"; sleep 4" _ "$@" &
  local term=$!
  sleep "${WAIT:-3}"
  DISPLAY=:97 import -window root $out/$name.png
  kill $term 2> /dev/null || true
  wait $term 2> /dev/null || true
}

WAIT=3.2 terminal run gatechain run milk-intake --param day=2026-11-22 --follow
node demo/pictures.mjs "http://127.0.0.1:$PORT" failed
printf 'chain: broken\nsteps:\n  load: { kind: laod }\n  price: { kind: wait, set: { for: soon } }\n  tell: { kind: command, set: { run: [echo, "${params.depot}"] } }\ngates:\n  - { from: load, to: price, on: sucess }\n  - { from: price, to: tel }\n' > demo/broken.chain.yaml
terminal check gatechain check broken.chain.yaml
rm demo/broken.chain.yaml
"$gatechain" resume 1 --set max_bad=100 --follow > /dev/null
"$gatechain" run warehouse-check --follow > /dev/null
node demo/pictures.mjs "http://127.0.0.1:$PORT" data
mkdir -p demo/out/inbox/late
printf 'pickup_id,depot,litres\nL-71,west,1840.5\n' > demo/out/inbox/late/tanker-7.csv
sleep 5
# Some nights that went well, and one that did not.
for night in 1 2 3 4 5 6 7 8; do
  "$gatechain" run milk-intake --param day=2026-11-22 --param max_bad=100 --follow > /dev/null
done
"$gatechain" run milk-intake --param day=2026-11-22 --follow > /dev/null || true
sleep 1
node demo/pictures.mjs "http://127.0.0.1:$PORT" resumed

# The other two stories, on a service of their own.
demo/play.sh --idle > /dev/null
"$gatechain" hold on > /dev/null
mkdir -p demo/out/laboratory demo/out/ledger demo/out/inbox/closing
touch demo/out/laboratory/down-west demo/out/ledger/locked
"$gatechain" run quality-week --param day=2026-11-22 --follow > /dev/null || true
"$gatechain" run night-close --param day=2026-11-22 > /dev/null
sleep 0.5
printf 'farm,cents\nfarm-001,412050\n' > demo/out/inbox/closing/2026-11-22.csv
sleep 1
node demo/pictures.mjs "http://127.0.0.1:$PORT" paused
rm demo/out/laboratory/down-west

# Access, on one more; its story is told in the terminal.
PORT=8443 demo/access.sh > demo/out/access.log
node demo/pictures.mjs https://localhost:8443 access
kill $(sed -n 's/.*stopped with: kill //p' demo/out/access.log)

# Three nodes, one of which is killed while the laboratory presses samples.
PORT=8500 demo/cluster.sh > /dev/null
export GATECHAIN_SERVICE=http://127.0.0.1:8500,http://127.0.0.1:8501
for _ in 1 2 3; do "$gatechain" run press-samples > /dev/null; done
GATECHAIN_SERVICE=http://127.0.0.1:8501 "$gatechain" run press-samples > /dev/null
pkill -9 -f "serve --listen http://127.0.0.1:8501" || true
sleep 4
node demo/pictures.mjs http://127.0.0.1:8500 nodes
kill -INT $(cat demo/out/cluster/pids) 2> /dev/null || true
ls $out
