#!/usr/bin/env bash
# More stories of Larkmoor Creamery, on the service that demo/play.sh has started.
set -euo pipefail
cd "$(dirname "$0")/.."
work=demo/out
config=${CONFIG:-Release}
gatechain=artifacts/bin/GateChain.Cli/${config,,}/gatechain
export GATECHAIN_SERVICE=${GATECHAIN_SERVICE:-http://127.0.0.1:${PORT:-8480}}
mkdir -p $work/laboratory $work/ledger $work/inbox/closing
rm -f $work/inbox/closing/*.csv
# The number of the newest run of a chain.
newest() { "$gatechain" runs --chain "$1" --json | node -p 'JSON.parse(require("fs").readFileSync(0))[0].id'; }

echo
echo "The laboratory's results come by HTTP, page by page. It is down twice, and the compute service loses the first job:"
node -e 'fetch("http://127.0.0.1:8481/knobs", { method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify({ service: "lab", failNext: 2, loseJobs: 1, jobMs: 800 }) })'
"$gatechain" run lab-results --param day=2026-11-22 --follow
echo "The office reads: $(node -e 'fetch("http://127.0.0.1:8481/mails").then(r => r.json()).then(m => console.log(/^Subject: (.*)$/m.exec(m.at(-1).text)[1]))')"

echo
echo "The laboratory does not answer for the west depot; it is asked by a loop in a child run of an iteration:"
touch $work/laboratory/down-west
"$gatechain" run quality-week --param day=2026-11-22 --follow && { echo "the laboratory was meant to be down"; exit 1; } || [ $? -eq 1 ]
rm $work/laboratory/down-west
echo
echo "It is back. One resume of the run above does the one question again:"
"$gatechain" resume "$(newest quality-week)" --follow

echo
echo "The day is to be closed; the first step is held until the closing list is there:"
touch $work/ledger/locked
"$gatechain" run night-close --param day=2026-11-22
run=$(newest night-close)
sleep 0.5
"$gatechain" show "$run"
echo
echo "The list comes. The auditors have locked the ledger: nobody may be paid twice, so the run asks:"
printf 'farm,cents\nfarm-001,412050\nfarm-002,388100\n' > $work/inbox/closing/2026-11-22.csv
sleep 1
"$gatechain" show "$run"
echo
echo "The ledger is free again, and somebody decides to try once more:"
rm $work/ledger/locked
"$gatechain" retry "$run" book --follow
