#!/bin/sh
# Records what a test suite asks of a service and gets a response, and checks it.
#   the service   the first argument: its base URL, as a server of the contract
#   the suite     the other arguments: a command that asks the service at $SERVICE_URL
set -eu
service=${1:?"say where the service is"}
shift
rm -f recorder.log
fclerk record --upstream "$service" --listen 127.0.0.1:0 --output suite.jsonl --scrub >recorder.log 2>&1 &
recorder=$!
# The first line says where it lets clients in; there is none if it can't.
until [ -s recorder.log ]; do sleep 0.1; done
SERVICE_URL=$(sed -n '1s/ passes everything on .*//p' recorder.log)
export SERVICE_URL
[ -n "$SERVICE_URL" ] || { cat recorder.log; exit 2; }
suite=0
"$@" || suite=$?
kill "$recorder"
wait "$recorder"
[ "$suite" = 0 ] || exit "$suite"
fclerk check suite.jsonl --report junit=suite.xml
