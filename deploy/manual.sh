#!/usr/bin/env bash
# Writes the manual page, made from what the program says of itself.
#   deploy/manual.sh PROGRAM > gatechain.1
set -euo pipefail
program=$1
plain() { sed -e 's/\\/\\\\/g' -e "s/^\./\\\\\&./" -e "s/^'/\\\\\&'/" -e 's/-/\\-/g'; }
version=$("$program" --version | cut -d+ -f1)
printf '.TH GATECHAIN 1 "" "Gate Chain %s" "Gate Chain"\n' "$version"
printf '.SH NAME\ngatechain \\- control flows for ETL\n'
printf '.SH SYNOPSIS\n.B gatechain\n.I COMMAND\n.RI [ OPTIONS ]\n'
printf '.SH DESCRIPTION\n.nf\n'
"$program" --help | plain
printf '.fi\n'
# Each command with its own words.
"$program" --help | sed -nE 's/^  ([a-z][a-z-]+)( [A-Z|\[].*|  .*)?$/\1/p' | sort -u | while read -r command; do
  printf '.SH %s\n.nf\n' "$(tr a-z A-Z <<< "gatechain $command")"
  "$program" "$command" --help | plain
  printf '.fi\n'
done
