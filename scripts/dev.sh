#!/usr/bin/env bash
# The page with hot reload, against a server on the demo shop that is built anew and restarted when Go code changes.
#   PONY_DEV_ADDR   where the server listens; 127.0.0.1:8331
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
export PONY=http://${PONY_DEV_ADDR:=127.0.0.1:8331}
state=.local/dev
built=$state/built
mkdir -p "$state"

server=
page=
end() {
  trap - EXIT INT TERM
  [ -z "$page" ] || kill "$page" 2>/dev/null || true
  [ -z "$server" ] || kill "$server" 2>/dev/null || true
  wait || true
  bin/pony-dev stop --state "$state" 2>/dev/null || true
}
trap end EXIT INT TERM

(cd web && exec npx --no-install vite --host 127.0.0.1) &
page=$!

# What the program is built from; the page is served by vite, from its sources.
changed() { [ -n "$(find core internal cmd api go.mod \( -name '*.go' -o -name '*.sql' -o -name '*.json' -o -name go.mod \) -newer "$built" -print -quit)" ]; }

touch -d @0 "$built"
while kill -0 "$page" 2>/dev/null; do
  if changed; then
    touch "$built"
    if go build -o bin/pony-dev.new ./cmd/pony; then
      if [ -n "$server" ]; then
        kill "$server" 2>/dev/null || true
        wait "$server" || true
      fi
      mv bin/pony-dev.new bin/pony-dev
      bin/pony-dev demo --state "$state" --addr "$PONY_DEV_ADDR" &
      server=$!
    fi
  fi
  sleep 0.5
done
