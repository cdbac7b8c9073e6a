#!/bin/sh
# Several machines, one result. On each of them, a part of the recordings becomes a ledger; at the end they are added.
set -eu
mkdir -p ledgers reports
# On each machine:
for part in "$@"; do
  fclerk check "$part" --quiet --report ledger="ledgers/$(basename "$part").json" || [ $? = 1 ]
done
# At the end, with the ledgers of all in one place:
fclerk merge ledgers/*.json --report junit=reports/junit.xml --report html=reports/page.html
