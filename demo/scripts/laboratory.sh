# The laboratory's stand-in: takes samples, needs a while, and can be told to be down.
#   laboratory.sh submit DEPOT   gives a job
#   laboratory.sh ask JOB        says how far it is
# While laboratory/down-DEPOT exists, nobody answers for that depot.
set -eu
mkdir -p laboratory
case $1 in
  submit)
    echo 0 > "laboratory/asked-$2"
    echo "took the samples of $2" >&2
    printf '{"job": "%s"}\n' "$2" ;;
  ask)
    asked=$(($(cat "laboratory/asked-$2") + 1))
    if [ "$asked" -ge 3 ] && [ -e "laboratory/down-$2" ]; then
      echo "the laboratory does not answer: 503" >&2
      exit 1
    fi
    echo "$asked" > "laboratory/asked-$2"
    case $2 in north) cells=210 ;; south) cells=188 ;; *) cells=432 ;; esac
    if [ "$asked" -lt 4 ]; then printf '{"ready": false, "cells": 0}\n'; else printf '{"ready": true, "cells": %s}\n' "$cells"; fi ;;
esac
