# Books the lines of a closing list into the ledger, all or none. While ledger/locked exists, the ledger takes nothing.
set -eu
mkdir -p ledger
if [ -e ledger/locked ]; then
  echo "the ledger is locked by the auditors" >&2
  exit 1
fi
lines=$(($(wc -l < "$1") - 1))
tail -n +2 "$1" >> ledger/payments.csv
printf '{"booked": %s}\n' "$lines"
