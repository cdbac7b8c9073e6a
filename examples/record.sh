#!/bin/sh
# Records what a test suite requests of a service and the responses, and checks them.
#   the service   the first argument: its base URL, as a server of the contract
#   the suite     the other arguments: a command that calls the service at $SERVICE_URL
set -eu
service=${1:?"usage: record.sh SERVICE_URL COMMAND..."}
shift
rm -f recorder.log
fclerk record --upstream "$service" --listen 127.0.0.1:0 --output suite.jsonl --scrub >recorder.log 2>&1 &
recorder=$!
# The first line says where it listens; there is none if it can't.
until [ -s recorder.log ]; do sleep 0.1; done
SERVICE_URL=$(sed -n '1s/^Listening on \([^,]*\),.*/\1/p' recorder.log)
export SERVICE_URL
[ -n "$SERVICE_URL" ] || { cat recorder.log; exit 2; }
suite=0
"$@" || suite=$?
kill "$recorder"
wait "$recorder"
[ "$suite" = 0 ] || exit "$suite"
fclerk check suite.jsonl --report junit=suite.xml
