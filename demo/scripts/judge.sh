# Counts the depots whose cell count is above the limit.
set -eu
high=0
for cells in $(echo "$CELLS" | tr -cd "0-9 "); do if [ "$cells" -gt "$1" ]; then high=$((high + 1)); fi; done
echo "$CELLS, limit $1" >&2
printf '{"high": %s}\n' "$high"
