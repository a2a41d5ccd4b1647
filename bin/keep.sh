#!/usr/bin/env bash
# Keeps a program running: restarts it when it exits, with growing delays. NAME COMMAND...
set -u
name=$1
shift
child=
trap 'ending=1; [ -z "$child" ] || kill -TERM "$child" 2>/dev/null' TERM INT
ending=
pause=0.2
while [ -z "$ending" ]; do
  started=$SECONDS
  # Standard error holds the same lines as the log.
  "$@" >/dev/null 2>"${IRON_FORK_ERRORS:-/dev/null}" &
  child=$!
  wait "$child"
  while [ -n "$ending" ] && kill -0 "$child" 2>/dev/null; do wait "$child"; done
  [ -z "$ending" ] || break
  [ $((SECONDS - started)) -lt 20 ] || pause=0.2
  printf '%s ended by itself; starting it again …\n' "$name"
  sleep "$pause"
  pause=$(awk "BEGIN { p = $pause * 2; print (p > 10 ? 10 : p) }")
done
