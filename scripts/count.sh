#!/usr/bin/env bash
# Prints how many lines of code there are that are not blank, and which share of them are tests.
# Generated files do not count. What only tests are made of counts as tests.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
git ls-files -co --exclude-standard -- '*.go' '*.ts' '*.tsx' '*.css' '*.sql' '*.sh' Makefile |
  grep -Ev '(\.gen\.go|schema\.d\.ts)$' |
  while IFS= read -r file; do
    kind=code
    case $file in *_test.go | *.test.ts | *.test.tsx | e2e/* | *-kit.ts | *-kit.tsx | *test-setup.ts | internal/pgtest/*) kind=tests ;; esac
    printf '%s %s\n' "$kind" "$(grep -cv '^[[:space:]]*$' "$file" || true)"
  done |
  awk '{ n[$1] += $2 } END {
    all = n["code"] + n["tests"]
    printf "code %d, tests %d, together %d lines: tests are %.1f %%\n", n["code"], n["tests"], all, 100 * n["tests"] / all }'
