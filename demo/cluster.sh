#!/usr/bin/env bash
# Plays the story on three nodes that share one PostgreSQL (Debian's, on loopback): one is killed in the middle of the
# nightly run, one that the samples are pressed on loses the run's owner, one is drained. The nodes stay up.
#   demo/cluster.sh --once   stops everything at the end
set -euo pipefail
cd "$(dirname "$0")/.."
once=
[ "${1:-}" = --once ] && once=1
work=$PWD/demo/out/cluster
config=${CONFIG:-Release}
bin=$PWD/artifacts/bin
gatechain=$bin/GateChain.Cli/${config,,}/gatechain
base=${PORT:-8500}
say() { printf '\n%s\n' "$*"; }
run() { printf '$ gatechain %s\n' "$*"; "$gatechain" "$@" || echo "  (exit code $?)"; }

if ! ls /usr/lib/postgresql/*/bin/postgres > /dev/null 2>&1; then
  echo "PostgreSQL is not there: apt-get install postgresql (its server need not run)" >&2
  exit 1
fi
# Those of an earlier demo are ended.
for pid in $(cat $work/pids 2> /dev/null || true); do
  grep -qsE "gatechain|postgres" "/proc/$pid/cmdline" && kill -INT "$pid" 2> /dev/null || true
done
sleep 1
rm -rf $work
mkdir -p $work/work $work/postgres
node demo/generate.mjs $work/work > /dev/null
openssl rand -base64 32 > $work/key

# PostgreSQL refuses to be root.
pgbin=$(ls -d /usr/lib/postgresql/*/bin | tail -1)
as=()
if [ "$(id -u)" = 0 ]; then
  # The way there may be closed to its user.
  pg=$(mktemp -d -t gatechain-postgres-XXXXXX)
  chown postgres "$pg"
  as=(setpriv --reuid=postgres --regid=postgres --clear-groups)
else
  pg=$work/postgres
fi
echo made-up > "$pg/password"
chmod 644 "$pg/password"
(cd / && "${as[@]}" "$pgbin/initdb" -D "$pg/data" -U gatechain -A scram-sha-256 --pwfile "$pg/password" -E UTF8 --locale=C) > /dev/null
(cd / && exec "${as[@]}" "$pgbin/postgres" -D "$pg/data" -p $((base + 9)) -c listen_addresses=127.0.0.1 -c unix_socket_directories=) > $work/postgres.log 2>&1 &
echo $! >> $work/pids
for _ in $(seq 100); do PGPASSWORD=made-up "$pgbin/psql" -h 127.0.0.1 -p $((base + 9)) -U gatechain -d postgres -c "CREATE DATABASE gatechain" > /dev/null 2>&1 && break; sleep 0.1; done
export GATECHAIN_DATABASE="Host=127.0.0.1;Port=$((base + 9));Username=gatechain;Password=made-up;Database=gatechain"
export GATECHAIN_SECRET_KEY_FILE=$work/key

"$bin/GateChain.StandIns/${config,,}/gatechain-standins" 8481 8482 > $work/standins.log 2>&1 &
echo $! >> $work/pids

declare -A pids
# node NAME PORT OPTION…
node_up() {
  local name=$1 port=$2
  shift 2
  : > "$work/$name.log"
  nohup "$gatechain" serve --listen http://127.0.0.1:$port --data "$work/$name" --work $work/work \
    --join 127.0.0.1:0 --name "$name" "$@" >> "$work/$name.log" 2>&1 &
  pids[$name]=$!
  echo $! >> $work/pids
  disown
  for _ in $(seq 200); do grep -qs "listens at" "$work/$name.log" && return; sleep 0.1; done
  cat "$work/$name.log"
  exit 1
}
say "Three nodes on one database: two own runs, and one, in the laboratory, only does what has its place there:"
node_up north $base
node_up west $((base + 1))
node_up laboratory $((base + 2)) --worker --label laboratory
# The command line asks whoever answers.
export GATECHAIN_SERVICE=http://127.0.0.1:$base,http://127.0.0.1:$((base + 1)),http://127.0.0.1:$((base + 2))
"$gatechain" push demo/workspace > /dev/null
printf made-up-lab-secret | "$gatechain" secret set lab > /dev/null
printf made-up-mail-password | "$gatechain" secret set mail > /dev/null
printf made-up-shop-secret | "$gatechain" secret set shop > /dev/null
mkdir -p $work/samples
cat > $work/samples/press-samples.chain.yaml << 'YAML'
chain: press-samples
title: Press the samples of the day
steps:
  press:
    kind: command
    title: Press them, on the laboratory's own machine
    place: laboratory
    set: { shell: "for i in 1 2 3 4 5 6 7 8; do echo sample $i is pressed; sleep 1; done" }
  book: { kind: command, set: { run: [echo, "8 samples are booked"] } }
gates:
  - { from: press, to: book }
YAML
"$gatechain" push $work/samples > /dev/null
run nodes

say "The nightly chain runs at north, which is killed in the middle of it. Whoever follows it goes on at west:"
"$gatechain" run milk-intake --param day=2026-11-22 --follow > $work/followed.txt 2>&1 &
following=$!
sleep 1.6
kill -9 ${pids[north]}
echo "(north is killed)"
wait $following || true
tail -n 24 $work/followed.txt
say "The west depot's lines are what they always are: somebody raises the limit and resumes."
run resume 1 --set max_bad=100 --follow
echo
echo "Every litre is in the warehouse exactly once:"
echo "  expected $(cat $work/work/expected.json)"
echo "  reported $(cat $work/work/office/report.json)"

say "north is back. The samples are pressed in the laboratory, and the node that owns the run is killed meanwhile:"
node_up north $base
sleep 1
number=$("$gatechain" run press-samples --json | node -p 'JSON.parse(require("fs").readFileSync(0)).id')
echo "run $number of press-samples has started"
sleep 2
run nodes --work
owner=$("$gatechain" nodes --json | node -p 'JSON.parse(require("fs").readFileSync(0)).nodes.find(n => n.runs > 0)?.name ?? "west"')
kill -9 ${pids[$owner]}
echo "($owner is killed)"
run show "$number" --follow
run log "$number" press
node_up $owner $([ $owner = north ] && echo $base || echo $((base + 1)))

say "west is to be looked after: it hands over what it has, and ends."
run drain west
for _ in $(seq 100); do kill -0 ${pids[west]} 2> /dev/null || break; sleep 0.1; done
run nodes
if [ -n "$once" ]; then
  kill ${pids[north]} ${pids[laboratory]} 2> /dev/null || true
  for pid in $(cat $work/pids); do kill -INT "$pid" 2> /dev/null || true; done
  exit 0
fi
node_up west $((base + 1))
echo
echo "  look:  http://127.0.0.1:$base/nodes, http://127.0.0.1:$((base + 1))/runs/1"
echo "  end:   kill -INT $(tr '\n' ' ' < $work/pids)"
