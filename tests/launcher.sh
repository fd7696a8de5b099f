#!/usr/bin/env bash
# What the launcher says when something is wrong: one sentence, an exit code that is not 0, nothing left running.
# Run by ./relevo test, which counts each of these as one check; prints "ok NAME" or "FAILED NAME" lines.
set -u
cd "$(dirname "$0")/.."

# refuses NAME WORDS COMMAND ...: the command fails, and its last line on standard error holds the words.
refuses() {
  local name=$1 words=$2 output code
  shift 2
  output=$("$@" 2>&1 >/dev/null </dev/null)
  code=$?
  if [ "$code" != 0 ] && [[ $(tail -n 1 <<<"$output") == *"$words"* ]]; then printf 'ok %s\n' "$name"
  else printf 'FAILED %s (exit %s): %s\n' "$name" "$code" "$output"; fi
}

# A port that is surely taken: the test cluster's own.
taken=$(sed -E 's/.*Port=([0-9]+).*/\1/' <<<"$RELEVO_TEST_DATABASE")

refuses "an unknown command is refused" "is not one of" ./relevo dance
refuses "an unknown option of the demo is refused" "is not known" ./relevo demo --loud
refuses "a port that is no number is refused" "wants a number" ./relevo demo --port eighty
refuses "a taken port is named" "port $taken" ./relevo demo --port "$taken"
refuses "production wants a database" "RELEVO_DATABASE is not set" env RELEVO_DATABASE= ./relevo serve
refuses "a database that is away is one sentence" "The database cannot be used" env RELEVO_DATABASE='Host=127.0.0.1;Port=1;Database=x;Username=x;Password=x' ./relevo serve
refuses "a connection string that is none is one sentence" "is not a connection string" env RELEVO_DATABASE='nonsense=1' ./relevo serve
if [ -f .relevo/demo/postgres/postmaster.pid ] && ! flock -n .relevo/demo/lock true; then printf 'ok nothing is left running (a demo runs on purpose)\n'
elif [ -f .relevo/demo/postgres/postmaster.pid ]; then printf 'FAILED nothing is left running\n'
else printf 'ok nothing is left running\n'; fi
