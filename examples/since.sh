#!/bin/sh
# A gate that lets old findings pass: only what is new since the last run on the main branch fails.
#   baseline.json   that run's ledger, which the pipeline keeps as an artefact of the main branch
set -eu
recordings=${1:?"say where the recordings are"}
mkdir -p reports
if [ -e baseline.json ]; then
  fclerk check "$recordings" --baseline baseline.json \
    --report ledger=reports/ledger.json --report markdown=reports/comment.md
else
  # The first run has nothing to compare with: it tells what there is, and fails nothing.
  fclerk check "$recordings" --report ledger=reports/ledger.json --report markdown=reports/comment.md || [ $? = 1 ]
fi
