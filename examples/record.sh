#!/bin/sh
# Records what a test suite requests of a service and the responses, and checks them.
#   the service   the first argument: its base URL, as a server of the contract
#   the suite     the other arguments: a command that calls the service at $SERVICE_URL
# The exit code is the suite's or, where it passes, the check's.
set -eu
service=${1:?"usage: record.sh SERVICE_URL COMMAND..."}
shift
exec fclerk record --upstream "$service" --output suite.jsonl --scrub \
  --contract error-contract.toml --report junit=suite.xml -- "$@"
