#!/bin/sh
# The gate of a pipeline: checks what the tests recorded, and leaves reports behind.
#   contract     error-contract.toml, here or in a folder above
#   recordings   the first argument: a file, or a folder that the tests recorded into
#   reports      reports/: junit.xml for the dashboard, findings.sarif for the code view, page.html to look at
set -eu
recordings=${1:?"say where the recordings are"}
mkdir -p reports
# The exit code is the gate's: 0 passes, 1 a breach, 2 the call or the contract is wrong, 3 not all could be read.
fclerk check "$recordings" \
  --report junit=reports/junit.xml \
  --report sarif=reports/findings.sarif \
  --report markdown=reports/comment.md \
  --report html=reports/page.html
