#!/usr/bin/env bash
# Plays the story of Larkmoor Creamery: the nightly chain runs, the west depot fails, somebody resumes.
#   demo/play.sh           up to where somebody has to resume; the service stays up
#   demo/play.sh --once    the whole story; the service is stopped at the end
#   --large                millions of lines instead of thousands
#   --idle                 only the service with the workspace; no run
set -euo pipefail
cd "$(dirname "$0")/.."
once= large= idle=
for arg in "$@"; do
  case $arg in
    --once) once=1 ;;
    --large) large=--large ;;
    --idle) idle=1 ;;
    *) echo "unknown: $arg (known: --once, --large, --idle)" >&2; exit 2 ;;
  esac
done
work=demo/out
config=${CONFIG:-Release}
gatechain=artifacts/bin/GateChain.Cli/${config,,}/gatechain
address=http://127.0.0.1:${PORT:-8480}
export GATECHAIN_SERVICE=$address

# A service of an earlier demo is ended; anybody else's is left alone.
if [ -f $work/service.pid ] && pid=$(cat $work/service.pid) && grep -qs gatechain "/proc/$pid/cmdline"; then
  kill "$pid"
  for _ in $(seq 50); do [ -d "/proc/$pid" ] || break; sleep 0.1; done
fi
mkdir -p $work
rm -rf $work/data
node demo/generate.mjs $work $large
# The world around it: laboratory, compute service, chat and mail server, as one process that is not real.
if [ -f $work/standins.pid ] && pid=$(cat $work/standins.pid) && grep -qs gatechain-standins "/proc/$pid/cmdline"; then kill "$pid"; sleep 0.3; fi
nohup artifacts/bin/GateChain.StandIns/${config,,}/gatechain-standins 8481 8482 > $work/standins.log 2>&1 &
echo $! > $work/standins.pid
disown
nohup "$gatechain" serve --listen "$address" --data $work/data --work $work > $work/service.log 2>&1 &
pid=$!
echo $pid > $work/service.pid
disown
for _ in $(seq 100); do
  grep -qs "listens at" $work/service.log && break
  kill -0 $pid 2>/dev/null || { cat $work/service.log; exit 1; }
  sleep 0.05
done
echo "The service listens at $address (process $pid, log in $work/service.log)"
"$gatechain" push demo/workspace
printf made-up-lab-secret | "$gatechain" secret set lab > /dev/null
printf made-up-mail-password | "$gatechain" secret set mail > /dev/null
printf made-up-shop-secret | "$gatechain" secret set shop > /dev/null
[ -z "$idle" ] || exit 0

echo
echo "The nightly chain runs:"
"$gatechain" run milk-intake --param day=2026-11-22 --follow && { echo "the west depot was meant to fail"; exit 1; } || [ $? -eq 1 ]
echo
echo "The west depot sent 74 broken lines, and the chain lets 50 pass: its branch failed, the others went on,"
echo "the office was told (it reads $work/office/inbox.txt)."
echo
echo "A tanker came late. Its files come into inbox/late, and a chain starts by itself:"
mkdir -p $work/inbox/late
for tanker in 7 9; do
  printf 'pickup_id,depot,litres\nL-%s1,west,1840.5\nL-%s2,west,2210\n' $tanker $tanker > $work/inbox/late/tanker-$tanker.csv
done
for _ in $(seq 100); do
  "$gatechain" fires --trigger late-pickups --json | grep -q '"run"' && break
  sleep 0.1
done
"$gatechain" fires --trigger late-pickups
echo
"$gatechain" triggers
if [ -z "$once" ]; then
  echo
  echo "  look:    $address/runs/1"
  echo "  why:     $gatechain why 1 'depots[2]/load'"
  echo "  resume:  $gatechain resume 1 --set max_bad=100 --follow"
  echo "  starts:  $address/triggers (what starts by itself; gatechain triggers, fires, hold on)"
  echo "  more:    demo/more.sh (a laboratory that is down, a job that is lost; a failure three levels down; a step that waits for a file; a run that asks)"
  echo "  world:   http://127.0.0.1:8481/chat/ (what the office reads; its mails are at /mails, what can be made to go wrong at /knobs)"
  echo "  end:     kill $pid $(cat $work/standins.pid)"
  exit 0
fi
echo
echo "Somebody raises the limit and resumes:"
"$gatechain" resume 1 --set max_bad=100 --follow
echo
echo "Every litre is in the warehouse exactly once:"
echo "  expected $(cat $work/expected.json)"
echo "  reported $(cat $work/office/report.json)"
"$gatechain" run warehouse-check --follow
demo/more.sh
demo/price-list.sh
kill $pid $(cat $work/standins.pid)
for _ in $(seq 50); do [ -d "/proc/$pid" ] || break; sleep 0.1; done
rm -f $work/service.pid $work/standins.pid
