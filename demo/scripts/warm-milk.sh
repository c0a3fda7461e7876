# Counts pickups above 6 degrees in a depot's file, a block of lines at a time.
set -eu
file=$1
[ -r "$file" ] || { echo "can't read $file" >&2; exit 1; }
lines=$(wc -l < "$file")
warm=0
from=2
while [ "$from" -le "$lines" ]; do
  to=$((from + 499))
  n=$(sed -n "${from},${to}p" "$file" | awk -F, '$7 + 0 > 6.0 { n++ } END { print n + 0 }')
  warm=$((warm + n))
  echo "lines $from to $to: $n above 6 degrees" >&2
  from=$((to + 1))
  sleep 0.15
done
echo "{\"lines\": $((lines - 1)), \"warm\": $warm}"
