#!/usr/bin/env bash
# Installs what is missing from Debian's packages and the registries, without asking.
#   scripts/setup.sh run    PostgreSQL, Go modules, npm packages
#   scripts/setup.sh test   the same and two browsers
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
what=${1:-run}

say() { printf 'setup: %s\n' "$*" >&2; }

missing=()
[ -n "$(ls -d /usr/lib/postgresql/*/bin/initdb 2>/dev/null)" ] || missing+=(postgresql)
if [ "$what" = test ]; then
  if [ ! -x "${PONY_BROWSER:-/nonexistent}" ] && [ ! -x /usr/bin/chromium-headless-shell ]; then
    missing+=(chromium-headless-shell)
  fi
  # The small browser installs no pages: what works without a network is tried in the whole one.
  [ -x /usr/bin/chromium ] || missing+=(chromium)
fi

if [ ${#missing[@]} -gt 0 ]; then
  command -v apt-get >/dev/null || {
    say "this machine has no apt-get. Install by hand: PostgreSQL's server (initdb under /usr/lib/postgresql/VERSION/bin)" \
      "and, for the tests, Chromium (name it in PONY_BROWSER). Missing now: ${missing[*]}"
    exit 1
  }
  root=()
  if [ "$(id -u)" != 0 ]; then
    command -v sudo >/dev/null || {
      say "not root and no sudo. As root run: apt-get install -y --no-install-recommends ${missing[*]}"
      exit 1
    }
    root=(sudo)
  fi
  say "installing ${missing[*]}"
  keep_out=/etc/postgresql-common/createcluster.d/pony-setup.conf
  log=$(mktemp)
  install() {
    # Debian's package would make and start a system cluster; ours is private, so for the time of the
    # installation it is told not to.
    "${root[@]}" mkdir -p "${keep_out%/*}"
    printf 'create_main_cluster = false\n' | "${root[@]}" tee "$keep_out" >/dev/null
    trap '"${root[@]}" rm -f "$keep_out"' EXIT
    # A source of somebody else's that does not answer need not keep Debian's own packages away.
    "${root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get update -qq || true
    "${root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}"
  }
  install >"$log" 2>&1 || {
    tail -n 20 "$log" >&2
    say "could not install ${missing[*]}: see above"
    exit 1
  }
  rm -f "$log"
  "${root[@]}" rm -f "$keep_out"
fi

for tool in go node npm; do
  command -v $tool >/dev/null || {
    say "$tool is not installed. Go 1.26 and Node 20.19 or newer are needed."
    exit 1
  }
done

# npm packages, when the lock file changed since they were last installed.
stamp=web/node_modules/.pony-lock
if ! cmp -s web/package-lock.json "$stamp" 2>/dev/null; then
  say "installing npm packages"
  (cd web && npm ci --no-audit --no-fund --loglevel=error)
  cp web/package-lock.json "$stamp"
fi
