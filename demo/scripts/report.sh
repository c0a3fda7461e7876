# Writes the day's report.
set -eu
mkdir -p office
printf '{"day": "%s", "litres": %s, "depots": "%s"}\n' "$DAY" "$LITRES" "$STATE" | tee office/report.json
