#!/usr/bin/env bash
# Runs every test. Sets up what a fresh machine lacks. The last line is "N passed, N failed".
set -uo pipefail
cd "$(dirname "$0")/.."
export DOTNET_CLI_TELEMETRY_OPTOUT=1 DOTNET_NOLOGO=1

# What tests drive or go to; each test starts and ends its own servers, on loopback.
if ! ls /usr/bin/chromium /usr/sbin/mariadbd /usr/sbin/sshd /usr/sbin/proftpd /usr/lib/postgresql/*/bin/postgres > /dev/null 2>&1; then
  echo "installing Debian's chromium, PostgreSQL, MariaDB, OpenSSH and ProFTPD"
  # Debian starts servers when they are installed; nobody needs those. The machine is left as it was.
  policy=/usr/sbin/policy-rc.d
  if [ ! -e $policy ]; then
    printf '#!/bin/sh\nexit 101\n' > $policy && chmod +x $policy
    trap 'rm -f $policy' EXIT
  fi
  (apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends chromium fonts-dejavu-core postgresql mariadb-server openssh-server proftpd-core proftpd-mod-crypto) > /dev/null || { echo "they could not be installed"; echo "0 passed, 1 failed"; exit 1; }
fi

if ! tests/conformance/fetch.sh; then
  echo "the CEL conformance cases could not be fetched"
  echo "0 passed, 1 failed"
  exit 1
fi

# Databases and files of tests live in memory where there is room: a slow disk is not what they are about.
if [ -z "${TMPDIR:-}" ] && [ -w /dev/shm ] && [ "$(df --output=avail -k /dev/shm | tail -1)" -gt 2000000 ]; then export TMPDIR=/dev/shm; fi

# Stand-ins for stores of objects come while the build runs.
emulators=$(mktemp)
if [ ! tests/emulators/node_modules/.package-lock.json -nt tests/emulators/package-lock.json ]; then
  (cd tests/emulators && npm ci --no-audit --no-fund --loglevel=error) > "$emulators" 2>&1 &
else
  true &
fi
fetching=$!

rm -f console/test-results.json
passed=0 failed=0
# What failed is said again at the end: who sees only the last lines of a log has to know it.
failures=$(mktemp)
SECONDS=0
begin() { echo "== $* (after $SECONDS s)"; }

# The console's checks have one thread, and the build leaves one free now and then.
console=$(mktemp)
(
  cd console
  bad=0
  npm run --silent format:check || bad=$((bad + 1))
  npx --no-install tsc --noEmit || bad=$((bad + 1))
  npx --no-install eslint src || bad=$((bad + 1))
  npx --no-install vitest run --silent --reporter=dot --reporter=json --outputFile=test-results.json
  exit $bad
) > "$console" 2>&1 &
checks=$!

begin "form of the code"
if ! (dotnet tool restore > /dev/null && dotnet csharpier check src tests bench standins > /dev/null); then
  echo "the code is not in its form, or that could not be looked at: make format"
  failed=$((failed + 1))
fi

begin "build, with analyzers"
# One compiler for all projects: each anew would take most of the time for its own start.
dotnet build GateChain.slnx -c Release -v quiet -p:UseSharedCompilation=true
built=$?
dotnet build-server shutdown --vbcscompiler > /dev/null
if [ $built -ne 0 ]; then
  kill $checks
  echo "0 passed, 1 failed"
  exit 1
fi

begin "console: form, types, linter and unit tests, begun with the build"
wait $checks
failed=$((failed + $?))
cat "$console"
rm -f "$console"
counts=$(node -p 'const r = JSON.parse(require("fs").readFileSync("console/test-results.json")); `${r.numPassedTests} ${r.numFailedTests + (r.success ? 0 : r.numFailedTests ? 0 : 1)}`' 2> /dev/null || echo "0 1")
passed=$((passed + ${counts% *})) failed=$((failed + ${counts#* }))

begin "precompiling: the tests start the program hundreds of times"
tests/precompile.sh

if ! wait $fetching; then
  cat "$emulators"
  echo "the stand-ins for stores of objects could not be fetched"
  failed=$((failed + 1))
fi
rm -f "$emulators"

# Runs a suite of tests, or with further arguments a part of it.
suite() {
  local name=$1 out code summary total errors bad
  shift
  begin "$name" "$@"
  out=$(mktemp)
  # A suite that hangs is a failure, not a hanging build.
  timeout $((2700 + ${GATECHAIN_KILLS:-0} * 15)) "artifacts/bin/$name/release/$name" "$@" -noColor -noLogo -showLiveOutput > "$out" 2>&1
  code=$?
  # Successful suites in a line, the others in full.
  summary=$(grep -oE 'Total: [0-9]+, Errors: [0-9]+, Failed: [0-9]+' "$out" | tail -1)
  if [ $code -eq 0 ] && [ -n "$summary" ]; then grep -E "Total:" "$out"; else cat "$out"; fi
  grep -A 40 '\[FAIL\]' "$out" | cut -c 1-400 >> "$failures"
  # How much of the CEL suite passes, group by group.
  sed -nE 's/.*OUTPUT\] (cel .* left out)$/   \1/p' "$out"
  rm -f "$out"
  if [ -z "$summary" ]; then
    failed=$((failed + 1))
    return
  fi
  read -r total errors bad <<< "$(tr -dc '0-9 ' <<< "$summary" | xargs)"
  passed=$((passed + total - bad)) failed=$((failed + bad + errors))
  [ $code -eq 0 ] || [ "$bad" -gt 0 ] || failed=$((failed + 1))
}

for project in Core Kinds Storage Access Engine; do
  suite "GateChain.$project.Tests"
done
# The engine again with its data in PostgreSQL: a part of it, and all in the long suite.
read -ra part <<< "${GATECHAIN_ON_POSTGRES-"-class *EngineTests -class *DueRunsTests -class *RememberedTests"}"
GATECHAIN_TEST_STORE=postgres suite GateChain.Engine.Tests "${part[@]}"
suite GateChain.EndToEnd
# The console's stories through a node that owns no run: whatever they look at is another one's.
[ -z "${GATECHAIN_CLUSTER:-}" ] || GATECHAIN_TEST_CLUSTER=1 suite GateChain.EndToEnd -namespace GateChain.EndToEnd.Console

if [ -s "$failures" ]; then
  echo "== what failed"
  cat "$failures"
fi
rm -f "$failures"
echo "$passed passed, $failed failed"
[ $failed -eq 0 ] && [ $passed -gt 0 ]
