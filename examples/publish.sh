#!/bin/sh
# Puts the contract where its problem types lead: a folder for the web server of the host that the types name.
set -eu
fclerk handbook --output "${1:-site}"
