#!/usr/bin/env bash
# Makes a data folder whose runs stand in every waiting state, with the program as it is built now, and ends the
# service with kill -9. A folder that was made once is kept for good: later versions have to open it.
#   tests/data-folders/make.sh NAME       for example the day: 2026-11-28
set -euo pipefail
here=$(cd "$(dirname "$0")" && pwd)
program="${GATECHAIN_PROGRAM:-$here/../../artifacts/bin/GateChain.Cli/release/gatechain}"
name=${1:?a name for the folder}
# A load knows its file by path and time: the test opens the copy at the same place, with the same time.
to="/tmp/gatechain-folder-$name"
rm -rf "$to" && mkdir -p "$to/work"
node -e '
  let seed = 7; const next = () => (seed = (seed * 48271) % 2147483647);
  console.log("id,litres"); for (let i = 1; i <= 40000; i++) console.log(`${i},${(next() % 90000) / 10}`);' > "$to/work/pickups.csv"
touch -d 2026-11-22T05:00:00Z "$to/work/pickups.csv"

"$program" serve --listen http://127.0.0.1:0 --data "$to/data" --work "$to/work" > "$to/out" 2> /dev/null &
service=$!
until grep -q "listens at" "$to/out"; do sleep 0.1; done
export GATECHAIN_SERVICE=$(sed 's/.*listens at //; s:/$::' "$to/out")
cd "$to/work"
echo "a made-up word" | "$program" secret set laboratory
"$program" push "$here/workspace"
sed 's/Second/Third/' "$here/workspace/numbered.chain.yaml" > ../numbered.chain.yaml
"$program" draft numbered --put ../numbered.chain.yaml
"$program" release numbered --note "the third"
sed 's/Second/Draft/' "$here/workspace/numbered.chain.yaml" > ../numbered.chain.yaml
"$program" draft numbered --put ../numbered.chain.yaml
rm ../numbered.chain.yaml
for chain in numbered held resting paused waiting parent queued queued failed recovers crashed asks foldered; do "$program" run "$chain" > /dev/null; done
"$program" run pausing > /dev/null
"$program" pause "$("$program" runs --chain pausing --json | node -p 'JSON.parse(require("fs").readFileSync(0))[0].id')" > /dev/null
sleep 2
run=$("$program" run staged --json | node -p 'JSON.parse(require("fs").readFileSync(0)).id')
# Cut off when some batches of the load are in its stage.
until curl -s "$GATECHAIN_SERVICE/api/runs/$run/progress" | grep -q 'ows":[1-9]'; do
  [ "$(curl -s "$GATECHAIN_SERVICE/api/runs/$run" | node -p 'JSON.parse(require("fs").readFileSync(0)).ended ?? ""')" = "" ] || { echo "the load was too quick to be cut off"; break; }
done
kill -9 $service
wait $service 2> /dev/null || true
# What the service had started is ended with it, as by a power cut.
pkill -9 -f 'sleep 600' || true
rm -rf "$to/out" "$to"/data/service-*.jsonl "$to/data/lock" "$to/data/gatechain.db-shm" "${here:?}/$name"
mv "$to" "$here/$name"
du -sh "$here/$name"
