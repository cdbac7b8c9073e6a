#!/bin/sh
# Many recordings, checked side by side, with one result.
#   recordings   the arguments: files
#   reports      reports/: junit.xml, page.html
set -eu
mkdir -p reports
# An empty folder, and a number for each part: no two parts share a ledger, and none is left of an earlier run.
ledgers=$(mktemp -d)
export ledgers
number=0
for part in "$@"; do
  number=$((number + 1))
  printf '%s\0%s\0' "$number" "$part"
done | xargs -0 -n 2 -P 4 sh -c 'fclerk check "$2" --ledger >"$ledgers/$1.json"' sh
# All in one place; one that is missing is a mistake, and not a smaller sum.
fclerk merge "$ledgers" --expect $# --report junit=reports/junit.xml --report html=reports/page.html
