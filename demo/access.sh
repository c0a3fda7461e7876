#!/usr/bin/env bash
# Plays the story of access: three people in two folders, TLS with a certificate made on the spot, a provider that says
# who people are; a refusal, a token, a line of the audit log. The service stays up.
#   demo/access.sh --once   stops it at the end
set -euo pipefail
cd "$(dirname "$0")/.."
work=demo/out/access
config=${CONFIG:-Release}
gatechain=$PWD/artifacts/bin/GateChain.Cli/${config,,}/gatechain
port=${PORT:-8443}
address=https://localhost:$port
rm -rf $work
mkdir -p $work/work $work/workspace/{intake,office} $work/home
export GATECHAIN_SERVICE=$address XDG_CONFIG_HOME=$PWD/$work/home SSL_CERT_FILE=$PWD/$work/certificate.pem

say() { printf '\n%s\n' "$*"; }
run() { printf '$ gatechain %s\n' "$*"; "$gatechain" "$@" || echo "  (exit code $?)"; }

openssl req -x509 -newkey ec -pkeyopt ec_paramgen_curve:prime256v1 -nodes -days 2 -subj /CN=localhost \
  -addext subjectAltName=DNS:localhost,IP:127.0.0.1 -keyout $work/key.pem -out $work/certificate.pem 2> /dev/null

cat > $work/workspace/intake/tank-check.chain.yaml << 'YAML'
chain: tank-check
title: How full are the tanks?
steps:
  count: { kind: sql, set: { connection: tanks, query: "select 3 as full", give: row } }
outputs: { full: steps.count.row.full }
YAML
echo 'tanks: { type: sqlite, path: tanks.db }' > $work/workspace/intake/connections.yaml
cat > $work/workspace/office/payday.chain.yaml << 'YAML'
chain: payday
title: Pay the farms
steps:
  list: { kind: command, set: { run: [echo, "4 farms are paid"] } }
YAML

pids=()
trap '[ -z "${once:-}" ] || kill "${pids[@]}" 2> /dev/null || true' EXIT
[ "${1:-}" = --once ] && once=1
artifacts/bin/GateChain.StandIns/${config,,}/gatechain-standins 8491 0 > $work/standins.log 2>&1 &
pids+=($!)
"$gatechain" serve --listen $address --tls-certificate $work/certificate.pem --tls-key $work/key.pem \
  --data $work/data --work $work/work > $work/service.log 2>&1 &
pids+=($!)
for _ in $(seq 200); do grep -qs "listens at" $work/service.log && break; sleep 0.05; done
"$gatechain" push $work/workspace > /dev/null

call() { curl -s --cacert $work/certificate.pem -H 'X-Gatechain: active' -H 'Content-Type: application/json' "$@"; }
choose() { call -X POST $address/api/links/password -d "{\"link\":\"${1##*#}\",\"password\":\"cows give milk daily\"}"; }

say "1. The first account turns sign-in on. Ann is an admin; the link lets her choose a password."
run user add ann --role admin --full-name "Ann Larkin" | tee $work/ann
choose "$(grep -o 'http.*' $work/ann)"
run chains

say "2. Ann signs in. (In a browser: $address/sign-in, as ann, with the password “cows give milk daily”.)"
call -c $work/jar -X POST $address/api/session -d '{"name":"ann","password":"cows give milk daily"}' > /dev/null
token() { call -b $work/jar -X POST $address/api/tokens -d "{\"owner\":\"$1\",\"name\":\"$2\",\"roles\":[\"$3\"]}" | grep -o 'gct_[A-Za-z0-9_-]*'; }
run sign-in --token "$(token ann "the demo" admin)"

say "3. Bea operates the intake, Carl designs in the office."
run user add bea --role operator:intake --full-name "Bea Holloway" | tee $work/bea
run user add carl --role designer:office --full-name "Carl Quill" | tee $work/carl
choose "$(grep -o 'http.*' $work/bea)"
choose "$(grep -o 'http.*' $work/carl)"
run user

say "4. A token of Bea's sees the intake, and nothing else."
bea=$(token bea "nightly load" operator:intake)
run chains --token "$bea"
run run tank-check --token "$bea" --follow
run show 2 --token "$bea"
run run payday --token "$bea"

say "5. Carl's chain runs a program: an admin has to allow it for his folder."
carl=$(token carl "the office" designer:office)
run run payday --token "$carl" --follow
run allow office --program echo
run run payday --token "$carl" --follow

say "6. Larkmoor's provider says who people are, too: its tank crew operates the intake."
printf made-up-provider-secret | "$gatechain" secret set provider > /dev/null
call -b $work/jar -X PUT $address/api/access/sign-in -d '{"codesFor":[],"provider":{"name":"Larkmoor","issuer":"http://127.0.0.1:8491/","clientId":"gatechain","clientSecret":"provider","claim":"groups","roles":{"tank-crew":"operator:intake","office":"viewer"}}}'
echo "The sign-in page has “Go on with Larkmoor” now."

say "7. Who has done what; and whether the log is as it was written."
run audit --limit 12
run audit --verify
[ -n "${once:-}" ] || say "The service is up at $address (its certificate is of today: a browser asks). It is stopped with: kill ${pids[*]}"
